"""What a document of the IETF's models says that other switches must agree with."""

from __future__ import annotations

import json
from collections.abc import Mapping
from ipaddress import ip_interface
from typing import Any

from barrio.core.render.facts import Facts


def facts_of(name: str, files: Mapping[str, str]) -> Facts:
    """The facts of one switch. Raises `ValueError` for what is no JSON, or has a value that cannot be, and `KeyError` for what lacks a part."""
    said: dict[str, Any] = json.loads(files["ietf/config.json"])
    facts = Facts(
        name=said["ietf-system:system"]["hostname"].partition(".")[0], router_id=said["ietf-routing:routing"]["router-id"], tells_sessions=False
    )  # fmt: skip
    for one in said["ietf-interfaces:interfaces"]["interface"]:
        port, told = one["name"], one.get("description", "").replace(",", "").split()
        if len(told) == 4 and told[2] == "cable":
            facts.ends[port] = (told[0], told[1])
        if not one["enabled"]:
            facts.shut.add(port)
        if one["type"] == "iana-if-type:l3ipvlan" or told == ["management"]:
            continue
        for family in ("ietf-ip:ipv4", "ietf-ip:ipv6"):
            for address in one.get(family, {}).get("address", []):
                # Both leaves of a pair may have one tunnel end.
                if port == "lo" and family.endswith("v4") and address["ip"] != facts.router_id:
                    continue
                facts.addresses.setdefault(port, []).append(ip_interface(f"{address['ip']}/{address['prefix-length']}"))
            if "mtu" in one.get(family, {}):
                facts.mtus[port] = one[family]["mtu"]
    return facts
