"""VLANs that each rack chooses for itself: they keep clear of the fabric's own, whatever came before."""

from __future__ import annotations

import pytest

from barrio.core import Compiled, Refused, compile
from barrio.core.because import of_value
from barrio.core.brief.document import read, set_value
from barrio.core.catalogue.made import MADE
from barrio.core.compiled import Stock
from barrio.core.ledger.wanted import Holdings, Taken

QUAY = """
fabric: quay
racks: [{racks: r01..r02, leaves: 2, model: cantera-l48, pairing: multihoming}]
vrfs: {tides: {}}
segments:
  grid: {vrf: tides, v4: auto}
  crates: {vrf: tides, v4: auto, scope: leaf}
  nets: {scope: leaf, racks: r02}
"""


def quay(
    *edits: tuple[str, object], after: Compiled | None = None, resting: dict[str, Taken] | None = None
) -> Compiled:
    text = QUAY
    for path, value in edits:
        text = set_value(text, path, value)
    held = after.allocation.numbers if after else {}
    rests = {"vlan.rack-r02": {"segment/nets": resting["nets"]}} if resting else {}
    return compile(read(text).brief, Stock({}, Holdings(held, rests)))


def vlans(made: Compiled, leaf: str) -> dict[str, int]:
    return {part.label: part.vlan for part in made.models[leaf].segments}


def test_each_rack_chooses_among_what_the_fabric_leaves() -> None:
    made = quay()
    whole = {taken.low for taken in made.allocation.numbers["vlan"].values()}
    assert whole == {100, 101}, "the grid and tides"
    assert [vlans(made, f"leaf/{leaf}")["crates"] for leaf in ("r01/a", "r01/b", "r02/a")] == [102, 102, 102]
    assert vlans(made, "leaf/r02/b")["nets"] == 103
    more = quay(("segments.nets.racks", None), ("segments.more", {}), after=made)
    assert vlans(more, "leaf/r01/a") == {"grid": 100, "crates": 102, "nets": 103, "more": 104}
    assert more.read_back() == ()
    said = more.files("leaf/r02/a")["etc/network/interfaces"]
    assert "alias segment nets, a VLAN of rack r02\n" in said and "alias segment more\n" in said


def test_a_vlan_of_the_fabric_is_none_that_a_rack_has() -> None:
    made = quay()
    with pytest.raises(Refused, match="102 cannot be the VLAN of segment/more: it is the VLAN of segment/crates"):
        quay(("segments.more", {"vlan": 102}), after=made)
    with pytest.raises(Refused, match="each rack draws a VLAN of its own"):
        quay(("segments.crates.vlan", 103))


def test_a_vlan_that_rested_comes_back_unless_the_fabric_has_taken_it() -> None:
    without = quay(("segments.nets", None))
    assert vlans(quay(after=without, resting={"nets": Taken(109, 1)}), "leaf/r02/a")["nets"] == 109
    assert vlans(quay(after=without, resting={"nets": Taken(101, 1)}), "leaf/r02/a")["nets"] == 103


def test_a_rack_s_own_vlan_says_whose_choice_it_is() -> None:
    document = read(QUAY)
    steps = of_value(document, compile(document.brief), "switches/leaf-r02a/segments/nets/vlan")
    assert any("lets each rack choose its own VLAN for segment nets" in step.title for step in steps)


def test_a_leaf_that_carries_more_than_its_tables_hold_is_named() -> None:
    leaf = MADE.find("cantera-l48")
    assert leaf
    small = leaf.model_copy(
        update={"id": "small", "name": "Small", "tables": leaf.tables.model_copy(update={"vnis": 3})}
    )
    text = QUAY.replace("cantera-l48", "small")
    said = [
        one.message
        for one in compile(read(text).brief, catalogue=MADE.with_models([small])).findings
        if one.code == "tables.vnis"
    ]
    assert said == [
        f"leaf-r02a carries 4 VNIs; {small.title} holds 3. Attach fewer segments there, or use another leaf."
    ]
