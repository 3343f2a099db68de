"""What switches ask and report: nothing is given to who was not let in, and what is given is the switch's own.

No process keeps anything of it: what a switch is at stands in the database, and any server answers the next request.
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey

from barrio.app import kept, stagings
from barrio.app.house import House
from barrio.app.rollcall import told_of
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.staging import boxes as sums
from barrio.core.staging import steps, tasks
from barrio.core.staging.steps import COMMIT, CONFIRM, PREPARE, SECONDS
from barrio.store import boxes, editions
from barrio.store import stagings as stored
from barrio.store.boxes import Knock
from barrio.store.entries import Act
from barrio.store.stagings import Staged, Staging

OFTEN = 0.5
"""Seconds after which somebody who asks takes the staging further."""
SOON, LATER, SELDOM = 2, 10, 60
"""Seconds until a switch asks again: one at work, one that waits for others or for somebody, one that is through."""
MOST_RAN, MOST_NEIGHBOURS = 200, 600
MOST_WAITING, SILENT = 5000, 24
"""Of those that knock so many wait at most; who has not knocked for so many hours is forgotten."""


class NotLetIn(Exception):
    """A request that is not to be answered: not signed by its key, sent before, or by somebody who was not let in."""


@dataclass(frozen=True, slots=True)
class Signed:
    """A request as it came: the key that it says it is signed by, its number, the signature, and what was signed."""

    key: bytes
    counter: int
    signature: bytes
    method: str
    path: str
    body: bytes

    def check(self) -> None:
        """Raises `NotLetIn` where the signature (Ed25519, RFC 8032) is not this key's over this very request."""
        if not 0 <= self.counter < 1 << 63:
            raise NotLetIn("its number is none that a switch counts to")
        digest = hashlib.sha256(self.body).hexdigest()
        message = "\n".join((self.method, self.path, str(self.counter), digest)).encode()
        try:
            Ed25519PublicKey.from_public_bytes(self.key).verify(self.signature, message)
        except (InvalidSignature, ValueError):
            raise NotLetIn("the signature is not this key's") from None


def ask(house: House, signed: Signed, said: Mapping[str, Any], address: str) -> dict[str, Any]:
    """What a switch is to do next, after it told how the last task went. Raises `NotLetIn`, and `Refused` (`box.*`) for what no switch says of itself."""
    signed.check()
    box = sums.box(str(said.get("serial", "")), str(said.get("mac", "")))
    about = _about(said)

    def work(tx: Transaction) -> dict[str, Any]:
        known = boxes.find(tx.connection, signed.key)
        if known is None:
            boxes.forget_silent(tx.connection, SILENT)
            if boxes.waiting(tx.connection) >= MOST_WAITING:
                raise NotLetIn(f"{MOST_WAITING:,} wait to be let in already; let in or refuse some first")
            tx.act(Act("switch knocks", note=str(box), topic="staging"))
        knock = boxes.knock(tx.connection, signed.key, box, about, address, signed.counter)
        if knock is None:
            raise NotLetIn("this request was sent before")
        if known is not None and known.state == "admitted" and known.box != box:
            boxes.decide(
                tx.connection,
                signed.key,
                "refused",
                None,
                "",
                "",
                f"it was let in as {known.box} and says now that it is {box}",
            )
            return _wait(SELDOM, "was refused")
        if knock.state != "admitted" or knock.fabric is None:
            return _wait(
                SELDOM if knock.state == "refused" else LATER,
                "was refused" if knock.state == "refused" else "waits to be let in",
            )
        return _turn(tx, knock, said.get("report"))

    return house.writing(work)


def _text(value: object, most: int) -> str:
    """What somebody said, as text that can be kept, whatever it was."""
    return str(value).encode(errors="replace").decode().replace("\0", "")[:most]


def _about(said: Mapping[str, Any]) -> dict[str, Any]:
    """What somebody who knocks says of themselves, as far as it is of use."""
    found: dict[str, Any] = {name: _text(said[name], 80) for name in ("model", "airflow", "software") if name in said}
    if isinstance(said.get("ports"), int):
        found["ports"] = min(said["ports"], 1 << 16)
    neighbours = said.get("neighbours")
    if isinstance(neighbours, list):
        found["neighbours"] = [
            {name: _text(one.get(name, ""), 80) for name in ("switch", "port")}
            for one in neighbours[:MOST_NEIGHBOURS]
            if isinstance(one, Mapping)
        ]
    return found


