"""Saved outputs held against editions: switches that no agent runs on, or that were looked at by SSH, drift like any other."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from hashlib import sha256

from barrio.app import kept, outlets, sent
from barrio.app.desk import Desk
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.adopt.running import Running
from barrio.core.adopt.saved import read_saved
from barrio.core.archives import unpacked
from barrio.core.compare.lines import Reader
from barrio.core.errors import refuse
from barrio.core.observe.saved import GUARD, as_file, misheard
from barrio.core.observe.texts import masked
from barrio.store import editions, snapshots
from barrio.store import stagings as staged
from barrio.store.entries import Act


@dataclass(frozen=True, slots=True)
class Held:
    """What came of holding saved outputs against editions: switches by name that are as meant, those that are not, and those that no edition has."""

    true: tuple[str, ...]
    drifted: tuple[str, ...]
    unknown: tuple[str, ...]


def hold(desk: Desk, name: str, archive: bytes) -> Held:
    """Hold saved outputs (a ZIP or tar.gz) against the edition that each switch was handed over with, else the newest, and keep what they show. Files that are
    not among them count for nothing.

    Raises `Missing`, and `Refused`: `archive.*`, `adopt.saved`, `drift.edition` (nothing is sealed yet).
    """
    every = read_saved(unpacked(archive))

    def work(tx: Transaction) -> Held:
        draft = tx.readable(tx.draft(name))
        newest = editions.newest(tx.connection, name)
        if newest is None:
            raise refuse(
                "drift.edition", f"Nothing is sealed of {name} yet, so nothing was meant. Seal an edition first."
            )
        tx.act(Act("outputs held", name, note=f"{len(every)} switches", topic="staging"))
        keys = {str(one.name): one.key for one in kept.compiled(tx, newest, draft).structure.switches}
        came: dict[str, bool] = {}
        known: dict[int, tuple[Compiled, dict[int, Reader]]] = {}
        for one in every:
            key = keys.get(one.name)
            if key is None:
                continue
            number = staged.handed_over_with(tx.connection, name, key) or newest.number
            if number not in known:
                known[number] = kept.compiled(tx, editions.find(tx.connection, name, number), draft), {}
            compiled, readers = known[number]
            if key in compiled.models and key not in compiled.without_files:
                secrets = sent.secrets_of(tx, desk.house.keys, editions.find(tx.connection, name, number).id, one.name)
                came[one.name] = _keep(tx, name, number, compiled, key, one, readers, secrets)
        unknown = tuple(one.name for one in every if one.name not in came)
        return Held(
            tuple(one for one, true in came.items() if true),
            tuple(one for one, true in came.items() if not true),
            unknown,
        )

    return desk.writing(work)


def _keep(
    tx: Transaction, name: str, number: int, compiled: Compiled, key: str, one: Running, readers: dict[int, Reader],
    secrets: Mapping[str, str],
) -> bool:  # fmt: skip
    """Keep what was saved of a switch; whether it is as meant."""
    effects = compiled.targets[key].effects()
    reader = readers.setdefault(id(effects), Reader(effects))
    meant = compiled.files(key)
    texts, files = _other(meant, one.files, reader, secrets)
    state = list(misheard(compiled.models[key], one.heard))
    snapshots.keep(tx.connection, texts)
    if snapshots.add(tx.connection, name, key, number, files, state) and (files or state):
        words = [*(f"{path} is other than edition {number} has it" for path in files), *state]
        outlets.tell(tx, name, "drifted", switch=one.name, number=number, words=words[:20], signed_in=[])
    return not files and not state


def _other(
    meant: Mapping[str, str], told: Mapping[str, str], reader: Reader, secrets: Mapping[str, str]
) -> tuple[dict[str, str], dict[str, str]]:
    """The files that are other than they were meant: texts by digest, and digests by path."""
    texts: dict[str, str] = {}
    files: dict[str, str] = {}
    for path in sorted(meant.keys() & told.keys()):
        text = as_file(path, meant[path], masked(told[path], secrets), reader, GUARD in meant)
        if text != meant[path]:
            digest = sha256(text.encode()).hexdigest()
            texts[digest], files[path] = text, digest
    return texts, files
