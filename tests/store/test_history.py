"""Any history of edits: PostgreSQL and memory agree number for number, and nothing held moves."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from barrio.core import Compiled, Ledger, Refused, compile
from barrio.core.brief.document import set_value
from barrio.core.ledger.allocate import Foreign, Holdings, Taken
from barrio.core.ledger.pool import Family, Range, parse_range
from barrio.store import ledger as stored
from barrio.store.fabrics import Connections, Fabrics
from barrio.store.pools import Pools
from tests.conftest import EXAMPLES
from tests.store.test_fabrics import audit, edit, numbers

START = "fabric: {name}\nspines: {{count: 2}}\nracks:\n  - racks: r01..r03\n"

EDITS = st.sampled_from(
    [
        ("racks[0].racks", "r01..r03"), ("racks[0].racks", "r01, r03"), ("racks[0].racks", "r03, r02, r01, r07"),
        ("racks[0].leaves", 1), ("racks[0].leaves", 2), ("spines.count", 1), ("spines.count", 4), ("uplinks_per_spine", 2),
        ("uplinks_per_spine", 1), ("underlay.addressing", "dual"), ("underlay.addressing", "unnumbered"),
        ("underlay.asn", "per-pair"), ("underlay.asn", "per-leaf"), ("vrfs.tides", {}), ("segments.a", {"vlan": 300}),
        ("segments.a", {"vrf": "tides", "v4": "auto"}), ("segments.a", None), ("names.\"leaf/r01/a\"", "first"),
        ("names", None), ("segments.b", {"vni": 12345}), ("spines.model", "cantera-c64"),
    ]
)  # fmt: skip
STEPS = st.lists(
    st.tuples(st.sampled_from(["one", "two"]), EDITS | st.just("undo") | st.just("redo")), min_size=1, max_size=14
)


class Memory:
    """What the ledger should hold, kept with plain dictionaries and the pure compile."""

    def __init__(self) -> None:
        self.held: dict[str, dict[str, dict[str, Taken]]] = {}
        self.resting: dict[str, dict[str, dict[str, Taken]]] = {}
        self.pools: dict[str, Any] = {}

    def ledger(self, fabric: str) -> Ledger:
        others: dict[str, list[Foreign]] = {}
        for book in (self.held, self.resting):
            for name, uses in book.items():
                for use, entries in uses.items():
                    space = use.rsplit(".", 1)[-1]
                    if name != fabric and space in ("v4", "v6", "asn", "vni"):
                        others.setdefault(space, []).extend(Foreign(*taken, name) for taken in entries.values())
        return Ledger(self.pools, Holdings(self.held.get(fabric, {}), self.resting.get(fabric, {}), others))

    def take(self, fabric: str, compiled: Compiled) -> None:
        allocation, resting = compiled.allocation, self.resting.setdefault(fabric, {})
        before = self.held.get(fabric, {})
        for use, key in (*allocation.returned, *allocation.consumed):
            resting[use].pop(key)
        for use, key in allocation.given_back:
            resting.setdefault(use, {})[key] = before[use][key]
        self.held[fabric] = {use: dict(entries) for use, entries in allocation.numbers.items()}
        self.pools = dict(compiled.pools)


@settings(max_examples=20, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
@given(steps=STEPS)
def test_memory_and_postgresql_agree_number_for_number(connections: Connections, steps: list[tuple[str, Any]]) -> None:
    with connections.connection() as connection:
        connection.execute("truncate fabrics, revisions, pools, pool_ranges, entries restart identity")
    fabrics, memory = Fabrics(connections), Memory()
    for name in ("one", "two"):
        draft = fabrics.create(START.format(name=name))
        memory.take(name, compile(draft.document.brief, memory.ledger(name)))
    for name, step in steps:
        draft = fabrics.draft(name)
        before = {key: entries.copy() for key, entries in memory.held[name].items()}
        try:
            if isinstance(step, str):
                draft = getattr(fabrics, step)(name, draft.version)
            else:
                path, value = step
                draft = fabrics.save(name, draft.version, lambda text, p=path, v=value: set_value(text, p, v), "x")
        except Refused:
            assert numbers_in(connections, name) == flat(memory.held[name]), "a refusal changes nothing"
            continue
        memory.take(name, compile(draft.document.brief, memory.ledger(name)))
        assert numbers_in(connections, name) == flat(memory.held[name])
        for use, entries in before.items():
            for key, taken in entries.items():
                now = memory.held[name].get(use, {}).get(key, taken)
                pinned = use in ("vlan", "vni") and key.startswith("segment/")
                assert now == taken or pinned or use.startswith(("port.", "segment.")), (use, key)
    audit(connections)


def flat(book: dict[str, dict[str, Taken]]) -> dict[tuple[str, str], Taken]:
    return {(use, key): taken for use, entries in book.items() for key, taken in entries.items()}


def numbers_in(connections: Connections, fabric: str) -> dict[tuple[str, str], Taken]:
    with connections.connection() as connection:
        book, _ = stored.load(connection, fabric)
    return flat({use: dict(entries) for use, entries in book.holdings.held.items()})


def test_a_pool_is_widened_by_a_brief_and_never_narrowed(fabrics: Fabrics, connections: Connections) -> None:
    draft = fabrics.create(EXAMPLES[-1].read_text())
    wide = ["10.60.0.0/22", "fd60::/64", "10.60.64.0/22"]
    draft = fabrics.save("tern", draft.version, edit("pools.halls-loopback", wide), "wider")
    fabrics.save("tern", draft.version, edit("pools.halls-loopback", wide[:1]), "narrower")
    with connections.connection() as connection:
        ranges = stored.load_pools(connection)["halls-loopback"].ranges
    assert {part.text for part in ranges} == set(wide)


def test_a_full_pool_takes_a_new_range_and_goes_on(fabrics: Fabrics, connections: Connections) -> None:
    text = START.format(name="full") + "pools: {asns: 64512..64518}\n"
    draft = fabrics.create(text)
    with pytest.raises(Refused, match="Pool asns"):
        fabrics.save("full", draft.version, edit("racks[0].racks", "r01..r05"), "more")
    pools = Pools(connections)
    pools.add_range("asns", "64600..64699")
    fabrics.save("full", draft.version, edit("racks[0].racks", "r01..r05"), "more")
    held = {int(number) for (use, _), number in numbers(connections, "full").items() if use == "asn"}
    assert held == {*range(64512, 64519), *range(64600, 64604)}
    with pytest.raises(Refused, match="overlaps"):
        pools.add_range("asns", "64515")


def test_strips_show_every_entry_at_any_zoom(fabrics: Fabrics, connections: Connections) -> None:
    """However close or far one looks, the runs hold all entries in view, in order and apart."""
    for path in EXAMPLES:
        fabrics.create(path.read_text())
    pools = Pools(connections)
    for use in pools.all():
        inside = [entry for entry in pools.entries(use.pool) if is_within(str(entry["number"]), use.range)]
        assert sum(run.count for run in use.runs) == len(inside), use.pool
        for fabric in {run.fabric for run in use.runs}:
            mine = [run for run in use.runs if run.fabric == fabric]
            assert all(one.high < two.low for one, two in pairwise(mine)), (use.pool, fabric)
    low = parse_range("10.61.0.0/20").low
    _, close = pools.window("halls-p2p", Family.V4, low, low + 63)
    assert [(run.low - low, run.count) for run in close] == [(place, 1) for place in range(0, 64, 2)]
    _, far = pools.window("halls-p2p", Family.V4, low, low + 2**16)
    links = [
        entry
        for entry in pools.entries("halls-p2p")
        if is_within(str(entry["number"]), Range(Family.V4, low, low + 2**16))
    ]
    assert sum(run.count for run in far) == len(links) > 400 and len(far) < len(links)


def is_within(number: str, part: Range) -> bool:
    """Whether an entry lies in a range; a pinned one may lie outside its pool's."""
    own = parse_range(number)
    return own.family is part.family and part.low <= own.low <= part.high
