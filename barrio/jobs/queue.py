"""The queue: jobs are put into it here, and stopped and tried again. It is procrastinate's, in the same database."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import procrastinate
from procrastinate.schema import SchemaManager

from barrio.app.desk import Desk
from barrio.app.rights import Right
from barrio.app.transaction import Transaction
from barrio.core.errors import refuse
from barrio.jobs.kinds import KINDS
from barrio.store import jobs
from barrio.store.database import Connection, Connections
from barrio.store.entries import Act
from barrio.store.errors import Missing
from barrio.store.jobs import Job

QUEUE, TASK = "barrio", "barrio.job"


def bring_up(pool: Connections) -> None:
    """The queue's own tables, once."""
    with pool.connection() as connection:
        connection.execute("select pg_advisory_xact_lock(8710006)")
        there = connection.execute("select to_regclass('procrastinate_jobs') is not null").fetchone()
        if there and not there[0]:
            connection.execute(SchemaManager.get_schema().encode())


_APP = procrastinate.App(connector=procrastinate.SyncPsycopgConnector())
"""Only to put jobs into the queue, over connections of the house's."""


def put(connection: Connection, job: int, later: int = 0) -> None:
    """Put a job into the queue with this transaction, to be taken up at once or some seconds later."""
    wait = {"seconds": later} if later else None
    task = _APP.configure_task(TASK, queue=QUEUE, schedule_in=wait, connection=connection)
    jobs.queued(connection, job, task.defer(job=job))


def ask(
    desk: Desk, kind: str, fabric: str, wishes: dict[str, Any],
    also: Callable[[Transaction, int], None] = lambda tx, job: None,
) -> Job:  # fmt: skip
    """Ask for work on a fabric; it is done by whichever worker takes it up. `also` is done in the same transaction, for the job that it is.

    Raises `Refused` for a kind that there is not, and as `also` does.
    """
    if kind not in KINDS:
        raise refuse("job.kind", f"There is no such work. Ask for one of: {', '.join(KINDS)}.", "kind")

    def work(tx: Transaction) -> Job:
        tx.draft(fabric)
        tx.act(Act("job asked for", fabric, note=kind, topic="jobs"))
        job = jobs.add(tx.connection, kind, fabric, wishes, tx.author)
        also(tx, job)
        put(tx.connection, job)
        return jobs.find(tx.connection, job)

    return desk.writing(work)


def mine(desk: Desk) -> list[Job]:
    """One's own jobs, newest first; a keeper's are everybody's."""
    with desk.house.alone() as connection:
        everybody = desk.actor.may(Right.PEOPLE)
        return jobs.newest(connection, None if everybody else desk.actor.id or 0)


def of(desk: Desk, job: int) -> Job:
    """A job of one's own, or any to a keeper. Raises `Missing`."""
    with desk.house.alone() as connection:
        found = jobs.find(connection, job)
    if found.person != desk.actor.id and not desk.actor.may(Right.PEOPLE):
        raise Missing("There is no such job.")
    return found


def stop(desk: Desk, job: int) -> Job:
    """Stop a job of one's own: at once when it waits, soon when it is under way."""
    of(desk, job)
    halt(desk, job)
    return of(desk, job)


def halt(desk: Desk, job: int) -> None:
    """Stop a job, whosever it is; who may has been asked before."""
    with desk.house.alone() as connection:
        found = jobs.find(connection, job)

    def work(tx: Transaction) -> None:
        tx.act(Act("job stopped", found.fabric, note=found.kind, topic="jobs"))
        jobs.ask_to_stop(tx.connection, job)
        if found.state == "waiting":
            jobs.end(tx.connection, job, None, "stopped", "stopped before it began", "stopped")

    desk.writing(work)


def retry(desk: Desk, job: int) -> Job:
    """Try a job again that failed or was stopped. Raises `Refused` for one that did neither."""
    found = of(desk, job)
    if found.state not in ("failed", "stopped"):
        raise refuse("job.state", f"This job is {found.state}; only one that failed or was stopped is tried again.")

    def work(tx: Transaction) -> None:
        tx.act(Act("job tried again", found.fabric, note=found.kind, topic="jobs"))
        jobs.wait_again(tx.connection, job, "")
        put(tx.connection, job)

    desk.writing(work)
    return of(desk, job)


def result(desk: Desk, job: int) -> tuple[str, str, bytes]:
    """The file that came of a job. Raises `Missing`, and as the work itself would for who may read the fabric no more."""
    found = of(desk, job)
    if not desk.may_read(found.fabric):
        raise Missing("There is no such job.")
    with desk.house.alone() as connection:
        return jobs.result(connection, job)
