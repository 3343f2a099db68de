"""What stays of the models of a fabric when racks came or went: whatever no change reaches.

A leaf is as it was when it is the very same switch under the very same spines, the leaves beside it in its rack are, it carries what it carried, and every
number that concerns it is the one it had. Everything else is made anew.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from barrio.core.attach.attachments import Attachments, differing
from barrio.core.model.links import Ends
from barrio.core.model.switch import SwitchModel
from barrio.core.printed import Name
from barrio.core.structure.parts import Structure, Switch


@dataclass(frozen=True)
class Kept:
    """The leaves that are as they were (`same`, by key), the models of before, the ends of before by the key of their link, and the links that are `gone` or
    are plugged in otherwise, which left the switches above that are `shrunk`. `settled` are the switches of which nothing but that has changed."""

    same: frozenset[str] = frozenset()
    models: Mapping[str, SwitchModel] = field(default_factory=dict)
    ends: Mapping[str, Ends] = field(default_factory=dict)
    gone: frozenset[str] = frozenset()
    shrunk: frozenset[str] = frozenset()
    settled: frozenset[str] = frozenset()


NOTHING = Kept()


@dataclass(frozen=True)
class State:
    """What models are made of, beside what the brief says of all."""

    structure: Structure
    attachments: Attachments


def keep(
    before: State, now: State, moved: Iterable[str], models: Mapping[str, SwitchModel], ends: tuple[Ends, ...]
) -> Kept:
    """What stays of models and ends when nothing of a brief but its racks has changed, and no pool. `moved` are the keys of numbers that are others, new or
    gone."""
    was, structure = before.structure, now.structure
    above = structure.supers + structure.spines
    if len(above) != len(was.supers + was.spines) or any(was.by_key.get(one.key) is not one for one in above):
        return NOTHING
    if was.marked != structure.marked or was.outside != structure.outside:
        return NOTHING
    anew = {leaf.rack for leaf in structure.leaves if was.by_key.get(leaf.key) is not leaf}
    anew |= {leaf.rack for leaf in was.leaves if leaf.key not in structure.by_key}
    there = [leaf for leaf in structure.leaves if leaf.rack not in anew]
    others = differing(before.attachments, now.attachments, [leaf.key for leaf in there])
    anew |= {structure.by_key[key].rack for key in others}
    for key in moved:
        rack = _concerns(key, was.by_key, structure.by_key)
        if rack is None:
            return NOTHING
        anew.add(Name(rack))
    same = frozenset(leaf.key for leaf in there if leaf.rack not in anew)
    settled = same | {one.key for one in above}
    gone = [link for key, links in was.links_up.items() if key not in settled for link in links]
    shrunk = frozenset(link.upper.key for link in gone)
    return Kept(
        same, models, {end.link.key: end for end in ends}, frozenset(link.key for link in gone), shrunk, settled
    )


def _concerns(key: str, *known: Mapping[str, Switch]) -> str | None:
    """The rack whose leaves alone a number concerns, by its key; None where it is another's."""
    stem = key.partition("~")[0]
    for switches in known:
        if stem in switches:
            return switches[stem].rack if switches[stem].is_leaf else None
    kind, _, rack = stem.partition("/")
    return rack if kind in ("pair", "rack") else None
