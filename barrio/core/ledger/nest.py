"""How pools lie beside and inside each other: which ranges may share numbers, and what a parent leaves to its children."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace
from itertools import pairwise

from barrio.core.errors import Fault
from barrio.core.ledger.pool import BOUNDS, Family, Kind, Pool, Range, Reserved

KIND_WORDS = {
    Kind.ASN: "ASNs", Kind.VLAN: "VLANs", Kind.VNI: "VNIs", Kind.PAIR: "pair domains", Kind.ADDRESSES: "addresses",
    Kind.UNSAID: "numbers",
}  # fmt: skip


def within(part: Range, other: Range) -> bool:
    return part.family is other.family and other.low <= part.low and part.high <= other.high


def check_pools(pools: Mapping[str, Pool]) -> list[Fault]:
    """Everything wrong with a set of pools: `range.kind`, `range.beyond`, `range.outside`, `pool.parent`, `pool.overlap`."""
    return [fault for pool in pools.values() for fault in _faults(pool, pools)] + list(_overlaps(pools.values()))


def _faults(pool: Pool, others: Mapping[str, Pool]) -> Iterator[Fault]:
    path = f"pools.{pool.name}"
    for part in pool.ranges:
        number = part.family is Family.NUMBER
        if pool.kind is not Kind.UNSAID and number is (pool.kind is Kind.ADDRESSES):
            words = f"{part.text} does not belong in pool {pool.name}, which holds {KIND_WORDS[pool.kind]}."
            yield Fault("range.kind", words, path)
        elif number and pool.kind in BOUNDS:
            low, high = BOUNDS[pool.kind]
            if part.low < low or part.high > high:
                words = f"{part.text} in pool {pool.name}: {KIND_WORDS[pool.kind]} go from {low} to {high}."
                yield Fault("range.beyond", words, path)
    if pool.parent is None:
        return
    parent = others.get(pool.parent)
    if parent is None or parent.scope != pool.scope:
        yield Fault("pool.parent", f"Pool {pool.name} is cut from {pool.parent}, which is not in its scope.", path)
        return
    for part in pool.ranges:
        if not any(within(part, whole) for whole in parent.ranges):
            has = ", ".join(whole.text for whole in parent.ranges)
            words = f"{part.text} is not inside pool {parent.name} ({has}), which {pool.name} is cut from."
            yield Fault("range.outside", words, path)


def _overlaps(pools: Iterable[Pool]) -> Iterator[Fault]:
    """Ranges that share integers and must not: addresses of one scope, and whatever is cut from one pool.

    Plain numbers of pools side by side may overlap: what is drawn from them differs within its scope anyway (RFC 6996 leaves
    few two-byte ASNs to go round), and each fabric has all VLANs for itself.
    """
    spans = sorted(
        (pool.scope, pool.parent or ("" if part.family is not Family.NUMBER else f"#{pool.name}"), part.family,
         part.low, part.high, pool.name)
        for pool in pools
        for part in pool.ranges
    )  # fmt: skip
    for one, two in pairwise(spans):
        if one[:3] == two[:3] and two[3] <= one[4]:
            texts = [Range(span[2], span[3], span[4]).text for span in (one, two)]
            yield Fault(
                "pool.overlap",
                f"{texts[1]} in pool {two[5]} overlaps {texts[0]} in pool {one[5]}. "
                "Take one of them out, make it smaller, or cut one pool from the other.",
                f"pools.{two[5]}",
            )


def cut(pools: Mapping[str, Pool]) -> dict[str, Pool]:
    """The pools, each with the ranges of those that were cut from it among what it does not hand out."""
    found = dict(pools)
    for child in pools.values():
        if child.parent in found:
            parent = found[child.parent]
            taken = tuple(Reserved(one.family, one.low, one.high, f"pool {child.name}") for one in child.ranges)
            found[child.parent] = replace(parent, reserved=parent.reserved + taken)
    return found
