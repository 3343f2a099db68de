"""Neighbour tables as switches and people give them: who hears whom at which port (IEEE 802.1AB).

Read are the JSON of `lldpcli show neighbors` (both of its forms, of one switch or of many by name), CSV with headings, and pasted lines of
`switch port neighbour port`. Nothing is believed: what cannot be read is refused with its line.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, NamedTuple

from barrio.core.errors import refuse

MOST_ROWS = 400_000
MOST_BYTES = 64 * 1024 * 1024


class Port(NamedTuple):
    """A port of something that speaks LLDP, by the names that it announces."""

    system: str
    name: str

    @property
    def text(self) -> str:
        return f"{self.system}:{self.name}"


@dataclass(frozen=True, slots=True)
class Heard:
    """One row of a table: at port `at`, `far` is heard; `speed` in Gbit/s when it was said; `line` counts from 1 and is 0 in JSON."""

    at: Port
    far: Port
    speed: int | None = None
    line: int = 0


@dataclass(frozen=True, slots=True)
class Table:
    """Rows, and the switches that were asked: one that hears nobody has no row."""

    rows: tuple[Heard, ...]
    asked: frozenset[str]

    def __add__(self, other: Table) -> Table:
        return Table(self.rows + other.rows, self.asked | other.asked)


def table_of(rows: Iterable[Heard], asked: Iterable[str] = ()) -> Table:
    """A table of rows; whoever hears somebody was asked."""
    every = tuple(rows)
    return Table(every, frozenset(asked) | {row.at.system for row in every})


def read_heard(data: bytes, switch: str = "") -> Table:
    """A table in any of the forms. `switch` is whose it is, where the table does not say.

    Raises `Refused` (`neighbours.encoding`, `neighbours.syntax`, `neighbours.whose`, `neighbours.empty`, `neighbours.rows`).
    """
    if len(data) > MOST_BYTES:
        raise refuse(
            "neighbours.rows",
            f"The table is {len(data) // 1_048_576} MB; {MOST_BYTES // 1_048_576} MB can be taken. Split it by racks.",
        )
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise refuse("neighbours.encoding", "The table is not UTF-8 text. Save it as JSON or CSV in UTF-8.") from None
    asked: set[str] = set()
    is_json = text.lstrip()[:1] in ("{", "[")
    rows = tuple(_json(text, switch, asked) if is_json else _lines(text, switch))
    if not rows and not asked:
        raise refuse(
            "neighbours.empty", "The table names no neighbour. Ask a switch with: lldpcli -f json show neighbors"
        )
    if len(rows) > MOST_ROWS:
        raise refuse(
            "neighbours.rows",
            f"The table has {len(rows):,} rows; {MOST_ROWS:,} can be taken at once. Split it by racks.",
        )
    return table_of(rows, asked)


def _json(text: str, switch: str, asked: set[str]) -> Iterator[Heard]:
    try:
        data = json.loads(text)
    except (json.JSONDecodeError, RecursionError) as error:
        line = getattr(error, "lineno", 0)
        raise refuse(
            "neighbours.syntax",
            f"This is not JSON: line {line} cannot be read. Take the output of lldpcli as it is.",
            line=line,
        ) from None
    if isinstance(data, dict) and "lldp" not in data:
        for name, table in data.items():
            yield from _of_switch(table, str(name), asked)
        return
    yield from _of_switch(data, switch, asked)


def _of_switch(table: object, switch: str, asked: set[str]) -> Iterator[Heard]:
    if not switch:
        raise refuse(
            "neighbours.whose",
            "The table does not say whose it is. Name the file after its switch (leaf-r01a.json), or put tables of several under their names.",
        )
    asked.add(switch.split(".", maxsplit=1)[0])
    for interface in _interfaces(table):
        for name, said in interface:
            far = _far(said)
            if far is not None:
                yield Heard(Port(switch.split(".", maxsplit=1)[0], name), far, _speed(said))


def _interfaces(table: object) -> Iterator[list[tuple[str, Mapping[str, Any]]]]:
    """The interfaces of a table, as (name, what is heard there): `json` has them by name, `json0` in lists with the name inside."""
    for lldp in _many(_get(table, "lldp")):
        for interface in _many(_get(lldp, "interface")):
            if "name" in interface and isinstance(interface["name"], str):
                yield [(interface["name"], interface)]
            else:
                yield [(str(name), said) for name, one in interface.items() for said in _many(one)]


def _far(said: Mapping[str, Any]) -> Port | None:
    """The neighbour's name and port."""
    name = port = ""
    for chassis in _many(said.get("chassis")):
        named = _value(chassis.get("name"))
        if named:
            name = named
        elif len(chassis) == 1:
            # In the plain form the name stands in place of a key.
            name = next(iter(chassis))
    for one in _many(said.get("port")):
        for identity in _many(one.get("id")):
            port = _value(identity.get("value")) or _value(identity)
        port = port or _value(one.get("descr"))
    return Port(name.split(".")[0], port) if name and port else None


