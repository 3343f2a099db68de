"""What a switch that was let in is told to do next, and what its report of the last task comes to."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any

from barrio.app import asking, draining, following, kept, sent, stagings, watching
from barrio.app.rollcall import told_of
from barrio.app.secret import Keys
from barrio.app.transaction import Transaction
from barrio.core import Compiled, Refused
from barrio.core.staging import boxes as sums
from barrio.core.staging import software, steps, tasks
from barrio.core.staging.steps import BACK, COMMIT, CONFIRM, HOLD, INSTALLED, PREPARE, SECONDS, SETTLES
from barrio.rehearsal.asking import real
from barrio.store import asks, drains, editions, flows, images
from barrio.store import stagings as stored
from barrio.store.boxes import Knock
from barrio.store.stagings import Staged, Staging

OFTEN = 0.5
"""Seconds after which somebody who asks takes the staging further."""
SOON, LATER, SELDOM = 2, 10, 60
"""Seconds until a switch asks again: one at work, one that waits for others or for somebody, one that is through."""
MOST_RAN = 200


def text(value: object, most: int) -> str:
    """What somebody said, as text that can be kept, whatever it was."""
    return str(value).encode(errors="replace").decode().replace("\0", "")[:most]


def wait(seconds: int, words: str) -> dict[str, Any]:
    return {"do": "wait", "seconds": seconds, "words": words}


def turn(tx: Transaction, keys: Keys, knock: Knock, said: Mapping[str, Any]) -> dict[str, Any]:
    report = said.get("report")
    name = knock.fabric or ""
    one = stored.under_way(tx.connection, name)
    mine = stored.one(tx.connection, one.id, knock.switch) if one else None
    drained = draining.turn(tx, knock, said) if mine is None or mine.state != "works" else None
    if drained is not None:
        return drained
    if one is None:
        if str(report.get("task", "") if isinstance(report, Mapping) else "").startswith("seen/"):
            watching.turn(tx, keys, knock, said)
            told = asking.turn(tx, knock, said) or following.turn(tx, knock, said)
        else:
            told = (
                asking.turn(tx, knock, said) or following.turn(tx, knock, said) or watching.turn(tx, keys, knock, said)
            )
        if told is not None:
            return told
        soon = draining.wants(tx, name) or asks.wants(tx.connection, name)
        if flows.under_way(tx.connection, name):
            return wait(SOON, "a flow is being followed")
        return wait(LATER if soon else SELDOM, "nothing is staged now")
    if mine is None:
        return wait(SELDOM, "is not in this staging")
    late = stored.due(tx.connection, one.id, OFTEN)
    if mine.state == "failed" and _is_late(one, mine, said.get("stands")):
        return {"id": "late", "do": "back", "set": one.id}
    if mine.state != "works" and not late:
        return wait(SELDOM if steps.through(mine.standing) else LATER, mine.words)
    # What takes time is worked out before others have to wait for it.
    wrong = _looked(tx, keys, one, mine, report)
    # Whoever changes something has the staging's lock first, then that of switches.
    one = stored.under_way(tx.connection, name, lock=True)
    if late:
        stagings.advance(tx, name)
        one = stored.under_way(tx.connection, name)
    mine = stored.one(tx.connection, one.id, knock.switch) if one else None
    if one is None or mine is None:
        return wait(SELDOM, "nothing is staged now")
    if isinstance(report, Mapping) and report.get("task") == id_of(one, mine) and mine.state == "works":
        settled = _take(tx, one, mine, report, wrong)
        mine = stored.one(tx.connection, one.id, knock.switch) or mine
        if not settled:
            return wait(SOON, mine.words)
    while mine.state == "works":
        task = _tried(tx, keys, one, mine, knock)
        if task is not None:
            return task
        mine = stored.one(tx.connection, one.id, knock.switch) or mine
    if mine.state == "failed" or (mine.state == "done" and not stored.working(tx.connection, one.id)):
        # Whoever asks next takes it further where others are at work.
        stagings.advance(tx, name)
    return wait(SELDOM if steps.through(mine.standing) else LATER, mine.words)


def _is_late(one: Staging, mine: Staged, stands: object) -> bool:
    """Whether somebody who failed is on their new files all the same, though all of the wave went back."""
    return mine.step == "all files" and str(stands).startswith(f"{one.id}/{mine.switch}/all files/{CONFIRM}/")


def id_of(one: Staging, mine: Staged) -> str:
    """What a task is known by, so that a report of another one counts for nothing."""
    return f"{one.id}/{mine.switch}/{mine.step}/{mine.task}/{mine.attempt}"


def _tried(tx: Transaction, keys: Keys, one: Staging, mine: Staged, knock: Knock) -> dict[str, Any] | None:
    """As `_task`; a file that cannot be sent is a failure of its switch."""
    try:
        return _task(tx, keys, one, mine, knock)
    except Refused as error:
        stagings.fail(tx, one, mine, str(error))
        return None


def _task(tx: Transaction, keys: Keys, one: Staging, mine: Staged, knock: Knock) -> dict[str, Any] | None:
    """What a switch that is at work is to do now; nothing where a step needs nothing of it, and is passed."""
    compiled, files = files_of(tx, keys, one, mine)
    model = compiled.models[mine.switch]
    if mine.step == "software":
        return _software(tx, one, mine, compiled, knock)
    if mine.step == "first boot":
        files = {path: digest for path, digest in files.items() if path in _first(compiled, mine.switch)}
        if not files:
            _pass(tx, one, mine, "nothing is put on before the first boot")
            return None
    if mine.task == PREPARE:
        return _prepare(one, mine, compiled, files)
    if mine.task in (COMMIT, HOLD) or (mine.task == BACK and stored.backing(tx.connection, one.id, mine.wave)):
        return wait(SOON, mine.words)
    if mine.task == BACK:
        return {"id": id_of(one, mine), "do": "back", "set": one.id}
    if mine.step in ("first boot", "all files"):
        return {
            "id": id_of(one, mine), "do": "commit", "set": one.id, "seconds": one.confirm_seconds,
            "applies": tasks.applies(files), "device": tasks.MANAGEMENT,
        }  # fmt: skip
    if mine.step == "checked":
        asked = real.commands(compiled, mine.switch, _there(tx, one))
        asked = tasks.look(model) + asked
        return {"id": id_of(one, mine), "do": "look", "commands": asked, "files": list(files), "most": tasks.MOST_TOLD}
    return {"id": id_of(one, mine), "do": "run", "commands": [list(tasks.SAVE)]}


def _software(tx: Transaction, one: Staging, mine: Staged, compiled: Compiled, knock: Knock) -> dict[str, Any] | None:
    """Have a switch install what the brief asks for, once it is known to be the right box; nothing where it has it, or where it cannot."""
    switch = compiled.structure.by_key[mine.switch]
    has, wanted = str(knock.said.get("software", "")), str(compiled.models[mine.switch].common.software)
    told = list(sums.faults(compiled, switch, told_of(knock)))
    if told:
        stagings.fail(tx, one, mine, "; ".join(told))
        return None
    image = images.wanted(tx.connection, one.fabric, wanted, switch.type.id) if wanted and has != wanted else None
    if mine.task == INSTALLED and has != wanted:
        stagings.fail(tx, one, mine, f"software {wanted} was installed, and it still says that it has {has or 'none'}")
    elif image is not None:
        words = f"fetches and installs software {wanted}, {software.size(image.size)}"
        if mine.words != words:
            seconds = SECONDS["software"]
            stored.move(tx.connection, one.id, mine.switch, mine.step, "works", words, mine.task, seconds)
        return {"id": id_of(one, mine), "do": "software", "version": wanted, "sha256": image.digest.hex()}
    elif wanted and has and has != wanted:
        words = f"it has software {has}, and {wanted} is wanted. Bring {wanted} for {switch.type.id} (barrio stage image), or install it, then try it again"
        stagings.fail(tx, one, mine, words)
    else:
        words = f"it has {has or 'what it came with'}" + ("" if wanted else "; the brief asks for none")
        _pass(tx, one, mine, words)
    return None


def _first(compiled: Compiled, switch: str) -> set[str]:
    """The files that a switch is given before its first boot."""
    return {str(plan.path) for plan in compiled.plans(switch) if plan.kind.first}


def _prepare(one: Staging, mine: Staged, compiled: Compiled, files: Mapping[str, bytes]) -> dict[str, Any]:
    modes = {str(plan.path): f"{plan.kind.mode:o}" for plan in compiled.plans(mine.switch)}
    listed = [{"path": path, "sha256": digest.hex(), "mode": modes.get(path, "644")} for path, digest in files.items()]
    checks = {path: {"by": tasks.reader(path), "argv": list(argv)} for path, argv in tasks.CHECKS.items()}
    return {
        "id": id_of(one, mine),
        "do": "prepare",
        "files": listed,
        "checks": checks,
        "partly": mine.step == "first boot",
    }


def files_of(tx: Transaction, keys: Keys, one: Staging, mine: Staged) -> tuple[Compiled, dict[str, bytes]]:
    """The edition, and the files that a switch has in it: their digests by path."""
    edition = editions.find(tx.connection, one.fabric, one.edition)
    compiled = kept.compiled(tx, edition, tx.readable(tx.draft(one.fabric)))
    return compiled, sent.files(tx, keys, edition.id, mine.name)


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


def _ran(report: Mapping[str, Any]) -> list[Mapping[str, Any]]:
    told = report.get("ran")
    return [each for each in told if isinstance(each, Mapping)][:MOST_RAN] if isinstance(told, list) else []


def _looked(tx: Transaction, keys: Keys, one: Staging, mine: Staged, report: object) -> list[str]:
    """What is not as planned of a switch that reports of its checks; nothing of any other report."""
    if mine.step != "checked" or not isinstance(report, Mapping) or report.get("ok") is not True:
        return []
    return _wrong(tx, keys, one, mine, report, _ran(report)) if report.get("task") == id_of(one, mine) else []


def _take(tx: Transaction, one: Staging, mine: Staged, report: Mapping[str, Any], wrong: list[str]) -> bool:
    """Take a report of the task that a switch is at; whether it needs no more time before it is asked again."""
    ran = _ran(report)
    if wrong and _settles(mine):
        words = f"not yet as planned: {'; '.join(wrong[:3])}"
        stored.move(tx.connection, one.id, mine.switch, mine.step, "works", words, "", SECONDS[mine.step], again=True)
        return False
    _record(tx, one, mine, ran)
    if report.get("ok") is not True:
        stagings.fail(tx, one, mine, text(report.get("words", ""), 1000) or "it failed, and does not say why")
        return True
    if mine.task == BACK:
        _back(tx, one, mine)
        return True
    if mine.step == "software":
        words = f"installed; {'starts anew' if report.get('reboot') else 'no new start is needed'}"
        stored.log(tx.connection, one.id, mine.switch, mine.step, words)
        stored.move(tx.connection, one.id, mine.switch, mine.step, "works", words, INSTALLED, SECONDS[mine.step])
        return True
    if mine.task == PREPARE:
        changes = report.get("changes")
        words = "nothing is other than it has" if changes == 0 else f"{changes} files are there, read by their programs"
        stored.log(tx.connection, one.id, mine.switch, mine.step, words)
        if mine.step == "first boot":
            seconds = one.confirm_seconds + SECONDS[mine.step]
            stored.move(tx.connection, one.id, mine.switch, mine.step, "works", "puts them in place", CONFIRM, seconds)
            return True
        stored.move(
            tx.connection, one.id, mine.switch, mine.step, "works", "is ready; waits until all of its wave are", COMMIT
        )
        stagings.release(tx, one, mine.wave)
        return True
    if mine.step == "all files":
        words = "all files are in place, and it is reached from them"
        stored.log(tx.connection, one.id, mine.switch, mine.step, words)
        seconds = one.confirm_seconds + SECONDS[mine.step]
        words = "is on its new files; waits until all of its wave are"
        stored.move(tx.connection, one.id, mine.switch, mine.step, "works", words, HOLD, seconds)
        stagings.release(tx, one, mine.wave)
        return True
    if wrong:
        stagings.fail(tx, one, mine, "; ".join(wrong[:5]))
        return True
    _pass(
        tx,
        one,
        mine,
        {"first boot": "they are in place", "checked": "all as planned"}.get(mine.step, "done"),
    )
    return True


def _record(tx: Transaction, one: Staging, mine: Staged, ran: list[Mapping[str, Any]]) -> None:
    """Keep what ran on a switch, and what it answered."""
    lines: list[tuple[str, int | None, str, float | None]] = []
    for each in ran:
        code, seconds = each.get("code"), each.get("seconds")
        lines.append((
            text(each.get("command", ""), 1000), code if isinstance(code, int) and abs(code) < 1 << 31 else None,
            text(each.get("output", ""), 20_000), float(seconds) if isinstance(seconds, int | float) and 0 <= seconds < 1e6 else None,
        ))  # fmt: skip
    stored.log_all(tx.connection, one.id, mine.switch, mine.step, lines)


def _settles(mine: Staged) -> bool:
    """Whether a switch is at its checks for so short a time that it may still find its neighbours."""
    return (datetime.now(UTC) - mine.since).total_seconds() < SETTLES


def _back(tx: Transaction, one: Staging, mine: Staged) -> None:
    """A switch has its old files again: it gets ready anew with its wave, or is left alone where the staging ends."""
    stored.log(tx.connection, one.id, mine.switch, mine.step, "the old files are back")
    if one.state == "back":
        stored.move(tx.connection, one.id, mine.switch, mine.step, "skipped", "has its old files again")
        return
    seconds = SECONDS["all files"]
    stored.move(
        tx.connection, one.id, mine.switch, mine.step, "works", "went back with its wave", PREPARE, seconds, again=True
    )


def _wrong(
    tx: Transaction, keys: Keys, one: Staging, mine: Staged, report: Mapping[str, Any], ran: list[Mapping[str, Any]]
) -> list[str]:
    compiled, files = files_of(tx, keys, one, mine)
    has = report.get("files")
    has = has if isinstance(has, Mapping) else {}
    wrong = [f"{path} is not the edition's" for path, digest in files.items() if has.get(path) != digest.hex()]
    return wrong + real.wrong(compiled, mine.switch, _there(tx, one), ran)


def _there(tx: Transaction, one: Staging) -> set[str]:
    """The switches, by key, that are there to be neighbours: on their files, in this staging or since an earlier one."""
    mine = {
        each.switch: each.step in ("checked", "saved", "handed over") for each in stored.switches(tx.connection, one.id)
    }
    there = {key for key, there in mine.items() if there}
    there |= stored.handed_over(tx.connection, one.fabric) - mine.keys()
    return there - drains.keys(tx.connection, one.fabric)