def _wait(seconds: int, words: str) -> dict[str, Any]:
    return {"do": "wait", "seconds": seconds, "words": words}


def _turn(tx: Transaction, knock: Knock, report: Any) -> dict[str, Any]:
    name = knock.fabric or ""
    one = stored.under_way(tx.connection, name)
    if one is None:
        return _wait(SELDOM, "nothing is staged now")
    mine = stored.one(tx.connection, one.id, knock.switch)
    if mine is None:
        return _wait(SELDOM, "is not in this staging")
    late = stored.due(tx.connection, one.id, OFTEN)
    if mine.state != "works" and not late:
        return _wait(SELDOM if steps.through(mine.standing) else LATER, mine.words)
    # Whoever changes something has the staging's lock first, then that of switches.
    one = stored.under_way(tx.connection, name, lock=True)
    if late:
        stagings.advance(tx, name)
        one = stored.under_way(tx.connection, name)
    mine = stored.one(tx.connection, one.id, knock.switch) if one else None
    if one is None or mine is None:
        return _wait(SELDOM, "nothing is staged now")
    if isinstance(report, Mapping) and report.get("task") == _id(one, mine) and mine.state == "works":
        _take(tx, one, mine, report)
        mine = stored.one(tx.connection, one.id, knock.switch) or mine
    while mine.state == "works":
        task = _task(tx, one, mine, knock)
        if task is not None:
            return task
        mine = stored.one(tx.connection, one.id, knock.switch) or mine
    if mine.state in ("done", "failed"):
        stagings.advance(tx, name)
    return _wait(SELDOM if steps.through(mine.standing) else LATER, mine.words)


def _id(one: Staging, mine: Staged) -> str:
    """What a task is known by, so that a report of another one counts for nothing."""
    return f"{one.id}/{mine.switch}/{mine.step}/{mine.task}/{mine.attempt}"


def _task(tx: Transaction, one: Staging, mine: Staged, knock: Knock) -> dict[str, Any] | None:
    """What a switch that is at work is to do now; nothing where a step needs nothing of it, and is passed."""
    compiled, files = _files(tx, one, mine)
    model = compiled.models[mine.switch]
    if mine.step == "software":
        has, wanted = str(knock.said.get("software", "")), str(model.common.software)
        told = list(sums.faults(compiled, compiled.structure.by_key[mine.switch], told_of(knock)))
        if told:
            stagings.fail(tx, one, mine, "; ".join(told))
        elif wanted and has and has != wanted:
            stagings.fail(
                tx, one, mine, f"it has software {has}, and {wanted} is wanted; install that, then try it again"
            )
        else:
            words = f"it has {has or 'what it came with'}" + ("" if wanted else "; the brief asks for none")
            _pass(tx, one, mine, words)
        return None
    if mine.step == "first boot":
        files = {path: digest for path, digest in files.items() if path in _first(compiled, mine.switch)}
        if not files:
            _pass(tx, one, mine, "nothing is put on before the first boot")
            return None
    if mine.task == PREPARE:
        return _prepare(one, mine, compiled, files)
    if mine.task == COMMIT:
        return _wait(SOON, mine.words)
    if mine.step in ("first boot", "all files"):
        return {"id": _id(one, mine), "do": "commit", "seconds": one.confirm_seconds, "applies": tasks.applies(files)}
    if mine.step == "checked":
        return {"id": _id(one, mine), "do": "look", "commands": tasks.look(), "files": list(files)}
    return {"id": _id(one, mine), "do": "run", "commands": [list(tasks.SAVE)]}


def _first(compiled: Compiled, switch: str) -> set[str]:
    """The files that a switch is given before its first boot."""
    return {str(plan.path) for plan in compiled.plans(switch) if plan.kind.first}


def _prepare(one: Staging, mine: Staged, compiled: Compiled, files: Mapping[str, bytes]) -> dict[str, Any]:
    modes = {str(plan.path): f"{plan.kind.mode:o}" for plan in compiled.plans(mine.switch)}
    listed = [{"path": path, "sha256": digest.hex(), "mode": modes.get(path, "644")} for path, digest in files.items()]
    checks = {path: list(argv) for path, argv in tasks.CHECKS.items()}
    return {
        "id": _id(one, mine),
        "do": "prepare",
        "files": listed,
        "checks": checks,
        "partly": mine.step == "first boot",
    }


