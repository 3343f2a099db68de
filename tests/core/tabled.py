"""The tables of a fabric's switches as they are when all is as planned, answered the way iproute2 prints them; a claim may change any of them."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass, field
from hashlib import sha256
from ipaddress import ip_address, ip_interface, ip_network
from typing import Any

from barrio.core import Compiled, paths
from barrio.core.model.switch import SwitchModel

MADE_UP = "169.254.0.1"
"""What FRRouting calls the other end of a link without addresses."""


@dataclass(frozen=True)
class Host:
    """A host on a port of leaves, and in a segment."""

    name: str
    leaves: tuple[str, ...]
    port: str
    segment: str
    address: str

    @property
    def mac(self) -> str:
        return _mac(self.name)


@dataclass
class Tables:
    """One switch's, which answers what it is asked."""

    devices: list[dict[str, Any]] = field(default_factory=list)
    routes: list[dict[str, Any]] = field(default_factory=list)
    neighbours: list[dict[str, Any]] = field(default_factory=list)
    macs: list[str] = field(default_factory=list)
    vlans: dict[str, int] = field(default_factory=dict)

    def answer(self, command: str) -> str:
        words = command.split()
        if command == "ip -j -d address":
            return json.dumps(self.devices)
        if "route" in words:
            to = ip_address(words[-1])
            return json.dumps(
                [one for one in self.routes if to in ip_network(one["dst"].replace("default", "0.0.0.0/0"))]
            )
        if "neigh" in words:
            return json.dumps([one for one in self.neighbours if words[-2] != "to" or one["dst"] == words[-1]])
        if words[:4] == ["bridge", "-j", "vlan", "show"]:
            flags = ["PVID", "Egress Untagged"]
            of = words[5:] or list(self.vlans)
            return json.dumps([{"ifname": one, "vlans": [{"vlan": self.vlans[one], "flags": flags}]} for one in of])
        if words[2] == "get":
            own = [one for one in self.macs if one.startswith(words[3]) and (" self" in one) == ("self" in words)]
            where = rf" dev {words[5]} " if "self" in words else rf" vlan {words[-1]} "
            return "\n".join(one for one in own if re.search(where, one)) or "Error: Fdb entry not found."
        if command == "bridge fdb show":
            return "\n".join(self.macs)
        assert words[2] == "show", command
        return "\n".join(one.replace(f" dev {words[4]}", "") for one in self.macs if f" dev {words[4]} " in one)

    def route(self, prefix: str, table: str = "main") -> dict[str, Any]:
        return next(one for one in self.routes if one["dst"] == prefix and one.get("table", "main") == table)


def tabled(compiled: Compiled, hosts: list[Host]) -> dict[str, Tables]:
    """The tables of every switch, by name."""
    models = {str(one.name): one for one in compiled.models.values()}
    found = {name: _own(model) for name, model in models.items()}
    joined = paths.neighbours(compiled, list(compiled.models))
    for target in models.values():
        if target.vtep:
            found[str(target.name)].routes.append(
                {"type": "local", "dst": str(target.vtep), "dev": "lo", "table": "local"}
            )
            away = _away(joined, target.key)
            for name, model in models.items():
                ways = [
                    {"gateway": MADE_UP, "dev": str(port.label), "weight": 1, "flags": ["onlink"]}
                    for port in model.fabric_ports
                    if away[models[str(port.peer)].key] < away[model.key]
                ]
                if ways:
                    found[name].routes.append(
                        {"dst": str(target.vtep), "nexthops": ways}
                        if len(ways) > 1
                        else {"dst": str(target.vtep)} | ways[0]
                    )
    for host in hosts:
        for name, model in models.items():
            _told(found[name], model, host, [models[one] for one in host.leaves])
    return found


def _away(joined: dict[str, dict[str, int]], target: str) -> dict[str, int]:
    away, waiting = {target: 0}, [target]
    while waiting:
        here = waiting.pop(0)
        for other in joined[here]:
            if other not in away:
                away[other] = away[here] + 1
                waiting.append(other)
    return away


def _mac(name: str) -> str:
    return "02:" + ":".join(sha256(name.encode()).hexdigest()[at : at + 2] for at in range(0, 10, 2))


def _device(name: str, kind: str = "", mac: str = "", mtu: int = 9000, **more: Any) -> dict[str, Any]:
    data = {key: more.pop(key) for key in ("id", "table") if key in more}
    made = {"linkinfo": {"info_kind": kind, "info_data": data}} if kind else {}
    return {
        "ifname": name,
        "mtu": mtu,
        "operstate": "UP",
        "flags": ["UP"],
        "address": mac,
        "addr_info": [],
        **made,
        **more,
    }


