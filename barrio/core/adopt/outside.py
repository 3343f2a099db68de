"""Systems outside that border leaves have sessions with, told by the sessions of VRFs."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from barrio.core.adopt.carried import called
from barrio.core.adopt.found import Findings
from barrio.core.adopt.running import Known
from barrio.core.adopt.shape import Shape
from barrio.core.targets.linux_frr.readback.read import Device, Interface, Neighbor, Router

_MOST = 12_000


def outside(known: Mapping[str, Known], shape: Shape, found: Findings) -> dict[str, Any]:
    """The edits that say which systems are outside, and how we speak to them."""
    systems: dict[str, dict[str, Any]] = {}
    for name, key in shape.keys.items():
        if shape.tier[name] == "leaf":
            for vrf, router, session, device, ours in _sessions(known[name]):
                _told(systems, known[name], key, vrf, router, session, device, ours, found)
    edits: dict[str, Any] = {}
    for system, said in sorted(systems.items()):
        said["links"] = list(said["links"].values())
        edits[f"outside.{system}"] = said
        found.propose(
            "routing",
            f"outside/{system}",
            f"{system} outside, AS {said['asn']}",
            {f"outside.{system}": said},
            [f"sessions on {len(said['links'])} links"],
            "likely",
        )
    return edits


def _sessions(one: Known) -> list[tuple[str, Router, Neighbor, Device, Interface]]:
    """The sessions of VRFs over subnets of ours, in the order of their devices."""
    found = []
    for vrf, router in one.text.routers.items():
        for session in router.sessions if vrf else ():
            ours = one.text.beside(session.name, vrf)
            if ours is not None:
                found.append((vrf, router, session, one.text.by_address[str(ours.ip)][0], ours))
    order = {name: place for place, name in enumerate(one.devices)}
    return sorted(found, key=lambda each: order[each[3].name])


def _told(
    systems: dict[str, dict[str, Any]], one: Known, key: str, vrf: str, router: Router, session: Neighbor, device: Device,
    ours: Interface, found: Findings,
) -> None:  # fmt: skip
    port = device.one("vlan-raw-device") or device.name
    if port == "bridge":
        found.odd(
            f"session/{one.name}/{session.name}",
            one.name,
            f"a session with {session.name} in VRF {vrf} is with a host of a segment, which no word of the brief says",
        )
        return
    alias = one.devices[port].one("alias") if port in one.devices else ""
    asn = int(router.of(session, "remote-as"))
    words = session.value("description") or alias.split(" ")[0]
    name = called(words.split(" ")[0] if words else "", f"as-{asn}")
    said = systems.setdefault(name, {"asn": asn, "links": {}})
    family = "ipv4 unicast" if ours.version == 4 else "ipv6 unicast"
    accept, default_in = _accepted(one, router, session, family)
    for prefix in accept:
        if prefix not in said.setdefault("accept", []):
            said["accept"].append(prefix)
    if default_in:
        said["default"] = "in"
    elif router.of(session, "default-originate", family) or session.has("default-originate", family):
        said["default"] = "out"
    most = re.match(r"\d+", router.of(session, "maximum-prefix", family))
    if most and int(most[0]) != _MOST:
        said["max_prefixes"] = int(most[0])
    if not (session.has("bfd") or router.of(session, "bfd profile")):
        said["bfd"] = False
    if router.of(session, "ttl-security"):
        said["ttl_security"] = True
    link = said["links"].setdefault((key, port), {"switch": key, "port": port, "vrfs": {}})
    far_port = alias.split(",")[0].split(" ")
    if len(far_port) > 1:
        link["far_port"] = far_port[1]
    of_vrf = link["vrfs"].setdefault(called(vrf, vrf), {"v4": None})
    if device.one("vlan-id"):
        of_vrf["vlan"] = int(device.one("vlan-id"))
    of_vrf["v4" if ours.version == 4 else "v6"] = str(ours.network)


def _accepted(one: Known, router: Router, session: Neighbor, family: str) -> tuple[list[str], bool]:
    """The prefixes that come in by a list, and whether a default route is among them."""
    listed = next(
        (line.split()[1] for line in session.lines.get(family, ()) if re.fullmatch(r"prefix-list \S+ in", line)), ""
    )
    prefixes = [
        found[1] for entry in one.text.lists.get(listed, ()) if (found := re.search(r"permit (\S+/\d+)", entry))
    ]
    everything = {"0.0.0.0/0", "::/0"}
    return [prefix for prefix in prefixes if prefix not in everything], bool(everything & set(prefixes))
