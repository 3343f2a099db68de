"""Where things stand: halls and their trays, units and elevations, and what is wrong with them."""

from __future__ import annotations

from math import dist
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import Edits, apply, read
from barrio.core.brief.model import Brief
from barrio.core.catalogue.made import MADE
from barrio.core.catalogue.model import Catalogue
from barrio.core.exchange.racksheet import RackRow, guess, understand
from barrio.core.exchange.sheet import read_sheet
from barrio.core.place.aisles import aisles
from barrio.core.place.drawing import drawn_by_hand
from barrio.core.place.elevation import elevations
from barrio.core.place.floor import floor_plan
from barrio.core.place.routes import trays_of
from tests.conftest import EXAMPLES, tries

MARLIN = next(path for path in EXAMPLES if path.stem == "marlin").read_text()


def built(catalogue: Catalogue = MADE, **said: Any) -> Compiled:
    return compile(
        Brief.model_validate({"fabric": "marlin", "racks": [{"racks": "r01..r04"}], **said}), catalogue=catalogue
    )


def codes(**said: Any) -> dict[str, str]:
    return {
        one.code: one.message for one in built(**said).noticed if one.code.split(".")[0] not in ("services", "access")
    }


def units(compiled: Compiled) -> dict[str, int]:
    return {str(switch.name): switch.unit for switch in compiled.structure.switches}


def test_one_line_of_the_brief_is_a_floor() -> None:
    plan = floor_plan(read("fabric: tern\nfloor: racks 0.6 m apart in rows of 3").brief, ["s01", "r01", "r02", "r03"])
    assert [(spot.x, spot.y, spot.faces) for spot in plan.spots.values()] == [
        (1200, 1200, "south"), (1800, 1200, "south"), (2400, 1200, "south"), (1200, 4200, "north"),
    ]  # fmt: skip
    assert [(one.kind, one.depth) for one in aisles(plan)] == [("cold", 1800)]
    for wrong in ("rows of 12", "racks 0.6 m apart in rows of 0", "racks 0.61234 m apart in rows of 12"):
        with pytest.raises(Refused):
            read(f"fabric: tern\nfloor: {wrong}")


def test_the_way_along_trays_is_the_one_that_a_tape_measure_finds() -> None:
    """r01 to s02 in Marlin: 1.6 m west along the south tray, 4.4 m across, 0.8 m east; and by the plan of the whole hall."""
    compiled = compile(read(MARLIN).brief)
    plan, trays = compiled.laid.plan, compiled.laid.trays
    assert set(trays.drops) == set(plan.spots)
    place = next(at for at, one in enumerate(compiled.cables) if (one.a.rack, one.b.rack) == ("r07", "s01"))
    way = compiled.laid.way(place)
    assert way and [(name, round(length, 3)) for name, length in way.trays] == [
        ("tray-south", 1.6), ("across", 4.4), ("tray-north", 0.8),
    ]  # fmt: skip


@tries(60)
@given(
    wide=st.integers(1, 6), rows=st.integers(1, 5), pitch=st.sampled_from([0.6, 0.8]), aisle=st.sampled_from([1.2, 2.4]),
    pair=st.tuples(st.integers(0, 29), st.integers(0, 29)),
)  # fmt: skip
def test_on_a_floor_by_rule_ways_are_those_of_the_closed_form(
    wide: int, rows: int, pitch: float, aisle: float, pair: tuple[int, int]
) -> None:
    """Trays are a comb, so that a way goes along the first row to its end, across, and along the second."""
    racks = [f"r{at:02d}" for at in range(wide * rows)]
    said = {"fabric": "x", "floor": {"rows_of": wide, "pitch": pitch, "cold_aisle": aisle, "hot_aisle": aisle}}
    plan = floor_plan(Brief.model_validate(said), racks)
    trays = trays_of(plan)
    one, other = (racks[at % len(racks)] for at in pair)
    distances, before = trays.ways(trays.graph(), [trays.drops[one].node])
    found = distances[0, trays.drops[other].node]
    (row, column), (to_row, to_column) = (divmod(racks.index(rack), wide) for rack in (one, other))
    along = abs(column - to_column) * pitch if row == to_row else (column + to_column + 1) * pitch + 0.8
    backs = [0.0]
    for place in range(1, rows):
        backs.append(backs[-1] + (2.4 + aisle if place % 2 else aisle))
    assert found == pytest.approx(
        (along + backs[to_row] - backs[row] if to_row >= row else along + backs[row] - backs[to_row]) * 1000, abs=1
    )
    walked = trays.along(before[0], trays.drops[other].node)
    assert sum(trays.sections[at].length for at in walked) == pytest.approx(found, abs=1), "the sections are the way"


