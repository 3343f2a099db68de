"""What claims ask of a lab in their own way, apart from the questions of a rehearsal, so that neither vouches for itself."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass

from barrio.core.model.switch import SegmentModel
from barrio.rehearsal.lab import Lab
from barrio.rehearsal.node import Node
from barrio.rehearsal.trimming import LeftOut


@dataclass(frozen=True, slots=True)
class Session:
    """A BGP session as one end sees it."""

    switch: str
    neighbor: str
    state: str
    local_asn: int
    remote_asn: int
    families: frozenset[str]


def sessions(node: Node) -> Iterator[Session]:
    """The BGP sessions of a switch, one for each neighbour."""
    families: dict[str, set[str]] = {}
    peers: dict[str, tuple[str, int, int]] = {}
    for family, summary in json.loads(node.vtysh("show bgp summary json")).items():
        for neighbor, peer in summary.get("peers", {}).items():
            families.setdefault(neighbor, set()).add(family)
            peers[neighbor] = (peer["state"], peer["localAs"], peer["remoteAs"])
    for neighbor, (state, local, remote) in peers.items():
        yield Session(node.switch.name, neighbor, state, local, remote, frozenset(families[neighbor]))


def paths_to(node: Node, prefix: str) -> int:
    """By how many next hops the kernel forwards to a prefix: the routes that zebra has installed."""
    six = ":" in prefix
    routes = json.loads(node.vtysh(f"show {'ipv6' if six else 'ip'} route {prefix} json"))
    return sum(1 for route in routes.get(prefix, []) for hop in route["nexthops"] if hop.get("fib"))


def bfd_up(node: Node) -> int:
    """How many BFD sessions of a switch are up."""
    return sum(1 for peer in json.loads(node.vtysh("show bfd peers json")) if peer["status"] == "up")


def pings(node: Node, source: str, target: str) -> bool:
    out = node.run("ping", "-c", "1", "-W", "2", "-I", source, target, check=False)
    return " 1 received" in out


def evpn_next_hops(node: Node, vni: int) -> frozenset[str]:
    """The tunnel ends to which a switch floods a VNI, as EVPN told it."""
    found = json.loads(node.vtysh(f"show evpn vni {vni} json"))
    # FRRouting 8.4 lists the addresses under the name of their count.
    ends = found.get("numRemoteVteps", [])
    return frozenset(ends if isinstance(ends, list) else [])


def established(lab: Lab) -> set[tuple[str, str, int, int]]:
    """The sessions that are up, as `planned_sessions` has them."""
    return {
        (one.switch, one.neighbor, one.local_asn, one.remote_asn)
        for node in lab.nodes.values()
        for one in sessions(node)
        if one.state == "Established"
    }


def planned_sessions(lab: Lab) -> frozenset[tuple[str, str, int, int]]:
    """Every session that the model plans, from both ends: (switch, neighbour, own ASN, other's ASN)."""
    planned = set()
    for model in lab.models.values():
        for port in model.fabric_ports if model.common.ebgp else ():
            if port.shut:
                continue
            planned.add((model.name, port.neighbor, model.asn, port.peer_asn))
            if port.neighbor6:
                planned.add((model.name, port.neighbor6, model.asn, port.peer_asn))
        for session in model.sessions:
            if session.shut:
                continue
            planned.add((model.name, session.address, model.process_asn, model.process_asn))
    return frozenset(planned)


def open_segment(lab: Lab, label: str) -> None:
    """Bring up a segment on every leaf that has it, with a plain bridge of its own.

    It stands in for the VLAN-aware bridge where the kernel has none; names, VNI, tunnel address and MTU are the
    model's, and everything the routing daemons do is the same.
    """
    for key, model in lab.models.items():
        for segment in model.segments:
            if segment.label == label:
                _stand_in(lab, lab.nodes[key], segment, str(model.vtep), model.common.host_mtu)


def _stand_in(lab: Lab, node: Node, segment: SegmentModel, vtep: str, mtu: int) -> None:
    bridge = f"br{segment.vlan}"
    lab.ip(
        f"link add {bridge} type bridge",
        f"link add {segment.vxlan} type vxlan id {segment.vni} local {vtep} dstport 4789 nolearning",
        f"link set {segment.vxlan} master {bridge} mtu {mtu} up",
        f"link set {bridge} mtu {mtu} up",
        namespace=node.namespace,
    )
    reason = f"a plain bridge carries segment {segment.label} in its place"
    node.left_out += (LeftOut(f"VLAN {segment.vlan} of the bridge", reason),)