def _own(model: SwitchModel) -> Tables:
    """What a switch has by its files alone."""
    name, found = str(model.name), Tables()
    found.devices += [_device("lo"), _device("bridge", "bridge", str(model.router_mac))]
    for port in model.fabric_ports:
        found.devices.append(_device(str(port.label), "veth", _mac(f"{name} {port.label}"), 9216))
        lladdr = _mac(f"{port.peer} {port.peer_port}")
        found.neighbours.append({"dst": MADE_UP, "dev": str(port.label), "lladdr": lladdr, "state": ["PERMANENT"]})
    found.devices += [_device(str(one.label), master="bridge") for one in model.host_ports if one.host and not one.bond]
    for lag in model.host_lags:
        found.devices.append(_device(str(lag.label), "bond", master="bridge"))
        found.devices += [_device(str(one), master=str(lag.label)) for one in lag.members]
    for place, vrf in enumerate(model.vrfs):
        found.devices.append(_device(str(vrf.label), "vrf", table=1001 + place))
        found.devices.append(
            _device(str(vrf.svi), "vlan", str(model.router_mac), id=vrf.vlan, master=str(vrf.label), link="bridge")
        )
        found.devices.append(_device(str(vrf.vxlan), "vxlan", id=vrf.vni, master="bridge"))
        found.vlans[str(vrf.vxlan)] = vrf.vlan
        found.routes.append({"type": "unreachable", "dst": "default", "table": str(vrf.label), "metric": 4278198272})
    for one in model.segments:
        found.devices.append(_device(str(one.vxlan), "vxlan", id=one.vni, master="bridge"))
        found.vlans[str(one.vxlan)] = one.vlan
        if one.gateway_v4:
            gateway = ip_interface(str(one.gateway_v4))
            told = [{"local": str(gateway.ip), "prefixlen": gateway.network.prefixlen}]
            svi = _device(
                str(one.svi),
                "vlan",
                str(model.common.gateway_mac),
                id=one.vlan,
                master=str(one.vrf),
                link="bridge",
                addr_info=told,
            )
            found.devices.append(svi)
            found.routes += [
                {"dst": str(gateway.network), "dev": str(one.svi), "table": str(one.vrf)},
                {"type": "local", "dst": str(gateway.ip), "dev": str(one.svi), "table": str(one.vrf)},
            ]
    return found


def _told(found: Tables, model: SwitchModel, host: Host, at: list[SwitchModel]) -> None:
    """What a switch knows of a host: at a port of its own, or by EVPN."""
    here = str(model.name) in host.leaves
    segment = next((one for one in model.segments if str(one.label) == host.segment), None)
    if segment is not None:
        learnt = {} if here else {"extern_learn": None}
        state = ["REACHABLE"] if here else ["NOARP"]
        told = {"dst": host.address, "dev": str(segment.svi), "lladdr": host.mac, "state": state}
        found.neighbours.append(told | learnt)
        if here:
            found.macs.append(f"{host.mac} dev {host.port} vlan {segment.vlan} master bridge ")
        else:
            found.macs.append(f"{host.mac} dev {segment.vxlan} vlan {segment.vlan} extern_learn master bridge ")
            found.macs += [f"{host.mac} dev {segment.vxlan} dst {one.vtep} self extern_learn " for one in at[:1]]
    elsewhere = next(one for one in at[0].segments if str(one.label) == host.segment)
    vrf = next((one for one in model.vrfs if str(one.label) == str(elsewhere.vrf)), None)
    if vrf is not None and not here:
        found.routes.append(
            {"dst": host.address, "gateway": str(at[0].vtep), "dev": str(vrf.svi), "table": str(vrf.label)}
        )
        _router(found, vrf.vlan, str(vrf.svi), str(vrf.vxlan), at[0])


def _router(found: Tables, vlan: int, svi: str, vxlan: str, far: SwitchModel) -> None:
    """What a switch knows of the routing of another by EVPN."""
    told = {"dst": str(far.vtep), "dev": svi, "lladdr": str(far.router_mac), "state": ["NOARP"], "extern_learn": None}
    if told not in found.neighbours:
        found.neighbours.append(told)
        found.macs.append(f"{far.router_mac} dev {vxlan} vlan {vlan} extern_learn master bridge ")
        found.macs.append(f"{far.router_mac} dev {vxlan} dst {far.vtep} self extern_learn ")
