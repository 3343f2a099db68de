"""A boot medium: what a switch needs where no DHCP server tells it where Barrio is, and what somebody copies by hand where nothing else goes.

In the medium's root `install.sh` finds the switch by the serial number of the machine, or is told its name; it puts the agent and its words in place, and an
address to be managed by. `switches/<name>/files` are all files of a switch, and `by-hand.txt` says in which order they are brought on.
"""

from __future__ import annotations

import hashlib
import json
import shlex
from collections.abc import Iterable, Mapping

from barrio.core import Compiled
from barrio.core.errors import refuse
from barrio.core.staging import tasks
from barrio.core.staging.boxes import Box
from barrio.core.structure.parts import Switch

LABEL = 32
"""Characters of a volume's label (ECMA-119, section 8.4.7)."""


def medium(
    compiled: Compiled, switches: Iterable[Switch], boxes: Mapping[str, Box], address: str, trust: str, agent: Mapping[str, bytes],
    files: Mapping[str, Mapping[str, bytes]],
) -> dict[str, bytes]:  # fmt: skip
    """The files of a medium by path, the sums of all of them last.

    `files` are those of each switch, by key and path, as they are sent; `agent` the agent's own, by name; `trust` the certificate by which Barrio is known
    (PEM), where it is not one that the system knows. Raises `Refused` (`ways.address`) without an address of Barrio.
    """
    if not address:
        raise refuse("ways.address", "Say first at which address the switches reach Barrio.", "address")
    found: dict[str, bytes] = {
        "install.sh": _INSTALL.encode(),
        **{f"agent/{name}": data for name, data in agent.items()},
    }
    if trust:
        found["agent/barrio-agent.pem"] = trust.encode()
    lines: list[str] = []
    for switch in switches:
        name, own = str(switch.name), boxes.get(switch.key, Box())
        lines.append(f"{own.serial or '-'} {name}\n")
        words = {"server": address, **({"trust": "/etc/barrio-agent.pem"} if trust else {})}
        words |= {"serial": own.serial} if own.serial else {}
        at = f"switches/{name}"
        found[f"{at}/barrio-agent.json"] = (json.dumps(words, indent=2) + "\n").encode()
        found[f"{at}/interfaces"] = _interfaces(compiled, switch.key).encode()
        found[f"{at}/by-hand.txt"] = by_hand(compiled, switch).encode()
        found |= {f"{at}/files/{path}": data for path, data in files[switch.key].items()}
    found["switches/serials"] = "".join(lines).encode()
    sums = "".join(f"{hashlib.sha256(data).hexdigest()}  {path}\n" for path, data in sorted(found.items()))
    return {**dict(sorted(found.items())), "SHA256SUMS": sums.encode()}


def label(fabric: str, switch: str = "") -> str:
    """The label of a medium's volume: capitals, digits and low lines.

    >>> label("tern", "leaf-t01")
    'TERN_LEAF_T01'
    """
    said = f"{fabric}_{switch}" if switch else fabric
    return "".join(one if one.isalnum() else "_" for one in said.upper())[:LABEL]


def _interfaces(compiled: Compiled, key: str) -> str:
    management = compiled.models[key].management
    return (
        "auto lo\niface lo inet loopback\n\n"
        f"auto {management.interface}\niface {management.interface}\n    address {management.address}\n    gateway {management.gateway}\n"
    )


def by_hand(compiled: Compiled, switch: Switch) -> str:
    """The page for whoever brings a switch's files on by hand: what to copy, what to run, in this order, and what to look at."""
    files = list(compiled.files(switch.key))
    lines = [
        f"{switch.name}, rack {switch.rack}: by hand", "",
        "As root, on the console: the management address moves into a table of its own on the way.", "",
        "1. Look at the medium.", "   sha256sum --check --quiet SHA256SUMS", "",
        "2. Have the programs read what is new.",
    ]  # fmt: skip
    lines += [f"   {_line(argv)} files/{path}" for path, argv in tasks.CHECKS.items() if path in files]
    modes = {str(plan.path): f"{plan.kind.mode:o}" for plan in compiled.plans(switch.key)}
    lines += ["", "3. Copy them."]
    lines += [
        f"   install -D -m {modes.get(path, '644')} files/{shlex.quote(path)} /{shlex.quote(path)}" for path in files
    ]
    lines += ["", "4. Have them read, in this order."]
    applies = [one for one in tasks.applies(files) if set(one["when"]) & set(files)]
    lines += [f"   {_line(one['argv'])}" for one in applies if not set(one["unless"]) & set(files)]
    lines += ["", "5. Look whether it is as planned: each hears whom the plan says, and holds its sessions."]
    lines += [
        f"   {port.label}: {port.peer} {port.peer_port}, cable {port.cable}"
        for port in compiled.models[switch.key].fabric_ports
    ]
    lines += [
        "   lldpcli show neighbors",
        "   vtysh -c 'show bgp summary'",
        "",
        "6. Have it outlast a power cut.",
        "   sync",
    ]
    return "\n".join(lines) + "\n"


def _line(argv: Iterable[str]) -> str:
    return " ".join(shlex.quote(word) for word in argv)


_INSTALL = """#!/bin/sh
# Puts the agent on a switch that has nothing yet. By the machine's serial number, or the switch's name: sh install.sh leaf-r01a
set -eu
cd "$(dirname "$0")"
root=${ROOT:-}
sha256sum --check --quiet SHA256SUMS
name=${1:-}
if [ -z "$name" ]; then
	serial=$(tr a-z A-Z < "${SERIAL_FILE:-/sys/class/dmi/id/product_serial}" | tr -d ' ')
	name=$(sed -n "s/^$serial //p" switches/serials)
	[ -n "$name" ] || { echo "Nothing here is for serial number $serial. Say the switch: sh install.sh NAME" >&2; exit 1; }
fi
[ -d "switches/$name" ] || { echo "There is no switch $name on this medium." >&2; exit 1; }
install -D -m 755 agent/barrio-agent "$root/usr/local/sbin/barrio-agent"
install -D -m 644 agent/barrio-agent.service "$root/etc/systemd/system/barrio-agent.service"
[ ! -f agent/barrio-agent.pem ] || install -D -m 644 agent/barrio-agent.pem "$root/etc/barrio-agent.pem"
install -D -m 600 "switches/$name/barrio-agent.json" "$root/etc/barrio-agent.json"
install -D -m 644 "switches/$name/interfaces" "$root/etc/network/interfaces"
echo "$name knocks once its management port is up."
[ -n "$root" ] || { ifreload --all; systemctl daemon-reload; systemctl enable --now barrio-agent; }
"""
