"""What runs against what was meant: each switch that was handed over is looked at from time to time, and what is not as its edition has it is kept and told."""

from __future__ import annotations

import base64
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta
from hashlib import sha256
from typing import Any

from barrio.app import holding, kept, outlets, rollcall, sent, stagings
from barrio.app.desk import Desk
from barrio.app.secret import Keys
from barrio.app.stagings import Wanted
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.compare.lines import LineChange, Reader
from barrio.core.errors import refuse
from barrio.core.observe.signed import LAST, between, out_of_step, signed_in
from barrio.core.observe.texts import TextDrift, drifted, masked
from barrio.core.staging import tasks
from barrio.core.structure.parts import Switch
from barrio.rehearsal.asking import real
from barrio.store import drains, editions, snapshots
from barrio.store import stagings as staged
from barrio.store.boxes import Knock
from barrio.store.entries import Act
from barrio.store.errors import Missing
from barrio.store.snapshots import Left, Snapshot

EVERY = 300
"""Seconds after which a switch is looked at again."""
MOST_TEXT, MOST_STATE = 300_000, 60


def turn(tx: Transaction, keys: Keys, knock: Knock, said: Mapping[str, Any]) -> dict[str, Any] | None:
    """Have a switch looked at that was handed over, and keep what it tells; nothing while it is not due."""
    name = knock.fabric or ""
    number = staged.handed_over_with(tx.connection, name, knock.switch)
    if number is None:
        return None
    report = said.get("report")
    told = report if isinstance(report, Mapping) else {}
    reports = told.get("task") == f"seen/{number}"
    if reports and told.get("ok") is not True:
        # It is asked again when it is due, and not at once: what it could not do now it could not then.
        return None
    if not reports and not snapshots.due(tx.connection, name, knock.switch, EVERY):
        return None
    edition = editions.find(tx.connection, name, number)
    compiled = kept.compiled(tx, edition, tx.readable(tx.draft(name)))
    if knock.switch not in compiled.models:
        return None
    switch = str(compiled.structure.by_key[knock.switch].name)
    meant = {path: digest.hex() for path, digest in sent.files(tx, keys, edition.id, switch).items()}
    # Nobody is expected to go by one that is drained.
    there = staged.handed_over(tx.connection, name) - drains.keys(tx.connection, name)
    if reports:
        secrets = sent.secrets_of(tx, keys, edition.id, switch)
        _seen(tx, knock, number, compiled, meant, there, secrets, told, _ahead(said))
        return None
    checks = tasks.look(compiled.models[knock.switch]) + real.commands(compiled, knock.switch, there) + [list(LAST)]
    commands = list({tuple(argv): argv for argv in checks + holding.commands()}.values())
    return {
        "id": f"seen/{number}", "do": "look", "commands": commands, "files": list(meant), "meant": meant,
        "most": tasks.MOST_TOLD, "known": holding.known(tx, name, knock.switch),
    }  # fmt: skip


def _ahead(said: Mapping[str, Any]) -> timedelta:
    """How far the clock of a switch is ahead of this one, as it says what time it is."""
    now = said.get("now")
    if not isinstance(now, int | float) or not 0 <= now < 1 << 33:
        return timedelta(0)
    return datetime.fromtimestamp(now, UTC) - datetime.now(UTC)


def _seen(
    tx: Transaction, knock: Knock, number: int, compiled: Compiled, meant: Mapping[str, str], there: set[str],
    secrets: Mapping[str, str], told: Mapping[str, Any], ahead: timedelta,
) -> None:  # fmt: skip
    """Keep what a switch told of itself."""
    name = knock.fabric or ""
    has, came = _mapping(told.get("files")), _mapping(told.get("texts"))
    texts: dict[str, str] = {}
    files: dict[str, str] = {}
    large: list[str] = []
    for path in (one for one, digest in meant.items() if has.get(one) != digest):
        if path in came:
            text = masked(_text(came[path]), secrets)
            digest = sha256(text.encode()).hexdigest()
            texts[digest], files[path] = text, digest
        elif has.get(path):
            large.append(f"{path} is other than edition {number} has it, and too large to be told line by line")
        else:
            files[path] = ""
    ran = [one for one in told.get("ran", []) if isinstance(one, Mapping)] if isinstance(told.get("ran"), list) else []
    holding.keep(tx, name, knock.switch, holding.told(ran))
    checked = [one for one in ran if not holding.is_held(one)]
    state = large + real.wrong(compiled, knock.switch, there, checked)
    state += [words for words in (out_of_step(ahead),) if words]
    snapshots.keep(tx.connection, texts)
    was = snapshots.last(tx.connection, name, knock.switch)
    now = datetime.now(UTC)
    log = next((str(one.get("output", "")) for one in ran if one.get("command") == " ".join(LAST)), "")
    people = between(signed_in(log), was.until_at if was else now, now, ahead)
    if not snapshots.add(tx.connection, name, knock.switch, number, files, state[:MOST_STATE], people):
        return
    switch = str(compiled.structure.by_key[knock.switch].name)
    if not files and not state:
        if was is not None and not was.true:
            outlets.tell(tx, name, "as meant", switch=switch, number=number)
    else:
        words = [*(f"{path} is other than edition {number} has it" for path in files), *state]
        tx.act(Act("drift found", name, note=f"{switch}: {'; '.join(words[:3])}", topic="staging"))
        who = [one.who for one in people]
        outlets.tell(tx, name, "drifted", switch=switch, number=number, words=words[:20], signed_in=who)


def _mapping(value: object) -> dict[str, str]:
    return {str(name): str(one) for name, one in value.items()} if isinstance(value, Mapping) else {}


