"""A worker: takes jobs up one after the other, says how far they are, and takes over from workers that died.

Whoever asked must still have the right when the work begins. Each attempt has a number; only the newest one can end a job, so that
what was thought dead and comes back changes nothing.
"""

from __future__ import annotations

import asyncio
import threading
import time
from contextlib import suppress
from pathlib import Path
from threading import Event
from traceback import format_exception

import procrastinate
import psycopg
import structlog
from procrastinate import JobContext

from barrio.app import backrules, door
from barrio.app.desk import Actor, Desk
from barrio.app.drafts import load
from barrio.app.draining import settle_all
from barrio.app.gate import Busy
from barrio.app.house import House
from barrio.app.leaving import LEFT, Left
from barrio.app.stagings import advance_all
from barrio.core import Refused
from barrio.jobs import lending
from barrio.jobs.kinds import KINDS
from barrio.jobs.queue import QUEUE, TASK, put
from barrio.jobs.sender import send_due
from barrio.rehearsal.ground import NoLab
from barrio.store import jobs
from barrio.store.entries import Act, Author, open_change
from barrio.store.errors import Missing, Unreachable
from barrio.store.jobs import Job

log = structlog.get_logger()
OFTEN = 0.4
"""Seconds between two words of how far a job is."""
BEAT, DEAD_AFTER = 2.0, 8.0
"""Seconds between two signs of life of a worker, and without one after which its jobs are given to others."""
SWEEP = 3.0
AT_ONCE = 3
"""Jobs side by side; of heavy ones as many as the gate lets in."""
AGAIN = 10
"""Seconds after which it is looked again whether there is memory for a job."""