def _speed(said: Mapping[str, Any]) -> int | None:
    """The speed that the neighbour says it runs at, from the words of its media type (IEEE 802.3, MAU types)."""
    for port in _many(said.get("port")):
        for negotiation in _many(port.get("auto-negotiation")):
            for current in _many(negotiation.get("current")):
                found = re.match(r"(\d+)(G?)[Bb][Aa][Ss][Ee]", _value(current) or _value(current.get("value")))
                if found:
                    return int(found[1]) if found[2] else max(1, int(found[1]) // 1000)
    return None


def _get(table: object, key: str) -> object:
    return table.get(key) if isinstance(table, dict) else table if isinstance(table, list) else None


def _many(found: object) -> list[Any]:
    """What may stand alone or in a list, as a list of what holds fields; a bare word counts as its value."""
    items = found if isinstance(found, list) else [] if found is None else [found]
    return [one if isinstance(one, dict) else {"value": one} for one in items]


def _value(found: object) -> str:
    if isinstance(found, list):
        found = found[0] if found else None
    if isinstance(found, dict):
        found = found.get("value")
    return found if isinstance(found, str) else ""


_HEADINGS = {
    "switch": ("switch", "system", "device", "local", "local switch", "from"),
    "port": ("port", "interface", "local port", "from port"),
    "far": ("neighbour", "neighbor", "remote", "remote switch", "peer", "to"),
    "far_port": ("neighbour port", "neighbor port", "remote port", "peer port", "to port"),
    "speed": ("speed", "speed gbps", "gbit s"),
}


def _lines(text: str, switch: str) -> Iterator[Heard]:
    """CSV with headings, or lines of words."""
    lines = [
        (number, line) for number, line in enumerate(text.splitlines(), 1) if line.strip() and not line.startswith("#")
    ]
    if not lines:
        return
    first = _cells(lines[0][1])
    named = {
        name: place for name, said in _HEADINGS.items() for place, cell in enumerate(first) if _words(cell) in said
    }
    columns = named if {"port", "far", "far_port"} <= named.keys() else None
    for number, line in lines[1 if columns else 0 :]:
        yield _row(_cells(line), columns, switch, number)


def _cells(line: str) -> list[str]:
    mark = max(",;\t|", key=line.count)
    return [cell.strip().strip('"') for cell in (line.split(mark) if mark in line else line.split())]


def _words(cell: str) -> str:
    return re.sub(r"[^a-z0-9]+", " ", cell.lower()).strip()


def _row(cells: list[str], columns: Mapping[str, int] | None, switch: str, line: int) -> Heard:
    if columns is None:
        names = ("switch", "port", "far", "far_port", "speed") if len(cells) >= 4 else ("port", "far", "far_port")
        columns = {name: place for place, name in enumerate(names)}
    said = {name: cells[place] if place < len(cells) else "" for name, place in columns.items()}
    whose = said.get("switch") or switch
    missing = next(
        (
            name
            for name, value in (("switch", whose), *((one, said.get(one, "")) for one in ("port", "far", "far_port")))
            if not value
        ),
        None,
    )
    if missing:
        what = {"switch": "the switch", "port": "its port", "far": "the neighbour", "far_port": "the neighbour's port"}[
            missing
        ]
        raise refuse(
            "neighbours.syntax",
            f"Line {line} does not say {what}. Write: switch, port, neighbour, neighbour port.",
            line=line,
        )
    speed = re.match(r"\d{1,4}", said.get("speed", ""))
    return Heard(
        Port(whose.split(".")[0], said["port"]),
        Port(said["far"].split(".")[0], said["far_port"]),
        int(speed[0]) if speed else None,
        line,
    )
