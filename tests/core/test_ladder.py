"""The Ladder: the closest rung wins, lists add, what is held stays, and whoever asks is told who said it."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given

from barrio.core import Compiled, Refused, compile
from barrio.core.because import of_value
from barrio.core.brief.document import Document, apply, read
from barrio.core.brief.model import Brief
from barrio.core.edits.reshape import remove_racks
from barrio.core.settings.known import SETTINGS
from barrio.core.structure.parts import Switch
from tests.conftest import briefs, tries

QUAY = """
fabric: quay
racks:
  - {racks: r01..r03, leaves: 2, model: cantera-l48, pairing: multihoming, kind: compute}
  - {racks: b01, leaves: 1, model: cantera-l48, role: border}
segments: {grid: {}}
services: {ntp: [10.9.0.1], syslog: [10.9.0.2], banner: keep out}
rungs:
  role border:
    services.ntp: [10.9.0.9]
    services.syslog: {add: [10.9.0.10], why: the firewall team reads along}
  kind compute: {overlay.storm: 500}
  rack r02: {overlay.storm: {value: 100, why: a loud test bed}}
  switch leaf/r02/b: {services.ntp: {add: [10.9.0.7]}, services.banner: ""}
"""


def quay(more: str = "") -> tuple[Document, Compiled]:
    document = read(QUAY + more)
    return document, compile(document.brief)


def test_the_closest_rung_wins_and_lists_add_where_they_say_so() -> None:
    _, compiled = quay()
    said = {
        name: (one.common.ntp, one.common.syslog, one.common.storm, one.common.banner)
        for name, one in ((switch.name, compiled.models[switch.key]) for switch in compiled.structure.switches)
    }
    assert (
        said["spine-1"]
        == (*said["leaf-r01a"][:2], 2000, "keep out")
        == (("10.9.0.1",), ("10.9.0.2",), 2000, "keep out")
    )
    assert said["leaf-r01b"][2:] == (500, "keep out")
    assert said["leaf-r02a"] == (("10.9.0.1",), ("10.9.0.2",), 100, "keep out")
    assert said["leaf-r02b"] == (("10.9.0.1", "10.9.0.7"), ("10.9.0.2",), 100, "")
    assert said["border-b01"] == (("10.9.0.9",), ("10.9.0.2", "10.9.0.10"), 2000, "keep out")
    assert "server 10.9.0.7" in compiled.files("leaf/r02/b")["etc/chrony/chrony.conf"]
    assert "server 10.9.0.7" not in compiled.files("leaf/r02/a")["etc/chrony/chrony.conf"]
    assert compiled.read_back() == ()


@pytest.mark.parametrize(
    ("path", "words"),
    [
        ("leaf-r02b/common/storm", "rack r02.\"overlay.storm\", in place of 500 of rungs.kind compute.\"overlay.storm\", because a loud test bed"),
        ("border-b01/common/syslog/1", "added to 10.9.0.2 of services.syslog, because the firewall team reads along"),
        ("border-b01/common/syslog/0", "line 7: services.syslog[0]"),
        ("leaf-r02b/common/ntp/1", "switch leaf/r02/b"),
        ("border-b01/common/ntp/0", "in place of 10.9.0.1 of services.ntp"),
        ("leaf-r02b/common/banner", "in place of keep out of services.banner"),
    ],
)  # fmt: skip
def test_a_value_says_which_rung_it_stands_on_and_what_it_beat(path: str, words: str) -> None:
    assert any(words in step.detail for step in of_value(*quay(), f"switches/{path}")), path


REFUSED = {
    "model cantera-l49: {}": ("rung.unknown", "Is cantera-l48 meant?"),
    "rack r01: {service.ntp: []}": ("setting.unknown", "Is services.ntp meant?"),
    "rack r01: {services.ntp: [x y]}": ("brief.value-error", "neither an address nor a host name"),
    "rack r01: {overlay.storm: -1}": ("brief.greater-than-equal", "overlay.storm must be 0 or more"),
    "rack r01: {services.banner: {add: x}}": ("setting.add", "Give it a value"),
    "rack r01: {services.dns: {value: [], add: []}}": ("setting.both", "Say one of the two"),
    "rack r01: {services.dns: {why: x}}": ("setting.nothing", "Say value or add"),
    "fabric: {services.dns: []}": ("setting.fabric", "say services.dns itself"),
    "fabric: {services.ntp: {hold: one clock for all}}": ("setting.held", "(one clock for all), and "),
    "role leaf: {services.banner: {value: x, hold: no}}": ("setting.held", "held for role leaf (no), and switch leaf/r02/b"),
    "rack r01: {services.ntp: {add: [224.0.0.1]}}": ("server.unusable", "No time server can be reached at 224.0.0.1"),
    "town north: {}": ("brief.string-pattern-mismatch", "rungs"),
}  # fmt: skip


@pytest.mark.parametrize("said", REFUSED)
def test_what_no_rung_may_say_is_refused_with_the_way_out(said: str) -> None:
    code, words = REFUSED[said]
    with pytest.raises(Refused) as caught:
        quay(f"  {said}\n")
    first = caught.value.faults[0]
    assert first.code == code and words in first.message
    assert all(one.path.startswith("rungs") for one in caught.value.faults)


def test_an_exception_that_is_none_and_a_rung_that_reaches_nobody_are_found() -> None:
    _, compiled = quay(
        "  role super-spine: {overlay.storm: 1}\n  rack r03: {overlay.storm: 500, services.ntp: {add: [10.9.0.1]}}\n"
    )
    assert [(one.code, one.path) for one in compiled.findings if one.code.startswith(("rung.", "setting."))] == [
        ("rung.nobody", "rungs.role super-spine"),
        ("setting.same", 'rungs.rack r03."overlay.storm"'),
        ("setting.same", 'rungs.rack r03."services.ntp"'),
    ]


def test_a_rung_of_something_that_is_not_there_asks_what_was_meant_and_goes_with_its_rack() -> None:
    said = "{overlay.storm: 1}"
    document, compiled = quay(f"  rack r33: {said}\n  switch leaf-r01a: {said}\n  switch leaf/r01/b: {said}\n")
    asked = [one.message.partition("nobody.")[2] for one in compiled.findings if one.code == "rung.nobody"]
    assert asked == [" Is rack r03 meant?", " Write switch leaf/r01/a."]
    left = read(apply(document.text, remove_racks(document.brief, ["r01", "r02"]))).brief.rungs
    assert list(left) == ["role border", "kind compute", "rack r33", "switch leaf-r01a"]


def test_a_setting_that_is_held_where_no_closer_rung_reaches_holds_nobody_up() -> None:
    quay("  role spine: {services.banner: {hold: theirs}}\n")


@tries(40)
@given(data=briefs())
def test_what_holds_is_what_one_finds_by_climbing_rung_by_rung(data: dict[str, Any]) -> None:
    compiled = compile(Brief.model_validate(data))
    fields = {"services.ntp": "ntp", "services.syslog": "syslog", "services.banner": "banner", "overlay.storm": "storm"}
    assert fields.keys() <= SETTINGS.keys()
    for switch in compiled.structure.switches:
        for name, field in fields.items():
            found = getattr(compiled.models[switch.key].common, field)
            assert found == _climbed(compiled.brief, switch, name), (switch.key, name)


def _climbed(brief: Brief, switch: Switch, name: str) -> object:
    part, field = name.split(".")
    value: Any = getattr(getattr(brief, part), field)
    kind = switch.group.kind if switch.group else None
    rungs = [
        f"role {switch.role}",
        f"model {switch.type.id}",
        f"pod {switch.pod}",
        f"kind {kind}",
        f"rack {switch.rack}",
        f"switch {switch.key}",
    ]
    for said in (brief.rungs.get(rung, {}).get(name) for rung in rungs):
        if isinstance(said, dict):
            more = said.get("add", [])
            value = said["value"] if "value" in said else [*value, *(one for one in more if one not in value)]
        elif said is not None:
            value = said
    return tuple(value) if isinstance(value, list) else value
