"""A fabric that only tells: switches that answer what a right one would, word by word, so that claims can change a word and see who notices.

What a right switch says is written here from the brief's own numbers, apart from the questions. It is no lab: it shows what a question makes of an
answer, and the lab shows that daemons answer so.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from ipaddress import ip_interface
from pathlib import Path
from types import SimpleNamespace
from typing import Any

from barrio.core import Compiled
from barrio.core.model.switch import SwitchModel
from barrio.core.rehearse.slices import Wish, choose
from barrio.core.rehearse.stations import Station, machines, reaches, stranger
from barrio.rehearsal.asking.claims import Asking, in_json
from barrio.rehearsal.ground import Done

NEIGHBOURS, BFD = "show bgp vrf all neighbors json", "show bfd peers json"
VNIS, MACS, SHARED = "show evpn vni detail json", "show evpn mac vni all json", "show evpn es detail json"
FOUR, SIX = "ip -4 -j route show table main", "ip -6 -j route show table main"
TYPE = "show bgp l2vpn evpn route type {} json"
RELOAD = "/usr/lib/frr/frr-reload.py --test /etc/frr/frr.conf"


class _Ground(SimpleNamespace):
    """A ground where every command is done and says nothing, but for a call of ifupdown2; each is another."""

    __hash__ = object.__hash__

    def __init__(self, network: Any) -> None:
        super().__init__(network=network, run=lambda *words, **more: Done(0, "", ""))


class Teller:
    """A switch that answers from what it was told, by command."""

    def __init__(self, switch: Any, said: dict[str, Any]) -> None:
        self.switch, self.said, self.namespace, self.run_folder = switch, said, f"n-{switch.name}", Path("/nowhere")
        self.folder = self.run_folder
        self.reread = 0
        self.goes_down: set[str] = set()
        self.holder, self.ground = 1, _Ground(self._network)

    def vtysh(self, command: str) -> str:
        return json.dumps(self.said.get(command, {}))

    def run(self, *command: str, check: bool = True) -> str:
        if "carrier_down_count" in command[-1]:
            # How a switch stands: each device with its number in the kernel and how often its link was lost.
            lines = [
                f"/sys/class/net/{name}/{what}:{number}"
                for at, name in enumerate(self.said["lldp"])
                for what, number in (("ifindex", at), ("carrier_down_count", self.reread * (name in self.goes_down)))
            ]
            return "\n".join(lines) + "\n\n" + json.dumps(self.said[NEIGHBOURS])
        found = self.said.get(" ".join(command), [])
        return found if isinstance(found, str) else json.dumps(found)

    def ask(self, *command: str, timeout: float = 120) -> Done:
        return Done(0, self.run(*command), "")

    def _network(self, holder: int, *command: str) -> Done:
        self.reread += command[0] == "ifreload"
        return Done(0, "", "")

    def lldp(self) -> str:
        ports = [
            {"name": port, "chassis": [{"name": [{"value": name}]}], "port": [{"id": [{"value": far}]}]}
            for port, (name, far) in self.said["lldp"].items()
        ]
        return json.dumps({"lldp": [{"interface": ports}]})


class Told(Asking):
    """An asking whose hosts hear what the plan says, but for those that are made deaf: (who speaks, to which address, from how many bytes on)."""

    deaf: set[tuple[str, str, int]]
    leaky: set[tuple[str, str]]
    apart: frozenset[tuple[str, str]]

    def said(self, name: str) -> dict[str, Any]:
        """What a switch tells, to be changed."""
        found: dict[str, Any] = self.lab.node(name).said  # type: ignore[attr-defined]
        return found

    def told(self, daemon: str, command: str, keys: Iterable[str] | None = None) -> dict[str, Any]:
        """What each was made to tell, as FRRouting has it: text around JSON."""
        wanted = [*(self.lab.nodes if keys is None else keys)]
        return {key: in_json(self.lab.nodes[key].vtysh(command)) for key in wanted}

    def pings(self, asked: Sequence[Mapping[str, object]], rounds: int = 3, wait: float = 1.0) -> list[int]:
        """Everybody answers whom the plan lets answer; but for the deaf, and with the leaky."""
        return [int(self._answers(str(one["in"]), str(one["to"]), int(str(one.get("size", 56))))) for one in asked]

    def answers_to(self, name: str, kind: str) -> dict[str, Any]:
        """The EVPN routes of a type that a switch has, by their names."""
        found: dict[str, Any] = self.said(name)[TYPE.format(kind)]["10.9.9.9:1"]
        return found

    def _answers(self, who: str, to: str, size: int) -> bool:
        if any(who == one and to == address and size >= least for one, address, least in self.deaf):
            return False
        return (who, to) in self.leaky or (who, to) not in self.apart


def right(compiled: Compiled) -> Told:
    """The whole fabric, as it would answer were everything as planned."""
    slice = choose(compiled, Wish(whole=True))
    playing, _ = machines(compiled, slice.keys)
    nobody = stranger(compiled, slice.keys)
    ground = SimpleNamespace(at_once=2, run=lambda *words, **more: Done(0, "", ""))
    seats = {
        station: SimpleNamespace(namespace=f"m{at}-{station.segment}", ground=ground)
        for at, one in enumerate([*playing, *([nobody] if nobody else [])])
        for station in one.stations
    }
    nodes = {
        key: Teller(compiled.structure.by_key[key], _said(compiled, compiled.models[key], list(seats)))
        for key in slice.keys
    }
    lab = SimpleNamespace(
        compiled=compiled, nodes=nodes, models={key: compiled.models[key] for key in nodes}, seats=seats, missing=frozenset(),
        ground=ground, at_once=2, laid=SimpleNamespace(grounds=(ground,), space=lambda *words: None, lay=lambda: None), machines=playing,
        node=lambda name: next(one for one in nodes.values() if one.switch.name == name),
    )  # fmt: skip
    told = Told(lab, slice)  # type: ignore[arg-type]
    told.deaf, told.leaky = set(), set()
    told.apart = frozenset(_apart(compiled, seats))
    return told


def _apart(compiled: Compiled, seats: Mapping[Station, Any]) -> Iterator[tuple[str, str]]:
    """Which namespace is not to hear an answer from which address."""
    for one, seat in seats.items():
        if one.silent:
            yield seat.namespace, one.gateway4
        for other in seats:
            for v6 in (False, True):
                if not reaches(compiled, one, other, v6):
                    yield seat.namespace, other.address(v6)


def _said(compiled: Compiled, model: SwitchModel, stations: Sequence[Any]) -> dict[str, Any]:
    others = [far for far in compiled.models.values() if far is not model]
    leaves = [far for far in others if far.is_leaf]
    said: dict[str, Any] = {"lldp": {}, NEIGHBOURS: {"default": {}}, BFD: [], RELOAD: "Lines To Delete\n===\n"}
    for port in model.fabric_ports:
        said["lldp"][str(port.label)] = (str(port.peer), str(port.peer_port))
        evpn = {"l2VpnEvpn": {}} if model.in_overlay else {}
        said[NEIGHBOURS]["default"][str(port.neighbor)] = _up(
            model, model.asn, port.peer_asn, {"ipv4Unicast": {}, **evpn}
        )
        said[BFD].append(
            {"interface": str(port.label), "peer": str(port.neighbor), "status": "up", "receive-interval": 300, "remote-transmit-interval": 300}
        )  # fmt: skip
    for one in model.outside:
        said[NEIGHBOURS].setdefault(one.vrf, {})[str(one.neighbor_v4)] = _up(
            model, model.process_asn, one.asn, {"ipv4Unicast": {}}
        )
    hops = [{"gateway": f"10.0.{at}.1", "dev": str(port.label)} for at, port in enumerate(model.fabric_ports)]
    targets = [far for far in leaves if model.is_leaf]
    said[FOUR] = [
        {"dst": to, "nexthops": hops}
        for far in targets
        for to in (str(far.loopback_v4).removesuffix("/32"), str(far.vtep))
    ]
    said[SIX] = []
    said[VNIS] = [
        {"vni": one.vni, "numRemoteVteps": [str(far.vtep) for far in leaves if any(each.label == one.label for each in far.segments)]}
        for one in model.segments
    ]  # fmt: skip
    macs: dict[str, Any] = {str(one.vni): {"macs": {}} for one in model.segments}
    vteps = {str(far.name): str(far.vtep) for far in leaves}
    for one in model.segments:
        for station in stations:
            if station.segment == one.label and not station.silent:
                local = model.name in station.leaves
                far = {} if local else {"remoteVtep": vteps[station.leaves[0]]}
                macs[str(one.vni)]["macs"][station.mac] = {"type": "local" if local else "remote", **far}
    said[MACS] = macs
    told = list(_told(leaves, stations)) if model.is_leaf else []
    for kind, word in ((1, "ead"), (2, "macip"), (3, "multicast"), (4, "es"), (5, "prefix")):
        said[TYPE.format(word)] = {"10.9.9.9:1": {one: path for number, one, path in told if number == kind}}
    gateways: dict[str, set[str]] = {str(vrf.label): set() for vrf in model.vrfs}
    for far in compiled.models.values():
        for one in far.segments:
            for gateway in (one.gateway_v4, one.gateway_v6):
                if gateway and str(one.vrf) in gateways:
                    gateways[str(one.vrf)].add(str(ip_interface(str(gateway)).network))
    for session in model.outside:
        gateways[session.vrf] |= {str(one.prefix) for one in session.accept_v4}
        if session.default_in:
            gateways[session.vrf].add("default")
    for vrf, prefixes in gateways.items():
        for family in ("-4", "-6"):
            said[f"ip {family} -j route show vrf {vrf}"] = [
                {"dst": one, "protocol": "bgp"} for one in sorted(prefixes) if (":" in one) == (family == "-6")
            ]
    return said


def _told(leaves: Sequence[SwitchModel], stations: Sequence[Any]) -> Iterator[tuple[int, str, Any]]:
    """The EVPN routes that other leaves tell: (type, its name, its paths)."""

    def path(vtep: object, target: object, **more: object) -> dict[str, Any]:
        return {
            "paths": [[{"extendedCommunity": {"string": f"RT:{target} ET:8"}, "nexthops": [{"ip": str(vtep)}], **more}]]
        }

    for far in leaves:
        for one in far.segments:
            yield 3, f"[3]:[0]:[32]:[{far.vtep}]:{one.vni}", path(far.vtep, one.route_target, ip=str(far.vtep))
            for station in stations:
                if station.segment == one.label and far.name in station.leaves and not station.silent:
                    yield (
                        2,
                        f"[2]:[0]:[48]:[{station.mac}]:{one.vni}",
                        path(far.vtep, one.route_target, mac=station.mac),
                    )
            vrf = next((each for each in far.vrfs if each.label == one.vrf), None)
            for gateway in (one.gateway_v4, one.gateway_v6):
                if vrf and gateway:
                    network = ip_interface(str(gateway)).network
                    more = {"ip": str(network.network_address), "ipLen": network.prefixlen}
                    yield (
                        5,
                        f"[5]:[0]:[{network.prefixlen}]:[{network.network_address}]",
                        path(far.vtep, vrf.route_target, **more),
                    )


def _up(model: SwitchModel, own: int, other: int, families: dict[str, Any]) -> dict[str, Any]:
    hold = model.common.hold * 1000
    return {
        "bgpState": "Established", "localAs": own, "remoteAs": other, "addressFamilyInfo": families, "bgpTimerHoldTimeMsecs": hold, "bgpTimerUpEstablishedEpoch": 1000,
    }  # fmt: skip