def _files(tx: Transaction, one: Staging, mine: Staged) -> tuple[Compiled, dict[str, bytes]]:
    """The edition, and the files that a switch has in it: their digests by path."""
    edition = editions.find(tx.connection, one.fabric, one.edition)
    compiled = kept.compiled(tx, edition, tx.readable(tx.draft(one.fabric)))
    return compiled, editions.files_of_switch(tx.connection, edition.id, mine.name)


def _pass(tx: Transaction, one: Staging, mine: Staged, words: str) -> None:
    """A step is through: the next one begins."""
    stored.log(tx.connection, one.id, mine.switch, mine.step, words)
    step = steps.after(mine.step)
    if step == steps.STEPS[-1]:
        stored.log(tx.connection, one.id, mine.switch, step, "handed over")
        stored.move(tx.connection, one.id, mine.switch, step, "done", "is handed over")
        return
    said = {"all files": "fetches its files", "checked": "is checked", "saved": "is saved"}.get(step, "goes on")
    stored.move(
        tx.connection,
        one.id,
        mine.switch,
        step,
        "works",
        said,
        PREPARE if step in ("first boot", "all files") else "",
        SECONDS[step],
    )


def _take(tx: Transaction, one: Staging, mine: Staged, report: Mapping[str, Any]) -> None:
    """Take a report of the task that a switch is at."""
    told = report.get("ran")
    ran = [each for each in told if isinstance(each, Mapping)][:MOST_RAN] if isinstance(told, list) else []
    for each in ran:
        code = each.get("code")
        stored.log(
            tx.connection, one.id, mine.switch, mine.step, "ran", _text(each.get("command", ""), 1000), code if isinstance(code, int) and abs(code) < 1 << 31 else None,
            _text(each.get("output", ""), 20_000),
        )  # fmt: skip
    if report.get("ok") is not True:
        stagings.fail(tx, one, mine, _text(report.get("words", ""), 1000) or "it failed, and does not say why")
        return
    if mine.task == PREPARE:
        changes = report.get("changes")
        words = "nothing is other than it has" if changes == 0 else f"{changes} files are there, read by their programs"
        stored.log(tx.connection, one.id, mine.switch, mine.step, words)
        if mine.step == "first boot":
            seconds = one.confirm_seconds + SECONDS[mine.step]
            stored.move(tx.connection, one.id, mine.switch, mine.step, "works", "puts them in place", CONFIRM, seconds)
            return
        stored.move(
            tx.connection, one.id, mine.switch, mine.step, "works", "is ready; waits until all of its wave are", COMMIT
        )
        stagings.release(tx, one, mine.wave)
        return
    if mine.step == "checked":
        wrong = _wrong(tx, one, mine, report, ran)
        if wrong:
            stagings.fail(tx, one, mine, "; ".join(wrong[:5]))
            return
    _pass(
        tx,
        one,
        mine,
        {"all files": "all files are in place, and it is reached from them", "checked": "all as planned"}.get(
            mine.step, "done"
        ),
    )


def _wrong(
    tx: Transaction, one: Staging, mine: Staged, report: Mapping[str, Any], ran: list[Mapping[str, Any]]
) -> list[str]:
    compiled, files = _files(tx, one, mine)
    has = report.get("files")
    has = has if isinstance(has, Mapping) else {}
    wrong = [f"{path} is not the edition's" for path, digest in files.items() if has.get(path) != digest.hex()]
    through = {
        each.name
        for each in stored.switches(tx.connection, one.id)
        if each.standing.step in ("checked", "saved", "handed over")
    }
    return wrong + list(tasks.faults(compiled, compiled.models[mine.switch], ran, through))


def file(house: House, signed: Signed, digest: str) -> bytes:
    """A file of the edition that is put on the switch that asks, by its SHA-256. Raises `NotLetIn`, also for a file that is not its own."""
    signed.check()

    def work(tx: Transaction) -> bytes:
        knock = boxes.heard(tx.connection, signed.key, signed.counter)
        if knock is None or knock.state != "admitted" or knock.fabric is None:
            raise NotLetIn("nobody let this key in, or the request was sent before")
        one = stored.under_way(tx.connection, knock.fabric)
        mine = stored.one(tx.connection, one.id, knock.switch) if one else None
        if one is None or mine is None:
            raise NotLetIn("nothing is put on this switch now")
        _, files = _files(tx, one, mine)
        wanted = next((each for each in files.values() if each.hex() == digest), None)
        if wanted is None:
            raise NotLetIn("this file is not this switch's")
        return editions.texts(tx.connection, [wanted])[wanted]

    return house.writing(work)
