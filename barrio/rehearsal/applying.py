"""Putting other files on a switch that runs, as staging will: each program reads its own anew, and nothing is started afresh that need not be."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass

from barrio.core.compare.sessions import SessionsOf, sessions_of
from barrio.core.model.switch import SwitchModel
from barrio.rehearsal.ground import NoLab
from barrio.rehearsal.node import Node
from barrio.rehearsal.trimming import loadable, rehearsable

_SETTINGS, _DEVICES, _FILTERS, _ROUTING = (
    "etc/sysctl.d/90-fabric.conf", "etc/network/interfaces", "etc/nftables.conf", "etc/frr/frr.conf",
)  # fmt: skip


def apply(node: Node, files: Mapping[str, str], missing: frozenset[str], restart: bool = False) -> None:
    """Put these files in place of those that the switch has, and have those that are other read anew: settings, interfaces, filters, routing.
    With `restart`, FRRouting starts afresh, where a change cannot be had otherwise.

    Raises `NoLab` with what a program says when it does not take its file whole.
    """
    for path in node.files.keys() - files.keys():
        node.ground.run("rm", "-f", str(node.folder / path))
    other = {path for path, text in files.items() if node.files.get(path) != text}
    node.replace({path: files[path] for path in other})
    node.files = dict(files)
    if _SETTINGS in other:
        node.settings(files[_SETTINGS])
    if _DEVICES in other:
        _interfaces(node, files[_DEVICES], missing)
    if _FILTERS in other:
        kept, _ = loadable(files[_FILTERS], missing)
        node.replace({"nftables": kept})
        node.run("nft", "-f", str(node.folder / "nftables"))
    if restart:
        node.restart_routing(files["etc/frr/daemons"])
    elif _ROUTING in other:
        done = node.ask("/usr/lib/frr/frr-reload.py", "--reload", f"/{_ROUTING}", timeout=300)
        if done.code:
            raise NoLab(f"{node.switch.name}: frr-reload did not take frr.conf whole: {done.out}{done.err}")


def _interfaces(node: Node, text: str, missing: frozenset[str]) -> None:
    kept, _ = rehearsable(text, missing)
    node.replace({"interfaces": kept})
    reread(node)


def reread(node: Node) -> None:
    """Have ifupdown2 read the switch's interfaces file anew. Raises `NoLab` with what it says when it does not take it whole."""
    trimmed = node.folder / "interfaces"
    # ifreload reads the one place only; the switch sees its own file there.
    node.run("sh", "-c", f"mountpoint -q /etc/network/interfaces || mount --bind {trimmed} /etc/network/interfaces")
    done = node.ground.network(node.holder, "ifreload", "--all")
    if done.code or "error:" in done.err:
        raise NoLab(f"{node.switch.name}: ifreload did not take the interfaces file whole: {done.err.strip()}")


@dataclass(frozen=True)
class Standing:
    """A switch as it runs at a moment: by session when it came up (seconds since 1970), by device how often its link was lost, and the
    kernel's own number of each device, which one that is made anew has not."""

    sessions: Mapping[str, int]
    lost: Mapping[str, int]
    made: Mapping[str, int]

    def restarted(self, later: Standing) -> set[str]:
        """The sessions of before that did not stand all the time since."""
        return {name for name, since in self.sessions.items() if abs(later.sessions.get(name, 0) - since) > _APART}

    def went_down(self, later: Standing) -> set[str]:
        """The devices of before whose link was lost since, or that are gone or made anew."""
        gone = {name for name, number in self.made.items() if later.made.get(name) != number}
        return gone | {name for name, times in self.lost.items() if later.lost.get(name, times) > times}


_APART = 3
"""Seconds by which two tellings of one moment may differ."""
_LOOK = (
    "grep -H . /sys/class/net/*/ifindex /sys/class/net/*/carrier_down_count; "
    'echo; vtysh -c "show bgp vrf all neighbors json"'
)


def standing(node: Node, model: SwitchModel) -> Standing:
    """How a switch stands now."""
    devices, _, said = node.run("sh", "-c", _LOOK).partition("\n\n")
    told: dict[str, dict[str, int]] = {"ifindex": {}, "carrier_down_count": {}}
    for line in devices.splitlines():
        path, _, number = line.rpartition(":")
        name, what = path.split("/")[-2:]
        told[what][name] = int(number)
    since = _since(sessions_of(model), json.loads(said or "{}"))
    return Standing(since, told["carrier_down_count"], told["ifindex"])


def _since(known: SessionsOf, said: Mapping[str, Mapping[str, object]]) -> dict[str, int]:
    found: dict[str, int] = {}
    for vrf, neighbours in said.items():
        for name, one in neighbours.items():
            session = known.by_name.get(("" if vrf == "default" else vrf, name))
            if session is not None and isinstance(one, dict) and one.get("bgpState") == "Established":
                found[session.id] = int(one["bgpTimerUpEstablishedEpoch"])
    return found
