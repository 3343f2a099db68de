"""Questions about EVPN: whom each VNI floods to, whose addresses are known where, which prefixes each VRF has, and hosts that two leaves share."""

from __future__ import annotations

import json
from collections.abc import Iterator
from ipaddress import ip_interface
from typing import Any

from barrio.core.model.switch import SwitchModel
from barrio.core.rehearse.stations import segment_on
from barrio.rehearsal.asking.claims import Asking, Claim, excerpt


def flooding(asking: Asking) -> list[Claim]:
    """Each segment is flooded to just the tunnel ends that have it."""
    command = "show evpn vni detail json"
    leaves = {key: model for key, model in asking.lab.models.items() if model.segments and model.vtep}
    said = asking.told("zebra", command, leaves)
    found: list[Claim] = []
    for key, model in asking.about(leaves).items():
        known = {one.get("vni"): one for one in said[key] or []}
        for segment in model.segments:
            others = {
                str(other.vtep)
                for far, other in leaves.items()
                if far != key and segment_on(asking.compiled, far, segment.label)
            }
            others -= {str(model.vtep)}
            one = known.get(segment.vni)
            ends = (one or {}).get("numRemoteVteps", [])
            there = set(ends if isinstance(ends, list) else [])
            holds = one is not None and there == others
            words = f"{', '.join(sorted(there)) or 'nobody'}" if one else f"it has no VNI {segment.vni}"
            found.append(Claim(
                f"{model.name} floods {segment.label} (VNI {segment.vni}) to {len(others)} tunnel end{'' if len(others) == 1 else 's'}", holds, str(model.name),
                ", ".join(sorted(others)) or "nobody", words, f"vtysh -c '{command}'", "" if holds else excerpt(one or "no such VNI"),
                f"switches/{model.name}/segments/{segment.label}/vni",
            ))  # fmt: skip
    return found


def addresses(asking: Asking) -> list[Claim]:
    """Every host's address is known where its segment is: at its own port on its leaf, behind its tunnel end or its shared segment elsewhere."""
    command = "show evpn mac vni all json"
    leaves = {key: model for key, model in asking.lab.models.items() if model.segments and model.vtep}
    if not asking.stations:
        return []
    _speak(asking)
    said = asking.told("zebra", command, leaves)
    vteps = {str(model.name): str(model.vtep) for model in leaves.values()}
    found: list[Claim] = []
    for station in asking.stations:
        if station.silent:
            continue
        for key, model in leaves.items():
            segment = segment_on(asking.compiled, key, station.segment)
            if segment is None:
                continue
            one = said[key].get(str(segment.vni), {}).get("macs", {}).get(station.mac, {})
            here = model.name in station.leaves
            faults = list(_address_faults(one, here, {vteps[leaf] for leaf in station.leaves}, len(station.leaves) > 1))
            where = "at its port" if here else f"behind {' and '.join(station.leaves)}"
            found.append(Claim(
                f"{model.name} knows {station.name} {where}", not faults, str(model.name), f"{station.mac} {where}",
                "; ".join(faults) or where, f"vtysh -c '{command}'", excerpt(one) if faults else "", f"switches/{model.name}/segments/{segment.label}/vni",
            ))  # fmt: skip
    return found


def _address_faults(one: dict[str, Any], here: bool, ends: set[str], shared: bool) -> Iterator[str]:
    if not one:
        yield "the address is not known"
    elif (here and one.get("type") != "local") or (not here and one.get("type") != "remote"):
        yield f"it is taken for {one.get('type')}"
    elif not here and not shared and one.get("remoteVtep") not in ends:
        yield f"it is taken to be behind {one.get('remoteVtep')}"


def _speak(asking: Asking) -> None:
    """Let every host say something, so that its leaf knows of it."""
    asked = []
    for station, seat in asking.lab.seats.items():
        for v6 in (False, True):
            to = (station.gateway6 if v6 else station.gateway4) or _beside(station.address(v6))
            if station.address(v6) and to:
                asked.append({"in": seat.namespace, "to": to})
    asking.pings(asked, rounds=1, wait=0.5)