def test_trays_that_touch_are_joined_and_a_step_between_heights_is_walked() -> None:
    halls = {"one": {"rows": {"a": {"racks": "r01..r02", "at": [0, 1]}}, "trays": {
        "low": {"along": [[0, 0.9], [1, 0.9]]}, "high": {"along": [[1, 0.9], [3, 0.9]], "height": 3.2},
    }}}  # fmt: skip
    brief = Brief.model_validate({"fabric": "x", "halls": halls})
    plan = floor_plan(brief, ["r01", "r02"])
    trays = trays_of(plan)
    distances, _ = trays.ways(trays.graph(), [trays.drops["r01"].node])
    assert distances[0, trays.drops["r02"].node] == pytest.approx(600, abs=1), "both come down from the low tray"
    far = max(range(len(trays.points)), key=lambda node: trays.points[node])
    assert distances[0, far] == pytest.approx(2700 + 500, abs=1), "0.5 m up, where the trays meet"


def test_switches_stand_by_the_rule_around_what_is_there_and_by_hand() -> None:
    gear = {"shelf": {"rack": "r01", "unit": 40, "units": 2}}
    assert units(built(gear=gear)) | {} == {
        "spine-1": 42, "spine-2": 41, "leaf-r01a": 42, "leaf-r01b": 39, "leaf-r02a": 42, "leaf-r02b": 41,
        "leaf-r03a": 42, "leaf-r03b": 41, "leaf-r04a": 42, "leaf-r04b": 41,
    }  # fmt: skip
    low = units(built(placing="bottom up", cabinets={"every": {"units": 47}}))
    assert (low["leaf-r01a"], low["leaf-r01b"]) == (1, 2)
    middle = units(built(placing="middle", cabinets={"every": {"units": 20}}))
    assert (middle["leaf-r01a"], middle["leaf-r01b"]) == (11, 10)
    racks = [{"racks": "r01..r02", "units": [30, 20]}]
    by_hand = units(built(racks=racks, units={"leaf/r02/b": 7}))
    assert [by_hand[f"leaf-{one}"] for one in ("r01a", "r01b", "r02a", "r02b")] == [30, 20, 30, 7]


@tries(60)
@given(
    shelf=st.tuples(st.integers(1, 42), st.integers(1, 10)), placing=st.sampled_from(["top down", "middle", "bottom up"]),
    said=st.dictionaries(st.sampled_from(["leaf/r01/a", "leaf/r01/b", "leaf/r02/a"]), st.integers(1, 42)),
)  # fmt: skip
def test_nothing_stands_in_another_things_units_unless_a_finding_says_so(
    shelf: tuple[int, int], placing: str, said: dict[str, int]
) -> None:
    compiled = built(gear={"shelf": {"rack": "r01", "unit": shelf[0], "units": shelf[1]}}, placing=placing, units=said)
    clash = False
    for one in elevations(compiled.brief, compiled.structure).values():
        filled = [unit for thing in one.things for unit in range(thing.unit, thing.top + 1)]
        clash |= len(filled) != len(set(filled)) or max(filled) > 42
    assert clash == any(one.code in ("rack.units", "rack.height", "rack.full") for one in compiled.findings)


