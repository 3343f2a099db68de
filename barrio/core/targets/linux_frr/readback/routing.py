"""What one switch's routing must agree on: where neighbours are, what is told and filtered, what guards the switch itself."""

from __future__ import annotations

import re
from collections.abc import Iterator
from ipaddress import IPv4Network, IPv6Network, ip_address, ip_interface, ip_network

from barrio.core.targets.linux_frr.readback.read import FAMILIES, Router, SwitchText
from barrio.core.targets.linux_frr.readback.tenants import tenants

Finding = tuple[str, str]
"""A code without its family, and what is wrong in words."""


def routing(switch: SwitchText) -> Iterator[Finding]:
    """Everything that the sessions and filters of one switch contradict."""
    for check in (_sessions, _told, _tenant_paths, _policies, _filters, tenants):
        yield from check(switch)


def _sessions(switch: SwitchText) -> Iterator[Finding]:
    """A neighbour is on a link of the right table; the members of a peer group are all inside or all outside."""
    if len({router.asn for router in switch.routers.values()}) > 1:
        yield "session", "BGP of the VRFs and of the fabric are in different ASes"
    for router in switch.routers.values():
        for line in router.lines.get("", []):
            if line.startswith("no bgp default") and line != "no bgp default ipv4-unicast":
                yield "session", f"bgpd has no default called {line.split()[-1]}"
        groups: dict[str, set[bool]] = {}
        for session in router.sessions:
            group = router.group(session)
            remote = router.of(session, "remote-as")
            if not remote:
                yield "session", f"the session with {session.name} names no AS"
                continue
            own = router.of(session, "local-as").split()
            groups.setdefault(group, set()).add(int(remote) == int(own[0] if own else router.asn))
            if group and group not in router.neighbors:
                yield "session", f"the session with {session.name} is in group {group}, which is not there"
            yield from _place(switch, router, session.name, router.of(session, "update-source"))
            families = [family for family in FAMILIES if router.is_active(session, family)]
            if not families:
                yield "session", f"the session with {session.name} carries no family"
        for group, inside in groups.items():
            if group and len(inside) > 1:
                yield "session", f"group {group} has neighbours of the own AS and of others, which bgpd refuses"
        if router.value("bgp router-id") not in {str(one.ip) for one in switch.devices["lo"].addresses}:
            yield "session", f"the router id {router.value('bgp router-id')} is no address of lo"


def _place(switch: SwitchText, router: Router, name: str, source: str) -> Iterator[Finding]:
    if name in switch.devices:
        if "link-down" in switch.devices[name].said and not router.neighbors[name].has("shutdown"):
            yield "session", f"the session over {name} waits for a port that is shut"
        return
    try:
        ip_address(name)
    except ValueError:
        yield "session", f"{name} is neither a port nor an address"
        return
    ours = switch.beside(name, router.vrf)
    if not source and (ours is None or str(ours.ip) == name):
        yield "session", f"no link of {router.vrf or 'the fabric'} leads to {name}"


def _told(switch: SwitchText) -> Iterator[Finding]:
    """Lists that are used are there; what is told passes them; ECMP is as wide as there are sessions."""
    for router in switch.routers.values():
        for neighbor in router.neighbors.values():
            for family in FAMILIES:
                for line in neighbor.lines.get(family, []):
                    words = line.split()
                    if words[0] == "prefix-list" and words[1] not in switch.lists:
                        yield "filter", f"{neighbor.name} is filtered by {words[1]}, which is not there"
                    elif words[0] == "prefix-list" and words[2] == "out" and not router.vrf:
                        yield from _passes(router, family, words[1], switch.lists[words[1]])
    underlay = switch.underlay
    own = {str(one) for one in switch.devices["lo"].addresses}
    networks = {line.split()[1] for family in FAMILIES for line in (underlay.lines.get(family, []) if underlay else [])
                if line.startswith("network ")}  # fmt: skip
    if networks and networks != own:
        yield "filter", f"told are {', '.join(sorted(networks))}, and lo has {', '.join(sorted(own))}"
    if underlay and any(device.kind == "tunnel" for device in switch.devices.values()):
        wide = underlay.value("maximum-paths", "ipv4 unicast")
        sessions = {underlay.group(one): 0 for one in underlay.sessions}
        for one in underlay.sessions:
            sessions[underlay.group(one)] += underlay.is_active(one, "ipv4 unicast")
        if wide and int(wide) < max(sessions.values(), default=0):
            yield "ecmp", f"traffic spreads over {wide} paths, and there are {max(sessions.values())} sessions"


