"""What all tests share: the example briefs, and briefs that hypothesis makes."""

from __future__ import annotations

import os
from copy import deepcopy
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st

from barrio.app.secret import Passwords
from tests.folders import MEMORY, roomy

if roomy():
    # pytest's own folders too.
    os.environ.setdefault("PYTEST_DEBUG_TEMPROOT", str(MEMORY))

pytest_plugins = ["tests.scheduling", "tests.database", "tests.processes", "tests.serving"]

EXAMPLES = sorted((Path(__file__).parent.parent / "examples").glob("*.yaml"))

EVERYTHING = os.environ.get("BARRIO_TESTS") == "all"
"""Whether this is `make test-all`."""

settings.register_profile(  # `make test` tries the same cases every time, on every machine; `make test-all` looks for new ones
    "barrio",
    deadline=None,
    max_examples=100 if EVERYTHING else 20,
    derandomize=not EVERYTHING,
    suppress_health_check=[HealthCheck.too_slow],
)
settings.load_profile("barrio")


def tries(most: int) -> settings:
    """How often a property is tried: so often by `make test-all`, a fifth as often by `make test`."""
    return settings(max_examples=most if EVERYTHING else max(6, most // 5))


def quickly(*without: str) -> list[Any]:
    """Every example, those that `make test` goes without marked as long: others have what they have."""
    long = pytest.mark.long
    return [pytest.param(path, id=path.stem, marks=[long] * (path.stem in without)) for path in EXAMPLES]


Passwords.COST = (1, 64, 1)
"""What takes a tenth of a second for good reason is not waited for some hundred times here."""

KEY = "ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIEmZ7sT1mQ1xqk0f5m0b3Y9b8o4G2v0gkqfN6yH1cD2R ines@azulejo.example"


@st.composite
def briefs(draw: st.DrawFn, peer_links: bool = False) -> dict[str, Any]:
    """Small briefs that are always possible: they fit their switches and their pools. Peer links are for structures only."""
    tiers = draw(st.sampled_from([2, 2, 3]))
    racks = draw(st.lists(st.integers(1, 40), min_size=1, max_size=5 if tiers == 2 else 2, unique=True))
    half = draw(st.integers(0, len(racks)))
    groups = [
        draw(_group(part, role, peer_links))
        for part, role in ((racks[:half], "leaf"), (racks[half:], "border"))
        if part
    ]
    pods = draw(st.integers(1, 3)) if tiers == 3 else 0
    places = [f"p{pod}-r{racks[0]:02d}" for pod in range(1, pods + 1)] if pods else [f"r{racks[0]:02d}"]
    vrfs = draw(st.lists(st.sampled_from(["tides", "buoys", "public"]), unique=True))
    segments: dict[str, Any] = {}
    for index in range(draw(st.integers(0, 4))):
        vrf = draw(st.sampled_from([None, *vrfs]))
        segments[f"seg-{index}"] = {
            "vrf": vrf,
            "v4": draw(st.sampled_from([None, "auto"])) if vrf else None,
            "v6": draw(st.sampled_from([None, "auto"])) if vrf else None,
            "racks": draw(st.sampled_from([None, places[0]])),
            "untagged": index == 0 and draw(st.booleans()),
            "ra": draw(st.sampled_from(["slaac", "managed", "off"])),
            **_served(draw, index, segments, vrf),
        }
        said = segments[f"seg-{index}"]
        if said.get("relay"):
            has = [server for server in said["relay"]["servers"] if said["v6" if ":" in server else "v4"]]
            said["relay"] = {"servers": has} if has and vrf else None
        if said.get("secondary") and not said["v4"]:
            said["secondary"] = []
    protocol = draw(st.sampled_from(["ebgp", "ebgp", "ospf", "isis"]))
    kinds = ["ipv4", "dual", "unnumbered"] + (["ipv6"] if protocol == "ebgp" else [])
    brief = {
        "fabric": draw(st.sampled_from(["marlin", "tern", "pelican"])),
        "spines": {"count": draw(st.integers(1, 4)), "model": "lonja-s64"},
        "racks": groups,
        "uplinks_per_spine": draw(st.integers(1, 2)),
        "underlay": {
            "protocol": protocol,
            "addressing": draw(st.sampled_from(kinds)),
            "asn": draw(st.sampled_from(["per-leaf", "per-pair", "per-rack"])),
            "graceful_restart": draw(st.booleans()),
            "hello": draw(st.sampled_from([10, 5])),
        },
        "overlay": {"protocol": "ibgp" if protocol != "ebgp" else draw(st.sampled_from(["ebgp", "ibgp"]))},
        "vrfs": _vrfs(draw, vrfs, segments),
        "segments": segments,
        "services": {
            "ntp": ["10.90.0.21"],
            "dns": draw(st.sampled_from([[], ["10.90.0.53", "fd90::53"]])),
            "users": draw(st.sampled_from([{}, {"ines": {"keys": [KEY]}, "teo": {"role": "operator", "keys": [KEY]}}])),
            "banner": draw(st.sampled_from(["", "authorised people only"])),
            "sign_in_from": draw(st.sampled_from([[], ["10.90.0.0/16", "fd90::/48"]])),
            "snmp": draw(st.sampled_from([None, {"users": ["monitor"], "sources": ["10.90.0.0/24"]}])),
        },
    }
    if pods:
        brief["pods"] = ", ".join(f"p{pod}" for pod in range(1, pods + 1))
        brief["super_spines"] = {"per_plane": draw(st.integers(1, 2)), "links": draw(st.integers(1, 2))}
    border = next((group for group in groups if group["role"] == "border"), None)
    if border and vrfs and draw(st.booleans()):
        brief["outside"] = {"harbour-router": _outside(draw, border, pods, vrfs)}
    first = groups[0]["racks"].split(", ")[0]
    leaf = f"leaf/{'p1-' if pods else ''}{first}/a"
    spine = "spine/p1/1" if pods else "spine/1"
    brief |= _attached(draw, groups[0], leaf.split("/")[1], segments)
    brief["rungs"] = _rungs(draw, leaf, spine)
    marks = [leaf, f"rack/{leaf.split('/')[1]}", f"{leaf}:h3", f"{leaf}:h4"]
    marks += [spine] if brief["spines"]["count"] > 1 or pods > 1 else []
    for field in ("out_of_service", "planned_later"):
        brief[field] = dict.fromkeys(draw(st.lists(st.sampled_from(marks), max_size=2, unique=True)), "made up")
    return brief


def _rungs(draw: st.DrawFn, leaf: str, spine: str) -> dict[str, Any]:
    """What some switches have otherwise than the fabric."""
    rungs = [
        "role leaf",
        "role spine",
        "role border",
        "model lonja-t64",
        f"rack {leaf.split('/')[1]}",
        f"switch {leaf}",
        f"switch {spine}",
    ]
    said = {
        "services.ntp": st.sampled_from([["10.90.0.22"], {"add": ["10.90.0.22"], "why": "made up"}, {"value": []}]),
        "services.syslog": st.sampled_from([["10.90.0.15"], {"add": ["10.90.0.15"]}]),
        "services.sign_in_from": st.sampled_from([["10.91.0.0/16"], {"add": ["10.91.0.0/16", "fd91::/48"]}]),
        "services.banner": st.sampled_from(["", {"value": "made up", "why": "a test"}]),
        "services.snmp": st.sampled_from([None, {"users": ["monitor"], "sources": ["10.90.1.0/24"]}]),
        "overlay.storm": st.sampled_from([0, {"value": 500}]),
        "services.syslog_over": st.just("tcp"),
        "services.ssh_ciphers": st.sampled_from([["aes256-ctr"], {"add": ["aes256-gcm@openssh.com", "aes256-ctr"]}]),
        "services.time_zone": st.just("Europe/Madrid"),
        "services.watchdog": st.just(30),
    }
    chosen = draw(st.lists(st.sampled_from(rungs), max_size=3, unique=True))
    return {rung: deepcopy(draw(st.fixed_dictionaries({}, optional=said))) for rung in chosen}


def _served(draw: st.DrawFn, index: int, before: dict[str, Any], vrf: str | None) -> dict[str, Any]:
    """What a segment does for its hosts beside carrying them."""
    servers = draw(st.sampled_from([["10.99.0.5"], ["10.99.0.5", "fd99::5"], ["fd99::5"]]))
    return {
        "mtu": draw(st.sampled_from([None, None, 1500])),
        "suppress": draw(st.booleans()),
        "multicast": draw(st.sampled_from(["flood", "snoop"])),
        "scope": draw(st.sampled_from(["fabric", "fabric", "leaf"])),
        "secondary": draw(st.sampled_from([[], [f"10.98.{index}.0/24"]])) if vrf else [],
        "relay": draw(st.sampled_from([None, {"servers": servers}])) if vrf else None,
    }


def _vrfs(draw: st.DrawFn, names: list[str], segments: dict[str, Any]) -> dict[str, Any]:
    """VRFs that know of each other, and of what is behind their hosts."""
    found: dict[str, Any] = {name: {} for name in names}
    for name in names:
        mine = [one for one, said in segments.items() if said["vrf"] == name and (said["v4"] or said["v6"])]
        if mine and draw(st.booleans()):
            other = draw(st.sampled_from([one for one in names if one != name] or [None]))
            found[name]["note"] = "made up"
            if other:
                found[other].setdefault("imports", {})[name] = draw(st.sampled_from([mine, [*mine, "10.97.0.0/16"]]))
        behind = next((one for one in mine if segments[one]["secondary"]), None)
        if behind and draw(st.booleans()):
            place = segments[behind]["secondary"][0].removesuffix("0/24")
            found[name] |= {"routes": {"10.96.0.0/16": f"{place}9", "0.0.0.0/0": [f"{place}8", f"{place}9"]}}
        found[name]["aggregates"] = draw(st.sampled_from([[], ["10.98.0.0/16"], ["fd98::/32"]]))
    return found


def _attached(draw: st.DrawFn, group: dict[str, Any], rack: str, segments: dict[str, Any]) -> dict[str, Any]:
    """Hosts in one rack, with a plug and a set, or none; and what ports without a host carry."""
    here = [name for name, said in segments.items() if said["racks"] is None or rack in said["racks"].split(", ")]
    if not here or draw(st.booleans()):
        return {}
    bonded = (
        ["none", "static", "lacp"]
        if group["leaves"] == 1 or group.get("pairing", "independent") != "independent"
        else ["none"]
    )
    plug = {
        "lag": draw(st.sampled_from(bonded)),
        "rate": draw(st.sampled_from(["fast", "slow"])),
        "tagged": [*draw(st.sampled_from([[], here, ["both"], here[:1]]))],
        "mtu": draw(st.sampled_from([1500, 9000])),
        "fec": draw(st.sampled_from([None, "rs", "fc", "none"])),
        "storm": draw(st.sampled_from([None, 0, 500, "0.5%", "100%"])),
        "only_macs": draw(st.sampled_from([None, ["02:00:00:00:00:01"], ["02:00:00:00:00:01", "02:00:00:00:00:02"]])),
    }
    untagged = [name for name in here if plug["tagged"] == [] or (name != here[0] and plug["tagged"] == here[:1])]
    if untagged:
        plug["untagged"] = draw(st.sampled_from(untagged))
    one = {
        "at": f"{rack}/a h21",
        "untagged": here[0],
        "macs": draw(st.sampled_from([1, 4])),
        "storm": draw(st.sampled_from([0, 100])),
    }
    return {
        "sets": {"both": [*here]},
        "plugs": {"compute": plug},
        "hosts": {
            "model-01..model-03": {"at": f"{rack} h11..h13", "plug": "compute", "team": "Models"},
            "store": {"at": f"{rack} h14..h15", "plug": "compute"},
            "gauge": one,
        },
        "default_plug": draw(st.sampled_from([None, "every", "shut"])),
        "leaf_plugs": draw(st.sampled_from([{}, {f"leaf/{rack}/a": "compute"} if plug["lag"] == "none" else {}])),
    }


@st.composite
def _group(draw: st.DrawFn, numbers: list[int], role: str, peer_links: bool) -> dict[str, Any]:
    leaves = draw(st.sampled_from([1, 2, 2, 3]))
    group: dict[str, Any] = {
        "racks": ", ".join(f"r{number:02d}" for number in numbers),
        "leaves": leaves,
        "model": draw(st.sampled_from(["cantera-l48", "lonja-t64"])),
        "role": role,
        "growth": draw(st.sampled_from([0, 0, 2])),
    }
    if group["model"] == "lonja-t64" and draw(st.booleans()):
        group["kind"], group["uplinks_per_spine"] = f"kind-{role}", draw(st.integers(1, 2))
    if leaves == 2:
        group["pairing"] = draw(st.sampled_from(["independent", "multihoming"] + ["peer-link"] * peer_links))
        if group["pairing"] == "peer-link":
            group["model"] = "lonja-t64"
        if group["pairing"] != "independent":
            group["lags"] = draw(st.sampled_from([None, "h1..h4"]))
    return group


def _outside(draw: st.DrawFn, border: dict[str, Any], pods: int, vrfs: list[str]) -> dict[str, Any]:
    rack = border["racks"].split(", ")[0]
    tagged = draw(st.booleans())
    carried = {
        vrf: {"vlan": 300 + place if tagged else None, "v6": draw(st.sampled_from([None, "auto"]))}
        for place, vrf in enumerate(vrfs if tagged else vrfs[:1])
    }
    link = {"switch": f"leaf/{'p1-' if pods else ''}{rack}/a", "port": "h48", "far_port": "xe-0/0/1", "vrfs": carried}
    said = draw(st.sampled_from([{}, {"accept": ["10.99.0.0/16", "fd99::/48"], "default": "in", "ttl_security": True}]))
    return {"asn": 64600, "links": [link], **said}
