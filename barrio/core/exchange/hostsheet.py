"""Hosts from a sheet: which row names whom at which ports, what it would change, and why it cannot be taken.

A row is a host, or as many as its name is a range of; places are written as in the brief (`r01 h1..h2`), with a semicolon between several,
or with rack, leaf and ports in columns of their own. Hosts that the sheet does not name stay as they are. Rows that are alike become one
entry, where their names and ports go on from each other.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from pydantic import ValidationError

from barrio.core.attach.attachments import Attachments
from barrio.core.attach.places import Slot, deal, slots
from barrio.core.brief.document import Edits
from barrio.core.brief.hosts import NONE, HostEntry
from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import contract_names, contract_ports, expand_names
from barrio.core.brief.reader import quoted
from barrio.core.edits.attaching import detach
from barrio.core.errors import Refused, refuse
from barrio.core.exchange.sheet import Sheet, guess_columns
from barrio.core.printed import Name

Outcome = Literal["new", "changes", "same", "refused"]
COLUMNS = ("host", "at", "rack", "leaf", "ports", "team", "plug", "lag", "untagged", "tagged", "note")
_WORDS = {
    "host": {"host", "hosts", "server", "hostname", "name", "machine", "system", "device"},
    "at": {"at", "place", "where", "location"},
    "rack": {"rack", "cabinet"},
    "leaf": {"leaf", "side", "switch"},
    "ports": {"ports", "port", "interface", "interfaces"},
    "team": {"team", "owner", "group"},
    "plug": {"plug", "profile"},
    "lag": {"lag", "bond", "lacp"},
    "untagged": {"untagged", "native", "access"},
    "tagged": {"tagged", "trunk", "segments"},
    "note": {"note", "notes", "comment", "description", "remark"},
}
_LAGS = {"": None, "none": "none", "no": "none", "lacp": "lacp", "yes": "lacp", "802.3ad": "lacp", "static": "static"}


@dataclass(frozen=True, slots=True)
class HostRow:
    """What one row comes to. `now` is the entry of the brief that names the host at the moment."""

    line: int
    host: str
    at: str
    carries: str
    outcome: Outcome
    reason: str = ""
    now: str = ""


@dataclass(frozen=True, slots=True)
class _Read:
    """A row that can be read: its hosts, their slots, and what an entry says beside where it is."""

    names: tuple[str, ...]
    dealt: Mapping[str, tuple[Slot, ...]]
    body: Mapping[str, object]


def guess(columns: Sequence[str]) -> dict[str, int]:
    """Which column holds what, by the headings; only what is clear."""
    return guess_columns(columns, _WORDS)


def understand(
    sheet: Sheet, mapping: Mapping[str, int], brief: Brief, attachments: Attachments
) -> tuple[list[HostRow], Edits]:
    """What each row comes to, in the order of the sheet, and the edits of all that are not refused.

    Raises `Refused` (`sheet.columns`) when no column holds the hosts or where they are.
    """
    placed = "at" in mapping or {"rack", "ports"} <= mapping.keys()
    if "host" not in mapping or not placed or any(not 0 <= at < len(sheet.columns) for at in mapping.values()):
        has = ", ".join(sheet.columns[:12])
        raise refuse(
            "sheet.columns",
            f"Say which columns hold the hosts, and their places or racks and ports. The sheet has: {has}.",
        )
    rows: list[HostRow] = []
    taken: dict[str, int] = {}
    read: list[_Read] = []
    for line, cells in zip(sheet.lines, sheet.rows, strict=True):
        said = {name: cells[at].removeprefix("'") for name, at in mapping.items()}
        carries = " ".join(part for part in (said.get("untagged", ""), said.get("tagged", "")) if part)
        row = HostRow(line, said["host"], _at(said), carries or said.get("plug", ""), "new")
        try:
            one = _read(said, row.at, brief)
            twice = next((name for name in one.names if name in taken), None)
            if twice:
                raise refuse("host.twice", f"{twice} is on line {taken[twice]} already. Name each host once.")
        except Refused as error:
            rows.append(replace(row, outcome="refused", reason=error.faults[0].message))
            continue
        taken |= dict.fromkeys(one.names, line)
        outcome = _outcome(one, said.keys(), brief, attachments)
        now = next((attachments.hosts[name].entry for name in one.names if name in attachments.hosts), "")
        rows.append(replace(row, outcome=outcome, now=now))
        if outcome != "same":
            read += _kept(one, said.keys(), brief, attachments)
    known = [name for one in read for name in one.names if name in attachments.hosts]
    edits = [*(detach(brief, attachments, known) if known else []), *_entries(read)]
    return rows, edits


def _kept(one: _Read, said: Collection[str], brief: Brief, attachments: Attachments) -> Iterator[_Read]:
    """The hosts of a row, each with what it said before in words that the sheet has no column for."""
    for name in one.names:
        host = attachments.hosts.get(name)
        before = brief.hosts[host.entry].model_dump(exclude_unset=True, exclude_none=True) if host else {}
        kept = {field: value for field, value in before.items() if field != "at" and field not in said}
        yield _Read((name,), {name: one.dealt[name]}, {**kept, **one.body})


def _at(said: Mapping[str, str]) -> str:
    if said.get("at"):
        return said["at"]
    leaf = said.get("leaf", "").strip().lower()[-1:]
    return f"{said.get('rack', '')}{f'/{leaf}' if leaf else ''} {said.get('ports', '').replace(';', ',')}".strip()


def _read(said: Mapping[str, str], at: str, brief: Brief) -> _Read:
    """A row as hosts, slots and words, without those that its plug says already. Raises `Refused`, in words for whoever wrote the sheet."""
    names = expand_names(said["host"]) if said["host"] else ()
    if not names:
        raise refuse("host.name", "The row names no host. Fill it in, or take the row out.")
    places = [part.strip() for part in at.split(";") if part.strip()]
    if not places:
        raise refuse("host.place", f"{said['host']} is at no port. Write a rack and ports, such as r01 h7.")
    dealt: dict[str, tuple[Slot, ...]] = dict.fromkeys(names, ())
    for place in places:
        for name, mine in deal(slots(place), names, f" in “{place}”").items():
            dealt[name] += tuple(mine)
    lag = said.get("lag", "").strip().lower()
    if lag not in _LAGS:
        raise refuse("host.lag", f"“{lag}” is no way to bond. Write lacp, static or none.")
    body: dict[str, object] = {field: said[field] for field in ("plug", "team", "note", "untagged") if said.get(field)}
    if _LAGS[lag] and (_LAGS[lag] != "none" or said.get("plug")):
        body["lag"] = _LAGS[lag]
    if said.get("tagged"):
        body["tagged"] = re.split(r"[\s,;]+", said["tagged"].strip())
    try:
        HostEntry.model_validate({"at": places, **body})
    except ValidationError as error:
        first = error.errors()[0]
        words = str(first["msg"]).removeprefix("Value error, ")
        raise refuse("host.row", f"{'.'.join(map(str, first['loc']))}: {words}") from None
    of_plug = _of_plug(brief, body)
    return _Read(
        names,
        dealt,
        {
            field: value
            for field, value in body.items()
            if field not in of_plug or _plain(brief, value) != _plain(brief, of_plug[field])
        },
    )


def _of_plug(brief: Brief, body: Mapping[str, object]) -> dict[str, object]:
    """What the plug of a row says, when it has one."""
    plug = brief.plugs.get(str(body.get("plug", "")))
    return {"lag": plug.lag, "untagged": plug.untagged, "tagged": plug.tagged} if plug else {}


def _plain(brief: Brief, value: object) -> object:
    """A word so that two are alike when they mean the same: sets taken apart, in no order, and nothing however it is written."""
    if isinstance(value, (list, tuple)):
        return frozenset(one for name in value for one in brief.sets.get(name, [Name(name)]))
    return value if value not in (None, "", NONE) else frozenset()


def _outcome(one: _Read, said: Collection[str], brief: Brief, attachments: Attachments) -> Outcome:
    """Whether the hosts of a row are new, or other than the brief has them. A column that is not there says nothing of them."""
    known = [attachments.hosts[name] for name in one.names if name in attachments.hosts]
    if not known:
        return "new"
    wanted = {**_of_plug(brief, one.body), **one.body}
    for host in known:
        places = {(slot.rack, slot.port) for slot in one.dealt[host.host]}
        sides = {slot.side for slot in one.dealt[host.host] if slot.side}
        if places != {(key.split("/")[1], str(port)) for key, port in host.ports}:
            return "changes"
        if sides and sides != {key[-1] for key, _ in host.ports}:
            return "changes"
        is_now = {
            "plug": host.way.plug, "team": host.team, "note": host.note, "lag": host.way.lag,
            "untagged": host.way.untagged, "tagged": host.way.tagged,
        }  # fmt: skip
        if any(
            _plain(brief, now) != _plain(brief, wanted.get(field)) for field, now in is_now.items() if field in said
        ):
            return "changes"
    return "same" if len(known) == len(one.names) else "changes"


def _entries(read: Sequence[_Read]) -> Iterator[tuple[str, object]]:
    """Rows as entries: those that follow on each other, alike but for their names and ports, are one."""
    run: list[_Read] = []
    for one in read:
        if run and not _goes_on(run[-1], one):
            yield _entry(run)
            run = []
        run.append(one)
    if run:
        yield _entry(run)


def _goes_on(before: _Read, now: _Read) -> bool:
    last, first = before.dealt[before.names[-1]], now.dealt[now.names[0]]
    places = {(slot.rack, slot.side) for slot in (*last, *first)}
    names = contract_names((before.names[-1], now.names[0]))
    return (
        before.body == now.body and len(places) == 1 and len(last) == len(first) and ".." in names and "," not in names
    )


def _entry(run: Sequence[_Read]) -> tuple[str, object]:
    names = tuple(name for one in run for name in one.names)
    racks: dict[tuple[str, str], list[str]] = {}
    for one in run:
        for name in one.names:
            for slot in one.dealt[name]:
                racks.setdefault((slot.rack, slot.side), []).append(slot.port)
    at = [f"{rack}{f'/{side}' if side else ''} {contract_ports(ports)}" for (rack, side), ports in racks.items()]
    return f"hosts.{quoted(contract_names(names))}", {"at": at[0] if len(at) == 1 else at, **run[0].body}
