"""Links through panels: positions, cords and fibres, and that what is sent arrives where it is received."""

from __future__ import annotations

from collections import Counter
from itertools import product
from typing import Any

import pytest

from barrio.core import Compiled, Stock, compile
from barrio.core.because import of_cable
from barrio.core.brief.document import read
from barrio.core.brief.model import Brief
from barrio.core.cabling.lay import with_measured
from barrio.core.cabling.materials import pieces
from barrio.core.cabling.panels import cords_for
from barrio.core.ledger.wanted import Holdings
from barrio.paper.labels import as_pdf, labels_of

TEXT = """
fabric: marlin
spines: {count: 2, racks: s01}
racks:
  - racks: r01..r02
floor: racks 0.6 m apart in rows of 6
gear:
  panel-s01: {kind: panel, rack: s01, unit: 30, ports: 24}
  panel-r01: {kind: panel, rack: r01, unit: 38, ports: 12}
trunks:
  north: {panel: panel-r01, to: panel-s01, positions: 6, to_first: 13, medium: OM4 MPO-12}
"""
MARLIN = compile(read(TEXT).brief)


def built(before: Compiled | None = None, **said: Any) -> Compiled:
    plain = MARLIN.brief.model_dump(exclude_unset=True) | said
    stock = Stock(before.pools, Holdings(held=before.allocation.numbers)) if before else None
    return compile(Brief.model_validate(plain), stock)


def test_links_between_the_two_racks_go_through_and_others_do_not() -> None:
    through = {cable.label: cable.via for cable in MARLIN.cables if cable.via}
    assert len(through) == 4 and {cable.a.rack for cable in MARLIN.cables if cable.via} == {"r01"}
    holes = [hole for via in through.values() if via for hole in (via.lower, via.upper)]
    assert len(set(holes)) == 8, "a position holds one strand"
    assert all(via and via.upper.position == via.lower.position + 12 for via in through.values()), (
        "straight through the trunk"
    )
    (trunk,) = [cable for cable in MARLIN.cables if cable.use == "trunk"]
    assert (
        (trunk.a.text, trunk.b.text) == ("r01.U38 panel-r01:1..6", "s01.U30 panel-s01:13..18")
        and trunk.stock
        and trunk.stock >= 3
    )
    assert not [one for one in MARLIN.noticed if one.code.startswith(("trunk", "cable"))]


def test_a_link_through_panels_is_optics_and_two_cords_with_four_labels() -> None:
    place = next(at for at, cable in enumerate(MARLIN.cables) if cable.via)
    cable, cords = MARLIN.cables[place], MARLIN.laid.cords[place]
    assert cable.kind == "SR optics" and cords.lower_stock >= cords.lower and cords.upper_stock >= cords.upper
    labels = labels_of(cable, "")
    assert [one.head.split()[1] for one in labels] == ["A1", "A2", "B1", "B2"]
    assert [(one.mine, one.other) for one in labels][:2] == [
        (cable.a.text, "to r01.U38 panel-r01:1"), ("r01.U38 panel-r01:1", f"to {cable.a.text}"),
    ]  # fmt: skip
    assert as_pdf(MARLIN.cables, "", "a4-70x37", "x").startswith(b"%PDF")
    only = {one.label for one in MARLIN.cables if one.via}
    counts: Counter[str] = Counter()
    for item, count in pieces(MARLIN.laid, only).items():
        counts[item.part] += count
    assert counts == {"sr-100": 8, "om4-mpo": 8}
    titles = [step.title for step in of_cable(read(TEXT), MARLIN, cable.label)]
    assert any("through trunk north" in title and "type B and type B" in title for title in titles)


def test_a_length_measured_of_what_goes_through_panels_changes_no_cord() -> None:
    link = next(cable.link for cable in MARLIN.cables if cable.via)
    assert with_measured(MARLIN.laid, {link: 80.0}).cables == MARLIN.cables


def test_positions_stay_when_a_leaf_is_taken_out_and_another_comes() -> None:
    was = {cable.link: cable.via for cable in MARLIN.cables if cable.via}
    fewer = built(MARLIN, racks=[{"racks": "r01..r02", "leaves": 1}])
    again = built(fewer, racks=[{"racks": "r01..r02", "leaves": 3}])
    now = {cable.link: cable.via for cable in again.cables if cable.via}
    kept = {key for key in was if key.startswith("leaf/r01/a")}
    assert kept and all(was[key] == now[key] for key in kept)
    assert len({via.lower for via in now.values() if via}) == len(now) == 6


def straight(medium: str, cords: tuple[str, str], polarity: str) -> bool:
    """Whether what leaves each transmitter arrives at a receiver, fibre by fibre (TIA-568.3-D, annex B): an MPO transceiver sends on fibres 1 to
    4 and receives on 9 to 12, a duplex one sends on A and receives on B."""
    if medium == "duplex":
        turns = sum(cord == "A-to-B" for cord in cords) + (polarity != "A")
        return turns % 2 == 1
    turned = {"A": lambda n: n, "B": lambda n: 13 - n, "C": lambda n: n + 1 if n % 2 else n - 1}
    ways = [turned[cords[0][-1]], turned[polarity], turned[cords[1][-1]]]
    for sent in range(1, 5):
        fibre = sent
        for way in ways:
            fibre = way(fibre)
        if fibre != 13 - sent:
            return False
    return True


def test_the_cords_are_those_and_only_those_that_keep_polarity() -> None:
    for polarity in "ABC":
        assert straight("duplex", cords_for("OM4 duplex", polarity), polarity)
    for polarity in "AB":
        assert straight("MPO-12", cords_for("OM4 MPO-12", polarity), polarity)
    assert not any(straight("MPO-12", cords, "C") for cords in product(("type A", "type B"), repeat=2))
    assert cords_for("OM4 MPO-12", "C") == ("", "")


NORTH = {"panel": "panel-r01", "to": "panel-s01", "positions": 6, "to_first": 13, "medium": "OM4 MPO-12"}


@pytest.mark.parametrize(
    ("trunks", "code", "words"),
    [
        ({"north": NORTH | {"polarity": "C"}}, "trunk.polarity", "no cord keeps the lanes of parallel optics straight"),
        ({"north": NORTH | {"to": "panel-s02"}}, "trunk.panel", "Is panel-s01 meant?"),
        ({"north": NORTH | {"positions": 14, "to_first": 1}}, "trunk.positions", "takes positions 1 to 14 of panel-r01, which has 12"),
        ({"north": NORTH, "south": NORTH | {"first": 6, "to_first": 19, "positions": 2}}, "trunk.twice", "Position 6 of panel-r01 is taken by north and by south"),
        ({"north": NORTH | {"medium": "OM4 duplex"}}, "trunk.medium", "No optics at 100G"),
    ],
)  # fmt: skip
def test_a_trunk_that_cannot_be_so_is_a_finding(trunks: dict[str, Any], code: str, words: str) -> None:
    found = {one.code: one.message for one in built(trunks=trunks).noticed}
    assert code in found and words in found[code], found


def test_a_trunk_serves_the_switches_that_it_names() -> None:
    only = built(trunks={"north": NORTH | {"serves": ["leaf/r01/b"]}})
    assert {cable.a.switch for cable in only.cables if cable.via} == {"leaf-r01b"}
