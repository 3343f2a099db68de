"""Questions about the control plane: sessions, BFD, and routes as the kernel has them."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any

from barrio.core.model.switch import SwitchModel
from barrio.core.paths import neighbours, widths
from barrio.rehearsal.applying import reread, standing
from barrio.rehearsal.asking.claims import Asking, Claim, excerpt
from barrio.rehearsal.node import Node

FAMILIES = {"ipv4Unicast": "ipv4 unicast", "ipv6Unicast": "ipv6 unicast", "l2VpnEvpn": "l2vpn evpn"}


def planned(asking: Asking, model: SwitchModel) -> Iterator[tuple[str, str, str, int, int, set[str], str]]:
    """The BGP sessions of a switch in this lab: (VRF, neighbour, who it is, own AS, the other's, families, path of what names it)."""
    here, common = set(asking.names.values()), model.common
    evpn = {"l2vpn evpn"} if model.in_overlay and not common.ibgp_overlay else set()
    both = ({"ipv4 unicast"} if common.has_v4 else set()) | ({"ipv6 unicast"} if common.has_v6 else set())
    for port in model.fabric_ports if common.ebgp else ():
        if port.shut or port.peer not in here:
            continue
        path = f"switches/{model.name}/fabric_ports/{port.label}/peer_asn"
        first = {"ipv4 unicast"} if common.two_families else both
        yield "default", str(port.neighbor), port.peer, model.asn, port.peer_asn, first | evpn, path
        if port.neighbor6:
            yield "default", str(port.neighbor6), port.peer, model.asn, port.peer_asn, {"ipv6 unicast"}, path
    for far in model.sessions:
        if not far.shut and far.label in here:
            path = f"switches/{model.name}/sessions/{far.label}/address"
            yield "default", str(far.address), far.label, model.process_asn, model.process_asn, {"l2vpn evpn"}, path
    for one in model.outside:
        for neighbour, family in ((one.neighbor_v4, "ipv4 unicast"), (one.neighbor_v6, "ipv6 unicast")):
            there = one.vrf == "default" or "VRF" not in asking.lab.missing
            if neighbour and there and not one.shut and one.system in asking.slice.outside:
                path = f"switches/{model.name}/outside/{one.label}/asn"
                yield one.vrf, str(neighbour), one.system, model.process_asn, one.asn, {family}, path


def sessions(asking: Asking) -> list[Claim]:
    """Every planned BGP session is up, between the planned AS, for the planned families and with the timers that the plan says."""
    command = "show bgp vrf all neighbors json"
    said = asking.told("bgpd", command)
    found: list[Claim] = []
    for key, model in asking.about(asking.lab.models).items():
        for vrf, neighbour, who, own, other, families, path in planned(asking, model):
            one = said[key].get(vrf, {}).get(neighbour, {})
            faults = list(_session_faults(one, model, own, other, families))
            where = "" if vrf == "default" else f" in {vrf}"
            found.append(
                Claim(
                    f"{model.name} holds its session with {who}{where}", not faults, model.name,
                    f"AS {own} with AS {other}, for {' and '.join(sorted(families))}",
                    "; ".join(faults) or f"up, AS {own} with AS {other}",
                    f"vtysh -c '{command}'", "" if not faults else excerpt(_short(one)), path, str(who),
                )
            )  # fmt: skip
    return found


def _session_faults(one: dict[str, Any], model: SwitchModel, own: int, other: int, families: set[str]) -> Iterator[str]:
    if not one:
        yield "it has no such neighbour"
        return
    if one.get("bgpState") != "Established":
        why = one.get("lastNotificationReason") or one.get("lastResetDueTo") or ""
        yield f"it is {one.get('bgpState', 'unknown')}{f' ({why})' if why else ''}"
    if one.get("localAs") != own:
        yield f"its own AS is {one.get('localAs')}, not {own}"
    if one.get("remoteAs") != other:
        yield f"it expects AS {one.get('remoteAs')}, not {other}"
    carried = {FAMILIES[name] for name in one.get("addressFamilyInfo", {}) if name in FAMILIES}
    if one.get("bgpState") == "Established" and carried != families:
        yield f"it carries {' and '.join(sorted(carried)) or 'nothing'}, not {' and '.join(sorted(families))}"
    hold = one.get("bgpTimerHoldTimeMsecs", 0) // 1000
    if one.get("bgpState") == "Established" and hold > model.common.hold:
        yield f"the two agreed to wait {hold} s, and {model.common.hold} s are planned"


def _short(one: dict[str, Any]) -> dict[str, Any]:
    """What of a neighbour tells why it is not up."""
    keep = ("bgpState", "localAs", "remoteAs", "lastResetDueTo", "lastNotificationReason", "lastErrorCodeSubcode", "connectionsDropped", "bgpTimerLastWrite")  # fmt: skip
    return {name: one[name] for name in keep if name in one}


def adjacencies(asking: Asking) -> list[Claim]:
    """Every fabric link has its OSPF or IS-IS neighbour, where these route the underlay."""
    found: list[Claim] = []
    here = set(asking.names.values())
    for key, model in asking.about(asking.lab.models).items():
        if model.common.ebgp:
            return []
        command = "show isis neighbor json" if model.common.isis else "show ip ospf neighbor json"
        if not model.common.isis and not model.common.has_v4:
            command = "show ipv6 ospf6 neighbor json"
        text = asking.lab.nodes[key].vtysh(command)
        for port in model.fabric_ports:
            if port.peer in here and not port.shut:
                up = _heard(text, str(port.label))
                found.append(Claim(f"{model.name} hears {port.peer} on {port.label}", up, model.name, "a full neighbour", "it does" if up else "nobody is heard", f"vtysh -c '{command}'", "" if up else excerpt(text), f"switches/{model.name}/fabric_ports/{port.label}/peer"))  # fmt: skip
    return found


def _heard(text: str, port: str) -> bool:
    """Whether a neighbour that is fully there stands under a port, whatever form the daemon's JSON has."""

    def walk(value: object) -> Iterator[dict[str, Any]]:
        if isinstance(value, dict):
            yield value
            for inner in value.values():
                yield from walk(inner)
        elif isinstance(value, list):
            for inner in value:
                yield from walk(inner)

    for one in walk(json.loads(text or "{}")):
        device = str(one.get("ifaceName", one.get("interface", one.get("interfaceName", ""))))
        state = str(one.get("nbrState", one.get("state", one.get("neighborState", ""))))
        if device.partition(":")[0] == port and state.partition("/")[0].lower() in ("full", "up"):
            return True
    return False


def bfd(asking: Asking) -> list[Claim]:
    """BFD watches every fabric link, as fast as the plan says."""
    command = "show bfd peers json"
    said = asking.told("bfdd", command, [key for key, model in asking.lab.models.items() if model.common.bfd_interval])
    here = set(asking.names.values())
    found: list[Claim] = []
    for key, model in asking.about(asking.lab.models).items():
        if not model.common.bfd_interval:
            continue
        for port in model.fabric_ports:
            if port.shut or port.peer not in here:
                continue
            peers = [
                one
                for one in said[key] or []
                if one.get("interface") == port.label or one.get("peer") in (port.neighbor, port.neighbor6)
            ]
            up = [one for one in peers if one.get("status") == "up"]
            faults = []
            if not up:
                faults.append(f"it is {peers[0].get('status')}" if peers else "nothing watches it")
            slow = max(
                (max(one.get("receive-interval", 0), one.get("remote-transmit-interval", 0)) for one in up), default=0
            )
            if slow > model.common.bfd_interval:
                faults.append(f"it speaks every {slow} ms")
            words = f"every {model.common.bfd_interval} ms, {model.common.bfd_multiplier} may be lost"
            found.append(Claim(f"{model.name} watches {port.peer} on {port.label}", not faults, model.name, words, "; ".join(faults) or "up", f"vtysh -c '{command}'", excerpt(peers) if faults else "", f"switches/{model.name}/common/bfd_interval"))  # fmt: skip
    return found


def routes(asking: Asking) -> list[Claim]:
    """Every leaf forwards to every other's loopback and tunnel end by as many paths as are planned: as its kernel has it."""
    six = "ip -6 -j route show table main"
    four = "ip -4 -j route show table main"
    tables = asking.every(lambda node: {"4": _table(node, "-4"), "6": _table(node, "-6")})
    joined = neighbours(asking.compiled, asking.lab.nodes)
    models = asking.lab.models
    most = {key: model.max_paths for key, model in models.items()}
    found: list[Claim] = []
    for key, far in models.items():
        if not far.is_leaf:
            continue
        reached = widths(joined, key, most)
        targets = [("4", far.loopback_v4, "loopback_v4")] + [("4", f"{far.vtep}/32", "vtep")] * bool(far.vtep)
        targets += [("6", str(far.loopback_v6), "loopback_v6")] * bool(far.loopback_v6)
        for other in asking.about({one: models[one] for one in reached}):
            width = reached[other]
            if not models[other].is_leaf:
                continue
            for family, prefix, part in targets:
                hops = tables[other][family].get(str(prefix).removesuffix("/32").removesuffix("/128"), [])
                holds = len(hops) == width
                found.append(Claim(
                    f"{models[other].name} has {width} path{'s' if width > 1 else ''} to {prefix} of {far.name}", holds, models[other].name,
                    f"{width} next hops", f"{len(hops)} next hops" if hops else "no route", six if family == "6" else four,
                    "" if holds else excerpt(hops or "no route to it"), f"switches/{far.name}/{part}",
                ))  # fmt: skip
    return found


def _table(node: Node, family: str) -> dict[str, list[dict[str, Any]]]:
    """The next hops of each route of the kernel's main table, by prefix."""
    said = json.loads(node.run("ip", family, "-j", "route", "show", "table", "main") or "[]")
    found: dict[str, list[dict[str, Any]]] = {}
    for one in said:
        hops = one.get("nexthops") or ([one] if "via" in one or "gateway" in one else [])
        if one.get("type", "unicast") == "unicast" and hops:
            found.setdefault(one["dst"].removesuffix("/32").removesuffix("/128"), []).extend(
                {part: hop[part] for part in ("gateway", "via", "dev") if part in hop} for hop in hops
            )
    return found


def changes_on_reload(node: Node) -> list[str]:
    """The lines that loading the switch's own frr.conf once more would change, by FRRouting's own comparison."""
    out = node.run("/usr/lib/frr/frr-reload.py", "--test", "/etc/frr/frr.conf")
    return [line for line in out.splitlines() if line.strip() and not re.match(r"Lines To|=+$", line)]


def reload(asking: Asking) -> list[Claim]:
    """Loading a switch's own frr.conf again would change nothing, by FRRouting's own comparison; reading its interfaces file again, on a
    switch of each kind, makes no device anew, and no session restarts."""
    said = asking.every(changes_on_reload)
    found = [
        Claim(f"{asking.names[key]} would change nothing", not lines, asking.names[key], "no line", f"{len(lines)} lines" if lines else "no line", "frr-reload.py --test /etc/frr/frr.conf", excerpt("\n".join(lines)))
        for key, lines in said.items()
    ]  # fmt: skip
    models = asking.lab.models
    kinds = _of_each_kind(asking)
    before = asking.every(lambda node: standing(node, models[node.switch.key]), kinds)
    asking.every(reread, kinds)
    after = asking.every(lambda node: standing(node, models[node.switch.key]), kinds)
    for key, was in before.items():
        name = asking.names[key]
        touched = sorted(was.went_down(after[key])) + sorted(was.restarted(after[key]))
        found.append(Claim(f"{name} reads its interfaces again, and nothing goes down", not touched, name, "the same devices and sessions", f"{', '.join(touched[:6])} did" if touched else "nothing did", "ifreload --all"))  # fmt: skip
    return found


def _of_each_kind(asking: Asking) -> list[str]:
    """The first switch of each kind, by its role, model, target and how it is paired."""
    kinds: dict[object, str] = {}
    for key, model in asking.lab.models.items():
        switch = asking.compiled.structure.by_key[key]
        pair = model.pair.multihoming if model.pair else None
        kinds.setdefault((switch.role, switch.type.id, asking.compiled.targets[key].name, pair), key)
    return list(kinds.values())
