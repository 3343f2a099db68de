"""Reading the record of who did what."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator

from barrio.app.desk import Desk
from barrio.core.bundle import harmless
from barrio.store import record
from barrio.store.database import Connection
from barrio.store.errors import Missing
from barrio.store.record import Altered, Deed, Sieve

_COLUMNS = ("id", "at", "author", "token", "address", "topic", "fabric", "version", "act", "note", "altered")


def deeds(desk: Desk, sieve: Sieve, before: int | None, limit: int) -> list[Deed]:
    """The newest acts that pass the sieve, or those before one."""
    with desk.reading() as tx:
        return record.deeds(tx.connection, sieve, before, limit)


def one(desk: Desk, deed: int) -> list[Altered]:
    """What an act altered: with the briefs themselves where a draft moved from one to another. Raises `Missing`."""
    with desk.reading() as tx:
        if tx.connection.execute("select 1 from changes where id = %s", [deed]).fetchone() is None:
            raise Missing("There is no such act in the record.")
        found = record.altered(tx.connection, deed)
        return [_with_briefs(tx.connection, altered) for altered in found]


def _with_briefs(connection: Connection, altered: Altered) -> Altered:
    if altered.thing != "fabrics":
        return altered
    texts = [
        {**side, "brief": row[0]}
        if side
        and side.get("head")
        and (row := connection.execute("select brief from revisions where id = %s", [side["head"]]).fetchone())
        else side
        for side in (altered.before, altered.after)
    ]
    return Altered(altered.thing, altered.key, texts[0], texts[1])


def as_csv(desk: Desk, sieve: Sieve) -> Iterator[str]:
    """The acts that pass the sieve, as the lines of a sheet."""
    with desk.reading() as tx:
        yield _line(_COLUMNS)
        for deed in record.every(tx.connection, sieve):
            yield _line([str(getattr(deed, name) if getattr(deed, name) is not None else "") for name in _COLUMNS])


def _line(cells: tuple[str, ...] | list[str]) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\r\n").writerow([harmless(cell) for cell in cells])
    return out.getvalue()
