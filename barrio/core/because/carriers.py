"""Where a number of the ledger ends up: the lines that print it, and the cables that it belongs to."""

from __future__ import annotations

from dataclasses import dataclass

from barrio.core.because.lines import printed_on
from barrio.core.compiled import Compiled
from barrio.core.ledger.pool import Family, address_text, family_of

MOST_SWITCHES = 24
"""How many switches are read for a number that many may print, such as a VNI; those of its key come first."""


@dataclass(frozen=True, slots=True)
class Carriers:
    """Lines as (switch, file, line from 1), and labels of cables. `more` switches were not read."""

    lines: tuple[tuple[str, str, int], ...]
    cables: tuple[str, ...]
    more: int


def carriers_of(compiled: Compiled, use: str, key: str) -> Carriers:
    """What carries a number that a fabric holds. Raises `KeyError` when it does not hold it."""
    taken, family = compiled.allocation.numbers[use][key], family_of(use)
    switches = _switches(compiled, use, key)
    texts = [str(taken.low)] if family is Family.NUMBER else [address_text(family, taken.low)]
    if use.startswith(("link.", "outside.")) and taken.size > 1:
        texts.append(address_text(family, taken.low + 1))
    if use.startswith("segment."):
        texts.append(address_text(family, taken.low + 1))
    read = tuple(switches[:MOST_SWITCHES])
    lines: dict[tuple[str, str, int], None] = {}
    for text in texts:
        lines.update(dict.fromkeys(printed_on(compiled, read, text)))
    ends = [end for end in compiled.ends if end.link.key == key]
    return Carriers(
        tuple(sorted(lines, key=lambda at: read.index(at[0]))),
        tuple(end.label for end in ends),
        max(0, len(switches) - len(read)),
    )


def _switches(compiled: Compiled, use: str, key: str) -> list[str]:
    """The switches that may print a number: those of its key, then those that meet them."""
    by_key = compiled.structure.by_key
    mine = [by_key[part] for part in key.split("~") if part in by_key]
    kind, _, name = key.partition("/")
    if not mine and kind in ("pair", "rack"):
        mine = [leaf for leaf in compiled.structure.leaves if leaf.rack == name]
    if not mine and kind in ("segment", "vrf"):
        return [
            model.name
            for model in compiled.models.values()
            if name in {segment.label for segment in model.segments} | {vrf.label for vrf in model.vrfs}
        ]
    if not mine:
        mine = [*compiled.structure.spines, *compiled.structure.supers]
    names = dict.fromkeys(switch.name for switch in mine)
    if use == "asn" or use.startswith(("loopback", "vtep")):
        keys = {switch.key for switch in mine}
        for end in compiled.ends:
            if end.link.upper.key in keys or end.link.lower.key in keys:
                names.update(dict.fromkeys((end.link.upper.name, end.link.lower.name)))
    return list(names)
