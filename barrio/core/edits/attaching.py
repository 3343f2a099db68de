"""Changes of what hosts carry and where they are, cell by cell, as edits of the brief.

An entry of the brief may name many hosts. A change that is the same for all of them changes the entry; one for some of them takes the entry
apart, into entries of hosts that stay alike.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from barrio.core.attach.attachments import Attachments
from barrio.core.attach.places import Slot, slots
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
    touched = list(dict.fromkeys(attachments.hosts[name].entry for name in changed))
    for entry in touched:
        names = expand_names(entry)
        said = brief.hosts[entry]
        groups: dict[Carried | None, list[str]] = {}
        for name in names:
            groups.setdefault(changed.get(name), []).append(name)
        if len(groups) == 1:
            carried = changed[names[0]]
            yield from _carry(brief, f"hosts.{quoted(entry)}", said, carried)
            continue
        yield f"hosts.{quoted(entry)}", None
        dealt = _dealt(entry, said)
        for carried_, members in groups.items():
            for run in _runs(members, dealt):
                yield f"hosts.{quoted(contract_names(run))}", _entry(brief, said, [dealt[one] for one in run], carried_)


def _runs(members: Sequence[str], dealt: Mapping[str, Sequence[Sequence[Slot]]]) -> Iterator[tuple[str, ...]]:
    """The hosts in runs that one entry can name: at each of its places one rack, so that ports are dealt as before."""
    run: list[str] = []
    for name in members:
        if run and any(before[-1].rack != now[0].rack for before, now in zip(dealt[run[-1]], dealt[name], strict=True)):
            yield tuple(run)
            run = []
        run.append(name)
    yield tuple(run)


def _carry(brief: Brief, path: str, said: HostEntry, carried: Carried) -> Iterator[tuple[str, object]]:
    """Only what the host's plug does not say already stands at the host."""
    plug = brief.plugs.get(said.plug) if said.plug else None
    untagged, tagged = carried
    of_its_plug = plug.untagged if plug and plug.untagged != NONE else None
    if untagged != of_its_plug:
        yield f"{path}.untagged", untagged if untagged is not None else _NOTHING
    elif said.untagged is not None:
        yield f"{path}.untagged", None
    of_plug = _apart(brief, plug.tagged or []) if plug else ()
    if set(tagged) != set(of_plug):
        yield f"{path}.tagged", list(_shortest(brief, said, tagged))
    elif said.tagged is not None:
        yield f"{path}.tagged", None


_NOTHING = NONE
"""A host that carries nothing untagged although its plug does."""


def _apart(brief: Brief, names: Sequence[str]) -> tuple[str, ...]:
    found: dict[str, None] = {}
    for name in names:
        found.update(dict.fromkeys(brief.sets.get(name, (name,))))
    return tuple(found)


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


def _dealt(entry: str, said: HostEntry) -> dict[str, list[list[Slot]]]:
    """The slots of each host of an entry, place by place."""
    names = expand_names(entry)
    dealt: dict[str, list[list[Slot]]] = {name: [] for name in names}
    for place in said.at:
        found = slots(place)
        each = len(found) // len(names)
        for index, name in enumerate(names):
            dealt[name].append(list(found[index * each : (index + 1) * each]))
    return dealt


def _entry(
    brief: Brief, said: HostEntry, dealt: Sequence[Sequence[Sequence[Slot]]], carried: Carried | None
) -> dict[str, Any]:
    """An entry like another, for some of its hosts."""
    body = said.model_dump(exclude_unset=True, exclude_none=True)
    at = [_place([slot for host in dealt for slot in host[place]]) for place in range(len(said.at))]
    body["at"] = at[0] if len(at) == 1 else at
    if carried is not None:
        for path, value in _carry(brief, "", said, carried):
            field = path.removeprefix(".")
            if value is None:
                body.pop(field, None)
            else:
                body[field] = value
    return body


