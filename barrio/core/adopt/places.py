"""Where leaves stand: racks, pods and sides, from who shares hosts with whom and from the names of switches."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from typing import NamedTuple

from barrio.core.adopt.running import Known
from barrio.core.exchange.tiers import natural

_SIDE = re.compile(r"(.+?\d)[-_.]?([a-h]|[-_.][1-8])")
_RACK = re.compile(r"\brack ([a-z][a-z0-9-]*)")


class Place(NamedTuple):
    """Where a leaf stands: its rack as the brief would write it, without the pod, and the letter of its side."""

    rack: str
    side: str


def places(leaves: Iterable[str], pod_of: Mapping[str, str], known: Mapping[str, Known]) -> dict[str, Place]:
    """The place of every leaf; racks are named as their switches say, else by the digits of their names, else in turn."""
    stands = _together(sorted(leaves, key=natural), pod_of, known)
    said = {tuple(members): _said(members, pod_of, known) for members in stands}
    names = _distinct(said, pod_of)
    if names is None:
        names = _distinct({members: _numbered(members[0]) for members in said}, pod_of)
    if names is None:
        counts: Counter[str] = Counter()
        names = {}
        for members in said:
            counts[pod_of[members[0]]] += 1
            names[members] = f"r{counts[pod_of[members[0]]]:02d}"
    return {
        leaf: Place(names[members], "abcdefgh"[place]) for members in said for place, leaf in enumerate(members)
    }  # fmt: skip


def _together(leaves: list[str], pod_of: Mapping[str, str], known: Mapping[str, Known]) -> list[list[str]]:
    """The leaves of each rack: those that say so, those that share Ethernet segments (RFC 7432, 5), and those whose names differ in their side alone."""
    found: dict[tuple[str, str, str], list[str]] = defaultdict(list)
    shared = Counter(mac for leaf in leaves for mac in _macs(known[leaf]))
    told = {leaf: rack[1] for leaf in leaves if (rack := _RACK.search(known[leaf].description))}
    by_stem = {_stem(leaf): rack for leaf, rack in told.items()}
    for leaf in leaves:
        where = told.get(leaf) or by_stem.get(_stem(leaf))
        mac = next((one for one in _macs(known[leaf]) if shared[one] > 1), "")
        by = ("rack", where) if where else ("mac", mac) if mac else ("name", _stem(leaf))
        found[pod_of[leaf], *by].append(leaf)
    return [members[at : at + 8] for members in found.values() for at in range(0, len(members), 8)]


def _stem(leaf: str) -> str:
    """What names of the leaves of one rack have in common."""
    found = _SIDE.fullmatch(leaf)
    return found[1] if found else leaf


def _macs(one: Known) -> list[str]:
    """The system MACs that a leaf answers shared hosts with."""
    lines = [line for block in one.text.blocks.values() for line in block if line.startswith("evpn mh es-sys-mac ")]
    return sorted({line.split()[-1] for line in lines})


def _said(members: list[str], pod_of: Mapping[str, str], known: Mapping[str, Known]) -> str:
    """The rack that the leaves say they are in."""
    told = {found[1] for leaf in members if (found := _RACK.search(known[leaf].description))}
    if len(told) != 1:
        return ""
    return told.pop().removeprefix(f"{pod_of[members[0]]}-")


def _numbered(leaf: str) -> str:
    """A rack after a leaf's name.

    >>> _numbered("leaf-r07a"), _numbered("tor-12-1"), _numbered("edge")
    ('r07', 'r12', '')
    """
    last = re.search(r"(?:^|[^a-z0-9])([a-z])?(\d+)$", _stem(leaf))
    return f"{last[1] or 'r'}{last[2]}" if last else ""


def _distinct(names: Mapping[tuple[str, ...], str], pod_of: Mapping[str, str]) -> dict[tuple[str, ...], str] | None:
    """Names of racks where each has one of its own in its pod; nothing where they have not."""
    there = [(pod_of[members[0]], name) for members, name in names.items()]
    if not all(name for _, name in there) or len(set(there)) < len(there):
        return None
    return dict(names)
