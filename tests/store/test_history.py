"""Any history of edits: PostgreSQL and memory agree number for number, and nothing held moves."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from typing import Any

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule, run_state_machine_as_test

from barrio.app import drafts, editions, numbering, poolchanges, pools
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.poolchanges import PoolSettings
from barrio.core import Refused, compile
from barrio.core.book import Book, Entry, held_by
from barrio.core.brief.document import read
from barrio.core.ledger.demand import pool_name
from barrio.core.ledger.numbers import parse_number
from barrio.core.ledger.pool import Family, Plan, Range, family_of, parse_range, prefix_text
from barrio.core.ledger.renumber import renumbering
from barrio.core.ledger.states import Life, State
from barrio.core.ledger.wanted import Taken
from barrio.store import entries as stored
from barrio.store.database import Connections, statement
from barrio.store.pins import Numbering, Pin
from tests.conftest import EVERYTHING, EXAMPLES
from tests.database import Databases
from tests.people import without_review
from tests.store.test_fabrics import audit, edit, numbers

START = "fabric: {name}\nspines: {{count: 2}}\nracks:\n  - {{racks: r01..r03, growth: 5}}\n"

EDITS = st.sampled_from(
    [
        ("racks[0].racks", "r01..r03"), ("racks[0].racks", "r01, r03"), ("racks[0].racks", "r03, r02, r01, r07"),
        ("racks[0].leaves", 1), ("racks[0].leaves", 2), ("spines.count", 1), ("spines.count", 4), ("uplinks_per_spine", 2),
        ("uplinks_per_spine", 1), ("underlay.addressing", "dual"), ("underlay.addressing", "unnumbered"),
        ("underlay.asn", "per-pair"), ("underlay.asn", "per-leaf"), ("vrfs.tides", {}), ("segments.a", {"vlan": 300}),
        ("segments.a", {"vrf": "tides", "v4": "auto/22", "v6": "auto"}), ("segments.a", None), ("names.\"leaf/r01/a\"", "first"),
        ("names", None), ("segments.b", {"vni": 12345}), ("segments.b", {"vrf": "tides", "v4": "auto"}),
        ("spines.model", "cantera-c64"),
    ]
)  # fmt: skip
PINS = st.sampled_from(
    [
        ("loopback.v4", "leaf/r01/a", "10.0.0.9"), ("loopback.v4", "leaf/r02/a", "10.0.0.1"), ("loopback.v4", "spine/1", None),
        ("loopback.v4", "leaf/r07/b", "10.0.0.77"), ("loopback.v4", "leaf/r01/a", None), ("asn", "leaf/r03/b", "4200000040"),
        ("asn", "leaf/r01/a", "4200000001"), ("link.v4", "leaf/r01/a~spine/1~1", "10.4.0.0/31"),
        ("link.v4", "leaf/r09/a~spine/1~1", "10.4.1.0/31"), ("loopback.v4", "leaf/r07/b", None), ("loopback.v6", "spine/1", "fd00:0:0:1::99"),
    ]
)  # fmt: skip
FABRIC = st.sampled_from(["one", "two"])
DRIVE = settings(
    max_examples=15 if EVERYTHING else 6, stateful_step_count=18, deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow, HealthCheck.filter_too_much],
)  # fmt: skip


class TwoFabrics(RuleBasedStateMachine):
    """Two fabrics that share pools, in PostgreSQL and in a `Book`; every rule is done to both."""

    databases: Databases

    @initialize()
    def start(self) -> None:
        self.connections = self.databases.fresh()
        self.desk, self.book = Desk(House(self.connections)), Book()
        self.now = datetime(2026, 1, 1, tzinfo=UTC)
        for name in ("one", "two"):
            draft = drafts.create(self.desk, START.format(name=name)).draft
            self._take(name, draft.document.text)

    def _take(self, name: str, text: str, numbering: Numbering | None = None) -> None:
        """What the store's `_draw` does, with the pure functions alone."""
        brief, moves = read(text).brief, {}
        self.book.end_rests(self.now, {"site"})
        if numbering:
            moves = {use: dict(keys) for use, keys in numbering.moves.items()}
            here = held_by(self.book, name)
            for use, keys in numbering.pins.items():
                for key, pin in keys.items():
                    self.book.pin(name, use, key, False)
                    if pin and (use, key) in here:
                        moves.setdefault(use, {})[key] = Taken(pin.low, pin.size)
                    elif pin:
                        waiting = Life(State.RESERVED, pinned=True)
                        pool = pool_name(brief, use) or ""
                        space = use.rsplit(".", 1)[-1]
                        taken = Taken(pin.low, pin.size)
                        self.book.entries[name].append(Entry(name, use, key, pool, space, taken, waiting, self.now))
        self.book.take(compile(brief, self.book.stock(name, moves)), self.now)
        if numbering:
            for use, keys in numbering.pins.items():
                for key, pin in keys.items():
                    if pin:
                        self.book.pin(name, use, key, True)

    def _before(self, name: str) -> dict[tuple[str, str], Taken]:
        return dict(held_by(self.book, name))

    @rule(name=FABRIC, edit_=EDITS)
    def change(self, name: str, edit_: tuple[str, Any]) -> None:
        draft, before = drafts.draft(self.desk, name), self._before(name)
        try:
            after = drafts.save(self.desk, name, draft.version, edit(*edit_), "x").draft
        except Refused:
            return
        if after.version != draft.version:
            self._take(name, after.document.text)
        held = held_by(self.book, name)
        for at, taken in before.items():
            said = at[0] in ("vlan", "vni") or at[0].startswith(("port.", "segment."))
            assert held.get(at, taken) == taken or said, f"{at} moved by itself"

    @rule(name=FABRIC, way=st.sampled_from(["undo", "redo"]))
    def go(self, name: str, way: str) -> None:
        draft = drafts.draft(self.desk, name)
        with self.connections.connection() as connection:
            target = f"{way}_target"
            row = connection.execute(statement(target), {"name": name}).fetchone()
        try:
            after = {"undo": drafts.undo, "redo": drafts.redo}[way](self.desk, name, draft.version).draft
        except Refused:
            return
        assert row is not None
        self._take(name, after.document.text, Numbering.read(row[2], way == "undo") if row[2] else None)

    @rule(name=FABRIC, pin=PINS)
    def pin(self, name: str, pin: tuple[str, str, str | None]) -> None:
        use, key, text = pin
        wished = {use: {key: Pin(*parse_number(use, text), "by hand") if text else None}}
        draft = drafts.draft(self.desk, name)
        try:
            after = numbering.pin(self.desk, name, draft.version, wished).draft
        except Refused:
            return
        self._take(name, after.document.text, Numbering({}, wished))

    @rule(name=FABRIC, uses=st.sampled_from([["loopback.v4", "loopback.v6"], ["asn"], ["link.v4", "link.v6"]]))
    def renumber(self, name: str, uses: list[str]) -> None:
        draft = drafts.draft(self.desk, name)
        try:
            after = numbering.renumber(self.desk, name, draft.version, uses).draft
        except Refused:
            return
        self.book.end_rests(self.now, {"site"})
        if after.version != draft.version:
            brief = draft.document.brief
            stock = self.book.stock(name)
            moves = renumbering(compile(brief, stock).demands, stock.holdings, uses)
            self._take(name, draft.document.text, Numbering(moves, {}))

    @rule(name=FABRIC)
    def seal(self, name: str) -> None:
        without_review(self.desk.house, name)
        try:
            editions.seal(self.desk, name, drafts.version(self.desk, name))
        except Refused as refusal:
            assert refusal.faults[0].code == "edition.same"
            return
        self.book.seal(name, self.now)

    @rule(name=FABRIC)
    def discard(self, name: str) -> None:
        draft = drafts.draft(self.desk, name)
        edition = {entry for entry in self.book.entries[name] if entry.life.state is State.LIVE}
        try:
            after = editions.discard(self.desk, name, draft.version).draft
        except Refused:
            return
        if after.version != draft.version:
            self._take(name, after.document.text)
        live = {
            (entry.use, entry.key, entry.taken) for entry in self.book.entries[name] if entry.life.state is State.LIVE
        }
        assert {(entry.use, entry.key, entry.taken) for entry in edition} == live, "a discard touched the edition"

    @rule(plan=st.sampled_from(list(Plan)), pool=st.sampled_from(["loopbacks", "segments", "asns", "links"]))
    def plan(self, plan: Plan, pool: str) -> None:
        try:
            poolchanges.change(self.desk, pool, PoolSettings(plan=plan))
        except Refused:
            return
        if pool in self.book.pools:
            self.book.pools[pool] = replace(self.book.pools[pool], plan=plan)

    @rule(pool=st.sampled_from(["loopbacks", "links", "asns"]))
    def end_rest(self, pool: str) -> None:
        poolchanges.end_rest(self.desk, pool, reason="tried out")
        for name, mine in self.book.entries.items():
            self.book.entries[name] = [e for e in mine if not (e.pool == pool and e.life.state is State.RESTING)]

    @rule()
    def two_days_pass(self) -> None:
        self.now += timedelta(days=2)
        with self.connections.connection() as connection:
            stored.open_change(connection, stored.Act("two days pass"))
            connection.execute(
                "update entries set released_at = released_at - interval '2 days', change = currval('changes_id_seq') "
                "where state = 'resting'"
            )

    @invariant()
    def both_agree(self) -> None:
        assert in_postgresql(self.connections) == in_book(self.book)

    def teardown(self) -> None:
        audit(self.connections)
        for name in ("one", "two"):
            draft = drafts.draft(self.desk, name)
            assert (
                drafts.load(Desk(House(self.connections)), draft.name).compiled.models
                == drafts.load(self.desk, draft.name).compiled.models
            )


