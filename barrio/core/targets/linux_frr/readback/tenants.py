"""What VRFs say of each other and of what is behind their hosts: next hops are beside, imports are named and not told again."""

from __future__ import annotations

import re
from collections.abc import Iterator

from barrio.core.targets.linux_frr.readback.read import Router, SwitchText

_ROUTE = re.compile(r"ip(?:v6)? route (\S+) (\S+)")
_MAP = re.compile(r"route-map (\S+) (permit|deny) (\d+)")
_LAST = 65000
"""The number of a map's last entry, for what none before it took."""


def tenants(switch: SwitchText) -> Iterator[tuple[str, str]]:
    """Everything that routes, imports and aggregates of one switch contradict, as (code, words)."""
    lists: dict[str, list[str]] = {}
    numbered = {name: [int(entry.split()[1]) for entry in entries] for name, entries in switch.lists.items()}
    for block, said in switch.blocks.items():
        found = _MAP.fullmatch(block)
        if found:
            numbered.setdefault(found[1], []).append(int(found[3]))
            named = [line.split()[-1] for line in said if " prefix-list " in line]
            lists.setdefault(found[1], []).extend(named if found[2] == "permit" else [f"not {one}" for one in named])
            for one in named:
                if one not in switch.lists:
                    yield "filter", f"{found[1]} asks for {one}, which is not there"
            others = [line.split()[-1] for line in said if line.startswith("match source-vrf ")]
            if [one.split(".")[-1].rsplit("-", 1)[0] for one in named if found[2] == "permit"] != others:
                yield "import", f"{found[1]} names {', '.join(others) or 'no VRF'}, and filters by {', '.join(named)}"
    for vrf, router in switch.routers.items():
        for family, lines in router.lines.items():
            if len(set(lines)) < len(lines):
                yield (
                    "twice",
                    f"BGP of {vrf or 'the fabric'} says something twice in {family or 'what all families share'}",
                )
        if vrf:
            yield from _routes(switch, vrf, router)
            yield from _imports(switch, vrf, router, lists)
    used = {line.split()[-1] for router in switch.routers.values() for lines in router.lines.values() for line in lines}
    for name in lists.keys() - used:
        yield "filter", f"nothing asks for {name}"
    for name, numbers in numbered.items():
        between = [one for one in numbers if one not in (1, _LAST)]
        if any(one % 5 for one in between) or sorted(set(numbers)) != numbers:
            yield "filter", f"the entries of {name} are numbered {', '.join(map(str, numbers))}, and not by fives"


def known_alike(switch: SwitchText) -> Iterator[tuple[str, str, str]]:
    """What is the same wherever it is said, as (thing, what of it, how it is): imports, and what an address leads to."""
    maps: dict[str, list[str]] = {}
    for block, said in switch.blocks.items():
        found = _MAP.fullmatch(block)
        if found:
            maps.setdefault(found[1], []).append(f"{block}: {', '.join(said)}")
    yield from ((f"route-map {name}", "rules", "; ".join(said)) for name, said in maps.items())
    yield from ((f"list {name}", "entries", "; ".join(said)) for name, said in switch.lists.items() if ".from." in name)
    behind: dict[tuple[str, str], list[str]] = {}
    for vrf in switch.vrf_vnis:
        for line in switch.blocks.get(f"vrf {vrf}", ()):
            found = _ROUTE.fullmatch(line)
            if found:
                beside = switch.beside(found[2], vrf)
                behind.setdefault((vrf, f"routes by {found[2]}"), []).append(found[1])
                behind.setdefault((vrf, f"ways to {found[1]} in {beside and beside.network}"), []).append(found[2])
    yield from ((f"VRF {vrf}", what, ", ".join(sorted(found))) for (vrf, what), found in behind.items())
    for vrf, router in switch.routers.items():
        for session in router.sessions if vrf else ():
            yield f"system {session.value('description')}", "AS", session.value("remote-as")
            most = [session.value("maximum-prefix", f"ipv{version} unicast") for version in (4, 6)]
            yield f"system {session.value('description')}", "most prefixes", "".join(most)


def _routes(switch: SwitchText, vrf: str, router: Router) -> Iterator[tuple[str, str]]:
    """A next hop is on a subnet of the VRF and is no gateway of ours; other leaves are told of it."""
    told = {
        6 if ":" in found[1] else 4 for line in switch.blocks.get(f"vrf {vrf}", ()) if (found := _ROUTE.fullmatch(line))
    }
    for line in switch.blocks.get(f"vrf {vrf}", ()):
        found = _ROUTE.fullmatch(line)
        if found:
            beside = switch.beside(found[2], vrf)
            if beside is None or str(beside.ip) == found[2]:
                yield "route", f"no link of {vrf} leads to {found[2]}, by which {found[1]} is reached"
            if switch.has_network(found[1], vrf):
                yield "route", f"{found[1]} is beside the switch, and is said to be behind {found[2]}"
    for version in (4, 6):
        if ("redistribute static" in router.lines.get(f"ipv{version} unicast", [])) != (version in told):
            yield "route", f"the static routes of {vrf} are told by half (IPv{version})"


def _imports(switch: SwitchText, vrf: str, router: Router, lists: dict[str, list[str]]) -> Iterator[tuple[str, str]]:
    for version in (4, 6):
        family = router.lines.get(f"ipv{version} unicast", [])
        others = [line.split()[-1] for line in family if re.fullmatch(r"import vrf \S+", line)]
        maps = {line.split()[-1] for line in family if line.startswith("import vrf route-map ")}
        for other in others:
            if other not in switch.routers:
                yield "import", f"{vrf} takes routes from {other}, which has no BGP here"
        if bool(others) != (len(maps) == 1):
            yield "import", f"{vrf} takes routes from others without a filter, or filters what it does not take"
        wanted = sorted(f"{vrf}.from.{other}-v{version}" for other in others)
        taken = sorted(one for name in maps for one in lists.get(name, []))
        if taken != wanted:
            yield (
                "import",
                f"{vrf} takes {', '.join(taken) or 'everything'}, and imports from {', '.join(others) or 'nobody'}",
            )
        own = [
            line.split()[-1]
            for line in router.lines.get("l2vpn evpn", [])
            if line.startswith(f"advertise ipv{version} unicast route-map ")
        ]
        kept = sorted(one.removeprefix("not ") for name in own for one in lists.get(name, []))
        if kept != wanted:
            yield "import", f"{vrf} tells again what it took from {', '.join(others) or 'nobody'} (IPv{version})"
        for line in family:
            if line.startswith("aggregate-address "):
                prefix = line.split()[1]
                if not any(
                    name == f"{vrf}-own-v{version}" and f"permit {prefix}" in " ".join(entries)
                    for name, entries in switch.lists.items()
                ):
                    yield "filter", f"{prefix} is made of {vrf}'s prefixes, and told to nobody"
