"""Saved outputs held against editions: switches that no agent runs on, or that were looked at by SSH, drift like any other."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from hashlib import sha256

from barrio.app import holding, kept, outlets, sent
from barrio.app.desk import Desk
from barrio.app.secret import Keys
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.adopt.running import Running
from barrio.core.adopt.saved import read_saved
from barrio.core.archives import unpacked
from barrio.core.compare.lines import Reader
from barrio.core.errors import refuse
from barrio.core.observe.rows import KINDS
from barrio.core.observe.saved import GUARD, ROUTING, as_file, is_cut_off, misheard
from barrio.core.observe.texts import masked
from barrio.store import editions, snapshots
from barrio.store import stagings as staged
from barrio.store.editions import Edition
from barrio.store.entries import Act


@dataclass(frozen=True, slots=True)
class Held:
    """What came of holding saved outputs against editions: switches by name that are as meant, those that are not, and what was not held against
    any, each with its switch and the reason."""

    true: tuple[str, ...]
    drifted: tuple[str, ...]
    unheld: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class _Look:
    """What was saved of a switch, against the edition `number`: files that are other by path, with the digests (hex) of their texts; `told` are all that were
    saved. Neighbours that are other, in words; None where none were saved. `tables` are what it holds beside its files, as its commands printed it."""

    name: str
    key: str
    number: int
    told: frozenset[str]
    files: dict[str, str]
    texts: dict[str, str]
    misheard: list[str] | None
    tables: Mapping[str, str]


def hold(desk: Desk, name: str, archive: bytes) -> Held:
    """Hold saved outputs (a ZIP or tar.gz) against the edition that each switch was handed over with, else the newest, and keep what they show. What is not
    among them counts as it was told last.

    Raises `Missing`, and `Refused`: `archive.*`, `adopt.saved`, `drift.edition` (nothing is sealed yet).
    """
    every = read_saved(unpacked(archive), any_file=True)
    short = {one.name for one in every if ROUTING in one.files and is_cut_off(one.files[ROUTING])}
    with desk.reading() as tx:
        looks = list(_looks(tx, desk.house.keys, name, [one for one in every if one.name not in short]))

    def work(tx: Transaction) -> Held:
        tx.act(Act("outputs held", name, note=f"{len(looks)} switches", topic="staging"))
        true: dict[str, bool] = {}
        unread: list[str] = []
        for one in looks:
            true[one.name] = _keep(tx, name, one)
            kinds = holding.keep(tx, name, one.key, one.tables)
            unread += [f"{one.name}: its table “{KINDS[kind].words}” cannot be read" for kind in kinds]
        return Held(
            tuple(one for one, holds in true.items() if holds),
            tuple(one for one, holds in true.items() if not holds),
            tuple(
                f"{one.name}: {'its frr.conf is cut off' if one.name in short else 'no edition has it with files'}"
                for one in every
                if one.name not in true
            )
            + tuple(unread),
        )

    return desk.writing(work)


def _looks(tx: Transaction, keys: Keys, name: str, every: Iterable[Running]) -> Iterator[_Look]:
    """Those switches of saved outputs that an edition has with files, each against its own."""
    draft = tx.readable(tx.draft(name))
    newest = editions.newest(tx.connection, name)
    if newest is None:
        raise refuse("drift.edition", f"Nothing is sealed of {name} yet, so nothing was meant. Seal an edition first.")
    by_name = {str(one.name): one.key for one in kept.compiled(tx, newest, draft).structure.switches}
    known: dict[int, tuple[Edition, Compiled]] = {}
    readers: dict[int, Reader] = {}
    for one in every:
        key = by_name.get(one.name)
        if key is None:
            continue
        number = staged.handed_over_with(tx.connection, name, key) or newest.number
        if number not in known:
            edition = editions.find(tx.connection, name, number)
            known[number] = edition, kept.compiled(tx, edition, draft)
        edition, compiled = known[number]
        if key not in compiled.models or key in compiled.without_files:
            continue
        effects = compiled.targets[key].effects()
        reader = readers.setdefault(id(effects), Reader(effects))
        secrets = sent.secrets_of(tx, keys, edition.id, one.name)
        files, texts = _other(compiled.files(key), one.files, reader, secrets)
        heard = list(misheard(compiled.models[key], one.heard)) if one.heard else None
        yield _Look(one.name, key, number, frozenset(one.files), files, texts, heard, one.tables)


def _other(
    meant: Mapping[str, str], told: Mapping[str, str], reader: Reader, secrets: Mapping[str, str]
) -> tuple[dict[str, str], dict[str, str]]:
    """The files that are other than they were meant: digests by path, and texts by digest."""
    files: dict[str, str] = {}
    texts: dict[str, str] = {}
    for path in sorted(meant.keys() & told.keys()):
        plan = masked(meant[path], secrets)
        text = as_file(path, plan, masked(told[path], secrets), reader, GUARD in meant)
        if text != plan:
            digest = sha256(text.encode()).hexdigest()
            files[path], texts[digest] = digest, text
    return files, texts


def _keep(tx: Transaction, name: str, one: _Look) -> bool:
    """Keep what was saved of a switch; whether it is as meant."""
    was = snapshots.last(tx.connection, name, one.key)
    known = was if was is not None and was.edition == one.number else None
    silent = {path: digest for path, digest in known.files.items() if path not in one.told} if known else {}
    files = silent | one.files
    state = (known.state if known else []) if one.misheard is None else one.misheard
    snapshots.keep(tx.connection, one.texts)
    if snapshots.add(tx.connection, name, one.key, one.number, files, state) and (files or state):
        words = [*(f"{path} is other than edition {one.number} has it" for path in files), *state]
        outlets.tell(tx, name, "drifted", switch=one.name, number=one.number, words=words[:20], signed_in=[])
    return not files and not state