def in_book(book: Book) -> set[tuple[Any, ...]]:
    return {
        (entry.fabric, entry.use, entry.key, entry.space, prefix_text(family_of(entry.use), *entry.taken),
         entry.life.state.value, entry.life.leaving, entry.life.pinned)
        for entry in book.all()
    }  # fmt: skip


def in_postgresql(connections: Connections) -> set[tuple[Any, ...]]:
    with connections.connection() as connection:
        rows = connection.execute(
            "select fabric, use, key, space, prefix::text, number::text, state, leaving, pinned from entries"
        ).fetchall()
    return {
        (*row[:4], row[5] if row[4] is None else row[4].removesuffix("/32").removesuffix("/128"), *row[6:])
        for row in rows
    }


def test_memory_and_postgresql_agree_through_any_history(databases: Databases) -> None:
    """Adding, removing, renaming, reordering, pinning, renumbering, sealing, discarding, resting: number for number."""
    machine = type("Machine", (TwoFabrics,), {"databases": databases})
    run_state_machine_as_test(machine, settings=DRIVE)


def test_a_pool_is_widened_by_a_brief_and_never_narrowed(desk: Desk, connections: Connections) -> None:
    draft = drafts.create(desk, EXAMPLES[-1].read_text()).draft
    wide = ["10.60.0.0/22", "fd60::/64", "10.60.64.0/22"]
    draft = drafts.save(desk, "tern", draft.version, edit("pools.halls-loopback", wide), "wider").draft
    drafts.save(desk, "tern", draft.version, edit("pools.halls-loopback", wide[:1]), "narrower")
    with connections.connection() as connection:
        ranges = stored.load_pools(connection)["halls-loopback"].ranges
    assert {part.text for part in ranges} == set(wide)