def _beside(address: str) -> str:
    """Somebody to ask for in a segment without a gateway; that nobody is there does not matter."""
    return str(ip_interface(f"{address}/24").network[1]) if address and ":" not in address else ""


def prefixes(asking: Asking) -> list[Claim]:
    """Each VRF has the prefixes of all its segments in its kernel's table, on every leaf where it is; and nothing of VRFs that it does not import."""
    leaves = {key: model for key, model in asking.lab.models.items() if model.vrfs}
    tables = asking.every(
        lambda node: {
            str(vrf.label): _prefixes(node, str(vrf.label)) for vrf in asking.lab.models[node.switch.key].vrfs
        },
        leaves,
    )
    wanted = _wanted(leaves)
    found: list[Claim] = []
    for key, model in asking.about(leaves).items():
        for vrf in model.vrfs:
            name = str(vrf.label)
            table = tables[key].get(name, {})
            for prefix, path in sorted(wanted.get(name, {}).items()):
                via = table.get(prefix)
                found.append(Claim(
                    f"{model.name} has {prefix} in {name}", via is not None, str(model.name), "a route", via or "no route",
                    f"ip route show vrf {name}", "" if via else excerpt("\n".join(sorted(table)) or "an empty table"), path,
                ))  # fmt: skip
    return found


def _wanted(leaves: dict[str, SwitchModel]) -> dict[str, dict[str, str]]:
    """By VRF the prefixes of its segments in this lab, with the path of what says so."""
    found: dict[str, dict[str, str]] = {}
    for model in leaves.values():
        for segment in model.segments:
            for part in ("gateway_v4", "gateway_v6"):
                gateway = getattr(segment, part)
                if segment.vrf and gateway:
                    path = f"switches/{model.name}/segments/{segment.label}/{part}"
                    found.setdefault(str(segment.vrf), {}).setdefault(str(ip_interface(str(gateway)).network), path)
    return found


def _prefixes(node: Any, vrf: str) -> dict[str, str]:
    found: dict[str, str] = {}
    for family in ("-4", "-6"):
        for one in json.loads(node.run("ip", family, "-j", "route", "show", "vrf", vrf, check=False) or "[]"):
            if one.get("type", "unicast") == "unicast":
                found[one["dst"]] = f"by {one.get('protocol', '?')}"
    return found


def shared(asking: Asking) -> list[Claim]:
    """Every leaf knows both leaves of a host that a pair shares."""
    command = "show evpn es detail json"
    pairs: dict[int, list[SwitchModel]] = {}
    hosts: dict[int, str] = {}
    seated = {station.host for station in asking.stations}
    for model in asking.lab.models.values():
        for lag in model.host_lags:
            if lag.segment_id is not None and str(lag.host) in seated:
                pairs.setdefault(lag.segment_id, []).append(model)
                hosts[lag.segment_id] = str(lag.host)
    shared_by = {serial: models for serial, models in pairs.items() if len(models) == 2}
    leaves = {key: model for key, model in asking.lab.models.items() if model.segments and model.vtep}
    if not shared_by:
        return []
    said = asking.told("zebra", command, leaves)
    found: list[Claim] = []
    for serial, models in shared_by.items():
        for key, model in leaves.items():
            if not {str(one.label) for one in model.segments} & {
                str(one.label) for far in models for one in far.segments
            }:
                continue
            ends = {str(one.vtep) for one in models} - {str(model.vtep)}
            known = [{str(end.get("vtep")) for end in one.get("vteps", [])} for one in said[key] or []]
            holds = any(ends <= one for one in known)
            words = "both leaves" if len(ends) == 2 else "the other leaf"
            found.append(Claim(f"{model.name} knows {words} of {hosts[serial]}", holds, str(model.name), " and ".join(sorted(ends)), "known" if holds else "not known", f"vtysh -c '{command}'", "" if holds else excerpt(said[key]), f"switches/{model.name}/vtep"))  # fmt: skip
    return found
