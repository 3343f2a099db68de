"""What is attached: hosts by what ports are called, and plugs, which are the ways of attaching that many ports have alike."""

from __future__ import annotations

import json
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping, Set
from typing import Any

from barrio.core.adopt.carried import Carried
from barrio.core.adopt.defaults import without_hosts
from barrio.core.adopt.found import Findings
from barrio.core.adopt.lags import lags_of
from barrio.core.adopt.running import Known
from barrio.core.adopt.seats import Seat, Ways, seats_of
from barrio.core.adopt.shape import Shape
from barrio.core.brief.ranges import contract_names, contract_ports
from barrio.core.exchange.tiers import natural


def attached(
    known: Mapping[str, Known], shape: Shape, carried: Carried, host_mtu: int, silent: Set[str], found: Findings
) -> dict[str, Any]:
    """The edits that say who is attached where. Of leaves that are `silent`, since they are shut or could not be read, hosts are taken to be as on the other
    leaves of their rack."""
    seats = {
        name: list(seats_of(known[name], shape, carried, host_mtu)) for name in shape.keys if shape.tier[name] == "leaf"
    }
    edits = without_hosts(seats, shape, carried, found)
    for place, ports in lags_of(known, shape).items():
        shape.edits["racks"][place].setdefault("lags", ports)
    racks: dict[str, list[str]] = defaultdict(list)
    for name in sorted(seats, key=lambda name: shape.keys[name]):
        racks[_rack(shape.keys[name])].append(name)
    places: dict[tuple[str, str, tuple[str, ...]], Ways] = {}
    for rack, members in racks.items():
        places |= _places(rack, members, seats, shape, silent)
    plugs = _plugs(places.values())
    edits |= {f"plugs.{name}": dict(ways) for ways, name in plugs.items()}
    for ways, name in plugs.items():
        count = sum(one == ways for one in places.values())
        found.propose(
            "attached",
            f"plug/{name}",
            f"plug {name}",
            {f"plugs.{name}": dict(ways)},
            [f"{count} hosts are attached in this way"],
            "likely",
        )
    for names, entry in _entries(places, plugs):
        edits[f'hosts."{names}"'] = entry
        found.propose(
            "attached",
            f"host/{names}",
            f"host {names}",
            {f'hosts."{names}"': entry},
            [f"what the ports are called at {_joined(entry['at'])}"],
            "likely",
        )
    return edits


def _joined(at: str | list[str]) -> str:
    return at if isinstance(at, str) else ", ".join(at)


def _rack(key: str) -> str:
    return key.split("/")[1]


def _places(
    rack: str, members: list[str], seats: Mapping[str, list[Seat]], shape: Shape, silent: Set[str]
) -> dict[tuple[str, str, tuple[str, ...]], Ways]:
    """Hosts by name, place and ports. One that the same ports of all leaves of a rack are called after is plugged into the rack."""
    by_host: dict[tuple[str, tuple[str, ...], Ways], list[str]] = defaultdict(list)
    for name in members:
        for seat in seats[name]:
            by_host[seat.host or f"{name}-{seat.ports[0]}", seat.ports, seat.ways].append(name)
    found: dict[tuple[str, str, tuple[str, ...]], Ways] = {}
    for (host, ports, ways), leaves in by_host.items():
        if set(leaves) | silent >= set(members):
            found[host, rack, ports] = ways
        else:
            for leaf in leaves:
                side = shape.keys[leaf].rsplit("/", 1)[1]
                found[host, f"{rack}/{side}" if len(members) > 1 else rack, ports] = ways
    return found


def _plugs(all_ways: Iterable[Ways]) -> dict[Ways, str]:
    """A plug for each way that several hosts have, named after what it carries."""
    counts = Counter(all_ways)
    plugs: dict[Ways, str] = {}
    taken: set[str] = set()
    for ways, count in sorted(counts.items(), key=lambda one: (-one[1], json.dumps(one[0]))):
        if count < 2 or not ways:
            continue
        said = dict(ways)
        base = said.get("untagged") or (said["tagged"][0] if said.get("tagged") else "bare")
        name, number = base, 2
        while name in taken or name in ("every", "shut"):
            name, number = f"{base}-{number}", number + 1
        taken.add(name)
        plugs[ways] = name
    return plugs


def _entries(
    places: Mapping[tuple[str, str, tuple[str, ...]], Ways], plugs: Mapping[Ways, str]
) -> Iterator[tuple[str, dict[str, Any]]]:
    """Entries of the brief: hosts whose names and ports run on are one. A host in several places is one entry of its own."""
    at: dict[str, list[tuple[str, tuple[str, ...]]]] = defaultdict(list)
    ways_of: dict[str, Ways] = {}
    for (host, place, ports), ways in places.items():
        at[host].append((place, ports))
        ways_of[host] = ways
    run: list[str] = []
    for host in [*sorted(at, key=lambda host: (natural(at[host][0][0]), natural(host))), ""]:
        if run and not (host and _runs_on(run[-1], host, at, ways_of)):
            yield _entry(run, at, ways_of, plugs)
            run = []
        run.append(host)


def _runs_on(
    before: str, host: str, at: Mapping[str, list[tuple[str, tuple[str, ...]]]], ways_of: Mapping[str, Ways]
) -> bool:
    if len(at[before]) != 1 or len(at[host]) != 1 or ways_of[before] != ways_of[host]:
        return False
    (place, ports), (here, mine) = at[before][0], at[host][0]
    run = contract_names((before, host))
    return place == here and len(ports) == len(mine) and "," not in run and "," not in contract_ports((*ports, *mine))


def _entry(
    hosts: list[str],
    at: Mapping[str, list[tuple[str, tuple[str, ...]]]],
    ways_of: Mapping[str, Ways],
    plugs: Mapping[Ways, str],
) -> tuple[str, dict[str, Any]]:
    by_place: dict[str, list[str]] = defaultdict(list)
    for host in hosts:
        for place, ports in at[host]:
            by_place[place] += ports
    texts = [f"{place} {contract_ports(ports)}" for place, ports in by_place.items()]
    entry: dict[str, Any] = {"at": texts[0] if len(texts) == 1 else texts}
    ways = ways_of[hosts[0]]
    if ways in plugs:
        entry["plug"] = plugs[ways]
    else:
        entry |= {key: list(value) if isinstance(value, tuple) else value for key, value in ways}
    return contract_names(tuple(hosts)), entry
