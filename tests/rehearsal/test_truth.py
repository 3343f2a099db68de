"""The rehearsal tells the truth: it notices what is wrong, names what it leaves out, and cleans up."""

from __future__ import annotations

import dataclasses
import os
import subprocess
from contextlib import nullcontext
from pathlib import Path

import pytest

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.rehearsal.apart import Apart
from barrio.rehearsal.ground import Done, Here
from barrio.rehearsal.kernel import DEVICES, lacks, rehearsable
from barrio.rehearsal.lab import Lab
from barrio.rehearsal.node import Node
from barrio.rehearsal.questions import established, lldp_neighbours, planned_sessions, wait_until
from tests.rehearsal.whole import PATIENCE, SLOW

BRIEF = "fabric: truth\nspines: {count: 1, racks: y00}\nracks:\n  - {racks: y01..y02, leaves: 1}\n"
BRIEF += f"underlay: {{{SLOW}}}\n"


def small() -> Compiled:
    return compile(read(BRIEF).brief)


def namespaces() -> set[str]:
    listed = subprocess.run(["ip", "netns", "list"], capture_output=True, text=True, check=True).stdout
    return {line.split()[0] for line in listed.splitlines() if line.startswith(f"barrio{os.getpid()}-")}


@pytest.mark.long
def test_two_cables_that_were_swapped_are_found_by_sessions_and_by_lldp() -> None:
    planned = small()
    one, two = planned.ends
    swapped = (
        dataclasses.replace(one, upper_port=two.upper_port),
        dataclasses.replace(two, upper_port=one.upper_port),
    )
    with Lab(dataclasses.replace(planned, ends=swapped)) as lab:
        spine = lab.node("spine-1")
        heard = {("p1", "leaf-y02", "u1"), ("p2", "leaf-y01", "u1")}
        assert wait_until(lambda: lldp_neighbours(spine) == heard, PATIENCE), (
            "it hears what is plugged, not what is planned"
        )
        assert not wait_until(lambda: bool(established(lab) & planned_sessions(lab)), 8), "no session comes up"


def test_a_wrong_asn_on_one_side_keeps_that_session_down_and_no_other() -> None:
    planned = small()
    frr = "etc/frr/frr.conf"
    leaf = planned.models["leaf/y01/a"]
    files = planned.files(leaf.key)
    wrong = files[frr].replace(f"router bgp {leaf.asn}\n", f"router bgp {leaf.asn + 7}\n")
    planned._files[leaf.key] = {**files, frr: wrong}
    with Lab(planned) as lab:
        good = {session for session in planned_sessions(lab) if leaf.asn not in session[2:]}
        assert wait_until(lambda: good <= established(lab), PATIENCE)
        assert {session[0] for session in established(lab)} == {"spine-1", "leaf-y02"}


def test_a_lab_that_fails_to_boot_leaves_nothing_behind() -> None:
    broken = small()
    frr = "etc/frr/frr.conf"
    spine = dict(broken.files("spine/1"))
    broken._files["spine/1"] = {**spine, frr: spine[frr].replace("router bgp", "rooter bgp", 1)}
    with pytest.raises(RuntimeError, match="spine-1"), Lab(broken):
        pass
    assert namespaces() == set()
    with Lab(small()) as lab:
        ground = lab.ground
        assert isinstance(ground, Here)
        folder, processes = ground.folder, ground.running()
        assert len(namespaces()) == 3 and len(processes) == 3 * 6, (
            "five daemons a switch, and what holds its namespaces"
        )
    assert namespaces() == set() and not folder.exists()
    assert ground.running() == []


