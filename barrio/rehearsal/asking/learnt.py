"""Questions about what EVPN tells, route type by route type (RFC 7432, 7; RFC 9136), and about a host that moves (RFC 7432, 15)."""

from __future__ import annotations

import time
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from ipaddress import ip_interface
from typing import Any

from barrio.core.model.switch import SwitchModel
from barrio.core.rehearse.stations import Station, segment_on
from barrio.rehearsal.asking.claims import Asking, Claim, excerpt

TYPES = {2: "macip", 3: "multicast", 5: "prefix", 4: "es", 1: "ead"}
"""Route types, as FRRouting asks for them."""


@dataclass(frozen=True, slots=True)
class Route:
    """An EVPN route as a switch has it: `about` is what it tells (an address, a prefix, an Ethernet segment), from which tunnel end, for which route targets."""

    kind: int
    about: str
    vtep: str
    targets: frozenset[str]


def types(asking: Asking) -> list[Claim]:
    """Every leaf has of every other one just the routes of each type that the plan says, with the planned route targets."""
    leaves = {key: model for key, model in asking.lab.models.items() if model.segments and model.vtep}
    told = {
        kind: asking.told("bgpd", f"show bgp l2vpn evpn route type {word} json", leaves) for kind, word in TYPES.items()
    }
    said = {key: {kind: _routes(one[key], kind) for kind, one in told.items()} for key in leaves}
    found: list[Claim] = []
    for key, model in leaves.items():
        others: dict[str, list[SwitchModel]] = {}
        for far in leaves.values():
            if far.vtep != model.vtep:
                others.setdefault(str(far.vtep), []).append(far)
        for vtep, fars in others.items():
            for kind in TYPES:
                wanted = set(_wanted(asking, model, fars, kind))
                if wanted:
                    there = {one for one in said[key][kind] if one.vtep == vtep}
                    found.append(_claim(model, fars, kind, wanted, there))
    return found


def _claim(
    model: SwitchModel, fars: list[SwitchModel], kind: int, wanted: Collection[Route], there: Collection[Route]
) -> Claim:
    lacking = [one for one in wanted if not any(_serves(one, each) for each in there)]
    other = [
        one
        for one in there
        if kind == 3 and not any(one.about == each.about and each.targets <= one.targets for each in wanted)
    ]
    faults = [f"no route for {one.about} with {' and '.join(sorted(one.targets))}" for one in lacking] + [
        f"one for {' and '.join(sorted(one.targets))} that nobody planned" for one in other
    ]
    name = " and ".join(str(one.name) for one in fars)
    return Claim(
        f"{model.name} has {len(wanted)} route{'' if len(wanted) == 1 else 's'} of type {kind} of {name}", not faults, str(model.name), _words(wanted),
        "; ".join(faults[:4]) or "all are there", f"vtysh -c 'show bgp l2vpn evpn route type {TYPES[kind]} json'", "" if not faults else excerpt(_words(there) or "no such route"),
        f"switches/{fars[0].name}/vtep", name,
    )  # fmt: skip


def _serves(wanted: Route, there: Route) -> bool:
    return wanted.about == there.about and wanted.targets <= there.targets


def _words(routes: Collection[Route]) -> str:
    return "; ".join(
        sorted(f"{one.about} ({', '.join(sorted(one.targets))})" if one.targets else one.about for one in routes)
    )


def _wanted(asking: Asking, model: SwitchModel, fars: list[SwitchModel], kind: int) -> Iterator[Route]:
    """The routes of a type that the plan says a leaf has of those behind a tunnel end; of hosts those that play, of prefixes those of segments."""
    vtep = str(fars[0].vtep)
    vrfs = {str(one.label) for one in model.vrfs}
    for far in fars:
        targets = {str(one.label): str(one.route_target) for one in far.segments}
        if kind == 3:
            yield from (Route(3, vtep, vtep, frozenset({targets[one]})) for one in targets)
        elif kind == 2:
            for station in asking.stations:
                if str(far.name) in station.leaves and station.segment in targets and not station.silent:
                    yield Route(2, station.mac, vtep, frozenset({targets[station.segment]}))
        elif kind == 5:
            for vrf in far.vrfs:
                for one in far.segments:
                    for gateway in (one.gateway_v4, one.gateway_v6):
                        if gateway and one.vrf == vrf.label and str(vrf.label) in vrfs:
                            yield Route(
                                5, str(ip_interface(str(gateway)).network), vtep, frozenset({str(vrf.route_target)})
                            )
        else:
            seated = {one.host for one in asking.stations}
            for lag in far.host_lags:
                if lag.segment_id is not None and str(lag.host) in seated:
                    yield Route(kind, f"Ethernet segment {lag.segment_id}", vtep, frozenset())


