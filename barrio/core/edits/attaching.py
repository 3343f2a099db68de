"""Changes of what hosts carry and where they are, cell by cell, as edits of the brief.

An entry of the brief may name many hosts. A change that is the same for all of them changes the entry; one for some of them takes the entry
apart, into entries of hosts that stay alike.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from barrio.core.attach.attachments import Attachments
from barrio.core.attach.places import Slot, deal, slots
from barrio.core.brief.document import Edits
from barrio.core.brief.hosts import NONE, HostEntry
from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import contract_names, contract_ports, expand_names
from barrio.core.brief.reader import quoted
from barrio.core.errors import Fault, Refused, refuse
from barrio.core.structure.parts import Structure

Mark = Literal["tagged", "untagged", ""]
Carried = tuple[str | None, tuple[str, ...]]
"""What a host carries: the segment without a tag, and those with."""


@dataclass(frozen=True, slots=True)
class Cell:
    """A port and a segment, and what the segment is to be there."""

    leaf: str
    port: str
    segment: str
    mark: Mark


def fill(brief: Brief, attachments: Attachments, cells: Iterable[Cell]) -> Edits:
    """The edits by which these cells become what they say; none when they are it already.

    A LAG is one port here, and whoever is at several ports carries the same on all. Raises `Refused` (`host.none`, `host.segment`), with
    a fault for each cell that cannot be.
    """
    faults: list[Fault] = []
    wanted: dict[str, Carried] = {}
    for cell in cells:
        host = attachments.at.get(cell.leaf, {}).get(cell.port)
        if cell.segment not in brief.segments:
            raise refuse("host.segment", f"There is no segment {cell.segment}.", "segments")
        if host is None:
            words = f"No host is attached to {cell.leaf.removeprefix('leaf/')} {cell.port}. Name one there first."
            faults.append(Fault("host.none", words, "hosts"))
            continue
        wanted[host.host] = _with(wanted.get(host.host) or (host.way.untagged, tuple(host.way.tagged)), cell)
    if faults:
        raise Refused(faults[:10])
    changed = {
        name: carried
        for name, carried in wanted.items()
        if carried != (attachments.hosts[name].way.untagged, tuple(attachments.hosts[name].way.tagged))
    }
    return list(_entry_edits(brief, attachments, changed))


def _with(carried: Carried, cell: Cell) -> Carried:
    untagged, tagged = carried
    rest = tuple(name for name in tagged if name != cell.segment)
    without = None if untagged == cell.segment else untagged
    if cell.mark == "untagged":
        return cell.segment, rest
    if cell.mark == "tagged":
        return without, tagged if cell.segment in tagged else (*rest, cell.segment)
    return without, rest


def _entry_edits(
    brief: Brief, attachments: Attachments, changed: Mapping[str, Carried]
) -> Iterator[tuple[str, object]]:
    for entry in _entries_of(attachments, changed):
        said = brief.hosts[entry]
        groups: dict[Carried | None, list[str]] = {}
        for name in expand_names(entry):
            groups.setdefault(changed.get(name), []).append(name)
        own = {carried: dict(_carry(brief, said, carried)) if carried else {} for carried in groups}
        yield from _cut(entry, said, [(members, own[carried]) for carried, members in groups.items()])


def _entries_of(attachments: Attachments, hosts: Iterable[str]) -> list[str]:
    """The entries that name these hosts. Raises `Refused` (`host.none`) for a host that is not there."""
    found: dict[str, None] = {}
    for name in hosts:
        if name not in attachments.hosts:
            raise refuse("host.none", f"There is no host {name}.", "hosts")
        found.setdefault(attachments.hosts[name].entry)
    return list(found)


Group = tuple[Sequence[str], Mapping[str, object]]
"""Hosts of one entry, and what their entry is to say from now on: a field of nothing is taken out."""


def _cut(entry: str, said: HostEntry, groups: Sequence[Group]) -> Iterator[tuple[str, object]]:
    """The edits by which an entry becomes one for each group; one group of all its hosts stays the entry. Hosts of no group go."""
    names = expand_names(entry)
    if len(groups) == 1 and len(groups[0][0]) == len(names):
        yield from ((f"hosts.{quoted(entry)}.{field}", value) for field, value in groups[0][1].items())
        return
    yield f"hosts.{quoted(entry)}", None
    dealt = _dealt(names, said)
    for members, own in groups:
        body = {**said.model_dump(exclude_unset=True, exclude_none=True), **own}
        kept = {field: value for field, value in body.items() if value is not None}
        for run in _runs(members, dealt):
            at = [_place([slot for name in run for slot in dealt[name][part]]) for part in range(len(said.at))]
            yield f"hosts.{quoted(contract_names(run))}", kept | {"at": at[0] if len(at) == 1 else at}


def _runs(members: Sequence[str], dealt: Mapping[str, Sequence[Sequence[Slot]]]) -> Iterator[tuple[str, ...]]:
    """The hosts in runs that one entry can name: at each of its places one rack, so that ports are dealt as before."""
    run: list[str] = []
    for name in members:
        if run and any(before[-1].rack != now[0].rack for before, now in zip(dealt[run[-1]], dealt[name], strict=True)):
            yield tuple(run)
            run = []
        run.append(name)
    if run:
        yield tuple(run)


def _dealt(names: Sequence[str], said: HostEntry) -> dict[str, list[list[Slot]]]:
    """The slots of each host of an entry, place by place."""
    parts = [deal(slots(place), names, "") for place in said.at]
    return {name: [part[name] for part in parts] for name in names}


def _place(mine: Sequence[Slot]) -> str:
    """Slots of one rack as they are written, in their order."""
    side = f"/{mine[0].side}" if mine[0].side else ""
    return f"{mine[0].rack}{side} {contract_ports([slot.port for slot in mine])}"


def _carry(brief: Brief, said: HostEntry, carried: Carried) -> Iterator[tuple[str, object]]:
    """What a host says of what it carries: only what its plug does not say already."""
    plug = brief.plugs.get(said.plug) if said.plug else None
    untagged, tagged = carried
    of_its_plug = plug.untagged if plug and plug.untagged != NONE else None
    if untagged != of_its_plug:
        yield "untagged", untagged if untagged is not None else NONE
    elif said.untagged is not None:
        yield "untagged", None
    if set(tagged) != set(_apart(brief, (plug and plug.tagged) or [])):
        yield "tagged", list(_shortest(brief, said, tagged))
    elif said.tagged is not None:
        yield "tagged", None


def _apart(brief: Brief, names: Sequence[str]) -> tuple[str, ...]:
    """Segments and sets as segments, each once."""
    return tuple(dict.fromkeys(one for name in names for one in brief.sets.get(name, (name,))))


def _shortest(brief: Brief, said: HostEntry, tagged: Sequence[str]) -> Iterator[str]:
    """The segments, with the sets that were named before and are still whole."""
    plug = brief.plugs.get(said.plug) if said.plug else None
    before = said.tagged if said.tagged is not None else (plug.tagged if plug else None)
    rest = dict.fromkeys(tagged)
    for name in before or ():
        if name in brief.sets and set(brief.sets[name]) <= rest.keys():
            yield name
            for member in brief.sets[name]:
                rest.pop(member, None)
    yield from rest


def detach(brief: Brief, attachments: Attachments, hosts: Sequence[str]) -> Edits:
    """The edits that take hosts away, with all that only they caused. Raises `Refused` for one that is not there."""
    gone = set(hosts)
    edits: list[tuple[str, object]] = []
    for entry in _entries_of(attachments, hosts):
        left = [name for name in expand_names(entry) if name not in gone]
        edits += _cut(entry, brief.hosts[entry], [(left, {})] if left else [])
    return edits


def without_racks(brief: Brief, racks: Collection[str]) -> Edits:
    """The edits that take away the hosts that are plugged in in these racks."""
    edits: list[tuple[str, object]] = []
    for entry, said in brief.hosts.items():
        dealt = _dealt(expand_names(entry), said)
        left = [name for name, parts in dealt.items() if not any(slot.rack in racks for part in parts for slot in part)]
        edits += _cut(entry, said, [(left, {})] if left else [])
    return edits


def dress(
    brief: Brief, attachments: Attachments, hosts: Sequence[str], field: Literal["plug", "team"], value: str
) -> Edits:
    """The edits by which hosts use another plug, or belong to another team; an empty value takes it away. What they say themselves stays.

    Raises `Refused` for a host that is not there.
    """
    chosen = set(hosts)
    edits: list[tuple[str, object]] = []
    for entry in _entries_of(attachments, hosts):
        said, names = brief.hosts[entry], expand_names(entry)
        if (getattr(said, field) or "") == value:
            continue
        mine, others = [one for one in names if one in chosen], [one for one in names if one not in chosen]
        edits += _cut(entry, said, [(mine, {field: value or None}), *([(others, {})] if others else [])])
    return edits


def attach(
    brief: Brief,
    structure: Structure,
    attachments: Attachments,
    rows: Sequence[tuple[str, str]],
    names: str,
    plug: str,
    team: str,
) -> Edits:
    """The edits that name hosts at ports, dealt in the order of the rows (leaf's key, port).

    In a rack whose leaves are paired a host is plugged into both. Raises `Refused` (`host.taken`) where a host is already, `range.*` for a
    name that is none, `host.twice` for one that there is.
    """
    known = expand_names(names, "hosts")
    twice = next((name for name in known if name in attachments.hosts), None)
    if twice:
        raise refuse("host.twice", f"There is a host {twice} already. Choose another name.", "hosts")
    paired = {leaf.rack for pair in structure.pairs for leaf in pair}
    single = {leaf.rack for leaf in structure.leaves if leaf.group is not None and leaf.group.leaves == 1}
    found: dict[tuple[str, str, str], None] = {}
    for key, port in rows:
        leaf = structure.by_key.get(key)
        if leaf is None or not leaf.is_leaf:
            raise refuse("host.rack", f"There is no leaf {key}.", "hosts")
        taken = attachments.at.get(key, {}).get(port)
        if taken:
            raise refuse("host.taken", f"{taken.host} is at {key.removeprefix('leaf/')} {port} already.", "hosts")
        side = "" if leaf.rack in paired or leaf.rack in single else key[-1]
        found.setdefault((leaf.rack, side, port))
    seats = [Slot(*one) for one in found]
    dealt = {name: [mine] for name, mine in deal(seats, known, " are chosen", "hosts").items()}
    body = {field: value for field, value in (("plug", plug), ("team", team)) if value}
    return [
        (
            f"hosts.{quoted(contract_names(run))}",
            {"at": _place([slot for name in run for slot in dealt[name][0]]), **body},
        )
        for run in _runs(known, dealt)
    ]