@pytest.mark.parametrize(
    ("said", "code", "words"),
    [
        ({"gear": {"shelf": {"rack": "r01", "unit": 40, "units": 4}}}, "rack.height", "shelf would reach up to U43, and rack r01 ends at U42"),
        ({"cabinets": {"r01": {"units": 4}}, "gear": {"shelf": {"rack": "r01", "unit": 1, "units": 3}}}, "rack.full", "its 4 units would hold 5 units"),
        ({"units": {"leaf/r01/b": 42, "leaf/r01/a": 42}}, "rack.units", "in each other's way in rack r01 at U42"),
        ({"cabinets": {"every": {"feed": 500}}}, "rack.power", "draws 660 W, and one feed gives 500 W"),
        ({"cabinets": {"s01": {"weight": 15}}}, "rack.weight", "would weigh 21 kg, and 15 kg is the most"),
        ({"gear": {"leaf-r01a": {"rack": "r01", "unit": 1}}}, "gear.twice", "leaf-r01a in rack r01 is named twice"),
        ({"spines": {"model": "lonja-s64", "faces": "rear"}, "racks": [{"racks": "r01", "model": "lonja-t64"}]}, "switch.airflow", "spine-1 and 1 more (Lonja S64, air front to back only)"),
        ({"halls": {"h": {"rows": {"a": {"racks": "r01..r03, s01", "at": [0, 0]}}}}}, "rack.nowhere", "Rack r04 stands in no row"),
        ({"halls": {"h": {"rows": {"a": {"racks": "r01..r05, s01", "at": [0, 0]}}}}}, "rack.of-nothing", "has rack r05, and the fabric puts nothing there"),
        ({"halls": {"h": {"rows": {"a": {"racks": "r01..r04, s01", "at": [0, 0]}, "b": {"racks": "r01", "at": [0, 5]}}}}}, "rack.places", "Rack r01 stands in two places: a of h and b of h"),
        ({"halls": {"h": {"rows": {"a": {"racks": "r01..r04", "at": [0, 0]}, "b": {"racks": "s01", "at": [0.5, 1]}}}}}, "rack.overlap", "stand in each other's way"),
        ({"halls": {"h": {"size": [2, 4], "rows": {"a": {"racks": "r01..r04, s01", "at": [0, 0]}}}}}, "rack.outside", "Rack r04 stands outside h, which is 2 by 4 m"),
        ({"halls": {"h": {"rows": {"a": {"racks": "r01..r04", "at": [0, 0]}, "b": {"racks": "s01", "at": [0, 3]}}}}}, "aisle.mixed", "one of a and b turns its back to the other's front"),
        ({"halls": {"h": {"rows": {"a": {"racks": "r01..r04, s01", "at": [0, 0]}}}}}, "rack.no-tray", "No tray comes within 3 m of rack s01 and 4 more"),
        ({"halls": {"h": {"rows": {"a": {"racks": "r01..r04", "at": [0, 0]}, "b": {"racks": "s01", "at": [0, 9], "faces": "north"}}, "trays": {"x": {"along": [[0, 0], [9, 0]]}, "y": {"along": [[0, 9], [9, 9]]}}}}}, "cable.no-way", "No tray leads from rack r01 to rack s01, and 16 cables have no way. Join their trays"),
        ({"floor": {"tray_width": 10, "tray_depth": 10}}, "tray.full", "and 50 % is the most"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_a_finding_with_the_way_out(said: dict[str, Any], code: str, words: str) -> None:
    found = codes(**said)
    assert code in found, found
    assert words in found[code]


def test_what_joins_halls_is_checked_and_walked() -> None:
    def site(length: float, to: str = "archive") -> Compiled:
        row = lambda racks: {"a": {"racks": racks, "at": [1, 1]}}  # noqa: E731
        tray = {"main": {"along": [[0, 1], [5, 1]]}}
        halls = {
            "models": {"rows": row("s01, r01..r02"), "trays": tray},
            "archive": {"at": [30, 0], "rows": row("r03..r04"), "trays": tray},
        }
        return built(
            halls=halls,
            ways={"duct": {"hall": "models", "leaves": [5, 1], "to": to, "enters": [0, 1], "length": length}},
        )

    place = next(at for at, one in enumerate(site(60).cables) if one.a.rack == "r03")
    way = site(60).laid.way(place)
    assert way and dict(way.trays)["duct"] == 60
    short = site(10)
    assert {"way.short"} <= {one.code for one in short.findings}
    way = short.laid.way(place)
    assert way and dict(way.trays)["duct"] == 25, "no cable is shorter than the way through the air"
    far = next(one for one in site(600).noticed if one.code == "cable.too-long")
    assert "no part reaches farther than 500 m" in far.message
    assert "way.hall" in {one.code for one in site(60, "archiv").findings}


def test_no_cable_is_shorter_than_the_air_between_its_ports() -> None:
    for text in (
        MARLIN,
        MARLIN.replace("faces: rear", "faces: front"),
        MARLIN.replace("along: [[1.2, 5.7], [8.8, 5.7]]", "along: [[0.2, 6.9], [8.8, 4.9]], height: -0.4"),
    ):
        compiled = compile(read(text).brief)
        laid = compiled.laid
        for place, lead in enumerate(laid.leads):
            ends = []
            for end, height, face in zip((lead.a, lead.b), lead.heights, lead.faces, strict=True):
                ends.append((*laid.plan.spots[end.rack].face(face == "rear"), height))
            if laid.steps is not None and compiled.cables[place].length is not None:
                assert laid.steps.total[place] >= dist(*ends)


def test_a_hall_by_rule_is_put_down_by_hand_and_nothing_moves() -> None:
    text = "fabric: marlin\nfloor: racks 0.8 m apart in rows of 5\nracks:\n  - racks: r01..r12\n"
    before = compile(read(text).brief)
    after = compile(read(apply(text, drawn_by_hand(before.brief, before.structure))).brief)
    assert after.brief.floor is None and not after.findings[len(before.findings) :]
    assert [(cable.label, cable.length, cable.stock) for cable in after.cables] == [
        (cable.label, cable.length, cable.stock) for cable in before.cables
    ]


def sheet(*rows: str) -> tuple[list[RackRow], Edits]:
    read_in = read_sheet("\n".join(("rack,hall,x,y,faces", *rows)).encode())
    compiled = compile(read(MARLIN).brief)
    return understand(read_in, guess(read_in.columns), compiled.brief, compiled.structure)


def test_racks_stand_where_a_sheet_says_and_the_others_where_they_stood() -> None:
    rows, edits = sheet("r12,models,7.0,3.9,north", "r11,models,5.2,3.9,north", "s01,vault,1,1,e")
    assert [row.outcome for row in rows] == ["moves", "same", "moves"]
    plan = compile(read(apply(MARLIN, edits)).brief).laid.plan
    was = compile(read(MARLIN).brief).laid.plan
    assert (plan.spots["r12"].x, plan.spots["s01"].hall, plan.spots["s01"].faces) == (7000, "vault", "east")
    others = [rack for rack in was.spots if rack not in ("r12", "s01")]
    assert [(plan.spots[one].x, plan.spots[one].y) for one in others] == [
        (was.spots[one].x, was.spots[one].y) for one in others
    ]


@pytest.mark.parametrize(
    ("row", "words"),
    [
        ("r99,models,1,1,s", "The fabric has no rack r99"), ("r01,models,one,1,s", "x is a number of metres"),
        ("r01,models,1,9999,s", "between 0 and 2000"), ("r01,models,1,1,up", "north, south, east or west"),
        ("r01,Hall!,1,1,s", "cannot be the name of a hall"),
    ],
)  # fmt: skip
def test_a_row_that_cannot_be_taken_says_why_and_nothing_is_edited_for_it(row: str, words: str) -> None:
    (found,), edits = sheet(row)
    assert found.outcome == "refused" and words in found.reason and not edits