def _text(content: str) -> str:
    try:
        return base64.b64decode(content, validate=True).decode(errors="replace").replace("\0", "")[:MOST_TEXT]
    except ValueError:
        return ""


@dataclass(frozen=True, slots=True)
class Drifted:
    """A switch and what of it is not as its edition has it: lines, files that are gone, states in words; those lines that somebody leaves as they are; and
    whether an agent runs there, which alone can put something back."""

    switch: str
    rack: str
    snapshot: Snapshot
    texts: TextDrift
    left: tuple[tuple[LineChange, Left], ...]
    agent: bool

    @property
    def true(self) -> bool:
        """Whether all is as it should be, but for what somebody leaves."""
        return self.texts.none and not self.snapshot.state


def drift(desk: Desk, name: str) -> list[Drifted]:
    """Every switch that was looked at, the worst first. Raises `Missing`."""
    with desk.reading() as tx:
        draft = tx.readable(tx.draft(name))
        every = snapshots.newest(tx.connection, name)
        left = snapshots.left(tx.connection, name)
        agents = staged.handed_over(tx.connection, name)
        wanted = {digest for one in every.values() for digest in one.files.values()}
        texts = snapshots.texts(tx.connection, wanted)
        known: dict[int, Compiled] = {}
        for number in {one.edition for one in every.values()}:
            known[number] = kept.compiled(tx, editions.find(tx.connection, name, number), draft)
    readers: dict[int, Reader] = {}
    found: list[Drifted] = []
    for key, one in every.items():
        compiled = known[one.edition]
        if key not in compiled.models or key in compiled.without_files:
            continue
        effects = compiled.targets[key].effects()
        reader = readers.setdefault(id(effects), Reader(effects))
        running = {path: texts.get(digest, "") if digest else None for path, digest in one.files.items()}
        switch = compiled.structure.by_key[key]
        mine = [each for each in left if each.switch == key]
        found.append(_without_left(switch, one, drifted(compiled, key, running, reader), mine, key in agents))
    return sorted(found, key=lambda one: (one.true, -one.texts.effect.rank, -len(one.snapshot.state), one.switch))


def _without_left(switch: Switch, one: Snapshot, texts: TextDrift, left: Iterable[Left], agent: bool) -> Drifted:
    """A switch without the lines that somebody leaves as they are."""
    known = {(each.path, each.line): each for each in left}
    kept_out = tuple((line, known[line.path, line.words]) for line in texts.lines if (line.path, line.words) in known)
    lines = tuple(line for line in texts.lines if (line.path, line.words) not in known)
    return Drifted(str(switch.name), str(switch.rack), one, replace(texts, lines=lines), kept_out, agent)


def counts(desk: Desk, name: str) -> tuple[int, int]:
    """How many switches of a fabric were looked at, and how many of them are not as meant. Raises `Missing`."""
    with desk.reading() as tx:
        tx.readable(tx.draft(name))
        every = snapshots.newest(tx.connection, name)
    if all(one.true for one in every.values()):
        return len(every), 0
    return len(every), sum(not one.true for one in drift(desk, name))


def history(desk: Desk, name: str, switch: str) -> list[Snapshot]:
    """What a switch ran, the newest first. Raises `Missing`."""
    with desk.reading() as tx:
        found = rollcall.named(rollcall.newest(tx, name), switch)
        return snapshots.of_switch(tx.connection, name, found.key)


def leave(desk: Desk, name: str, switch: str, path: str, line: str, why: str, until: date) -> None:
    """Leave a drifted line as it is, with a reason, until a day. Raises `Missing`, and `Refused`: `drift.why`, `drift.day`."""
    if not why.strip():
        raise refuse("drift.why", "Say why it is left as it is; whoever looks next will ask.", "why")
    if until < datetime.now(UTC).date():
        raise refuse("drift.day", "The day is over already. Say one that is to come.", "until")
    found = next((one for one in drift(desk, name) if one.switch == switch), None)
    if found is None or not any((one.path, one.words) == (path, line) for one in found.texts.lines):
        raise Missing(f"{switch} has no such drift.")

    def work(tx: Transaction) -> None:
        tx.act(Act("drift left", name, note=f"{switch}, {path}: {line} ({why.strip()})", topic="staging"))
        one = Left(found.snapshot.switch, path, line, why.strip(), until, tx.author.name)
        snapshots.leave(tx.connection, name, one)

    desk.writing(work)


def put_back(desk: Desk, name: str, switches: Iterable[str]) -> int:
    """Have what drifted put back, as a staging of the edition that these switches were handed over with; nothing else of them is touched. Its number.

    Raises `Missing`, and `Refused` as `stagings.begin`, `drift.none`, `drift.agent` (no agent runs on one that is named, or on any), and `drift.editions`
    (they are of several).
    """
    wanted = set(switches)
    there = [one for one in drift(desk, name) if one.switch in wanted or not wanted]
    other = [one for one in there if one.snapshot.files]
    if not other:
        raise refuse("drift.none", "Every file is as its edition has it; there is nothing to put back.", "switches")
    silent = [one.switch for one in other if not one.agent]
    if silent and (wanted or len(silent) == len(other)):
        words = f"No agent runs on {', '.join(silent[:3])}, so Barrio cannot put anything back there. Copy its files by hand."
        raise refuse("drift.agent", words, "switches")
    other = [one for one in other if one.agent]
    numbers = sorted({one.snapshot.edition for one in other})
    if len(numbers) > 1:
        words = (
            f"Switches of the editions {', '.join(map(str, numbers))} drifted. Put back those of one edition at a time."
        )
        raise refuse("drift.editions", words, "switches")
    return stagings.begin(desk, name, Wanted(edition=numbers[0], switches=tuple(one.switch for one in other)))
