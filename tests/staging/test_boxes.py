"""Which box is which switch: as people type, scan and list it; what cannot be is said, and nothing is taken half."""

from __future__ import annotations

from pathlib import Path

import pytest

from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import read
from barrio.core.exchange.sheet import read_sheet
from barrio.core.staging.boxes import Bound, Box, Told, airflow_of, box, clash, delivery, faults, is_model, scanned

TERN = (Path(__file__).parents[2] / "examples" / "tern.yaml").read_text()


@pytest.fixture(scope="module")
def tern() -> Compiled:
    return compile(read(TERN).brief)


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("lj4-0071", Box("LJ4-0071")),
        ("S/N: CC6-0003", Box("CC6-0003")),
        ("Serial Number CC6_0003", Box("CC6_0003")),
        ("02:00:5E:10:00:07", Box(mac="02:00:5e:10:00:07")),
        ("0200.5e10.0007", Box(mac="02:00:5e:10:00:07")),
        ("MAC 02005e100007", Box(mac="02:00:5e:10:00:07")),
        ("02005e100007", Box("02005E100007")),
    ],
)
def test_what_a_scanner_types_is_a_serial_number_or_a_mac_address(text: str, found: Box) -> None:
    """Twelve hexadecimal digits without marks are a serial number: makers have such, and labels of MACs say so."""
    assert scanned(text) == found


@pytest.mark.parametrize(
    ("serial", "mac", "words"),
    [
        ("", "", "needs a serial number"),
        ("a b", "", "is no serial number"),
        ("x" * 41, "", "40 at most"),
        ("A-1", "02:00:5e", "has 12 hexadecimal digits"),
        ("", "01:00:5e:00:00:01", "a group's address"),
    ],
)
def test_what_is_no_box_says_why(serial: str, mac: str, words: str) -> None:
    with pytest.raises(Refused, match=words):
        box(serial, mac)


def test_a_box_is_one_switch_and_one_that_was_taken_out_stays_out() -> None:
    bound = [
        Bound("tern", "leaf/1", "leaf-1", box("A-1", "02:00:00:00:00:01")),
        Bound("marlin", "leaf/9", "leaf-9", box("B-1")),
        Bound("tern", "leaf/2", "leaf-2", box("C-1"), retired=True),
    ]
    assert clash(box("A-1"), "leaf/1", "tern", bound) == "", "said again of the same switch"
    assert clash(box("A-1"), "leaf/2", "tern", bound) == "A-1 is leaf-1 already"
    assert clash(box("Z-1", "02:00:00:00:00:01"), "leaf/2", "tern", bound) == "02:00:00:00:00:01 is leaf-1 already"
    assert clash(box("B-1"), "leaf/1", "tern", bound) == "B-1 is leaf-9 of marlin already"
    assert "was taken out; let it in again first" in clash(box("C-1"), "leaf/2", "tern", bound)
    assert clash(box("D-1"), "leaf/2", "tern", bound) == ""


def test_a_delivery_names_switches_or_fills_those_of_a_model_in_order(tern: Compiled) -> None:
    leaf = next(one for one in tern.staged if one.is_leaf)
    names = [str(one.name) for one in tern.staged if one.is_leaf]
    sheet = read_sheet(
        (
            "Serial No;MAC;Switch;Model\n"
            f"L-2;;{names[1]};\n"
            f"L-1;02:00:00:00:00:01;;{leaf.type.name}\n"
            f"L-3;;;{leaf.type.maker} {leaf.type.name}\n"
            f"L-3;;{names[3]};\n"
            ";;;\n"
            f"L-4;;leaf-t99;\n"
            f"L-5;;{names[3]};Cantera C32\n"
            "L-6;;;\n"
            "l 7;;;x\n"
        ).encode()
    )
    rows = delivery(tern, sheet, [Bound("tern", leaf.key, names[0], box("OLD-1"))])
    assert [(one.line, one.switch, str(one.box), one.outcome) for one in rows[:3]] == [
        (2, names[1], "L-2", "binds"), (3, names[2], "L-1", "binds"), (4, names[3], "L-3", "binds"),
    ], "one that names no switch goes to the next of its model without a box"  # fmt: skip
    reasons = [one.reason for one in rows if one.outcome == "refused"]
    assert reasons[0] == f"L-3 is {names[3]} already" or "is" in reasons[0]
    assert any("no switch leaf-t99" in one for one in reasons)
    assert any("planned as" in one and "Cantera C32" in one for one in reasons)
    assert any("neither which switch nor which model" in one for one in reasons)
    assert any("is no serial number" in one for one in reasons)
    with pytest.raises(Refused, match="No column is headed serial or mac"):
        delivery(tern, read_sheet(b"name,place\nleaf,1\n"), [])
    again = delivery(
        tern,
        read_sheet(f"serial,switch\nOLD-1,{names[0]}\nNEW-1,{names[0]}\n".encode()),
        [Bound("tern", leaf.key, names[0], box("OLD-1"))],
    )
    assert [(one.outcome, one.reason) for one in again] == [("same", ""), ("changes", "was OLD-1")]


def test_what_a_box_says_of_itself_is_held_against_the_plan(tern: Compiled) -> None:
    leaf = next(one for one in tern.staged if one.is_leaf)
    kind, flow = leaf.type, airflow_of(tern, leaf)
    ports = sum(group.count for group in kind.groups)
    assert list(faults(tern, leaf, Told(f"{kind.maker.upper()}-{kind.name}", flow, ports))) == []
    assert list(faults(tern, leaf, Told())) == [], "who says nothing is not wrong"
    wrong = list(faults(tern, leaf, Told("Other 9000", "sideways", ports + 1)))
    assert len(wrong) == 3 and f"{leaf.name} is planned as {kind.title}" in wrong[0]
    assert f"it has to go {flow}" in wrong[1] and f"{kind.title} has {ports}" in wrong[2]
    assert is_model(kind.id, leaf) and not is_model("", leaf)