class Worker:
    """Does jobs in a thread of its own, `at_once` of them side by side, until it is closed. With an address at which others `reach` it, it lends them
    grounds for their rehearsals."""

    def __init__(self, house: House, at_once: int = AT_ONCE, reach: str = "") -> None:
        self._house, self._at_once, self._reach = house, at_once, reach
        self._loop: asyncio.AbstractEventLoop | None = None
        self._task: asyncio.Task[None] | None = None
        self._leaving = Event()
        self._thread = threading.Thread(target=self._run, name="worker", daemon=True)

    def start(self) -> Worker:
        self._thread.start()
        return self

    def close(self) -> None:
        """Give back what is under way, and end."""
        self._leaving.set()
        if self._loop is not None and self._task is not None:
            with suppress(RuntimeError):
                self._loop.call_soon_threadsafe(self._task.cancel)
        self._thread.join(10)

    def _run(self) -> None:
        while not self._leaving.is_set():
            try:
                with suppress(asyncio.CancelledError):
                    asyncio.run(self._work())
            except (procrastinate.exceptions.ConnectorException, psycopg.Error, OSError) as error:
                # The database is lost; it is tried again until it is back.
                log.warning("worker waits", why=str(error).strip().splitlines()[-1:])
                self._leaving.wait(1)

    async def _work(self) -> None:
        self._loop = asyncio.get_running_loop()
        conninfo = self._house.connections.conninfo
        app = procrastinate.App(
            connector=procrastinate.PsycopgConnector(
                conninfo=conninfo() if callable(conninfo) else conninfo, min_size=1, max_size=4
            )
        )

        @app.task(name=TASK, queue=QUEUE, pass_context=True)
        def do(context: JobContext, job: int) -> None:
            self._do(job)

        @app.task(name=lending.TASK, queue=lending.QUEUE)
        def lend(number: int) -> None:
            lending.lend(self._house, number, self._reach, self._leaving, lambda: memory()[1])

        async with app.open_async():
            sweeper = asyncio.create_task(self._sweep(app))
            self._task = asyncio.create_task(
                app.run_worker_async(
                    queues=[QUEUE, *([lending.QUEUE] if self._reach else [])], concurrency=self._at_once, install_signal_handlers=False, delete_jobs="always",
                    fetch_job_polling_interval=2.0, update_heartbeat_interval=BEAT, stalled_worker_timeout=DEAD_AFTER,
                    shutdown_graceful_timeout=5,
                )
            )  # fmt: skip
            try:
                await self._task
            finally:
                sweeper.cancel()

    async def _sweep(self, app: procrastinate.App) -> None:
        """Give to others what a dead worker had, and to the queue what never got there."""
        while True:
            await asyncio.sleep(SWEEP)
            with suppress(procrastinate.exceptions.ConnectorException, psycopg.Error, Unreachable):
                for dead in await app.job_manager.get_stalled_jobs(queue=QUEUE, seconds_since_heartbeat=DEAD_AFTER):
                    await app.job_manager.retry_job(dead)
                await asyncio.to_thread(self._put_forgotten)
            with suppress(psycopg.Error, Unreachable):
                await asyncio.to_thread(send_due, self._house)
            with suppress(psycopg.Error, Unreachable):
                await asyncio.to_thread(advance_all, self._house)
                await asyncio.to_thread(settle_all, self._house)
                await asyncio.to_thread(backrules.keep_all, self._house)

    def _put_forgotten(self) -> None:
        with self._house.alone() as connection:
            for job in jobs.forgotten(connection):
                put(connection, job)

    def _do(self, number: int) -> None:
        house = self._house
        with house.alone() as connection:
            attempt = jobs.begin(connection, number)
            if attempt is None:
                return
            job = jobs.find(connection, number)
            jobs.log(connection, number, f"attempt {attempt} begins")
        stop = Event()
        token = LEFT.set(stop)
        began = time.monotonic()
        try:
            state, words, kept = self._outcome(job, attempt, stop)
        finally:
            LEFT.reset(token)
        if state == "waiting":
            with house.alone() as connection:
                open_change(connection, Act("job waits", job.fabric, note=words, topic="jobs"))
                jobs.wait_again(connection, number, words)
                put(connection, number, later=0 if self._leaving.is_set() else AGAIN)
            return
        with house.alone() as connection:
            author = Author(job.author, job.person, job.token)
            open_change(connection, Act(f"job {state}", job.fabric, note=f"{job.kind}: {words}", topic="jobs"), author)
            if kept is not None:
                connection.execute("delete from results where job = %s", [number])
                jobs.keep(connection, number, *kept)
            if not jobs.end(
                connection, number, attempt, state, words, f"{state} after {time.monotonic() - began:.1f} s: {words}"
            ):
                connection.rollback()
        log.info("job ended", job=number, kind=job.kind, state=state, seconds=round(time.monotonic() - began, 2))

    def _outcome(self, job: Job, attempt: int, stop: Event) -> tuple[str, str, tuple[str, str, bytes] | None]:
        """What came of a job: its state, in words, and its file."""
        told = 0.0

        def tell(done: int, of: int, words: str) -> None:
            nonlocal told
            if self._leaving.is_set():
                raise Left
            if time.monotonic() - told < OFTEN:
                return
            told = time.monotonic()
            with self._house.alone() as connection:
                if not jobs.tell(connection, job.id, attempt, done, of, words):
                    stop.set()
                    raise Left

        kind = KINDS.get(job.kind)
        if kind is None:
            return "failed", "this Barrio does not know such work; another one asked for it", None
        try:
            actor = door.actor_of_person(self._house, job.person) if job.person is not None else Actor()
            if actor is None or not actor.may(kind.right, job.fabric):
                return "failed", f"{job.author} may not see {job.fabric} any more", None
            desk = Desk(self._house, actor)
            switches = _switches(desk, job.fabric)
            with self._house.gate.room_for(switches):
                short = self._memory_short(kind.needs(switches, job.wishes))
                if short:
                    return short
                outcome = kind.do(desk, job.fabric, {**job.wishes, "job": job.id}, tell)
            return "done", outcome.words, (outcome.name, outcome.media, outcome.content)
        except Left:
            if self._leaving.is_set() and not stop.is_set():
                return "waiting", "its worker ends; another goes on", None
            return "stopped", "stopped on the way", None
        except Busy as error:
            return "waiting", str(error), None
        except (Refused, Missing, NoLab) as error:
            return "failed", str(error), None
        except Unreachable:
            raise
        except Exception as error:
            # Without the values of variables, which may be secret, and are large.
            log.error("job broke", job=job.id, traceback="".join(format_exception(error)))
            return "failed", f"something in Barrio broke over it ({type(error).__name__})", None

    def _memory_short(self, needs: int) -> tuple[str, str, None] | None:
        total, free = memory()
        if needs > total:
            words = f"it needs {needs / 1e9:.1f} GB of memory, and this machine has {total / 1e9:.1f} GB"
            return "failed", words, None
        if needs > free:
            return "waiting", f"waits for memory: it needs {needs / 1e9:.1f} GB, {free / 1e9:.1f} GB are free", None
        return None


def _switches(desk: Desk, fabric: str) -> int:
    return len(load(desk, fabric).compiled.structure.switches)


def memory() -> tuple[int, int]:
    """How much memory this machine has, and how much of it is free, in bytes."""
    said = dict(line.split(":") for line in Path("/proc/meminfo").read_text().splitlines())
    return int(said["MemTotal"].split()[0]) * 1024, int(said["MemAvailable"].split()[0]) * 1024
