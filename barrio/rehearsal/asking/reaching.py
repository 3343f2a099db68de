"""Questions to hosts: who reaches whom, and at which size; and who must not."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

from barrio.core.rehearse.stations import Station, reaches
from barrio.rehearsal.asking.claims import Asking, Claim


def payload(size: int, v6: bool) -> int:
    """What fits into a packet of a size beside its headers (RFC 791, RFC 8200)."""
    return size - (48 if v6 else 28)


def gateways(asking: Asking) -> list[Claim]:
    """Every host reaches its gateway, at its full MTU."""
    asked = [
        (station, v6)
        for station in asking.stations
        for v6 in (False, True)
        if not station.silent and station.address(v6) and (station.gateway6 if v6 else station.gateway4)
    ]
    heard = asking.pings([
        {"in": asking.lab.seats[one].namespace, "to": one.gateway6 if v6 else one.gateway4, "size": payload(one.mtu, v6)} for one, v6 in asked
    ])  # fmt: skip
    return [
        Claim(
            f"{one.name} reaches its gateway {one.gateway6 if v6 else one.gateway4}", count > 0, one.leaves[0], f"an answer to {one.mtu} bytes",
            _came(count), f"ping -M do -s {payload(one.mtu, v6)} {one.gateway6 if v6 else one.gateway4}", "" if count > 0 else f"3 sent from {one.address(v6)}, none received",
            f"switches/{one.leaves[0]}/segments/{one.segment}/gateway_{'v6' if v6 else 'v4'}",
        )
        for (one, v6), count in zip(asked, heard, strict=True)
    ]  # fmt: skip


def _came(count: int) -> str:
    return "answered" if count > 0 else "its own port takes no packet of that size" if count < 0 else "no answer"


def _pairs(asking: Asking, wanted: bool) -> Iterator[tuple[Station, Station, bool]]:
    """Pairs of hosts that the plan says reach each other, or do not, by family; in a pair the speaker comes first."""
    for one, other in combinations(asking.stations, 2):
        if one.host == other.host:
            continue
        for v6 in (False, True):
            if one.address(v6) and other.address(v6) and reaches(asking.compiled, one, other, v6) == wanted:
                yield one, other, v6


def together(asking: Asking) -> list[Claim]:
    """Hosts that are to reach each other do, in segments and across them, on one leaf and across the fabric, at full MTU."""
    pairs = list(_pairs(asking, True))
    sizes = [min(one.mtu, other.mtu) for one, other, _ in pairs]
    seats = asking.lab.seats
    heard = asking.pings([
        {"in": seats[one].namespace, "to": other.address(v6), "size": payload(size, v6)} for (one, other, v6), size in zip(pairs, sizes, strict=True)
    ])  # fmt: skip
    silent = [at for at, count in enumerate(heard) if count <= 0]
    small = dict(
        zip(
            silent,
            asking.pings(
                [{"in": seats[pairs[at][0]].namespace, "to": pairs[at][1].address(pairs[at][2])} for at in silent],
                rounds=2,
            ),
            strict=True,
        )
    )
    found: list[Claim] = []
    for at, (one, other, v6) in enumerate(pairs):
        holds, size = heard[at] > 0, sizes[at]
        words = _came(heard[at]) if holds or small[at] <= 0 else f"answered to 84 bytes, not to {size:,}"
        found.append(Claim(
            f"{one.name} reaches {other.name}{' by IPv6' if v6 else ''}, {_across(one, other)}", holds, other.leaves[0], f"an answer to {size:,} bytes", words,
            f"ping -M do -s {payload(size, v6)} {other.address(v6)}", "" if holds else f"3 sent from {one.address(v6)}, none received", f"switches/{other.leaves[0]}/segments/{other.segment}/vni",
        ))  # fmt: skip
    return found


def _across(one: Station, other: Station) -> str:
    way = "on one leaf" if set(one.leaves) & set(other.leaves) else "across"
    return way if one.segment == other.segment else f"{way}, routed"


def apart(asking: Asking) -> list[Claim]:
    """Hosts that are not to reach each other do not: of VRFs that import nothing of each other, of paused segments, on ports that carry nothing."""
    pairs, seats = list(_pairs(asking, False)), asking.lab.seats
    alone = [one for one in asking.stations if one.silent and one.gateway4]
    heard = asking.pings(
        [{"in": seats[one].namespace, "to": other.address(v6)} for one, other, v6 in pairs]
        + [{"in": seats[one].namespace, "to": one.gateway4} for one in alone],
        rounds=2,
    )
    words = [f"{other.name}{' by IPv6' if v6 else ''}" for _, other, v6 in pairs] + [
        f"the gateway {one.gateway4}" for one in alone
    ]
    asked = [(one, other, other.address(v6)) for one, other, v6 in pairs] + [(one, one, one.gateway4) for one in alone]
    return [
        Claim(
            f"{one.name} does not reach {whom}", count <= 0, other.leaves[0], "no answer", "answered" if count > 0 else "no answer", f"ping {address}",
            f"asked from {one.v4 or one.v6}" if count > 0 else "", f"switches/{other.leaves[0]}/segments/{other.segment}/vrf" if other.vrf and not other.silent else "",
        )
        for (one, other, address), whom, count in zip(asked, words, heard, strict=True)
    ]  # fmt: skip
