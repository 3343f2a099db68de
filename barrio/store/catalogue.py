"""The catalogue: the models that ship and the architect's own, and what a changed model would do to the fabrics."""

from __future__ import annotations

from dataclasses import dataclass, replace
from threading import Lock
from typing import Any

import psycopg
from psycopg.types.json import Jsonb
from psycopg_pool import ConnectionPool

from barrio.core.catalogue.made import MADE
from barrio.core.catalogue.model import Catalogue, SwitchType

Connections = ConnectionPool[psycopg.Connection[Any]]


@dataclass(frozen=True, slots=True)
class Shelf:
    """The catalogue at one version. `stamp` also grows when a pool changes: what was compiled before it is old."""

    version: int
    stamp: int
    catalogue: Catalogue
    own: frozenset[str]


class Models:
    """The models of one database. The newest catalogue is kept at hand."""

    def __init__(self) -> None:
        self._shelf = Shelf(0, 0, MADE, frozenset())
        self._guard = Lock()

    def shelf(self, connection: psycopg.Connection[Any]) -> Shelf:
        """The catalogue as the connection's transaction sees it."""
        row = connection.execute(
            "select catalogue_version.version, pools_version.version from catalogue_version, pools_version"
        ).fetchone()
        version, pools = row or (0, 0)
        with self._guard:
            if self._shelf.version == version:
                return replace(self._shelf, stamp=version + pools)
        rows = connection.execute("select body from models order by id").fetchall()
        own = [SwitchType.model_validate(body) for (body,) in rows]
        shelf = Shelf(version, version + pools, MADE.with_models(own), frozenset(kind.id for kind in own))
        with self._guard:
            if shelf.version > self._shelf.version:
                self._shelf = shelf
        return shelf

    def put(self, connection: psycopg.Connection[Any], kind: SwitchType, author: str) -> None:
        """Add a model, or change it; seen by others once the transaction ends."""
        connection.execute(
            "insert into models (id, body, author) values (%s, %s, %s) "
            "on conflict (id) do update set body = excluded.body, author = excluded.author, saved_at = now()",
            [kind.id, Jsonb(kind.model_dump(mode="json")), author],
        )
        connection.execute("update catalogue_version set version = version + 1")

    def drop(self, connection: psycopg.Connection[Any], model: str) -> bool:
        """Take an own model out; a shipped one of the same id is then as it was. Returns whether there was one."""
        gone = connection.execute("delete from models where id = %s", [model]).rowcount > 0
        connection.execute("update catalogue_version set version = version + 1")
        return gone
