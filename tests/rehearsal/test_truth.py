"""The rehearsal tells the truth: it notices what is wrong, names what it leaves out, and cleans up."""

from __future__ import annotations

import dataclasses
import fcntl
import os
import random
import subprocess
import sys
import tempfile
import time
from contextlib import nullcontext
from pathlib import Path

import pytest

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.rehearsal.apart import Apart
from barrio.rehearsal.asking.beside import lldp_neighbours
from barrio.rehearsal.ground import Done, wait_until
from barrio.rehearsal.kernel import DEVICES, lacks
from barrio.rehearsal.lab import Lab
from barrio.rehearsal.node import Node
from barrio.rehearsal.room import PLACE, STEM, Here, sweep
from barrio.rehearsal.trimming import rehearsable
from tests.rehearsal.asked import established, planned_sessions
from tests.rehearsal.whole import PATIENCE, SLOW

BRIEF = "fabric: truth\nspines: {count: 1, racks: y00}\nracks:\n  - {racks: y01..y02, leaves: 1}\n"
BRIEF += f"underlay: {{{SLOW}}}\n"


def small() -> Compiled:
    return compile(read(BRIEF).brief)


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
    with Lab(small()) as lab:
        folder, processes = lab.ground.folder, lab.ground.running()
        assert len(processes) == 3 * 6 + 1, (
            "five daemons a switch, what holds its namespaces, and ifupdown2 for all of them"
        )
    assert not folder.exists() and processes_of(folder) == ""


KILLED = """
import sys
from barrio.rehearsal.apart import Apart
from barrio.rehearsal.room import Here
ground = (Here if sys.argv[1] == "here" else Apart)()
print(ground.folder, flush=True)
ground.start("sleep", "1000", log=ground.folder / "log")
ground.run("ip", "netns", "add", "left")
print("busy", flush=True)
while True:
    ground.run("sh", "-c", 'echo more >> "$1"', "sh", str(ground.folder / "log"))
"""


@pytest.mark.parametrize(
    ("kind", "rounds"),
    [
        ("here", 40),
        pytest.param("apart", 8, marks=pytest.mark.long),
        pytest.param("here", 100, marks=pytest.mark.long),
        pytest.param("apart", 25, marks=pytest.mark.long),
    ],
)
def test_of_a_lab_whose_owner_is_killed_nothing_is_left(kind: str, rounds: int) -> None:
    """Whenever it is killed: while the ground comes up, or while it is at work; three times, and so many in `make test-all`."""
    for at in range(rounds if os.environ.get("BARRIO_TESTS") == "all" else 3):
        with subprocess.Popen([sys.executable, "-c", KILLED, kind], stdout=subprocess.PIPE, text=True) as owner:
            assert owner.stdout is not None
            folder = Path(owner.stdout.readline().strip())
            if at % 3:
                owner.stdout.readline()
            time.sleep(random.Random(at).random() / 10)
            owner.kill()
        assert wait_until(lambda folder=folder: not folder.exists() and processes_of(folder) == "", 20), folder
    assert "left" not in {path.name for path in Path("/run/netns").glob("*")}


def test_a_folder_whose_owner_is_gone_is_taken_away_by_the_next_lab() -> None:
    """Where the first process of the room was killed too, so that nobody else could."""
    left, mine, young = (Path(tempfile.mkdtemp(prefix=STEM, dir=PLACE)) for _ in range(3))
    for folder in (left, mine, young):
        (folder / "held").touch()
    held = (mine / "held").open("rb")
    fcntl.flock(held, fcntl.LOCK_EX)
    for folder in (left, mine):
        os.utime(folder / "held", (0, 0))
    sweep()
    assert not left.exists() and mine.exists(), "one whose owner lives stays"
    assert young.exists(), "one that is just being made stays, held or not yet"
    held.close()
    sweep()
    assert not mine.exists()
    os.utime(young / "held", (0, 0))
    sweep()
    assert not young.exists()


def processes_of(folder: Path) -> str:
    """The processes that have a lab's folder among their words."""
    return subprocess.run(["pgrep", "-f", str(folder)], capture_output=True, text=True, check=False).stdout


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
            here.run("ip", "netns", "add", kind)
            tried = here.run("ip", "-n", kind, "link", "add", "x", *words.split())
            assert (kind in missing) == (tried.code != 0)
        assert "barrio-try-" not in here.run("ip", "netns").out
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
    assert processes_of(ground.folder) == ""


class Told:
    """A ground whose commands end as they are told to."""

    def __init__(self, *errors: str) -> None:
        self.errors = list(errors)

    def network(self, process: int, *argv: str, timeout: float = 0) -> Done:
        return Done(0, "", self.errors.pop(0))

    def run(self, *argv: str, **more: object) -> Done:
        return Done(0, "", "")


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
