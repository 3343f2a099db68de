"""Which parts of a switch's files a kernel can run, and which are left out of a rehearsal, with the reason.

Kernels differ: a device kind is tried in a namespace made for the purpose. What the kernel lacks is taken out of the
interfaces file stanza by stanza; nothing else about the file changes.
"""

from __future__ import annotations

import re
import subprocess
from dataclasses import dataclass
from functools import cache
from os import getpid


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A device of a switch that is not rehearsed, and why."""

    device: str
    reason: str


_TRIALS = {
    "VRF": "link add barrio-x type vrf table 10",
    "VLAN-aware bridge": "link add barrio-x type bridge vlan_filtering 1",
}


@cache
def lacks() -> frozenset[str]:
    """The device kinds that this kernel cannot make."""
    namespace = f"barrio-try-{getpid()}"
    subprocess.run(["ip", "netns", "add", namespace], check=True, capture_output=True)
    try:
        return frozenset(
            kind
            for kind, trial in _TRIALS.items()
            if subprocess.run(["ip", "-n", namespace, *trial.split()], capture_output=True, check=False).returncode
        )
    finally:
        subprocess.run(["ip", "netns", "del", namespace], check=True, capture_output=True)


def rehearsable(interfaces: str, missing: frozenset[str]) -> tuple[str, tuple[LeftOut, ...]]:
    """An interfaces file without the stanzas that need what is missing, and those stanzas' devices.

    Tunnels, gateways and host ports hang on the VLAN-aware bridge and go with it; the out-of-band port is not part of
    the fabric, so a rehearsal has none.
    """
    kept: list[str] = []
    left: list[LeftOut] = []
    for stanza in re.split(r"\n\n+", interfaces.strip()):
        device = re.search(r"^iface (\S+)", stanza, re.MULTILINE)
        reason = _reason(stanza, missing) if device else None
        if device and reason:
            left.append(LeftOut(device[1], reason))
        else:
            # A veth has no speed to set.
            kept.append(re.sub(r"\n\s+link-speed .*", "", stanza))
    return "\n\n".join(kept) + "\n", tuple(left)


def _reason(stanza: str, missing: frozenset[str]) -> str | None:
    if "out-of-band management" in stanza:
        return "the rehearsal has no out-of-band network"
    if "VRF" in missing and re.search(r"^\s+vrf(-table)? ", stanza, re.MULTILINE):
        return "this kernel has no VRF devices"
    if "VLAN-aware bridge" in missing and re.search(
        r"^\s+(bridge-|vlan-raw-device|vxlan-id|alias hosts in|link-down yes)", stanza, re.MULTILINE
    ):
        return "this kernel has no VLAN-aware bridges"
    return None
