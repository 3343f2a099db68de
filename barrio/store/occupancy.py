"""What is taken in the shared spaces, kept in memory as runs and brought up to date by what changed since.

A million entries that lie side by side are one run, and one more leaf costs what that leaf changes. Changes of a scope commit
in the order of their ids, since their writers take the scope's lock before they take an id; so what a reader sees of a
scope is always everything up to some change.
"""

from __future__ import annotations

from collections.abc import Iterable
from ipaddress import IPv6Address
from threading import Lock

from barrio.core.ledger.runs import Runs
from barrio.store.database import Connection, statement


class Occupancy:
    """The runs of each shared space, and for each scope the newest change that they hold."""

    def __init__(self) -> None:
        self._runs: dict[str, Runs] = {}
        self._seen: dict[str, int] = {}
        self._guard = Lock()

    def others(self, connection: Connection, mine: dict[str, Runs]) -> dict[str, Runs]:
        """For each space named, what is taken there without what is `mine`. Reads what changed on this connection."""
        scopes: dict[str, list[str]] = {}
        for space in mine:
            scopes.setdefault(space.partition("@")[2], []).append(space)
        with self._guard:
            for scope, spaces in scopes.items():
                if scope in self._seen and all(space in self._runs for space in spaces):
                    self._follow(connection, scope)
                else:
                    self._read(connection, scope, spaces)
            return {space: self._runs[space].without(runs) for space, runs in mine.items()}

    def forget(self) -> None:
        """Drop everything; after a transaction was undone in which others' and own changes were read."""
        with self._guard:
            self._runs.clear()
            self._seen.clear()

    def _read(self, connection: Connection, scope: str, spaces: list[str]) -> None:
        # Asked before the runs: what commits in between is read again later, which changes nothing. Only changes of this
        # scope count: one of another may have a higher id and be there sooner.
        row = connection.execute(statement("newest_change"), {"spaces": spaces}).fetchone()
        found: dict[str, list[tuple[int, int]]] = {space: [] for space in spaces}
        for space, low, high in connection.execute(statement("runs_of"), {"spaces": spaces}):
            found[space].append((low, high))
        self._read_v6(connection, spaces, found)
        for space, runs in found.items():
            self._runs[space] = Runs.of(runs)
        self._seen[scope] = int(row[0]) if row else 0

    def _read_v6(self, connection: Connection, spaces: Iterable[str], found: dict[str, list[tuple[int, int]]]) -> None:
        wide = "select space, host(prefix), masklen(prefix) from entries where space = any(%s) and family(prefix) = 6"
        for space, host, length in connection.execute(wide, [list(spaces)]):
            low = int(IPv6Address(host))
            found[space].append((low, low + (1 << (128 - length)) - 1))

    def _follow(self, connection: Connection, scope: str) -> None:
        spaces = [space for space in self._runs if space.partition("@")[2] == scope]
        newest = self._seen[scope]
        for there, space, host, length, number, change in connection.execute(
            statement("taken_since"), {"seen": newest, "spaces": spaces}
        ):
            low, size = (number, 1) if host is None else bounds(host, length)
            act = self._runs[space].add if there else self._runs[space].remove
            act(low, low + size - 1)
            self._seen[scope] = max(self._seen[scope], change)


def bounds(host: str, length: int) -> tuple[int, int]:
    """The lowest integer of a prefix, and how many it spans."""
    if ":" in host:
        return int(IPv6Address(host)), 1 << (128 - length)
    a, b, c, d = host.split(".")
    return int(a) << 24 | int(b) << 16 | int(c) << 8 | int(d), 1 << (32 - length)
