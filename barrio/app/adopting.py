"""Adopting what runs: a discovery is kept, looked at part by part, and only what somebody takes enters the draft."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import asdict, dataclass
from typing import Any, Literal

from barrio.app import catalogue as shelves
from barrio.app import drafts as drafting
from barrio.app import drawing
from barrio.app.desk import Desk, Forbidden
from barrio.app.drawing import Change
from barrio.app.rights import Right
from barrio.app.transaction import Transaction
from barrio.core.adopt.adopting import Adoption, adopt
from barrio.core.adopt.drawn import adopt_drawing
from barrio.core.adopt.found import PARTS
from barrio.core.adopt.left import folded
from barrio.core.adopt.running import Running
from barrio.core.adopt.saved import read_saved
from barrio.core.archives import unpacked
from barrio.core.brief.document import Document, apply, read
from barrio.core.catalogue.model import Catalogue, SwitchType
from barrio.core.compile import ask
from barrio.core.compiled import Compiled
from barrio.core.errors import refuse
from barrio.core.exchange.drawing import is_drawing, read_drawing
from barrio.core.ledger.demand import pool_name
from barrio.core.ledger.pool import Pool
from barrio.core.ledger.wanted import Taken
from barrio.core.office import Office
from barrio.store import adoptions, drafts, entries, pins
from barrio.store.adoptions import Said
from barrio.store.entries import Act
from barrio.store.errors import Missing
from barrio.store.pins import Numbering, Pin

FOUND_RUNNING = "found running"
NUMBERS = "numbers"
"""The proposal of a drawing's numbers, which says no word of the brief."""
OddWord = Literal["kept", "mended", "left out"]
MOST_DIFFERENCES = 2_000


@dataclass(frozen=True, slots=True)
class Discovery:
    """What was found and what was said of it. `found` has proposals, oddities, differences and numbers, as `_stored` writes them."""

    fabric: str
    source: str
    author: str
    at: str
    exists: bool
    found: dict[str, Any]
    said: dict[str, Said]


def discover(desk: Desk, name: str, archive: bytes, source: str) -> Discovery:
    """Look at saved outputs (a ZIP or tar.gz) or at a drawing, and keep what they seem to be. Nothing enters a draft.

    Raises `Refused`: `archive.*`, `adopt.*`, `drawing.*`, `import.*`, `fabric.name`.
    """
    if is_drawing(archive):
        drawn = read_drawing(archive)
        return _look(desk, name, len(drawn.nodes), source, lambda *about: adopt_drawing(drawn, name, *about), "drawn")
    return begin(desk, name, read_saved(unpacked(archive)), source)


def begin(desk: Desk, name: str, every: Iterable[Running], source: str) -> Discovery:
    """Look at switches that run, as they were read. Raises as `discover`."""
    switches = list(every)
    return _look(desk, name, len(switches), source, lambda *about: adopt(switches, name, *about))


def _look(
    desk: Desk, name: str, size: int, source: str, look: Callable[[Catalogue, Mapping[str, Pool], Office], Adoption], kind: str = "runs"
) -> Discovery:  # fmt: skip
    if not re.fullmatch(r"[a-z][a-z0-9-]{0,30}", name):
        raise refuse(
            "fabric.name", "A fabric's name has lower-case letters, digits and hyphens, a letter first.", "name"
        )
    with desk.reading() as tx:
        known, catalogue, office = entries.load_pools(tx.connection), tx.catalogue().catalogue, tx.office()
    with desk.house.gate.room_for(size):
        found = look(catalogue, known, office)
    names = {key: one for one, key in found.keys.items()}
    stored: dict[str, Any] = {
        "kind": kind,
        "switches": _switches(found),
        "proposals": [asdict(one) for one in found.proposals],
        "oddities": [asdict(one) for one in found.oddities],
        "differences": [asdict(one) for one in folded(found.left, names)[:MOST_DIFFERENCES]],
        "numbers": [[pin.use, pin.key, str(pin.number.low), str(pin.number.size)] for pin in found.pins],
        "models": [one.model_dump(mode="json") for one in found.models],
    }

    def work(tx: Transaction) -> None:
        tx.act(Act("looked at what runs", note=f"{name}: {len(found.keys)} switches, {source}", topic="draft"))
        adoptions.keep(tx.connection, name, source, tx.author.name, stored)

    desk.writing(work)
    return show(desk, name)


def _switches(found: Adoption) -> list[dict[str, Any]]:
    """Every switch with its tier and rack, and whether its files would be as they run."""
    silent = {one.switch for one in found.oddities if one.key.startswith("unread/")}
    names = {key: name for name, key in found.keys.items()}
    odd = {one.switch for one in found.oddities} - silent
    return [
        {
            "name": names[one.key], "tier": one.tier, "rack": str(one.rack), "unread": names[one.key] in silent,
            "alike": one.key not in found.left and names[one.key] not in silent, "odd": names[one.key] in odd,
        }
        for one in found.compiled.structure.switches if one.key in names
    ]  # fmt: skip