def _tenant_paths(switch: SwitchText) -> Iterator[Finding]:
    """Paths of VRFs differ by their tunnel ends: their number is one, whatever the family or kind of session, and over one."""
    wide = {
        line.split()[-1]
        for router in switch.routers.values()
        for lines in router.lines.values()
        for line in lines
        if router.vrf and line.startswith("maximum-paths")
    }
    if len(wide) > 1 or wide & {"0", "1"}:
        yield "ecmp", f"traffic in VRFs spreads over {' or '.join(sorted(wide))} paths"


def _passes(router: Router, family: str, name: str, entries: list[str]) -> Iterator[Finding]:
    for line in router.lines.get(family, []):
        if line.startswith("network "):
            prefix = ip_interface(line.split()[1]).network
            if not any(_permits(entry, prefix) for entry in entries):
                yield "filter", f"{prefix} is told, and filtered by {name}"


def _permits(entry: str, prefix: IPv4Network | IPv6Network) -> bool:
    words = entry.split()
    if "permit" not in words:
        return False
    wide = ip_network(words[words.index("permit") + 1])
    low = int(words[words.index("ge") + 1]) if "ge" in words else wide.prefixlen
    inside = wide.version == prefix.version and wide.overlaps(prefix) and prefix.prefixlen >= wide.prefixlen
    return inside and prefix.prefixlen >= low


def _policies(switch: SwitchText) -> Iterator[Finding]:
    """Each family with a system outside has filters both ways and a bound; BFD is said whole."""
    for vrf, router in switch.routers.items():
        for session in router.sessions if vrf else ():
            said = session.lines.get("", [])
            if ("bfd" in said) != session.has("bfd profile"):
                yield "policy", f"BFD with {session.name} is said by half"
            for family in FAMILIES:
                lists = sorted(
                    line.split()[-1] for line in session.lines.get(family, []) if line.startswith("prefix-list")
                )
                whole = lists == ["in", "out"] and session.has("maximum-prefix", family)
                if session.has("activate", family) and not whole:
                    yield "policy", f"{session.name} is not filtered both ways, or tells without bound"
                if session.lines.get(family) and not session.has("activate", family):
                    yield "policy", f"{session.name} has a policy for {family}, which it does not carry"


def _filters(switch: SwitchText) -> Iterator[Finding]:
    """The filter names devices that are there, the edge just the host ports, SSH listens where the switch is managed."""
    rules = switch.others.get("etc/nftables.conf", "")
    for name in sorted(set(re.findall(r'"([a-z][a-z0-9./-]*)"', rules)) - switch.devices.keys()):
        yield "filter", f"the packet filter names {name}, which is not there"
    hosts = re.search(r"set hosts \{.*?elements = \{ (.*?) \}", rules, re.DOTALL)
    ports = switch.devices["bridge"].words("bridge-ports") if "bridge" in switch.devices else ()
    guarded = set(re.findall(r'"(.*?)"', hosts[1])) if hosts else set()
    if guarded != {name for name in ports if name in switch.devices and switch.devices[name].kind != "tunnel"}:
        yield "filter", "the edge does not guard just the host ports"
    listens = re.search(r"^ListenAddress (\S+)", switch.others.get("etc/ssh/sshd_config", ""), re.MULTILINE)
    ports_of_management = [one for one in switch.devices.values() if one.kind == "management port"]
    managed = {str(one.ip) for device in ports_of_management for one in device.addresses}
    if listens and {listens[1]} != managed:
        yield (
            "management",
            f"SSH listens on {listens[1]}, and the switch is managed at {', '.join(managed) or 'no address'}",
        )
