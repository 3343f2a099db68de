"""Cables: what they are made of and why, how many of what, that they stay what they are, and what was done to them."""

from __future__ import annotations

from collections import Counter
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from barrio.core import Compiled, Refused, Stock, compile
from barrio.core.because import of_cable
from barrio.core.brief.document import apply, read
from barrio.core.brief.model import Brief
from barrio.core.cabling.choice import Need, choose, options_for
from barrio.core.cabling.lay import with_measured
from barrio.core.cabling.materials import materials, pieces
from barrio.core.cabling.orders import pulls, runs_in
from barrio.core.cabling.work import Deed, come_to
from barrio.core.catalogue.madeparts import MADE_PARTS
from barrio.core.ledger.wanted import Holdings
from barrio.core.sums import effect
from tests.conftest import EXAMPLES, briefs, tries

TEXT = next(path for path in EXAMPLES if path.stem == "marlin").read_text()
MARLIN = compile(read(TEXT).brief)


def again(text: str, before: Compiled = MARLIN) -> Compiled:
    return compile(read(text).brief, Stock(before.pools, Holdings(held=before.allocation.numbers)))


@given(metres=st.lists(st.floats(0.1, 600), min_size=1, max_size=30))
def test_a_part_is_never_shorter_than_its_way_and_no_cheaper_one_would_do(metres: list[float]) -> None:
    options = options_for(Need("QSFP28", "QSFP28", 100), MADE_PARTS)
    found = choose(options, np.array(metres))
    for length, option, stock in zip(metres, found.option.tolist(), found.length.tolist(), strict=True):
        reach = [one for one in options if one.reach >= length]
        if not reach:
            assert option == -1
            continue
        assert stock >= length - 1e-6
        prices = [price for one in reach if (fits := one.stocked(length)) and (price := one.price(fits)) is not None]
        assert options[option].price(stock) == min(prices)


def test_what_is_asked_for_is_taken_where_it_reaches_and_parts_of_ones_own_count() -> None:
    wanted = compile(read(apply(TEXT, [("cabling.kind", "SR optics")])).brief)
    assert {one.kind for one in wanted.cables if one.use == "fabric"} == {"SR optics"}
    dac = compile(read(apply(TEXT, [("cabling.kind", "DAC")])).brief)
    assert any(one.code == "cable.kind" for one in dac.noticed)
    own = {"assemblies": [{"id": "aoc-100", "maker": "Brezo", "kind": "AOC", "plug": "QSFP28", "speed": 100, "lengths": [12.0, 40.0], "diameter": 3.0}]}  # fmt: skip
    mine = compile(read(apply(TEXT, [("cabling.parts", own)])).brief)
    assert {one.stock for one in mine.cables if one.use == "fabric"} == {12.0, 40.0}, (
        "a part without a price goes by its kind"
    )
    with pytest.raises(Refused):
        read(apply(TEXT, [("cabling.parts", {"assemblies": [own["assemblies"][0]] * 2})]))


def test_a_cable_answers_why_it_is_so_long_and_why_it_is_this_part() -> None:
    steps = [step.title for step in of_cable(read(TEXT), MARLIN, "M-0109")]
    assert steps[0].startswith("It goes 0.8 m up, 1.6 m along tray-south, 4.4 m along across, 0.8 m along tray-north")
    assert any("DAC 100G would cost less, and ends at 3 m" in title for title in steps)
    power = next(one.label for one in MARLIN.cables if one.link == "power/leaf/r07/b/b")
    titles = [step.title for step in of_cable(read(TEXT), MARLIN, power)]
    assert any("outlets of feed b of rack r07" in title for title in titles)


