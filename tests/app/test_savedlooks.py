"""Outputs that somebody saved are held against editions: what is not as meant is drift like any other, without an agent on the switch."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from barrio.app import drafts, editions, savedlooks, watching
from barrio.app.desk import Desk
from barrio.core import Refused, compile
from barrio.core.brief.document import read
from tests.api.conftest import TERN
from tests.app.test_adopting import packed
from tests.cli import barrio
from tests.people import without_review
from tests.serving import Serving

FRR = "etc/frr/frr.conf"
TWIN = """
fabric: twin
spines: {count: 2}
racks: [{racks: r01, leaves: 2, pairing: multihoming}]
vrfs: {a: {}}
segments: {s: {vrf: a, v4: 10.72.1.0/24}}
hosts: {dual: {at: r01 h1, lag: lacp, tagged: [s]}}
"""


def neighbours(port: str, far: str, far_port: str) -> str:
    """What lldpcli says of one port."""
    chassis = {far: {"id": {"type": "mac", "value": "02:00:00:00:00:01"}}}
    row = {port: {"chassis": chassis, "port": {"id": {"type": "ifname", "value": far_port}}}}
    return json.dumps({"lldp": {"interface": [row]}})


@pytest.fixture
def sealed(desk: Desk) -> Desk:
    drafts.create(desk, TERN)
    without_review(desk.house, "tern")
    editions.seal(desk, "tern", drafts.version(desk, "tern"), "As cabled")
    return desk


def test_a_line_and_a_neighbour_that_are_other_are_drift_and_what_a_shell_prints_around_is_none(sealed: Desk) -> None:
    compiled = compile(read(TERN).brief)
    spine, leaf = compiled.files("spine/1"), compiled.files("leaf/t01/a")
    shell = "Building configuration...\n\nCurrent configuration:\n!\nfrr version 8.4.4\n" + spine[FRR] + "!\nend\n"
    port = compiled.models["leaf/t01/a"].fabric_ports[0]
    held = savedlooks.hold(
        sealed,
        "tern",
        packed({
            "spine-1": {"running-config.txt": shell},
            "spine-2": {FRR: compiled.files("spine/2")[FRR].replace("bgp router-id 10.", "bgp router-id 11.")},
            "leaf-t01": {FRR: leaf[FRR], "lldp.json": neighbours(str(port.label), "spine-2", "p9")},
            "leaf-t09": {FRR: leaf[FRR].replace("hostname leaf-t01", "hostname leaf-t09")},
        }),
    )  # fmt: skip
    assert (held.true, held.unknown) == (("spine-1",), ("leaf-t09",)) and set(held.drifted) == {"spine-2", "leaf-t01"}
    found = {one.switch: one for one in watching.drift(sealed, "tern")}
    [line] = found["spine-2"].texts.lines
    assert (line.path, line.after.startswith("bgp router-id 11.")) == (FRR, True)
    assert found["leaf-t01"].snapshot.state == [
        f"{port.label} hears spine-2:p9, and {port.peer}:{port.peer_port} is planned there"
    ]
    again = savedlooks.hold(sealed, "tern", packed({"spine-2": {FRR: compiled.files("spine/2")[FRR]}}))
    assert again.true == ("spine-2",) and [one.true for one in watching.history(sealed, "tern", "spine-2")] == [
        True,
        False,
    ]


def test_segments_that_a_guard_took_out_of_a_running_configuration_are_no_drift(desk: Desk) -> None:
    compiled = compile(read(TWIN).brief)
    paired = next(one.key for one in compiled.staged if "evpn mh es-id" in compiled.files(one.key).get(FRR, ""))
    name, files = str(compiled.structure.by_key[paired].name), compiled.files(paired)
    drafts.create(desk, TWIN)
    without_review(desk.house, "twin")
    editions.seal(desk, "twin", drafts.version(desk, "twin"), "As cabled")
    without = "\n".join(line for line in files[FRR].split("\n") if "evpn mh es-id" not in line)
    assert savedlooks.hold(desk, "twin", packed({name: {FRR: without}})).true == (name,)
    moved = without.replace("bgp router-id 10.", "bgp router-id 11.")
    assert savedlooks.hold(desk, "twin", packed({name: {FRR: moved}})).drifted == (name,)
    [found] = watching.drift(desk, "twin")
    assert {tuple(line.after.split()[:2]) for line in found.texts.lines} == {("bgp", "router-id")}, (
        "nothing else is told"
    )


def test_nothing_is_held_against_a_fabric_of_which_nothing_is_sealed(desk: Desk) -> None:
    drafts.create(desk, TERN)
    with pytest.raises(Refused, match="Seal an edition first"):
        savedlooks.hold(desk, "tern", packed({"spine-1": {FRR: "router bgp 1\n"}}))


def test_on_the_command_line(serving: Serving, tmp_path: Path) -> None:
    compiled = compile(read(TERN).brief)
    serving.start()
    desk = Desk(serving.house)
    drafts.create(desk, TERN)
    without_review(desk.house, "tern")
    editions.seal(desk, "tern", drafts.version(desk, "tern"), "As cabled")
    place = tmp_path / "out/spine-1/etc/frr"
    place.mkdir(parents=True)
    (place / "frr.conf").write_text(compiled.files("spine/1")[FRR])
    assert "1 of 1 switches are as meant" in barrio("drift", "hold", "tern", tmp_path / "out", "--at", serving.address)
    (place / "frr.conf").write_text(compiled.files("spine/1")[FRR] + "ip route 192.0.2.0/24 blackhole\n")
    said = barrio("drift", "hold", "tern", tmp_path / "out", "--at", serving.address, code=1)
    assert "Not as meant: spine-1" in said
    assert "192.0.2.0/24" in barrio("drift", "show", "tern", "--at", serving.address, code=1)
