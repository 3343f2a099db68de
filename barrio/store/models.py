"""The architect's own switch models, beside those that ship."""

from __future__ import annotations

from dataclasses import dataclass

from psycopg.types.json import Jsonb

from barrio.core.catalogue.made import MADE
from barrio.core.catalogue.model import Catalogue, SwitchType
from barrio.store import office
from barrio.store.database import Connection


@dataclass(frozen=True, slots=True)
class Shelf:
    """The catalogue at one version, the ids of the models in it that are the architect's own, and the number of the office's edition."""

    version: int
    catalogue: Catalogue
    own: frozenset[str]
    office: int = 0


SHIPPED = Shelf(0, MADE, frozenset())


def versions(connection: Connection) -> tuple[int, int]:
    """How often the catalogue and the pools were changed: (catalogue, pools)."""
    row = connection.execute(
        "select catalogue_version.version, pools_version.version from catalogue_version, pools_version"
    ).fetchone()
    return (0, 0) if row is None else (int(row[0]), int(row[1]))


def shelf(connection: Connection, version: int) -> Shelf:
    """The catalogue, which is at this version."""
    rows = connection.execute("select body from models order by id").fetchall()
    own = [SwitchType.model_validate(body) for (body,) in rows]
    return Shelf(version, MADE.with_models(own), frozenset(kind.id for kind in own), office.newest(connection))


def put(connection: Connection, kind: SwitchType, author: str) -> None:
    """Add a model, or change it."""
    connection.execute(
        "insert into models (id, body, author) values (%s, %s, %s) "
        "on conflict (id) do update set body = excluded.body, author = excluded.author, saved_at = now()",
        [kind.id, Jsonb(kind.model_dump(mode="json")), author],
    )
    connection.execute("update catalogue_version set version = version + 1")


def drop(connection: Connection, model: str) -> bool:
    """Take an own model out; a shipped one of the same id is then as it was. Returns whether there was one."""
    gone = connection.execute("delete from models where id = %s", [model]).rowcount > 0
    connection.execute("update catalogue_version set version = version + 1")
    return gone
