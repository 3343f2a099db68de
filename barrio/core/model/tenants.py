"""What a VRF knows beside its segments: static routes, what it takes from other VRFs, and what it tells systems outside."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping
from functools import cached_property
from ipaddress import IPv4Network, IPv6Network, ip_address, ip_network

from barrio.core.brief.model import Brief
from barrio.core.brief.tenants import Vrf
from barrio.core.ledger.pool import Family, prefix_text
from barrio.core.ledger.prefixes import secondaries
from barrio.core.ledger.wanted import Taken
from barrio.core.model.switch import FilterEntry, Imported, OutsideSession, StaticRoute
from barrio.core.printed import Address, Made, Prefix, VrfName

Network = IPv4Network | IPv6Network


class Tenants:
    """Answers for a whole fabric, each thing worked out once."""

    def __init__(self, brief: Brief, numbers: Mapping[str, Mapping[str, Taken]]) -> None:
        self._brief, self._numbers = brief, numbers
        self._own: dict[tuple[Family, str], tuple[FilterEntry, ...]] = {}

    @cached_property
    def prefixes(self) -> Mapping[str, tuple[Prefix, ...]]:
        """The prefixes of each segment: its own, and those beside."""
        found: dict[str, tuple[Prefix, ...]] = dict.fromkeys(self._brief.segments, ())
        for family in (Family.V4, Family.V6):
            held = self._numbers.get(f"segment.{family}", {})
            beside = secondaries(self._brief, family)
            for key in [*(f"segment/{name}" for name in self._brief.segments), *beside]:
                if key in held:
                    name = key.removeprefix("segment/").split("~")[0]
                    found[name] += (Prefix(prefix_text(family, *held[key])),)
        return found

    def of_vrf(self, vrf: str) -> Iterator[tuple[str, Prefix]]:
        """Every prefix of a VRF, with the segment that it is of."""
        for name, segment in sorted(self._brief.segments.items()):
            if segment.vrf == vrf:
                yield from ((name, prefix) for prefix in self.prefixes[name])

    @cached_property
    def _networks(self) -> Mapping[str, tuple[tuple[str, Network], ...]]:
        return {vrf: tuple((name, ip_network(one)) for name, one in self.of_vrf(vrf)) for vrf in self._brief.vrfs}

    def beside(self, vrf: str, address: Address) -> str | None:
        """The segment of a VRF that an address is in, or nothing."""
        wanted = ip_address(address)
        return next((name for name, network in self._networks[vrf] if wanted in network), None)

    def routes(
        self, vrf: str, here: Collection[str], sessions: Iterable[OutsideSession], family: Family
    ) -> tuple[StaticRoute, ...]:
        """The static routes of a leaf: those that lead over a segment or a link to the outside that it has."""
        said = self._brief.vrfs[vrf].routes
        if not said:
            return ()
        links = [ip_network(one, strict=False) for session in sessions for one in (session.v4, session.v6) if one]
        return tuple(
            StaticRoute(Made(f"{prefix} {via}"), Prefix(prefix), via)
            for prefix, hops in said.items()
            if (":" in prefix) == (family is Family.V6)
            for via in hops
            if self.beside(vrf, via) in here or any(ip_address(via) in link for link in links)
        )

    @cached_property
    def imports(self) -> Mapping[str, tuple[Imported, ...]]:
        """What each VRF takes from others."""
        return {
            name: tuple(
                Imported(VrfName(other), _entries(taken, 4), _entries(taken, 6))
                for other, shares in sorted(vrf.imports.items())
                for taken in [self.shared(other, shares)]
            )
            for name, vrf in self._brief.vrfs.items()
        }

    def shared(self, other: str, shares: Iterable[str]) -> tuple[Prefix, ...]:
        """The prefixes that shares of another VRF are: those of the segments that they name, and those that they are."""
        found: dict[Prefix, None] = {}
        for share in shares:
            found |= dict.fromkeys([Prefix(share)] if "/" in share else self.prefixes[share])
        return tuple(found)

    def own(self, family: Family, vrf: str) -> tuple[FilterEntry, ...]:
        """What systems outside are told of a VRF, wherever in the fabric it is: aggregates, and what none of them covers."""
        if (family, vrf) not in self._own:
            self._own[family, vrf] = tuple(self._told(family, self._brief.vrfs[vrf], vrf))
        return self._own[family, vrf]

    @cached_property
    def _servers(self) -> frozenset[tuple[VrfName, Address, str | None]]:
        """The DHCP servers that questions are handed to: the VRF and the segment in which each is, if it is in one."""
        asked = [
            (segment.relay.vrf or segment.vrf, segment.relay)
            for segment in self._brief.segments.values()
            if segment.relay
        ]
        return frozenset(
            (vrf, server, self.beside(vrf, server)) for vrf, relay in asked if vrf for server in relay.servers
        )

    @cached_property
    def asked_v6(self) -> frozenset[str]:
        """The segments with DHCPv6 servers that questions are handed to."""
        return frozenset(segment for _, server, segment in self._servers if segment and ":" in server)

    def _told(self, family: Family, said: Vrf, vrf: str) -> Iterator[FilterEntry]:
        version = 4 if family is Family.V4 else 6
        covers = [ip_network(one) for one in said.aggregates]
        beyond = [one for one in said.routes if ip_network(one).prefixlen]
        everything = dict.fromkeys([prefix for _, prefix in self.of_vrf(vrf)] + [Prefix(one) for one in beyond])
        yield from covering(said, version)
        for prefix in everything:
            network = ip_network(prefix)
            if network.version == version and not any(_covers(one, network) for one in covers):
                yield FilterEntry(prefix, prefix)
        # A server that is in no segment answers from outside, which has to know the way.
        if any(at == vrf and segment is None for at, _, segment in self._servers):
            numbers = self._numbers.get(f"relay.{family}", {})
            for taken in sorted(taken for key, taken in numbers.items() if key.endswith(f"~{vrf}")):
                source = Prefix(f"{prefix_text(family, *taken)}/{32 if version == 4 else 128}")
                yield FilterEntry(source, source)


def covering(vrf: Vrf, version: int) -> tuple[FilterEntry, ...]:
    """The aggregates of a VRF in one family."""
    return _entries(vrf.aggregates, version)


def _entries(prefixes: Iterable[Prefix], version: int) -> tuple[FilterEntry, ...]:
    return tuple(FilterEntry(one, one) for one in prefixes if ip_network(one).version == version)


def _covers(wide: Network, narrow: Network) -> bool:
    return (isinstance(wide, IPv4Network) and isinstance(narrow, IPv4Network) and narrow.subnet_of(wide)) or (
        isinstance(wide, IPv6Network) and isinstance(narrow, IPv6Network) and narrow.subnet_of(wide)
    )
