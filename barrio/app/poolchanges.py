"""Changes of pools: made, set, widened, reserved from, ended.

They wait until nobody draws, so that what a draft was compiled with is still true when it is written.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import TypeVar

from psycopg import errors

from barrio.app.desk import Desk
from barrio.app.transaction import Transaction
from barrio.core.errors import Refused, refuse
from barrio.core.ledger.nest import check_pools
from barrio.core.ledger.pool import SITE, Kind, Plan, Pool, parse_range, parse_span, part_text
from barrio.store import drafts, entries, pins, pools
from barrio.store.entries import Act
from barrio.store.strips import runs

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class NewPool:
    """What a new pool is to be; with a `parent` its ranges are cut from that one."""

    name: str
    ranges: tuple[str, ...]
    kind: Kind = Kind.ADDRESSES
    plan: Plan = Plan.LOWEST
    scope: str = SITE
    parent: str | None = None
    private_to: str | None = None
    note: str = ""


@dataclass(frozen=True, slots=True)
class PoolSettings:
    """What can be changed about a pool; None leaves it as it is, and "" shares a private pool again."""

    plan: Plan | None = None
    rest: timedelta | None = None
    warn: float | None = None
    private_to: str | None = None
    note: str | None = None


def _alone(desk: Desk, act: str, note: str, change: Callable[[Transaction, dict[str, Pool]], T]) -> T:
    """A change of pools: nobody draws meanwhile, and it is recorded."""

    def work(tx: Transaction) -> T:
        tx.act(Act(act, note=note))
        tx.wrote()
        try:
            done = change(tx, entries.load_pools(tx.connection))
        except errors.ExclusionViolation as error:
            raise refuse("pool.overlap", "This range overlaps one of another pool. Choose another.", "range") from error
        pools.changed(tx.connection)
        return done

    return desk.writing(work, alone=True)


def create(desk: Desk, new: NewPool) -> None:
    """Make a pool. Raises `Refused` (`pool.twice`, `pool.unknown`, `pool.overlap`, `range.*`)."""

    def change(tx: Transaction, every: dict[str, Pool]) -> None:
        if new.name in every:
            raise refuse("pool.twice", f"There is a pool called {new.name} already. Choose another name.", "name")
        scope, kind = new.scope, new.kind
        if new.parent is not None:
            parent = pools.find(every, new.parent)
            scope, kind = parent.scope, parent.kind
        elif scope not in dict(pools.scopes(tx.connection)):
            raise refuse("scope.unknown", f"There is no scope called {scope}. Make it first.", "scope")
        _check_fabric(tx, new.private_to)
        pool = Pool(
            new.name, tuple(parse_range(text, "ranges") for text in new.ranges), kind, new.plan, scope, new.parent,
            new.private_to or None,
        )  # fmt: skip
        if not pool.ranges:
            raise refuse("range.none", "A pool needs a range to hand out numbers from.", "ranges")
        _check_plan(pool)
        _check({**every, pool.name: pool}, "ranges")
        if pool.parent:
            _check_free(tx, pool)
        pools.add(tx.connection, pool, new.note)

    _alone(desk, "pool made", new.name, change)


def change(desk: Desk, name: str, settings: PoolSettings) -> None:
    """Change what is said about a pool; no number moves. Raises `Missing` or `Refused`."""

    def work(tx: Transaction, every: dict[str, Pool]) -> None:
        pool = pools.find(every, name)
        if settings.plan is not None:
            _check_plan(replace(pool, plan=settings.plan))
        if settings.private_to:
            _check_fabric(tx, settings.private_to)
            others = [user for user in tx.users(name) if user != settings.private_to]
            if others:
                words = f"{', '.join(others)} draws from {name} too, so it cannot be private."
                raise refuse("pool.in-use", words, "private_to")
        tx.connection.execute(
            "update pools set plan = coalesce(%s, plan), rest = coalesce(%s, rest), warn = coalesce(%s, warn), "
            "note = coalesce(%s, note), private_to = case when %s::text is null then private_to else nullif(%s, '') end "
            "where name = %s",
            [settings.plan and settings.plan.value, settings.rest, settings.warn, settings.note,
             settings.private_to, settings.private_to, name],
        )  # fmt: skip

    _alone(desk, "pool changed", f"{name}: {_words_of(settings)}", work)


def delete(desk: Desk, name: str) -> None:
    """Delete a pool that nobody uses. Raises `Refused` (`pool.in-use`) naming what does."""

    def work(tx: Transaction, every: dict[str, Pool]) -> None:
        pools.find(every, name)
        held, users = pools.count(tx.connection, name), tx.users(name)
        children = [pool.name for pool in every.values() if pool.parent == name]
        if held or children or users:
            why = [f"{held} numbers of it are taken"] if held else []
            why += [f"{', '.join(users)} draws from it"] if users else []
            why += [f"{', '.join(children)} is cut from it"] if children else []
            raise refuse("pool.in-use", f"Pool {name} cannot be deleted: {'; '.join(why)}.", "name")
        pools.delete(tx.connection, name)

    _alone(desk, "pool deleted", name, work)


def add_range(desk: Desk, pool: str, text: str) -> None:
    """Add a range to a pool. Raises `Missing`, or `Refused` when it overlaps with a range of any pool."""
    part = parse_range(text, "range")

    def work(tx: Transaction, every: dict[str, Pool]) -> None:
        had = pools.find(every, pool)
        for old in had.ranges:
            if old.family is part.family and old.low <= part.high and part.low <= old.high:
                words = f"{part.text} overlaps {old.text}, which pool {pool} has already."
                raise refuse("pool.overlap", words, "range")
        _check({**every, pool: replace(had, ranges=(*had.ranges, part))}, "range")
        if had.parent:
            _check_free(tx, replace(had, ranges=(part,)))
        entries.add_range(tx.connection, pool, part)

    _alone(desk, "range added", f"{pool}: {part.text}", work)


def drop_range(desk: Desk, pool: str, text: str) -> None:
    """Take a range out of a pool again. Raises `Refused` while a number of it is taken or a pool is cut from it."""
    part = parse_range(text, "range")

    def work(tx: Transaction, every: dict[str, Pool]) -> None:
        had = pools.find(every, pool)
        if part not in had.ranges:
            raise refuse("range.unknown", f"Pool {pool} has no range {part.text}.", "range")
        count = sum(run.count for run in runs(tx.connection, replace(had, reserved=()), part))
        if count:
            words = f"{count} numbers of {part.text} are taken. It can go when they are free."
            raise refuse("pool.in-use", words, "range")
        _check({**every, pool: replace(had, ranges=tuple(one for one in had.ranges if one != part))}, "range")
        pools.drop_range(tx.connection, pool, part)

    _alone(desk, "range taken out", f"{pool}: {part.text}", work)


def add_scope(desk: Desk, name: str, note: str) -> None:
    """Make a scope with its guard against overlaps. Raises `Refused` when there is one of this name."""

    def work(tx: Transaction, _: dict[str, Pool]) -> None:
        if name in dict(pools.scopes(tx.connection)):
            raise refuse("scope.twice", f"There is a scope called {name} already.", "name")
        tx.connection.execute("select add_scope(%s, %s)", [name, note])

    _alone(desk, "scope made", name, work)


def reserve(desk: Desk, pool: str, text: str, note: str) -> int:
    """Reserve a span of a pool (a prefix, `first..last`, or one number); returns the id of the reservation.

    What is held in it stays until it is given back; nothing new is drawn from it.
    """
    part = parse_span(text)

    def work(tx: Transaction, every: dict[str, Pool]) -> int:
        had = pools.find(every, pool)
        inside = had.range_of(part.family, part.low)
        if inside is None or part.high > inside.high:
            has = ", ".join(one.text for one in had.ranges)
            raise refuse("range.outside", f"{part_text(part)} is not inside pool {pool} ({has}).", "range")
        for kept in had.kept(part.family):
            if kept.low <= part.high and part.low <= kept.high:
                words = f"{part_text(part)} meets what is reserved already ({kept.note})."
                raise refuse("reserved.twice", words, "range")
        return pins.reserve(tx.connection, pins.Keep(pool, part.family, part.low, part.high, note), tx.author.name)

    return _alone(desk, "reserved", f"{part_text(part)} in {pool}: {note}", work)


def end_reservation(desk: Desk, reservation: int) -> None:
    """Let a reserved span be handed out again. Raises `Missing`."""
    with desk.reading() as tx:
        pool, note = pools.reservation(tx.connection, reservation)

    def work(tx: Transaction, _: dict[str, Pool]) -> None:
        pools.reservation(tx.connection, reservation)
        tx.connection.execute("delete from reserved where id = %s", [reservation])

    _alone(desk, "reservation ended", f"{pool}: {note}", work)


def end_rest(desk: Desk, pool: str, reason: str = "", chosen: list[int] | None = None) -> int:
    """Let resting numbers of a pool be used again now, all or those chosen by id; returns how many there were."""

    def work(tx: Transaction, every: dict[str, Pool]) -> int:
        pools.find(every, pool)
        return tx.connection.execute(
            "delete from entries where pool = %s and state = 'resting' and (%s::bigint[] is null or id = any(%s))",
            [pool, chosen, chosen],
        ).rowcount

    return _alone(desk, "rest ended", f"{pool}: {reason}".rstrip(": "), work)


def _check(every: dict[str, Pool], path: str) -> None:
    faults = check_pools(every)
    if faults:
        raise Refused([replace(faults[0], path=path)])


def _check_plan(pool: Pool) -> None:
    if pool.plan is Plan.POSITION and pool.kind is Kind.VLAN:
        raise refuse("pool.plan", "VLANs have no position in a fabric. Choose lowest free or best fit.", "plan")
    if pool.plan is Plan.BEST_FIT and pool.kind is not Kind.ADDRESSES:
        words = "Best fit is for prefixes of several sizes. Choose lowest free or by position."
        raise refuse("pool.plan", words, "plan")


def _check_fabric(tx: Transaction, fabric: str | None) -> None:
    if fabric and not any(name == fabric for name, *_ in drafts.names(tx.connection)):
        raise refuse("fabric.unknown", f"There is no fabric called {fabric}.", "private_to")


def _check_free(tx: Transaction, child: Pool) -> None:
    """A pool can be cut only from what its parent has not handed out."""
    assert child.parent is not None
    for part in child.ranges:
        count = pools.count_in(tx.connection, child.parent, part)
        if count:
            words = f"{count} numbers of {part.text} are taken from {child.parent} already. Cut from what is free."
            raise refuse("pool.in-use", words, "ranges")


def _words_of(settings: PoolSettings) -> str:
    """Settings as part of the record."""
    found = []
    for name in ("plan", "rest", "warn", "private_to", "note"):
        value = getattr(settings, name)
        if value is not None:
            words = (
                value.value
                if isinstance(value, Plan)
                else f"{value.total_seconds() / 86400:g} days"
                if name == "rest"
                else value
            )
            found.append(f"{name} {words}")
    return ", ".join(found)