def test_every_port_takes_one_plug_and_every_cable_has_a_number_of_its_own() -> None:
    ends = Counter((end.rack, end.switch, end.port) for cable in MARLIN.cables for end in (cable.a, cable.b))
    assert max(ends.values()) == 1
    assert len({cable.label for cable in MARLIN.cables}) == len(MARLIN.cables) == 328
    served = {cable.b.switch for cable in MARLIN.cables if cable.use == "management" and cable.a.rack == "r07"}
    assert served == {"oob-2"}


@tries(40)
@given(said=briefs(), plans=st.sets(st.sampled_from(["power", "hosts"])))
def test_in_any_fabric_ports_take_one_plug_and_materials_add_up(said: dict[str, Any], plans: set[str]) -> None:
    said |= {"floor": {"rows_of": 6}, "cabling": {"plans": sorted(plans), "spares": 0}}
    compiled = compile(Brief.model_validate(said))
    laid = compiled.laid
    ends = Counter((end.rack, end.switch, end.port) for cable in laid.cables for end in (cable.a, cable.b) if end.port)
    assert not ends or max(ends.values()) == 1
    made = [place for place in range(len(laid.cables)) if laid.option(place)]
    plugs = {laid.leads[place].hole or place for place in made}
    whole = sum(1 for place in made if not laid.leads[place].hole) + len(
        {laid.leads[place].hole for place in made} - {""}
    )
    assert len(plugs) == whole
    cords = sum(count for item, count in pieces(laid).items() if item.length is not None)
    assert cords == whole, "an assembly or a cord for each"
    assert sum(line.order for line in materials(laid)) == sum(pieces(laid).values())


def test_a_broken_out_port_is_one_plug_with_a_label_of_its_own() -> None:
    said = {
        "fabric": "x", "spines": {"count": 1, "model": "lonja-s64", "ports": {"breakouts": {"p1..p2": "4x100"}, "downlinks": "p1s0, p1s1, p1s2, p1s3"}},
        "racks": [{"racks": "r01..r02", "model": "cantera-l48"}], "floor": "racks 0.6 m apart in rows of 4",
    }  # fmt: skip
    compiled = compile(Brief.model_validate(said))
    legs = [cable for cable in compiled.cables if cable.plug]
    assert (
        len(legs) == 4
        and len({cable.plug for cable in legs}) == 1
        and not {cable.plug for cable in legs} & {one.label for one in compiled.cables}
    )
    assert {cable.part for cable in legs} <= {"DAC 4×100G", "AOC 4×100G"} and sum(
        pieces(compiled.laid).values()
    ) == len({one.part for one in legs})


def test_numbers_and_labels_stay_through_every_later_change() -> None:
    labels = {cable.link: cable.label for cable in MARLIN.cables}
    more = again(
        apply(
            TEXT,
            [
                ("racks[0].racks", "r01..r14"),
                ("halls.models.rows.south.racks", "s02, r07..r14"),
                ("cabinets.every.outlets", 36),
            ],
        )
    )
    assert {cable.link: cable.label for cable in more.cables}.items() >= labels.items()
    moved = again(apply(TEXT, [("halls.models.rows.south.at", [2.0, 3.9])]))
    assert {cable.link: cable.label for cable in moved.cables} == labels


def test_a_moved_end_is_a_moved_cable_and_is_said_to_be_one() -> None:
    lower = again(apply(TEXT, [('units."leaf/r07/b"', 20)]))
    assert effect(MARLIN, lower)["cables_moved"] == 12, "eight uplinks, management, console, two of power"
    renamed = again(apply(TEXT, [('names."leaf/r07/b"', "tide-07b")]))
    assert effect(MARLIN, renamed)["cables_moved"] == 0


def test_moving_a_rack_changes_only_its_cables() -> None:
    halls = apply(TEXT, [("halls.models.rows.south.racks", "s02, r12, r08..r11, r07, r13..r14")])
    was = {cable.label: cable.length for cable in MARLIN.cables}
    other = {
        label
        for label, length in {cable.label: cable.length for cable in again(halls).cables}.items()
        if was[label] != length
    }
    touched = {cable.label for cable in MARLIN.cables if {cable.a.rack, cable.b.rack} & {"r07", "r12"}}
    assert other and other <= touched


