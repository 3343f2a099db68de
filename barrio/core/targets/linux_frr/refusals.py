"""What a target cannot carry truly: it refuses the switches concerned, says why, and names what it can do instead."""

from __future__ import annotations

from collections.abc import Mapping

from barrio.core.attach.attachments import Attachments
from barrio.core.brief.model import Brief
from barrio.core.errors import Fault
from barrio.core.structure.parts import Structure, Switch


def refused(brief: Brief, structure: Structure, attachments: Attachments) -> Mapping[str, Fault]:
    """The switches that `linux-frr` writes no files for, by key, each with the reason (`target.*`)."""
    found = {switch.key: fault for switch in structure.switches if (fault := _ports(switch))}
    for pair in structure.pairs:
        group = pair[0].group
        if group is not None and group.pairing == "peer-link":
            fault = Fault(
                "target.peer-link",
                f"The leaves of racks {brief.racks_at(pair[0].origin)} are joined by a peer link, which needs a daemon that keeps the MAC and ARP "
                "tables of two switches alike; linux-frr has none, and hosts would be given frames twice. Set pairing to "
                "multihoming, which shares hosts by EVPN.",
                f"{pair[0].origin.removesuffix('.racks')}.pairing",
            )
            found |= {leaf.key: fault for leaf in pair}
    for one in attachments.hosts.values():
        if one.way.lag == "lacp" and not one.way.fallback:
            words = (
                f"{one.host} is to be served by LACP only, and the bonds of Linux serve a host without LACP over one link all the same. Take "
                "fallback: false out, or shut the port until the host speaks LACP."
            )
            found |= dict.fromkeys((key for key, _ in one.ports), Fault("target.fallback", words, one.path))
    for name, segment in brief.segments.items():
        other = segment.relay.vrf if segment.relay else None
        if segment.relay and other and other != segment.vrf and any(":" in server for server in segment.relay.servers):
            words = (
                f"DHCPv6 questions of {name} would go into {other}, and the relay of Linux hears them in the segment's own VRF only. Import the "
                f"servers' prefix into {segment.vrf}, and take relay.vrf out."
            )
            fault = Fault("target.relay", words, f"segments.{name}.relay.vrf")
            found |= {leaf: fault for leaf, carried in attachments.carried.items() if name in carried}
    return found


def _ports(switch: Switch) -> Fault | None:
    port = next((name for name in switch.plan.by_name if "/" in name), None)
    if port is None:
        return None
    words = (
        f"{switch.type.title} calls a port {port}, and no device of a Linux system may have a / in its name. Give its ports "
        "names such as p1 in the catalogue."
    )
    return Fault("target.port-name", words, switch.origin)