def every(desk: Desk) -> list[tuple[str, str, str, str]]:
    """The discoveries that one may read, as (fabric, source, author, time)."""
    with desk.reading() as tx:
        found = adoptions.every(tx.connection)
    return [(name, source, author, at.isoformat()) for name, source, author, at in found if desk.may_read(name)]


def show(desk: Desk, name: str) -> Discovery:
    """What was found, and what was said of it. Raises `Missing`."""
    with desk.reading() as tx:
        found = adoptions.of_fabric(tx.connection, name)
        if found is None:
            raise Missing(f"Nothing that runs was looked at for {name}.")
        said = adoptions.said(tx.connection, name)
        exists = name in {one.name for one in tx.drafts()}
    now = _contents(found.found)
    for key, one in list(said.items()):
        if key in now and _is_other(key, one.content, now[key]):
            # It says something else than what was spoken of, and is asked again.
            del said[key]
            proposal = next(each for each in found.found["proposals"] if each["key"] == key)
            proposal["evidence"] = [*proposal["evidence"], f"{one.author} said “{one.said}” when it was otherwise"]
            proposal["before"] = one.content if one.said == "taken" and key != NUMBERS else []
    return Discovery(name, found.source, found.author, found.at.isoformat(), exists, found.found, said)


def _is_other(key: str, before: Any, now: Any) -> bool:
    """Whether a proposal says something else than when it was spoken of. A pool that is there by now and holds all is the same."""
    if before is None or before == now:
        return False
    return not key.startswith("pool/") or any(path.startswith("pools.") for path, _ in now)


def _contents(stored: Mapping[str, Any]) -> dict[str, Any]:
    """What each proposal says, by its key; the one for numbers says them."""
    said = {one["key"]: [list(edit) for edit in one["edits"]] for one in stored["proposals"]}
    return said | ({NUMBERS: stored["numbers"]} if NUMBERS in said else {})


def take(desk: Desk, name: str, keys: Collection[str]) -> int:
    """Take proposals into the draft, which begins with the first; numbers that belong to them are pinned. The draft's version.

    The pools that hold the numbers come along, and with the shape the models that are new to the catalogue. Raises `Missing`, and `Refused` when what is taken stands on something that was not; then nothing is.
    """
    found = show(desk, name)
    chosen = _chosen(found, keys)
    if not found.exists and not desk.actor.may(Right.CREATE):
        raise Forbidden(Right.CREATE, None, [])
    models = [kind for kind in found.found["models"] if any(one["key"] == f"model/{kind['id']}" for one in chosen)]
    if models and not desk.actor.may(Right.CATALOGUE):
        raise Forbidden(Right.CATALOGUE, None, [])
    for kind in models:
        shelves.put(desk, SwitchType.model_validate(kind))

    def work(tx: Transaction) -> int:
        if found.exists:
            head, before = drafts.take(tx.connection, name, None)
            text, compiled = before.text, tx.readable(before)
        else:
            drafting.forget_ended(tx, name)
            drafts.add(tx.connection, name)
            head, text, compiled = None, f"fabric: {name}\n", None
        edits = [(path, None) for one in chosen for path in _gone(one)]
        edits += [(path, value) for one in chosen for path, value in one["edits"]]
        document = read(apply(text, edits))
        anew = any(one["key"] == NUMBERS for one in chosen)
        wished, moves = _wished(tx, document, found, compiled, anew)
        earlier = pins.of(tx.connection, name, wished)
        held = compiled.allocation.numbers if compiled else {}
        now = {
            use: {key: held[use][key] for key in of_use if key in held.get(use, {})} for use, of_use in wished.items()
        }
        note = f"adopted: {', '.join(one['title'] for one in chosen[:3])}{f' and {len(chosen) - 3} more' if len(chosen) > 3 else ''}"
        drawing.store(tx, document, Change(head, note, Numbering(moves, wished, now, earlier)), compiled)
        adoptions.say(
            tx.connection, name, [one["key"] for one in chosen], "taken", "", tx.author.name, _contents(found.found)
        )
        return tx.draft(name).version

    return desk.writing(work)


def _gone(proposal: Mapping[str, Any]) -> list[str]:
    """Words that a proposal said when it was taken before, and does not say any more."""
    now = {path for path, _ in proposal["edits"]}
    return [path for path, _ in proposal.get("before", ()) if path not in now]


