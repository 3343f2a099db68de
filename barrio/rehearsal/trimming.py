"""Which parts of a switch's files a kernel can run, and which are left out of a rehearsal, with the reason.

What the kernel lacks is taken out of the files stanza by stanza and table by table; nothing else about them changes. It stands alone (standard library
only), since it also runs in the place of `ifreload` and `nft` on a simulated switch.
"""

from __future__ import annotations

import re
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A device or table of a switch that is not rehearsed, and why."""

    device: str
    reason: str


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