STANZAS = {
    "lo": "auto lo\niface lo\n    address 10.0.0.1/32",
    "mgmt": "auto mgmt\niface mgmt\n    vrf-table 4000",
    "eth0": "auto eth0\niface eth0\n    alias out-of-band management\n    vrf mgmt",
    "u1": "auto u1\niface u1\n    mtu 9216\n    link-speed 100000\n    address 10.1.0.1/31",
    "h1": "auto h1\niface h1\n    alias hosts in r01",
    "vni7": "auto vni7\niface vni7\n    vxlan-id 7\n    bridge-access 7",
    "bridge": "auto bridge\niface bridge\n    bridge-vlan-aware yes",
    "vlan7": "auto vlan7\niface vlan7\n    vlan-raw-device bridge\n    vrf tides",
}


@pytest.mark.parametrize(
    ("missing", "left"),
    [
        (frozenset(), set()),
        (frozenset({"VRF"}), {"mgmt", "eth0", "vlan7"}),
        (frozenset({"VLAN-aware bridge"}), {"h1", "vni7", "bridge", "vlan7"}),
        (frozenset({"VRF", "VLAN-aware bridge"}), {"mgmt", "eth0", "h1", "vni7", "bridge", "vlan7"}),
    ],
)
def test_only_what_a_kernel_lacks_is_left_out_and_each_is_named(missing: frozenset[str], left: set[str]) -> None:
    kept, out = rehearsable("\n\n".join(STANZAS.values()) + "\n", missing)
    assert {entry.device for entry in out} == left and all(entry.reason for entry in out)
    for device, stanza in STANZAS.items():
        assert (stanza.replace("\n    link-speed 100000", "") in kept) == (device not in left)
    assert "link-speed" not in kept


def test_what_a_kernel_lacks_is_found_by_trying_each_kind_for_itself() -> None:
    """On a whole kernel nothing is missing: no trial stands in the way of the next."""
    here = Here()
    try:
        missing = lacks(here)
        for kind, words in {"VRF": "type vrf table 9", "VLAN-aware bridge": "type bridge vlan_filtering 1"}.items():
            name = f"barrio-can-{os.getpid()}"
            subprocess.run(["ip", "netns", "add", name], check=True)
            try:
                tried = subprocess.run(
                    ["ip", "-n", name, "link", "add", "x", *words.split()], capture_output=True, check=False
                )
            finally:
                subprocess.run(["ip", "netns", "del", name], check=True)
            assert (kind in missing) == (tried.returncode != 0)
        assert not list(Path("/run/netns").glob("barrio-try-*"))
    finally:
        here.close()


def test_a_kernel_of_its_own_has_every_device_kind_answers_and_leaves_nothing_behind() -> None:
    ground = Apart()
    try:
        assert not lacks(ground) & DEVICES
        assert ground.run("cat", given="x" * 100_000).out == "x" * 100_000
        assert ground.run("sh", "-c", "echo no >&2; exit 3").code == 3
        started = ground.start("sleep", "1000", log=ground.folder / "log")
        ground.stop(started)
    finally:
        ground.close()
    assert not ground.folder.exists()
    there = subprocess.run(["pgrep", "-f", str(ground.folder)], capture_output=True, text=True, check=False).stdout
    assert there == ""


class Told:
    """A ground whose commands end as they are told to."""

    def __init__(self, *errors: str) -> None:
        self.errors = list(errors)

    def run(self, *argv: str, timeout: float = 0) -> Done:
        return Done(0, "", self.errors.pop(0))


@pytest.mark.parametrize(
    ("errors", "refused"),
    [
        ([""], False),
        (["error: recv() error: [Errno 22] Invalid argument", ""], False),
        (
            ["error: recv() error: [Errno 22] Invalid argument", "error: recv() error: [Errno 22] Invalid argument"],
            True,
        ),
        (["error: h1: unknown attribute", ""], True),
    ],
)
def test_interfaces_are_brought_up_again_only_when_the_kernels_list_was_broken_off(
    errors: list[str], refused: bool, tmp_path: Path
) -> None:
    switch = small().structure.switches[0]
    node = Node(switch, "none", tmp_path, tmp_path, Told(*errors))  # type: ignore[arg-type]
    with pytest.raises(RuntimeError, match="did not take") if refused else nullcontext():
        node._interfaces("auto lo\niface lo\n", frozenset())
