"""Pools: named ranges of addresses or numbers from which fabrics draw.

One pool may hold IPv4 and IPv6 ranges side by side; a demand takes from the ranges of its own family. Bounds are inclusive
integers. Addresses are integers throughout `ledger`; `text` turns them into what people read. A pool belongs to a scope,
within which numbers differ; it may be cut from a larger pool of its scope, and be private to one fabric.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import timedelta
from enum import StrEnum
from ipaddress import IPv6Address, ip_network

from barrio.core.errors import refuse
from barrio.core.printed import Address


class Family(StrEnum):
    V4 = "v4"
    V6 = "v6"
    NUMBER = "number"


def family_of(use: str) -> Family:
    """The family of a use, from its name.

    >>> family_of("link.v6"), family_of("asn")
    (<Family.V6: 'v6'>, <Family.NUMBER: 'number'>)
    """
    end = use.rsplit(".", 1)[-1]
    return Family(end) if end in ("v4", "v6") and "." in use else Family.NUMBER


@dataclass(frozen=True, slots=True)
class Range:
    family: Family
    low: int
    high: int

    @property
    def text(self) -> str:
        if self.family is Family.NUMBER:
            return str(self.low) if self.low == self.high else f"{self.low}..{self.high}"
        return prefix_text(self.family, self.low, self.high - self.low + 1)

    @property
    def size(self) -> int:
        return self.high - self.low + 1


class Plan(StrEnum):
    """How a pool chooses the number of a new key. What is held already stays, whatever the plan."""

    LOWEST = "lowest"
    POSITION = "position"
    BEST_FIT = "best-fit"


class Kind(StrEnum):
    """What a pool holds; `UNSAID` until someone says so or draws from it."""

    UNSAID = ""
    ADDRESSES = "addresses"
    ASN = "asn"
    VLAN = "vlan"
    VNI = "vni"
    PAIR = "pair"


SITE = "site"
"""The scope of pools that name no other."""

BOUNDS = {Kind.ASN: (1, 2**32 - 2), Kind.VLAN: (1, 4094), Kind.VNI: (1, 2**24 - 1), Kind.PAIR: (1, 65535)}
"""The lowest and highest number of each kind: RFC 6793, IEEE 802.1Q, RFC 7348, and two bytes of a system MAC."""


@dataclass(frozen=True, slots=True)
class Reserved:
    """Numbers of a pool that nobody is given, and why: a gateway, a legacy system, a pool cut from this one."""

    family: Family
    low: int
    high: int
    note: str


@dataclass(frozen=True, slots=True)
class Pool:
    """Ranges with how they are handed out. `rest` is how long what was given back is kept from others; `warn` is the
    share of use, from 0 to 1, from which the pool is said to run low."""

    name: str
    ranges: tuple[Range, ...]
    kind: Kind = Kind.UNSAID
    plan: Plan = Plan.LOWEST
    scope: str = SITE
    parent: str | None = None
    private_to: str | None = None
    reserved: tuple[Reserved, ...] = ()
    rest: timedelta = timedelta(days=1)
    warn: float = 0.85

    def space(self, name: str) -> str:
        """The name of the set within which numbers of this pool differ: `v4` at the site, `v4@tenants` in a scope."""
        return name if self.scope == SITE else f"{name}@{self.scope}"

    def kept(self, family: Family) -> Iterator[Reserved]:
        """What is reserved of one family."""
        return (part for part in self.reserved if part.family is family)

    def of(self, family: Family) -> tuple[Range, ...]:
        return tuple(part for part in self.ranges if part.family is family)

    def range_of(self, family: Family, value: int) -> Range | None:
        return next((part for part in self.ranges if part.family is family and part.low <= value <= part.high), None)


_NUMBERS = re.compile(r"(\d{1,10})(?:\.\.(\d{1,10}))?", re.ASCII)


def parse_range(text: str, path: str = "") -> Range:
    """A range from its text: a prefix (`10.60.0.0/22`, `fd60::/64`), a number, or `first..last`.

    Raises `Refused` (`range.syntax`, `range.reversed`, `range.host-bits`).

    >>> parse_range("10.60.0.0/30").size
    4
    >>> parse_range("64512..65534").text
    '64512..65534'
    """
    found = _NUMBERS.fullmatch(text.strip())
    if found:
        low, high = int(found[1]), int(found[2] or found[1])
        if high < low:
            raise refuse("range.reversed", f"“{text}” runs backwards. Write {high}..{low}.", path)
        return Range(Family.NUMBER, low, high)
    try:
        prefix = ip_network("" if "%" in text else text.strip(), strict=False)
    except ValueError:
        raise refuse(
            "range.syntax",
            f"“{text[:60]}” is not a range. Write a prefix such as 10.60.0.0/22 or fd60::/64, or numbers such as 64512..65534.",
            path,
        ) from None
    base = str(prefix.network_address)
    if (
        text.strip().lower().split("/")[0] != base
        and ip_network(f"{text.strip().split('/')[0]}").network_address != prefix.network_address
    ):
        raise refuse("range.host-bits", f"“{text}” has bits set past its length. Did you mean {prefix}?", path)
    family = Family.V4 if prefix.version == 4 else Family.V6
    return Range(family, int(prefix.network_address), int(prefix.broadcast_address))


def address_text(family: Family, value: int) -> Address:
    """An address as people read it (IPv6: RFC 5952).

    >>> address_text(Family.V4, 0x0A3D0234), address_text(Family.V6, 0xFD60 << 112 | 7)
    ('10.61.2.52', 'fd60::7')
    """
    if family is Family.V4:
        return Address(f"{value >> 24}.{value >> 16 & 255}.{value >> 8 & 255}.{value & 255}")
    return Address(IPv6Address(value))


def prefix_text(family: Family, low: int, size: int) -> str:
    """A number as people read it: a prefix, an address (size 1), or a plain number.

    >>> prefix_text(Family.V4, 0x0A3D0234, 2)
    '10.61.2.52/31'
    """
    if family is Family.NUMBER:
        return str(low)
    text = address_text(family, low)
    return text if size == 1 else f"{text}/{(33 if family is Family.V4 else 129) - size.bit_length()}"


def full_text(family: Family, low: int, size: int) -> str:
    """A number as `prefix_text`, with the length of an address too.

    >>> full_text(Family.V4, 0x0A3D0234, 1)
    '10.61.2.52/32'
    """
    text = prefix_text(family, low, size)
    return text if "/" in text or family is Family.NUMBER else f"{text}/{32 if family is Family.V4 else 128}"


DEFAULT_POOLS: dict[str, tuple[str, ...]] = {
    "loopbacks": ("10.0.0.0/19", "fd00:0:0:1::/64"),
    "vteps": ("10.0.32.0/19",),
    "links": ("10.4.0.0/14", "fd00:0:0:2::/64"),
    "asns": ("4200000000..4200099999",),
    "management": ("10.255.0.0/19",),
    "vlans": ("100..3999",),
    "vnis": ("10000..99999",),
    "pairs": ("1..65535",),
    "outside": ("10.2.0.0/20", "fd00:0:0:3::/64"),
    "segments": ("10.128.0.0/12", "fd00:0:1::/48"),
    "relays": ("10.3.0.0/16", "fd00:0:0:4::/64"),
}
"""What a pool holds that a brief draws from without saying what is in it. All private (RFC 1918, 4193, 6996)."""


def parse_span(text: str) -> Range:
    """A span of a pool from its text: what `parse_range` reads, or two addresses with `..` between them.

    >>> parse_span("10.60.0.4..10.60.0.9").size
    6
    """
    first, dots, last = (part.strip() for part in text.partition(".."))
    if not dots or first.isdigit():
        return parse_range(text, "range")
    low, high = parse_range(first, "range"), parse_range(last, "range")
    if low.family is not high.family:
        raise refuse("range.syntax", f"“{text[:80]}” begins and ends in different families.", "range")
    if high.high < low.low:
        raise refuse("range.reversed", f"“{text[:80]}” runs backwards. Write {last}..{first}.", "range")
    return Range(low.family, low.low, high.high)


def part_text(part: Range) -> str:
    """A span as people read it: as a prefix when it is one, else by its first and last."""
    size, aligned = part.size, part.low % part.size == 0
    if part.family is Family.NUMBER or (aligned and size & (size - 1) == 0):
        return part.text
    return f"{prefix_text(part.family, part.low, 1)}..{prefix_text(part.family, part.high, 1)}"


def bound_text(part: Range, value: int) -> str:
    """A bound of a range as people read it."""
    return prefix_text(part.family, value, 1)