def _place(mine: Sequence[Slot]) -> str:
    """Slots of one rack as they are written, in their order."""
    side = f"/{mine[0].side}" if mine[0].side else ""
    return f"{mine[0].rack}{side} {contract_ports([slot.port for slot in mine])}"


def detach(brief: Brief, attachments: Attachments, hosts: Sequence[str]) -> Edits:
    """The edits that take hosts away, with all that only they caused. Raises `Refused` for one that is not there."""
    unknown = next((name for name in hosts if name not in attachments.hosts), None)
    if unknown:
        raise refuse("host.none", f"There is no host {unknown}.", "hosts")
    edits: list[tuple[str, object]] = []
    gone = set(hosts)
    for entry in dict.fromkeys(attachments.hosts[name].entry for name in hosts):
        said, dealt = brief.hosts[entry], _dealt(entry, brief.hosts[entry])
        left = [name for name in expand_names(entry) if name not in gone]
        edits.append((f"hosts.{quoted(entry)}", None))
        for run in _runs(left, dealt) if left else ():
            edits.append(
                (f"hosts.{quoted(contract_names(run))}", _entry(brief, said, [dealt[one] for one in run], None))
            )
    return edits


def dress(
    brief: Brief, attachments: Attachments, hosts: Sequence[str], field: Literal["plug", "team"], value: str
) -> Edits:
    """The edits by which hosts use another plug, or belong to another team; an empty value takes it away. What they say themselves stays.

    Raises `Refused` for a host that is not there.
    """
    unknown = next((name for name in hosts if name not in attachments.hosts), None)
    if unknown:
        raise refuse("host.none", f"There is no host {unknown}.", "hosts")
    edits: list[tuple[str, object]] = []
    chosen = set(hosts)
    for entry in dict.fromkeys(attachments.hosts[name].entry for name in hosts):
        said, names = brief.hosts[entry], expand_names(entry)
        if (getattr(said, field) or "") == value:
            continue
        if chosen.issuperset(names):
            edits.append((f"hosts.{quoted(entry)}.{field}", value or None))
            continue
        edits.append((f"hosts.{quoted(entry)}", None))
        dealt = _dealt(entry, said)
        for mine in ([one for one in names if one in chosen], [one for one in names if one not in chosen]):
            for run in _runs(mine, dealt):
                body = _entry(brief, said, [dealt[one] for one in run], None)
                if mine[0] in chosen:
                    body.pop(field, None)
                    body |= {field: value} if value else {}
                edits.append((f"hosts.{quoted(contract_names(run))}", body))
    return edits


def without_racks(brief: Brief, racks: Collection[str]) -> Edits:
    """The edits that take away the hosts that are plugged in in these racks."""
    edits: list[tuple[str, object]] = []
    for entry, said in brief.hosts.items():
        dealt = _dealt(entry, said)
        left = [
            name for name, places in dealt.items() if not any(slot.rack in racks for place in places for slot in place)
        ]
        if len(left) == len(dealt):
            continue
        edits.append((f"hosts.{quoted(entry)}", None))
        for run in _runs(left, dealt) if left else ():
            edits.append(
                (f"hosts.{quoted(contract_names(run))}", _entry(brief, said, [dealt[one] for one in run], None))
            )
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
    each, over = divmod(len(seats), len(known))
    if over or not each:
        words = f"{len(known)} hosts and {len(seats)} ports are chosen. Choose as many ports, or name {len(seats)} hosts, as in model-01..model-{len(seats):02d}."
        raise refuse("host.count", words, "hosts")
    dealt = {name: [seats[at * each : (at + 1) * each]] for at, name in enumerate(known)}
    body = {field: value for field, value in (("plug", plug), ("team", team)) if value}
    return [
        (
            f"hosts.{quoted(contract_names(run))}",
            {"at": _place([slot for name in run for slot in dealt[name][0]]), **body},
        )
        for run in _runs(known, dealt)
    ]
