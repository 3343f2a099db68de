"""Lists of links in: CSV rows and RFC 8345 topologies become plain links between named switches and ports."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from barrio.core.errors import Fault, Refused, refuse

MOST_BYTES = 20 * 1024 * 1024
MOST_LINKS = 262_144


@dataclass(frozen=True, slots=True)
class PlainLink:
    """A link as it was read. `row` is where: the line of the sheet, or the place in the list, from 1."""

    a: str
    a_port: str
    b: str
    b_port: str
    row: int


def read_links(content: bytes) -> list[PlainLink]:
    """The links of a CSV sheet (RFC 4180) or of an RFC 8345 document, told apart by the first character.

    Raises `Refused` (`import.*`) with the row of each fault, ten at most.
    """
    if len(content) > MOST_BYTES:
        raise refuse("import.too-large", f"This is {len(content) / 1e6:.0f} MB; the most is {MOST_BYTES // 2**20} MB.")
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = content[: error.start].count(b"\n") + 1
        raise refuse("import.encoding", f"Line {line} is not UTF-8. Save the sheet as UTF-8.", line=line) from None
    links = _from_json(text) if text.lstrip()[:1] == "{" else _from_csv(text)
    if not links:
        raise refuse("import.empty", "There is no link in this. A row is: switch, port, switch, port.")
    check_links(links)
    return links


def _from_csv(text: str) -> list[PlainLink]:
    dialect = ";" if text.split("\n", 1)[0].count(";") > text.split("\n", 1)[0].count(",") else ","
    links, faults = [], []
    try:
        rows = csv.reader(io.StringIO(text, newline=""), delimiter=dialect, strict=True)
        for number, row in enumerate(rows, 1):
            cells = [cell.strip() for cell in row]
            if not any(cells) or (number == 1 and _is_header(cells)):
                continue
            if len(cells) < 4 or not all(cells[:4]):
                faults.append(
                    Fault("import.row", f"Row {number} needs four cells: switch, port, switch, port.", line=number)
                )
                continue
            links.append(PlainLink(cells[0], cells[1], cells[2], cells[3], number))
            if len(links) > MOST_LINKS:
                raise refuse("import.too-many", f"There are over {MOST_LINKS:,} links. Import the pods one by one.")
    except csv.Error as error:
        raise refuse("import.csv", f"Row {len(links) + 1} is not CSV: {error}.", line=len(links) + 1) from None
    if faults:
        raise Refused(faults[:10])
    return links


def _is_header(cells: list[str]) -> bool:
    return any("port" in cell.lower() or "interface" in cell.lower() for cell in cells[:4]) and not any(
        any(letter.isdigit() for letter in cell) for cell in cells[:4]
    )


def _from_json(text: str) -> list[PlainLink]:
    try:
        data = json.loads(text)
    except (json.JSONDecodeError, RecursionError) as error:
        line = getattr(error, "lineno", 1)
        raise refuse(
            "import.json", f"This is not JSON: {getattr(error, 'msg', 'nested too deep')}.", line=line
        ) from None
    seen: dict[frozenset[tuple[str, str]], PlainLink] = {}
    for place, link in enumerate(_topology_links(data), 1):
        source, target = _object(link.get("source")), _object(link.get("destination"))
        ends = (
            (str(source.get("source-node", "")), str(source.get("source-tp", ""))),
            (str(target.get("dest-node", "")), str(target.get("dest-tp", ""))),
        )
        if not all(part for end in ends for part in end):
            name = str(link.get("link-id", place))[:60]
            raise refuse("import.link", f"Link {name} does not name a node and a termination point at both ends.")
        # RFC 8345 links point one way; the two of a cable are one.
        seen.setdefault(frozenset(ends), PlainLink(*ends[0], *ends[1], place))
        if len(seen) > MOST_LINKS:
            raise refuse("import.too-many", f"There are over {MOST_LINKS:,} links. Import the pods one by one.")
    return list(seen.values())


def _object(value: object) -> dict[str, Any]:
    return value if isinstance(value, dict) else {}


def _topology_links(data: object) -> Iterator[dict[str, Any]]:
    networks = _object(_object(data).get("ietf-network:networks")).get("network")
    if not isinstance(networks, list):
        raise refuse("import.topology", "This JSON holds no “ietf-network:networks”, as RFC 8345 has it.")
    for network in networks:
        links = _object(network).get("ietf-network-topology:link", [])
        yield from (link for link in links if isinstance(link, dict)) if isinstance(links, list) else ()


def check_links(links: Iterable[PlainLink]) -> None:
    """Raises `Refused` (`import.loop`, `import.port-twice`) with the row of each fault, ten at most."""
    taken: dict[tuple[str, str], int] = {}
    faults = []
    for link in links:
        if link.a == link.b:
            faults.append(
                Fault("import.loop", f"Row {link.row} links {link.a[:60]} to itself. Take it out.", line=link.row)
            )
        for switch, port in ((link.a, link.a_port), (link.b, link.b_port)):
            before = taken.setdefault((switch, port), link.row)
            if before != link.row:
                faults.append(
                    Fault(
                        "import.port-twice",
                        f"Row {link.row} uses port {port[:40]} of {switch[:60]}, which row {before} has. Correct one.",
                        line=link.row,
                    )
                )
    if faults:
        raise Refused(faults[:10])