def _routes(said: Mapping[str, Any], kind: int) -> list[Route]:
    """The routes of a type in what FRRouting answered, those of others alone."""
    found = []
    for routes in said.values():
        for name, one in routes.items() if isinstance(routes, dict) else ():
            if not isinstance(one, dict):
                continue
            for path in (each for group in one.get("paths", ()) for each in group):
                targets = frozenset(
                    word[3:]
                    for word in path.get("extendedCommunity", {}).get("string", "").split()
                    if word.startswith("RT:")
                )
                for hop in path.get("nexthops", ())[:1]:
                    found.append(
                        Route(
                            kind,
                            _about(name, path, kind),
                            hop.get("ip", ""),
                            targets if kind in (2, 3, 5) else frozenset(),
                        )
                    )
    return found


def _about(name: str, path: Mapping[str, Any], kind: int) -> str:
    parts = [one.strip("[]") for one in name.split("]:[")]
    if kind == 2:
        return str(path.get("mac", parts[3] if len(parts) > 3 else ""))
    if kind == 3:
        return str(path.get("ip", parts[-1]))
    if kind == 5:
        return f"{path.get('ip', parts[-1])}/{path.get('ipLen', parts[2])}"
    # The last three bytes of the segment's identifier are its number (RFC 7432, 5, type 3).
    identifier = next((one for one in parts if one.count(":") == 9), "")
    return f"Ethernet segment {int(identifier.replace(':', '')[-6:], 16)}" if identifier else name


def moves(asking: Asking) -> list[Claim]:
    """A host that moves to another leaf is known there within seconds, on every leaf, and again at its own when it comes back."""
    pair = _movers(asking)
    if pair is None:
        return []
    one, other = pair
    lab = asking.lab
    home, away = lab.seats[one], lab.seats[other]
    space = f"{away.namespace}-moved"
    lines = [f"link set moved mtu {one.mtu} up", "link set lo up"]
    lines += [f"address add {text} dev moved{' nodad' if ':' in text else ''}" for text in (one.v4, one.v6) if text]
    silent = f"dev {home.device} root"
    try:
        home.ground.run("tc", "-n", home.namespace, "qdisc", "add", *silent.split(), "netem", "loss", "100%")
        lab.laid.space(space, away.ground)
        lab.laid.lay()
        lab.ip(
            f"link add link {away.device} name moved netns {space} address {one.mac} type macvlan mode bridge",
            namespace=away.namespace,
        )
        lab.ip(*lines, namespace=space)
        found = list(_known(asking, one, other, space))
    finally:
        away.ground.run("ip", "netns", "del", space)
        home.ground.run("tc", "-n", home.namespace, "qdisc", "del", *silent.split())
    return [*found, *_known(asking, one, one, home.namespace)]


def _movers(asking: Asking) -> tuple[Station, Station] | None:
    """A host, and one in the same segment on another leaf beside which it can turn up."""
    hosts = asking.compiled.attachments.hosts
    free = [
        one for one in asking.stations
        if not one.silent and len(one.leaves) == 1 and one.host in hosts and not hosts[one.host].way.only and (hosts[one.host].way.macs or 9) > 1 and (one.gateway4 or one.gateway6)
    ]  # fmt: skip
    for one in free:
        for other in free:
            if one.segment == other.segment and one.leaves != other.leaves:
                return one, other
    return None


def _known(asking: Asking, one: Station, at: Station, space: str) -> Iterator[Claim]:
    """Who takes the host to be where it is now, once it has spoken."""
    [leaf] = at.leaves
    vtep = next(str(model.vtep) for model in asking.lab.models.values() if model.name == leaf)
    leaves = {
        key: segment
        for key in asking.lab.models
        if (segment := segment_on(asking.compiled, key, one.segment)) is not None
    }
    command, until = "show evpn mac vni all json", time.monotonic() + 15
    while True:
        asking.leave()
        asking.pings([{"in": space, "to": one.gateway4 or one.gateway6}], rounds=1, wait=0.5)
        said = asking.told("zebra", command, leaves)
        there = {
            key: said[key].get(str(segment.vni), {}).get("macs", {}).get(one.mac, {}) for key, segment in leaves.items()
        }
        right = {
            key: told.get("type") == ("local" if asking.names[key] == leaf else "remote")
            and (asking.names[key] == leaf or told.get("remoteVtep") == vtep)
            for key, told in there.items()
        }
        if all(right.values()) or time.monotonic() > until:
            break
    moved = "moved to" if at is not one else "came back to"
    for key, segment in leaves.items():
        name = asking.names[key]
        words = f"it is {there[key].get('type', 'not known')}{' behind ' + there[key]['remoteVtep'] if 'remoteVtep' in there[key] else ''}"
        yield Claim(f"{name} knows that {one.name} {moved} {leaf}", right[key], name, "at a port of its own" if name == leaf else f"behind {vtep}", words, f"vtysh -c '{command}'", "" if right[key] else excerpt(there[key]), f"switches/{name}/segments/{segment.label}/vni")  # fmt: skip
