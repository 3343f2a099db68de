"""What a kernel can make, and where there is one that can make all that a switch needs.

Kernels differ: a device kind is tried in a namespace made for the purpose.
"""

from __future__ import annotations

from itertools import count
from os import getpid

from barrio.rehearsal.apart import Apart
from barrio.rehearsal.ground import Ground, NoGround, NoLab
from barrio.rehearsal.room import Here

_serial = count(1)
_TRIALS = {
    "VRF": "ip link add x0 type vrf table 10",
    "VLAN-aware bridge": "ip link add x1 type bridge vlan_filtering 1",
    "bond": "ip link add x2 type bond mode 802.3ad",
    "VLAN": "ip link add x3 type dummy && ip link add link x3 name x3.7 type vlan id 7",
    "VXLAN": "ip link add x4 type vxlan id 7 dstport 4789",
    "MACVLAN": "ip link add x5 type dummy && ip link add link x5 name x6 type macvlan mode bridge",
    "nftables inet": "nft add table inet x",
    "nftables bridge": "nft add table bridge x",
}
DEVICES = frozenset(("VRF", "VLAN-aware bridge", "bond", "VLAN", "VXLAN"))
"""What a kernel needs to carry a whole switch."""


def lacks(ground: Ground) -> frozenset[str]:
    """What this ground's kernel cannot make, each kind tried for itself."""
    namespace = f"barrio-try-{getpid()}-{next(_serial)}"
    trials = "; ".join(f'( {trial} ) >/dev/null 2>&1 || echo "{kind}"' for kind, trial in _TRIALS.items())
    try:
        done = ground.run("sh", "-c", f"ip netns add {namespace} && ip netns exec {namespace} sh -c '{trials}'")
    finally:
        ground.run("ip", "netns", "del", namespace)
    if done.code:
        raise NoLab(f"The lab needs network namespaces, and could make none: {done.err.strip()}")
    return frozenset(done.out.splitlines())


def whole_ground(memory: int = 3072, wired: bool = False) -> Ground:
    """This machine's kernel where it has all device kinds, else one of its own with so many megabytes. Raises `NoGround` when there is neither."""
    here = Here(wired)
    missing = lacks(here) & DEVICES
    if not missing:
        return here
    here.close()
    try:
        return Apart(memory, wired)
    except NoGround as error:
        raise NoGround(
            f"This kernel has no {', '.join(sorted(missing))}, and another could not be had: {error}"
        ) from None
