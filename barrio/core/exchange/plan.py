"""A numbering plan from a sheet: which row pins which number for what, and why a row cannot be taken.

The sheet may name switches as they are called, cables by their labels, and uses in everyday words. What is not said is
worked out from the pool that a number lies in, when that leaves one answer. Nothing here changes anything; rows that pass
become pins and reservations when the whole sheet is taken.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from barrio.core.brief.terms import SWITCH_KEY
from barrio.core.compiled import Compiled
from barrio.core.errors import Refused, refuse
from barrio.core.exchange.sheet import Sheet, guess_columns
from barrio.core.ledger.demand import FIELDS, asn_key, pool_name, vtep_key
from barrio.core.ledger.numbers import parse_number
from barrio.core.ledger.pool import Family, Pool, Range, family_of, parse_range, prefix_text
from barrio.core.ledger.refusals import not_in_pool
from barrio.core.ledger.wanted import Taken
from barrio.core.structure.parts import Switch

Outcome = Literal["pinned", "moves", "waits", "reserved", "refused"]
COLUMNS = ("number", "owner", "use", "fabric", "note")
_WORDS = {
    "number": {"number", "address", "ip", "prefix", "subnet", "value", "asn", "vlan", "vni", "cidr", "network"},
    "owner": {"owner", "key", "switch", "device", "host", "hostname", "name", "belongs to", "system", "link", "for"},
    "use": {"use", "role", "kind", "type", "purpose", "what"},
    "fabric": {"fabric", "hall", "site", "room"},
    "note": {"note", "notes", "comment", "comments", "description", "remark", "remarks"},
}
_USES = {
    "loopback": {"loopback", "lo", "lo0", "router id", "router-id"}, "vtep": {"vtep", "tunnel", "tunnel end", "vxlan"},
    "link": {"link", "p2p", "point-to-point", "ptp", "uplink"}, "management": {"management", "mgmt", "oob", "out-of-band"},
    "asn": {"asn", "as", "as number"}, "vlan": {"vlan", "vlan id"}, "vni": {"vni"},
    "segment": {"segment", "subnet", "network", "lan", "prefix"}, "pair": {"pair", "pair domain", "mlag domain"},
    "outside": {"outside", "external", "handover"},
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Row:
    """What one row of the sheet comes to. `taken` is set unless the number could not be read."""

    line: int
    number: str
    owner: str
    use: str
    fabric: str
    note: str
    outcome: Outcome
    reason: str = ""
    key: str = ""
    pool: str = ""
    family: Family = Family.NUMBER
    taken: Taken | None = None
    now: str = ""


def guess(columns: Sequence[str]) -> dict[str, int]:
    """Which column holds what, by the headings; only what is clear."""
    return guess_columns(columns, _WORDS)


def understand(
    sheet: Sheet, mapping: Mapping[str, int], fabrics: Mapping[str, Compiled], fabric: str, pools: Mapping[str, Pool]
) -> list[Row]:
    """What each row comes to, in the order of the sheet; rows that meet each other are refused.

    `fabric` is meant where a row names none. Raises `Refused` (`sheet.columns`) when no column holds the numbers.
    """
    if "number" not in mapping or any(not 0 <= at < len(sheet.columns) for at in mapping.values()):
        has = ", ".join(sheet.columns[:12])
        raise refuse("sheet.columns", f"Say which column holds the numbers. The sheet has: {has}.")
    rows = []
    readers = {name: _Reader(compiled, pools) for name, compiled in fabrics.items()}
    for line, cells in zip(sheet.lines, sheet.rows, strict=True):
        said = {name: cells[at] for name, at in mapping.items()}
        row = Row(
            line, said["number"], said.get("owner", ""), said.get("use", ""),
            said.get("fabric", "") or fabric, said.get("note", "")[:300], "refused",
        )  # fmt: skip
        try:
            if row.fabric not in readers:
                raise refuse("fabric.unknown", f"There is no fabric called {row.fabric}.")
            rows.append(readers[row.fabric].read(row))
        except Refused as error:
            rows.append(replace(row, reason=error.faults[0].message))
    return _apart(rows)


def _apart(rows: list[Row]) -> list[Row]:
    """Rows whose number or owner an earlier row has already are refused, naming that row."""
    owners: dict[tuple[str, str, str], int] = {}
    numbers: dict[str, list[tuple[int, int, int]]] = {}
    for place, row in enumerate(rows):
        if row.outcome == "refused" or row.taken is None:
            continue
        at = (row.fabric, row.use, row.key)
        if row.key and at in owners:
            words = f"Line {owners[at]} gives {row.owner or row.key} another {row.use} already."
            rows[place] = replace(row, outcome="refused", reason=words)
            continue
        owners[at] = row.line
        private = row.fabric if row.use == "vlan" else ""
        space = f"{row.family}/{row.use.partition('.')[0] if row.family is Family.NUMBER else ''}/{private}"
        numbers.setdefault(space, []).append((row.taken.low, row.taken.high, place))
    for found in numbers.values():
        found.sort()
        reach, last = -1, 0
        for low, high, place in found:
            if low <= reach:
                one, two = sorted((last, place))
                words = f"{rows[two].number} meets {rows[one].number} on line {rows[one].line}."
                rows[two] = replace(rows[two], outcome="refused", reason=words)
            if high > reach:
                reach, last = high, place
    return rows


class _Reader:
    """Reads rows that speak of one fabric."""

    def __init__(self, compiled: Compiled, pools: Mapping[str, Pool]) -> None:
        self._compiled, self._pools = compiled, pools
        self._names: dict[str, Switch] = {switch.name: switch for switch in compiled.structure.switches}
        self._cables = {end.label.lower(): end.link.key for end in compiled.ends}
        self._drawn = {demand.use: demand.pool for demand in compiled.demands}

    def read(self, row: Row) -> Row:
        if not row.number:
            raise refuse("number.syntax", "There is no number in this row.")
        if not row.owner or row.use.lower() in ("reserved", "reserve"):
            return self._reserve(row)
        use = self._use(row)
        key = self._key(use, row.owner)
        taken = parse_number(use, row.number)
        pool = self._compiled.pools[pool_name(self._compiled.brief, use) or ""]
        fault = not_in_pool(pool, use, key, taken)
        if fault:
            raise Refused([fault])
        now = self._compiled.allocation.numbers.get(use, {}).get(key)
        outcome: Outcome = "waits" if now is None else "pinned" if now == taken else "moves"
        said = "" if now is None or now == taken else _text(use, now)
        return replace(
            row, use=use, key=key, outcome=outcome, pool=pool.name, family=family_of(use), taken=taken, now=said
        )

    def _reserve(self, row: Row) -> Row:
        part = parse_range(row.number)
        pools = [pool for pool in self._pools.values() if _holds(pool, part)]
        if row.use.lower() not in ("", "reserved", "reserve"):
            wanted = pool_name(self._compiled.brief, self._use(row))
            pools = [pool for pool in pools if pool.name == wanted]
        if not pools:
            raise refuse("range.outside", f"{row.number} is in no pool, so there is nothing to reserve it in.")
        if part.family is Family.NUMBER and len(pools) > 1:
            names = ", ".join(pool.name for pool in pools)
            raise refuse("pool.unclear", f"{row.number} could be of several pools ({names}). Say its use.")
        pool = min(pools, key=lambda one: min(span.size for span in one.ranges if _within(part, span)))
        for kept in pool.kept(part.family):
            if kept.low <= part.high and part.low <= kept.high:
                raise refuse(
                    "reserved.twice", f"{row.number} is reserved in {pool.name} already ({kept.note or 'no note'})."
                )
        taken = Taken(part.low, part.size)
        return replace(row, outcome="reserved", pool=pool.name, family=part.family, taken=taken, use=pool.kind.value)

    def _use(self, row: Row) -> str:
        """The use that a row means, from its words, its number and the pool that this lies in."""
        number = row.number.strip()
        family = "v6" if ":" in number else "v4" if "." in number else ""
        words = row.use.lower().strip()
        thing = next((name for name, said in _USES.items() if words in said or words.partition(".")[0] == name), None)
        if words and thing is None:
            raise refuse("number.use", f"“{row.use[:40]}” is no use of numbers. Write one of: {', '.join(FIELDS)}.")
        if thing is None:
            thing = self._thing_in(number, family)
        return f"{thing}.{family}" if family else thing

    def _thing_in(self, number: str, family: str) -> str:
        part = parse_range(number)
        found = {
            use.partition(".")[0]
            for use, pool in self._drawn.items()
            if use.partition(".")[0] in FIELDS and _holds(pool, part) and (not family or use.endswith(family))
        }
        if part.size == 1 and family:
            found -= {"link", "segment", "outside"} if len(found) > 1 else set()
        if len(found) != 1:
            many = f"could be for {' or '.join(sorted(found))}" if found else "is in no pool that the fabric draws from"
            raise refuse("number.use", f"{number} {many}. Say its use in a column.")
        return found.pop()

    def _key(self, use: str, owner: str) -> str:
        thing, words = use.partition(".")[0], owner.strip()
        switch = self._names.get(words) or self._names.get(words.lower()) or self._compiled.structure.by_key.get(words)
        if switch is not None:
            if thing == "asn":
                return asn_key(self._compiled.brief, switch)
            if thing == "vtep":
                return vtep_key(switch)
            if thing in ("loopback", "management"):
                return switch.key
        if thing == "link":
            return self._link(words)
        if thing in ("segment", "vlan", "vni"):
            name = words.lower()
            for key in (name, f"segment/{name}", f"vrf/{name}"):
                if key in self._compiled.allocation.numbers.get("vlan" if thing == "vlan" else "vni", {}):
                    return key
        held = self._compiled.allocation.numbers.get(use, {})
        for key in (words, f"pair/{words}", f"rack/{words}"):
            if key in held:
                return key
        if SWITCH_KEY.fullmatch(words) and thing in ("loopback", "management", "vtep", "asn"):
            return words
        raise refuse(
            "owner.unknown", f"{self._compiled.brief.fabric} has nothing called {owner[:60]} that takes a {thing}."
        )

    def _link(self, words: str) -> str:
        key = self._cables.get(words.lower(), words)
        if key in self._compiled.allocation.numbers.get("cable", {}):
            return key
        ends = [
            self._names.get(part.strip()) for part in re.split(r"\s*(?:–|—|->|to|/|,|~|\s)\s*", words) if part.strip()
        ]
        found = [switch for switch in ends if switch is not None]
        if len(found) == 2:
            both = {found[0].key, found[1].key}
            links = [end.link.key for end in self._compiled.ends if {end.link.upper.key, end.link.lower.key} == both]
            if len(links) == 1:
                return links[0]
            if links:
                raise refuse("owner.unclear", f"{len(links)} links join {words}. Name the cable by its label.")
        raise refuse(
            "owner.unknown", f"{self._compiled.brief.fabric} has no link called {words[:60]}. Give its cable's label."
        )


def _holds(pool: Pool, part: Range) -> bool:
    return any(_within(part, span) for span in pool.ranges)


def _within(part: Range, span: Range) -> bool:
    return part.family is span.family and span.low <= part.low and part.high <= span.high


def _text(use: str, taken: Taken) -> str:
    return prefix_text(family_of(use), taken.low, taken.size)
