"""What a target cannot carry truly: it refuses the switches concerned, says why, and names what it can do instead."""

from __future__ import annotations

from collections.abc import Mapping

from barrio.core.errors import Fault
from barrio.core.structure.parts import Structure, Switch


def refused(structure: Structure) -> Mapping[str, Fault]:
    """The switches that `linux-frr` writes no files for, by key, each with the reason (`target.*`)."""
    found = {switch.key: fault for switch in structure.switches if (fault := _ports(switch))}
    for pair in structure.pairs:
        group = pair[0].group
        if group is not None and group.pairing == "peer-link":
            fault = Fault(
                "target.peer-link",
                f"The leaves of racks {group.racks} are joined by a peer link, which needs a daemon that keeps the MAC and ARP "
                "tables of two switches alike; linux-frr has none, and hosts would be given frames twice. Set pairing to "
                "multihoming, which shares hosts by EVPN.",
                f"{pair[0].origin.removesuffix('.racks')}.pairing",
            )
            found |= {leaf.key: fault for leaf in pair}
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
