"""Which parts of a switch's files a kernel can run, and which are left out of a rehearsal, with the reason.

Kernels differ: a device kind is tried in a namespace made for the purpose. What the kernel lacks is taken out of the
files stanza by stanza and table by table; nothing else about them changes.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from itertools import count
from os import getpid

from barrio.rehearsal.apart import Apart
from barrio.rehearsal.ground import Ground, NoGround, NoLab
from barrio.rehearsal.room import Here


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A device or table of a switch that is not rehearsed, and why."""

    device: str
    reason: str


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


def rehearsable(interfaces: str, missing: frozenset[str]) -> tuple[str, tuple[LeftOut, ...]]:
    """An interfaces file without the stanzas that need what is missing, and those stanzas' devices.

    Tunnels, gateways and host ports hang on the VLAN-aware bridge and go with it.
    """
    kept: list[str] = []
    left: list[LeftOut] = []
    bonded = {port for line in re.findall(r"^\s+bond-slaves (.*)", interfaces, re.MULTILINE) for port in line.split()}
    for stanza in re.split(r"\n\n+", interfaces.strip()):
        device = re.search(r"^iface (\S+)", stanza, re.MULTILINE)
        reason = _reason(stanza, missing) if device else None
        if device and "bond" in missing and device[1] in bonded:
            reason = "this kernel has no bonds"
        if device and reason:
            left.append(LeftOut(device[1], reason))
        else:
            # A veth has no speed to set, and corrects no errors.
            kept.append(re.sub(r"\n\s+link-(speed|fec) .*", "", stanza))
    return "\n\n".join(kept) + "\n", tuple(left)


def _reason(stanza: str, missing: frozenset[str]) -> str | None:
    if "VRF" in missing and re.search(r"^\s+vrf(-table)? ", stanza, re.MULTILINE):
        return "this kernel has no VRF devices"
    if "bond" in missing and re.search(r"^\s+bond-", stanza, re.MULTILINE):
        return "this kernel has no bonds"
    if "VLAN-aware bridge" in missing and re.search(
        r"^\s+(bridge-|vlan-raw-device|vxlan-id|alias hosts|link-down yes)", stanza, re.MULTILINE
    ):
        return "this kernel has no VLAN-aware bridges"
    return None


def loadable(rules: str, missing: frozenset[str]) -> tuple[str, tuple[LeftOut, ...]]:
    """An nftables file without the tables of families that this kernel lacks, and their names."""
    kept: list[str] = []
    left: list[LeftOut] = []
    for part in re.split(r"^(?=table )", rules, flags=re.MULTILINE):
        family = re.match(r"table (\w+) (\w+)", part)
        if family and f"nftables {family[1]}" in missing:
            left.append(LeftOut(f"table {family[1]} {family[2]}", f"this kernel has no nftables for {family[1]}"))
        else:
            kept.append(part)
    return "".join(kept), tuple(left)