def _chosen(found: Discovery, keys: Collection[str]) -> list[dict[str, Any]]:
    """The proposals with these keys and the pools that come along, in the order in which parts stand on each other. Raises `Missing`, `Refused`."""
    known = {one["key"]: one for one in found.found["proposals"]}
    unknown = next((key for key in keys if key not in known), None)
    if unknown is not None:
        raise Missing(f"Nothing called {unknown[:80]} was proposed for {found.fabric}.")
    fresh = [key for key in keys if key not in found.said or found.said[key].said != "taken"]
    if not fresh:
        raise refuse("adopt.taken", "All of this is in the draft already.", "keys")
    taken = {key for key, one in found.said.items() if one.said == "taken"}
    along = [
        key
        for key in known
        if key not in taken
        and (key.startswith("pool/") or ((key.startswith("model/") or key == NUMBERS) and "shape" in fresh))
    ]
    if not found.exists and "shape" not in fresh:
        raise refuse("adopt.shape", "Take the shape first: all else stands on its switches.", "keys")
    return sorted((known[key] for key in {*fresh, *along}), key=lambda one: PARTS.index(one["part"]))


def _wished(
    tx: Transaction, document: Document, found: Discovery, before: Compiled | None, anew: bool
) -> tuple[dict[str, dict[str, Pin | None]], dict[str, dict[str, Taken]]]:
    """A pin for each number that was found and that the draft wants now, but for those that are pinned already; places of cables and their numbers, which are
    the fabric's own, are taken as they are. `anew` says that numbers found before are pinned to what was found now."""
    asked = ask(document.brief, entries.load_pools(tx.connection), tx.catalogue().catalogue, None, tx.office())
    wanted = {demand.use: set(demand.keys) - set(demand.pins) for demand in asked.demands}
    pinned = pins.all_of(tx.connection, found.fabric)
    held = before.allocation.numbers if before else {}
    ours = {
        use: {key for key, pin in of_use.items() if pin is not None and pin.note == FOUND_RUNNING}
        for use, of_use in (pins.of(tx.connection, found.fabric, pinned) if anew else {}).items()
    }
    wished: dict[str, dict[str, Pin | None]] = {}
    moves: dict[str, dict[str, Taken]] = {}
    for use, key, low, size in found.found["numbers"]:
        number = Taken(int(low), int(size))
        if key not in wanted.get(use, ()):
            continue
        if pool_name(document.brief, use) is None:
            if key not in held.get(use, {}):
                moves.setdefault(use, {})[key] = number
        elif key not in pinned.get(use, {}) or (anew and pinned[use][key] != number and key in ours.get(use, {})):
            wished.setdefault(use, {})[key] = Pin(*number, FOUND_RUNNING)
    told = {(use, key) for use, key, _, _ in found.found["numbers"]}
    for use, keys in ours.items():
        for key in keys:
            # What is drawn at nobody any more is let go.
            if (use, key) not in told:
                wished.setdefault(use, {})[key] = None
    return wished, moves


def refuse_proposals(desk: Desk, name: str, keys: Collection[str], why: str) -> None:
    """Refuse proposals, so that no later discovery proposes them again. Raises `Missing`, `Refused`."""
    found = show(desk, name)
    known = {one["key"] for one in found.found["proposals"]}
    _say(desk, found, keys, known, "refused", why)


def odd(desk: Desk, name: str, keys: Collection[str], word: OddWord, why: str) -> None:
    """Say what becomes of oddities: kept as an exception, to be mended in the draft, or left out. Raises `Missing`, `Refused`."""
    found = show(desk, name)
    if word == "kept" and not why.strip():
        raise refuse("adopt.why", "Say why it is kept; whoever looks next will ask.", "why")
    _say(desk, found, keys, {one["key"] for one in found.found["oddities"]}, word, why)


def _say(desk: Desk, found: Discovery, keys: Collection[str], known: Collection[str], word: str, why: str) -> None:
    unknown = next((key for key in keys if key not in known), None)
    if unknown is not None:
        raise Missing(f"Nothing called {unknown[:80]} was found for {found.fabric}.")
    taken = next((key for key in keys if key in found.said and found.said[key].said == "taken"), None)
    if taken is not None:
        raise refuse("adopt.taken", f"{taken[:80]} is in the draft already; change the draft.", "keys")

    def work(tx: Transaction) -> None:
        tx.act(
            Act(
                f"adoption: {word}",
                found.fabric if found.exists else None,
                note=f"{found.fabric}: {', '.join(list(keys)[:3])}",
                topic="draft",
            )
        )
        adoptions.say(tx.connection, found.fabric, keys, word, why.strip(), tx.author.name, _contents(found.found))

    desk.writing(work)


def again(desk: Desk, name: str, keys: Collection[str]) -> None:
    """Ask again what was refused or said of an oddity. Raises `Missing`."""
    found = show(desk, name)
    keep = [key for key in keys if key in found.said and found.said[key].said != "taken"]

    def work(tx: Transaction) -> None:
        tx.act(Act("adoption: asked again", note=f"{name}: {', '.join(keep[:3])}", topic="draft"))
        adoptions.unsay(tx.connection, name, keep)

    desk.writing(work)
