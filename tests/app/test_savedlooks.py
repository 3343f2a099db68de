"""Outputs that somebody saved are held against editions: what is not as meant is drift like any other, without an agent on the switch."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from barrio.app import backrules, drafts, editions, holding, savedlooks, watching
from barrio.app.desk import Desk
from barrio.core import Refused, compile
from barrio.core.brief.document import read
from barrio.store import stagings
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
            "leaf-t02": {FRR: leaf[FRR].split("  neighbor fabric activate")[0].replace("leaf-t01", "leaf-t02")},
            "leaf-t03": {"etc/hosts": compiled.files("leaf/t03/a")["etc/hosts"]},
        }),
    )  # fmt: skip
    assert held.true == ("leaf-t03", "spine-1") and set(held.drifted) == {"spine-2", "leaf-t01"}
    assert held.unheld == ("leaf-t02: its frr.conf is cut off", "leaf-t09: no edition has it with files")
    found = {one.switch: one for one in watching.drift(sealed, "tern")}
    [line] = found["spine-2"].texts.lines
    assert (line.path, line.after.startswith("bgp router-id 11.")) == (FRR, True)
    assert found["leaf-t01"].snapshot.state == [
        f"{port.label} hears spine-2:p9, and {port.peer}:{port.peer_port} is planned there"
    ]
    [heard] = holding.every(sealed, "tern", "leaf-t01")
    assert heard.kind == "neighbours" and holding.find(sealed, "tern", "spine-2:p9")[0][0].key == str(port.label)
    own, macs = {FRR: compiled.files("spine/2")[FRR]}, "02:00:5e:00:01:01 dev p1 vlan 110 master br0\n"
    again = savedlooks.hold(sealed, "tern", packed({"spine-2": {**own, "tables/macs.txt": macs}}))
    assert [one.words for one in holding.find(sealed, "tern", "02:00:5e:00:01:01")[0]] == ["on p1"]
    lost = savedlooks.hold(sealed, "tern", packed({"spine-2": {**own, "tables/macs.txt": "no such command\n"}}))
    assert (
        lost.unheld == ("spine-2: its table “MACs” cannot be read",)
        and holding.find(sealed, "tern", "02:00:5e:00:01:01")[0]
    ), "they count as they were told last"
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


def test_what_was_not_saved_this_time_counts_as_it_was_told_last(sealed: Desk) -> None:
    compiled = compile(read(TERN).brief)
    files, port = compiled.files("leaf/t01/a"), compiled.models["leaf/t01/a"].fabric_ports[0]
    other = files["etc/hosts"] + "10.9.9.9 printer\n"
    wrong = neighbours(str(port.label), "spine-2.tern.azulejo.example", "p9")
    savedlooks.hold(sealed, "tern", packed({"leaf-t01": {"etc/hosts": other, FRR: files[FRR], "lldp.json": wrong}}))
    held = savedlooks.hold(sealed, "tern", packed({"leaf-t01": {FRR: files[FRR]}}))
    [found] = watching.drift(sealed, "tern")
    assert held.drifted == ("leaf-t01",) and [line.path for line in found.texts.lines] == ["etc/hosts"]
    assert found.snapshot.state and "spine-2:p9" in found.snapshot.state[0]
    right = neighbours(str(port.label), str(port.peer), str(port.peer_port))
    held = savedlooks.hold(sealed, "tern", packed({"leaf-t01": files | {"lldp.json": right}}))
    assert held.true == ("leaf-t01",)


def test_nothing_is_put_back_where_no_agent_runs_neither_by_hand_nor_by_the_rule(sealed: Desk) -> None:
    compiled = compile(read(TERN).brief)
    other = compiled.files("spine/1")["etc/hosts"] + "10.9.9.9 printer\n"
    savedlooks.hold(sealed, "tern", packed({"spine-1": {"etc/hosts": other, FRR: compiled.files("spine/1")[FRR]}}))
    for chosen in (["spine-1"], []):
        with pytest.raises(Refused, match="No agent runs on spine-1"):
            watching.put_back(sealed, "tern", chosen)
    backrules.say(sealed, "tern", "all")
    backrules.keep_all(sealed.house)
    with sealed.reading() as tx:
        assert not stagings.under_way(tx.connection, "tern"), (
            "a staging that nobody answers would keep all others waiting"
        )


def test_secrets_of_saved_outputs_are_not_kept(sealed: Desk) -> None:
    text = compile(read(TERN).brief).files("spine/1")[FRR]
    told = f"{text}password tide-and-wind\nip route 198.51.100.0/24 blackhole\n"
    assert savedlooks.hold(sealed, "tern", packed({"spine-1": {FRR: told}})).drifted == ("spine-1",)
    with sealed.reading() as tx:
        [content] = [row[0] for row in tx.connection.execute("select content from running_texts")]
    assert "tide-and-wind" not in content and "198.51.100.0/24" in content


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
