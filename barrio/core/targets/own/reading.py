"""Reading rules: how the text of a target of one's own is read back, line by line, without its templates.

A rule says what a line looks like, and inside which block it stands; `{words}` in it are what the line says. A block goes on for as long as
lines are indented deeper than the line that begins it. `{_}` is a word that says nothing of interest, `{...}` the rest of the line.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from ipaddress import ip_interface

from barrio.core.render.facts import Facts, is_address
from barrio.core.render.shapes import shape_of

HOLES = {
    "name": "the switch's own name",
    "as": "the AS that it is in",
    "router_id": "its router id",
    "port": "a port, or another device that addresses are on",
    "address": "an address of it, with its length",
    "mask": "that length, written out as a mask",
    "member": "a port that a LAG takes",
    "mtu": "the bytes that a port carries",
    "far": "the switch at the other end of a port",
    "far_port": "the port there",
    "peer": "the address of a BGP neighbour",
    "peer_as": "the AS that the neighbour is in",
    "shown": "the AS that this neighbour is shown",
    "segment": "the name of a segment",
    "vlan": "a VLAN; on a port a list of them, with ranges",
    "vni": "a VNI",
    "target": "a route target",
    "vrf": "a VRF",
    "gateway": "the address of a gateway, the same on every leaf",
}
"""What rules may find, by its word."""


@dataclass(frozen=True)
class Rule:
    """`line` is what a line looks like, `within` the lines that begin the blocks it is in, the outermost first. `shut` says that the line keeps
    the session or port that its blocks are about from coming up."""

    line: str
    within: tuple[str, ...] = ()
    shut: bool = False

    @cached_property
    def patterns(self) -> tuple[re.Pattern[str], ...]:
        """One for each block, and the last for the line itself."""
        return tuple(map(pattern_of, (*self.within, self.line)))


def pattern_of(words: str) -> re.Pattern[str]:
    """The pattern that a rule's words stand for. Raises `ValueError` for a word in braces that is not known.

    >>> pattern_of("peer {peer} as {peer_as}").fullmatch("peer 10.64.0.1 as 65001").groupdict()
    {'peer': '10.64.0.1', 'peer_as': '65001'}
    """
    return shape_of(words, HOLES, r"[^\s;\"]+")


def said(text: str, rules: Sequence[Rule], comment: str = "") -> Iterator[dict[str, str]]:
    """What each line of a text says by the rules, with what the blocks say that it is in; lines that begin with the mark of comments say nothing."""
    blocks: list[tuple[int, str]] = []
    by_depth: dict[int, list[Rule]] = {}
    for rule in rules:
        by_depth.setdefault(len(rule.within), []).append(rule)
    for raw in text.split("\n"):
        line = " ".join(raw.split())
        if not line or (comment and line.startswith(comment)):
            continue
        indent = len(raw) - len(raw.lstrip())
        while blocks and blocks[-1][0] >= indent:
            blocks.pop()
        stack = [*(one for _, one in blocks), line]
        for rule in by_depth.get(len(blocks), ()):
            found: dict[str, str] = {}
            for pattern, one in zip(rule.patterns, stack, strict=True):
                match = pattern.fullmatch(one)
                if match is None:
                    break
                found |= match.groupdict()
            else:
                yield {**found, "shut": "yes"} if rule.shut else found
        blocks.append((indent, line))


def facts_of(files: Mapping[str, str], rules: Sequence[Rule], comment: str = "") -> Facts:
    """The facts that the files of one switch state. Raises `ValueError` for a value that cannot be what its rule takes it for."""
    facts, off = Facts(), set[str]()
    for text in files.values():
        for one in said(text, rules, comment):
            if "shut" in one:
                off.add(one.get("peer", ""))
                facts.shut.update([one["port"]] if "port" in one else [])
            else:
                _note(facts, one)
    for peer in off:
        facts.sessions.pop(peer, None)
        facts.by_port.pop(peer, None)
    return facts


def numbers_in(text: str) -> set[str]:
    """The numbers that a list with ranges names.

    >>> sorted(numbers_in("101-103,200"))
    ['101', '102', '103', '200']
    """
    found: set[str] = set()
    for part in text.split(","):
        low, _, high = part.partition("-")
        found.update(map(str, range(int(low), int(high or low) + 1)))
    return found


def _note(facts: Facts, one: Mapping[str, str]) -> None:
    inside = "vrf" in one
    if one.keys() == {"name"}:
        facts.name = one["name"]
    if "peer_as" in one and not inside and "peer" in one:
        (facts.sessions if is_address(one["peer"]) else facts.by_port)[one["peer"]] = int(one["peer_as"])
        if "shown" in one:
            facts.shows[one["peer"]] = int(one["shown"])
    elif "as" in one and not inside and "peer" not in one:
        facts.asn = int(one["as"])
    if "router_id" in one and not inside:
        facts.router_id = one["router_id"]
    if one.keys() == {"port"}:
        facts.ports.append(one["port"])
    if "member" in one:
        facts.members.add(one["member"])
    if "port" in one:
        _note_port(facts, one)
    if "segment" in one and "vlan" in one:
        facts.carried.append(one["vlan"])
    for kind in ("vni", "vrf", "segment"):
        if kind in one:
            called = {"vni": "VNI", "vrf": "VRF", "segment": "segment"}[kind]
            for what, words in (("vni", "VNI"), ("vlan", "VLAN"), ("target", "route target"), ("gateway", "gateway")):
                if what in one and what != kind and not (kind == "vrf" and what in ("vlan", "gateway")):
                    family = " v6" if what == "gateway" and ":" in one[what] else ""
                    facts.shared[f"{called} {one[kind]}", words + family] = one[what]
            return


def _note_port(facts: Facts, one: Mapping[str, str]) -> None:
    port = one["port"]
    if "address" in one and "vrf" not in one:
        text = one["address"] if "mask" not in one else f"{one['address']}/{one['mask']}"
        facts.addresses.setdefault(port, []).append(ip_interface(text))
    if "vlan" in one:
        facts.on_ports.setdefault(port, set()).update(numbers_in(one["vlan"]))
    if "mtu" in one:
        facts.mtus[port] = int(one["mtu"])
    if "far" in one and "far_port" in one:
        facts.ends[port] = (one["far"], one["far_port"])