def test_a_measured_length_counts_and_the_one_worked_out_is_kept() -> None:
    cable = MARLIN.cables[108]
    measured = with_measured(MARLIN.laid, {cable.link: 24.2})
    found = measured.cables[108]
    assert (found.length, found.stock, measured.metres[108]) == (cable.length, 25.0, 24.2)
    assert [one for place, one in enumerate(measured.cables) if place != 108] == [
        one for place, one in enumerate(MARLIN.cables) if place != 108
    ]


def test_bundles_are_pulled_far_ends_first_and_a_rack_is_run_from_far_to_near() -> None:
    found = pulls(MARLIN.laid)
    lengths = [pull.longest for pull in found if pull.longest]
    assert lengths == sorted(lengths, reverse=True) and [pull.number for pull in found] == list(
        range(1, len(found) + 1)
    )
    numbers = {pull.pair: pull.number for pull in found}
    runs = runs_in(MARLIN.laid, "s01", numbers, MARLIN.laid.inside["s01"])
    assert len(runs) == len(set(runs)) == sum("s01" in (cable.a.rack, cable.b.rack) for cable in MARLIN.cables)
    assert runs[-1] in MARLIN.laid.inside["s01"]


def test_a_full_tray_is_gone_round_where_there_is_another_way() -> None:
    across = {"along": [[7.9, 0.8], [7.9, 5.2]]}
    two = apply(TEXT, [("halls.models.trays.tray-north.along", [[0.8, 0.8], [8.0, 0.8]]), ("halls.models.trays.tray-south.along", [[0.8, 5.2], [8.0, 5.2]]), ("halls.models.trays.east", across), ("halls.models.trays.across.width", 14)])  # fmt: skip
    found = compile(read(two).brief)
    assert not [one for one in found.noticed if one.code == "tray.full"]
    assert found.laid.routes.around
    one = compile(read(apply(TEXT, [("halls.models.trays.across.width", 14)])).brief)
    assert [fault.code for fault in one.noticed if fault.code == "tray.full"]


DEEDS = st.lists(
    st.builds(
        Deed, id=st.uuids(), cable=st.sampled_from(["a", "b"]),
        kind=st.sampled_from(["laid", "taken out", "measured", "fault", "mended", "scanned a", "light b"]),
        done_at=st.integers(0, 5).map(lambda hours: datetime(2026, 11, 20, tzinfo=UTC) + timedelta(hours=hours)),
        author=st.sampled_from(["luz", "teo"]), text=st.sampled_from(["M-0001", "bent"]), number=st.floats(1, 9),
    ),
    max_size=12, unique_by=lambda deed: deed.id,
)  # fmt: skip


@given(deeds=DEEDS, order=st.randoms())
def test_what_deeds_come_to_does_not_depend_on_when_they_arrive(deeds: list[Deed], order: Any) -> None:
    shuffled = list(deeds)
    order.shuffle(shuffled)
    assert come_to(shuffled) == come_to(deeds)
    for cable, worked in come_to(deeds).items():
        laying = [
            one
            for one in sorted(deeds, key=lambda one: (one.done_at, one.id))
            if one.cable == cable and one.kind in ("laid", "taken out")
        ]
        assert worked.is_laid == bool(laying and laying[-1].kind == "laid")


def test_a_fabric_whose_leaves_come_later_has_no_cable_yet() -> None:
    text = "fabric: yet\nspines: {count: 1, racks: s00}\nracks: [{racks: r01, leaves: 1}]\nfloor: racks 0.6 m apart in rows of 12\n"
    compiled = compile(read(f"{text}planned_later: {{rack/r01: next year}}\n").brief)
    assert [one.name for one in compiled.staged] == ["spine-1"] and compiled.laid.cables == ()