def test_a_full_pool_takes_a_new_range_and_goes_on(desk: Desk, connections: Connections) -> None:
    text = START.format(name="full") + "pools: {asns: 64512..64518}\n"
    draft = drafts.create(desk, text).draft
    with pytest.raises(Refused, match="Pool asns"):
        drafts.save(desk, "full", draft.version, edit("racks[0].racks", "r01..r05"), "more")
    poolchanges.add_range(desk, "asns", "64600..64699")
    drafts.save(desk, "full", draft.version, edit("racks[0].racks", "r01..r05"), "more")
    held = {int(number) for (use, _), number in numbers(connections, "full").items() if use == "asn"}
    assert held == {*range(64512, 64519), *range(64600, 64604)}
    with pytest.raises(Refused, match="overlaps"):
        poolchanges.add_range(desk, "asns", "64515")


def test_strips_show_every_entry_at_any_zoom(desk: Desk, connections: Connections) -> None:
    """However close or far one looks, the runs hold all entries in view, in order and apart."""
    for path in EXAMPLES:
        drafts.create(desk, path.read_text())
    for use in pools.overview(desk):
        inside = [entry for entry in pools.page(desk, use.pool.name)[0] if is_within(str(entry.number), use.range)]
        assert sum(run.count for run in use.runs) == len(inside), use.pool.name
        for fabric in {run.fabric for run in use.runs}:
            mine = [run for run in use.runs if run.fabric == fabric]
            assert all(one.high < two.low for one, two in pairwise(mine)), (use.pool, fabric)
    low = parse_range("10.61.0.0/20").low
    close = pools.window(desk, "halls-p2p", Range(Family.V4, low, low + 63))
    assert [(run.low - low, run.count) for run in close] == [(place, 1) for place in range(2, 64, 2)]
    far = pools.window(desk, "halls-p2p", Range(Family.V4, low, low + 2**16))
    links = [
        entry
        for entry in pools.page(desk, "halls-p2p")[0]
        if is_within(str(entry.number), Range(Family.V4, low, low + 2**16))
    ]
    assert sum(run.count for run in far) == len(links) > 400 and len(far) < len(links)


def is_within(number: str, part: Range) -> bool:
    """Whether an entry lies in a range; a pinned one may lie outside its pool's."""
    own = parse_range(number)
    return own.family is part.family and part.low <= own.low <= part.high
