"""Checks of pools against the RFCs that set ranges apart: what is private, what is for documents, what must not be used."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from barrio.core.brief.model import Brief
from barrio.core.errors import Fault
from barrio.core.ledger.nest import within
from barrio.core.ledger.pool import Family, Kind, Pool, Range, parse_range

PRIVATE = {
    "10.0.0.0/8": "RFC 1918", "172.16.0.0/12": "RFC 1918", "192.168.0.0/16": "RFC 1918", "100.64.0.0/10": "RFC 6598",
    "fc00::/7": "RFC 4193",
}  # fmt: skip
DOCUMENTATION = {
    "192.0.2.0/24": "RFC 5737", "198.51.100.0/24": "RFC 5737", "203.0.113.0/24": "RFC 5737", "2001:db8::/32": "RFC 3849",
    "3fff::/20": "RFC 9637",
}  # fmt: skip
UNUSABLE = {
    "0.0.0.0/8": "RFC 1122, this network", "127.0.0.0/8": "RFC 1122, loopback of a host", "169.254.0.0/16": "RFC 3927, link-local",
    "224.0.0.0/4": "RFC 5771, multicast", "240.0.0.0/4": "RFC 1112, reserved", "::/8": "RFC 4291, reserved",
    "fe80::/10": "RFC 4291, link-local", "ff00::/8": "RFC 4291, multicast",
}  # fmt: skip
PRIVATE_ASNS = ((64512, 65534), (4200000000, 4294967294))
"""RFC 6996."""
DOCUMENTATION_ASNS = ((64496, 64511), (65536, 65551))
"""RFC 5398."""


def check_pools_of(brief: Brief, pools: Mapping[str, Pool]) -> tuple[Fault, ...]:
    """Findings about the ranges that a brief draws from, in the order of the pools' names.

    `pool.unusable`, `pool.public` and `pool.documentation` for addresses, `asn.public` and `asn.documentation` for ASNs.
    """
    drawn = sorted({name for _, name in brief.numbers})
    return tuple(fault for name in drawn for part in pools[name].ranges for fault in check_range(pools[name], part))


def check_range(pool: Pool, part: Range) -> Iterator[Fault]:
    """What is to be said about one range of a pool."""
    if part.family is not Family.NUMBER:
        yield from _addresses(pool, part)
    elif pool.kind is Kind.ASN:
        yield from _asns(pool, part)


def _addresses(pool: Pool, part: Range) -> Iterator[Fault]:
    path = f"pools.{pool.name}"
    bad = _meets(part, _UNUSABLE)
    if bad:
        yield Fault("pool.unusable", f"{part.text} in pool {pool.name} cannot be given to interfaces ({bad}).", path)
        return
    paper = _meets(part, _DOCUMENTATION)
    if paper:
        words = f"{part.text} in pool {pool.name} is for documents ({paper}); no network may carry it."
        yield Fault("pool.documentation", words, path)
    elif not any(within(part, one) for one, _ in _PRIVATE):
        words = f"{part.text} in pool {pool.name} is not private (RFC 1918, 4193, 6598). Make sure that it is yours."
        yield Fault("pool.public", words, path)


def _asns(pool: Pool, part: Range) -> Iterator[Fault]:
    path = f"pools.{pool.name}"
    if any(low <= part.high and part.low <= high for low, high in DOCUMENTATION_ASNS):
        words = f"{part.text} in pool {pool.name} has ASNs that are for documents (RFC 5398)."
        yield Fault("asn.documentation", words, path)
    elif not any(low <= part.low and part.high <= high for low, high in PRIVATE_ASNS):
        words = (
            f"{part.text} in pool {pool.name} has ASNs that are not private (RFC 6996). Make sure that they are yours."
        )
        yield Fault("asn.public", words, path)


def _meets(part: Range, ranges: tuple[tuple[Range, str], ...]) -> str | None:
    return next(
        (why for one, why in ranges if one.family is part.family and one.low <= part.high and part.low <= one.high),
        None,
    )


def _ranges(said: Mapping[str, str]) -> tuple[tuple[Range, str], ...]:
    return tuple((parse_range(text), why) for text, why in said.items())


_PRIVATE, _DOCUMENTATION, _UNUSABLE = _ranges(PRIVATE), _ranges(DOCUMENTATION), _ranges(UNUSABLE)
