"""DHCP relays of a leaf: whose questions go to which servers, from which address and by which devices."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

from barrio.core.brief.model import Brief
from barrio.core.brief.tenants import Segment
from barrio.core.ledger.pool import Family, address_text
from barrio.core.ledger.wanted import Taken
from barrio.core.model.switch import FilterEntry, OutsideSession, Relay, SegmentModel, VrfModel
from barrio.core.model.tenants import Tenants
from barrio.core.printed import Address, Made, Name, Prefix, Printed, VrfName


def relays_to(segment: Segment) -> VrfName | None:
    """The VRF where the DHCP servers of a segment are, or nothing."""
    return (segment.relay.vrf or segment.vrf) if segment.relay else None


def sources(vrf: str, leaf: str, numbers: Mapping[str, Mapping[str, Taken]]) -> tuple[FilterEntry, ...]:
    """The addresses from which a leaf asks the servers of a VRF, each with its whole length."""
    found = []
    for family, length in ((Family.V4, 32), (Family.V6, 128)):
        taken = numbers.get(f"relay.{family}", {}).get(f"{leaf}~{vrf}")
        if taken:
            prefix = Prefix(f"{address_text(family, taken.low)}/{length}")
            found.append(FilterEntry(prefix, prefix))
    return tuple(found)


def relays(
    brief: Brief,
    tenants: Tenants,
    segments: Sequence[SegmentModel],
    vrfs: Sequence[VrfModel],
    outside: Sequence[OutsideSession],
) -> Iterator[Relay]:
    """The relays of a leaf: one for each VRF, family and choice of servers."""
    asking: dict[tuple[VrfName, bool, tuple[Address, ...]], list[SegmentModel]] = {}
    for segment in segments:
        said = brief.segments[segment.label]
        vrf = relays_to(said)
        if said.relay is None or vrf is None:
            continue
        for v6 in (False, True):
            servers = tuple(one for one in said.relay.servers if (":" in one) == v6)
            if servers and (segment.gateway_v6 if v6 else segment.gateway_v4):
                asking.setdefault((vrf, v6, servers), []).append(segment)
    tables = {one.label: one for one in vrfs}
    beside = {segment.label: segment.svi for segment in segments}
    for place, ((vrf, v6, servers), asked) in enumerate(asking.items(), 1):
        table = tables[vrf]
        ways = tuple(dict.fromkeys(_ways(tenants, table, beside, servers, outside)))
        clients = tuple(segment.svi for segment in asked)
        yield Relay(
            label=Made(f"{vrf}-{'v6' if v6 else 'v4'}-{place}"),
            vrf=vrf,
            v6=v6,
            own=table.svi,
            source=next(Address(one.prefix.split("/")[0]) for one in table.sources if (":" in one.prefix) == v6),
            servers=servers,
            clients=tuple(one for one in clients if one not in ways),
            uplinks=tuple(one for one in ways if one not in clients),
            both=tuple(one for one in clients if one in ways),
            back=() if table.svi in ways else (table.svi,),
            tunnels=tuple(segment.vxlan for segment in asked),
        )


def _ways(
    tenants: Tenants,
    table: VrfModel,
    beside: Mapping[Name, Made],
    servers: Iterable[Address],
    outside: Sequence[OutsideSession],
) -> Iterator[Printed]:
    """The devices by which servers are reached: their segment's, where it is here, and else those that lead elsewhere."""
    for server in servers:
        segment = tenants.beside(table.label, server)
        if segment is not None and Name(segment) in beside:
            yield beside[Name(segment)]
        else:
            yield table.svi
            if segment is None:
                yield from (session.label for session in outside if session.vrf == table.label)
