"""A network that somebody else wrote by hand runs on real daemons, is adopted from what it tells, and carries its hosts on with Barrio's files."""

from __future__ import annotations

import json
from collections.abc import Mapping

import pytest

from barrio.core import Compiled, compile
from barrio.core.adopt.adopting import adopt
from barrio.core.adopt.running import FRR
from barrio.core.adopt.saved import read_saved
from barrio.core.brief.document import read
from barrio.core.rehearse.slices import Wish, choose
from barrio.rehearsal.asking.control import changes_on_reload
from barrio.rehearsal.ground import wait_until
from barrio.rehearsal.hosts import Plugged
from barrio.rehearsal.kernel import whole_ground
from barrio.rehearsal.lab import Lab
from barrio.rehearsal.node import Node
from tests.conftest import EXAMPLES
from tests.core import handwritten
from tests.rehearsal.asked import established, planned_sessions
from tests.rehearsal.snapshots import saved
from tests.rehearsal.whole import PATIENCE

HOSTS = {
    "desk-01": Plugged((("tor-11-1", "lan1"),), ("10.40.10.11/24",), ("10.40.10.1",)),
    "desk-31": Plugged((("tor-12-2", "lan1"),), ("10.40.10.31/24",), ("10.40.10.1",)),
    "cam-25": Plugged((("tor-12-1", "lan5"),), ("10.40.20.25/24",), ("10.40.20.1",)),
}


class Written(Lab):
    """A lab whose switches have the files that were written by hand; what those do not say, their programs still need."""

    written = {one.name: dict(one.files) for one in handwritten.fabric()}  # noqa: RUF012

    def _boot(self, node: Node, files: dict[str, str] | None = None) -> None:
        mine = dict(self.written[str(node.switch.name)])
        mine[FRR] = mine[FRR].partition("Current configuration:")[2] or mine[FRR]
        mine["etc/nftables.conf"] = "flush ruleset\n"
        super()._boot(node, dict(self.compiled.files(node.switch.key)) | mine)


@pytest.mark.long
@pytest.mark.parametrize(("name", "most"), [("tern", 6), ("marlin", 10), ("pelican", 12)])
def test_a_demo_fabric_that_runs_is_adopted_with_the_files_that_run(name: str, most: int) -> None:
    """Booted, looked at as somebody does who was never told of it, and adopted into an empty Barrio; of Marlin and Pelican the part that a rehearsal boots."""
    compiled = compile(read(next(path for path in EXAMPLES if path.stem == name).read_text()).brief)
    keys = set(choose(compiled, Wish(most=most)).keys)
    with Lab(compiled, whole_ground(8192), keys=keys) as lab:
        there = {str(node.switch.name) for node in lab.nodes.values()}
        wanted = {
            key: sum(str(port.peer) in there and not port.shut for port in model.fabric_ports)
            for key, model in lab.models.items()
        }
        assert wait_until(lambda: all(heard(node) >= wanted[key] for key, node in lab.nodes.items()), PATIENCE * 2)
        found = adopt(read_saved(saved(lab)), name)
        for key, node in lab.nodes.items():
            own = found.keys[str(node.switch.name)]
            mine = found.compiled.files(own)
            assert mine == compiled.files(key) or own in found.left, (
                node.switch.name,
                differing(mine, compiled.files(key)),
            )
        # What leads to planes and pods of which nothing runs here is told; all else is as it runs.
        assert not found.left or name == "pelican"
        assert not {key for key in found.left if key.startswith("spine/")}


def heard(node: Node) -> int:
    """How many neighbours a switch hears."""
    return sum(len(part.get("interface", [])) for part in json.loads(node.lldp() or "{}").get("lldp", []))


def differing(one: Mapping[str, str], other: Mapping[str, str]) -> dict[str, list[str]]:
    """The lines that are other, by file."""
    lines = {path: {*one.get(path, "").split("\n")} ^ {*other.get(path, "").split("\n")} for path in {*one, *other}}
    return {path: sorted(these)[:20] for path, these in lines.items() if these}


def by_name(compiled: Compiled, keys: dict[str, str]) -> dict[str, dict[str, str]]:
    return {name: dict(compiled.files(key)) for name, key in keys.items()}


def reach(lab: Lab) -> bool:
    """Within a segment, over both racks."""
    one, other, _ = lab.hosts
    return one.ping("10.40.10.31") and other.ping("10.40.10.11")


def routed(lab: Lab) -> bool:
    """From one segment to the other."""
    one, other, camera = lab.hosts
    return one.ping("10.40.20.25") and other.ping("10.40.20.25") and camera.ping("10.40.10.11")


@pytest.mark.long
def test_what_somebody_wrote_by_hand_is_adopted_as_it_runs_and_carries_its_hosts_on() -> None:
    found = adopt(handwritten.fabric(), "office")
    with Written(found.compiled, whole_ground(), list(HOSTS.values())) as lab:
        assert wait_until(lambda: planned_sessions(lab) <= established(lab), PATIENCE), (
            "by hand, with the numbers that were found"
        )
        assert wait_until(lambda: reach(lab), PATIENCE)
        again = adopt(read_saved(saved(lab)), "office")
        assert again.keys == found.keys
        # Its devices are called otherwise, and tables of VRFs are no matter of a reload: each switch starts from the new files, as one that is staged does.
        for node in lab.nodes.values():
            files = dict(found.compiled.files(node.switch.key))
            node.replace(files)
            node.power_off()
            node.power_on(files, lab.missing)
        assert wait_until(lambda: planned_sessions(lab) <= established(lab), PATIENCE)
        assert wait_until(lambda: reach(lab) and routed(lab), PATIENCE), "and with the files that Barrio makes of it"
        changed = {str(node.switch.name): changes_on_reload(node) for node in lab.nodes.values()}
        assert not any(changed.values()), changed
