"""Stagings: begun by people, driven by what switches ask and report, wave by wave in Ripple's order."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from barrio.app import kept, outlets
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.compare.order import order
from barrio.core.compare.ripple import ripple
from barrio.core.errors import refuse
from barrio.core.staging import steps
from barrio.core.staging.steps import BACK, COMMIT, CONFIRM, HOLD, IN_PLACE, PREPARE, SECONDS, STEPS, Rules
from barrio.store import boxes, editions, stagings
from barrio.store.entries import Act
from barrio.store.errors import Missing
from barrio.store.stagings import Line, Staged, Staging


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is to be staged: an edition (0 is the newest), only these switches (by name) or all, so many at once, stopped after so many failures, each
    confirmed within so many seconds, between two moments or at any time."""

    edition: int = 0
    switches: tuple[str, ...] = ()
    at_once: int = 8
    stop_after: int = 1
    confirm_seconds: int = 120
    from_at: datetime | None = None
    until_at: datetime | None = None


@dataclass(frozen=True, slots=True)
class Told:
    """A staging as it stands, with its switches, and the seconds that are left by what those already done took; None while nobody is through."""

    staging: Staging
    switches: tuple[Staged, ...]
    left: float | None


def begin(desk: Desk, name: str, wanted: Wanted) -> int:
    """Begin a staging: its number.

    Raises `Missing`, and `Refused`: `stage.busy` (one is under way), `stage.window`, `stage.nothing`.
    """
    if wanted.from_at and wanted.until_at and wanted.from_at >= wanted.until_at:
        raise refuse("stage.window", "The time ends before it begins.", "until_at")

    def work(tx: Transaction) -> int:
        if stagings.under_way(tx.connection, name):
            raise refuse("stage.busy", f"A staging of {name} is under way. Let it end, or leave it, first.")
        edition = (
            editions.find(tx.connection, name, wanted.edition)
            if wanted.edition
            else editions.newest(tx.connection, name)
        )
        if edition is None:
            raise Missing(f"{name} has no edition yet, and what is staged is an edition. Seal one.")
        compiled = kept.compiled(tx, edition, tx.readable(tx.draft(name)))
        waves = _waves(compiled, wanted.switches, wanted.at_once)
        if not waves:
            raise refuse("stage.nothing", "No switch is chosen that this edition has.", "switches")
        window = wanted.from_at, wanted.until_at
        tx.act(Act("staging begun", name, note=f"edition {edition.number}, {sum(map(len, waves))} switches in {len(waves)} waves", topic="staging"))  # fmt: skip
        number = stagings.begin(tx.connection, name, edition.number, wanted.at_once, wanted.stop_after, wanted.confirm_seconds, tx.author.name, window)  # fmt: skip
        places = {one.key: at for at, one in enumerate(compiled.staged)}
        stagings.add(
            tx.connection, number,
            [
                (key, str(compiled.structure.by_key[key].name), str(compiled.structure.by_key[key].rack), places[key], at, "expected")
                for at, wave in enumerate(waves, 1) for key in wave
            ],
        )  # fmt: skip
        advance(tx, name)
        return number

    return desk.writing(work)


def _waves(compiled: Compiled, names: Sequence[str], most: int) -> list[list[str]]:
    """The switches by key in the waves of a fabric that is not there yet: what is above first, and of each pair one leaf after the other; no wave
    larger than `most`, since all of a wave wait for each other."""
    found = order(None, compiled, ripple(None, compiled))
    keys = {str(one.name): one.key for one in compiled.staged}
    unknown = [one for one in names if one not in keys]
    if unknown:
        raise refuse("stage.switch", f"This edition has no switch {', '.join(unknown[:5])}.", "switches")
    waves = [[keys[one] for one in wave.switches if not names or one in names] for wave in found.waves]
    return [wave[at : at + most] for wave in waves for at in range(0, len(wave), most)]


def advance(tx: Transaction, name: str) -> None:
    """Take a staging as far as it goes by itself: who was admitted, whose turn it is, whose time is up, and whether all is done. Safe to call at any
    moment, by any process."""
    one = stagings.under_way(tx.connection, name, lock=True)
    if one is None:
        return
    admitted = boxes.admitted(tx.connection, name)
    switches = stagings.switches(tx.connection, one.id)
    for switch in switches:
        if switch.step == "expected" and switch.switch in admitted:
            stagings.log(tx.connection, one.id, switch.switch, "admitted", "it was let in")
            stagings.move(tx.connection, one.id, switch.switch, "admitted", "waits", "waits for its wave")
    _time_up(tx, one, switches)
    for wave in {switch.wave for switch in switches if switch.task in (COMMIT, HOLD)}:
        release(tx, one, wave)
    if one.state == "runs" and _in_window(one):
        _next(tx, one, admitted)
    all_ = [switch.standing for switch in stagings.switches(tx.connection, one.id)]
    if one.state == "back":
        _put_back(tx, one, all_)
    elif all_ and all(map(steps.through, all_)):
        skipped = sum(each.state == "skipped" for each in all_)
        words = f"{len(all_) - skipped} switches were handed over{f', {skipped} were skipped' if skipped else ''}"
        stagings.state(tx.connection, one.id, "done", words)
        outlets.tell(tx, name, "staged", number=one.id, title=words)


def _in_window(one: Staging) -> bool:
    now = datetime.now(UTC)
    return (one.from_at is None or one.from_at <= now) and (one.until_at is None or now < one.until_at)


def advance_all(house: House) -> None:
    """Take every staging as far as it goes by itself, also where no switch asks any more."""
    with house.alone() as connection:
        fabrics = stagings.running(connection)
    for name in fabrics:
        house.writing(lambda tx, name=name: advance(tx, name))  # type: ignore[misc]


def release(tx: Transaction, one: Staging, wave: int) -> None:
    """Have a wave put its files in place, once all of it have prepared, and be checked, once all of it are on them: the network is never left half
    changed."""
    if one.state == "back":
        return
    if not stagings.lagging(tx.connection, one.id, wave):
        seconds = one.confirm_seconds + SECONDS["all files"]
        stagings.release(tx.connection, one.id, wave, "puts its files in place", seconds)
    if not stagings.unconfirmed(tx.connection, one.id, wave):
        stagings.pass_held(tx.connection, one.id, wave, "is checked", SECONDS["checked"])


def _time_up(tx: Transaction, one: Staging, switches: Sequence[Staged]) -> None:
    now = datetime.now(UTC)
    for switch in switches:
        if switch.state == "works" and switch.until_at is not None and switch.until_at < now:
            fail(
                tx,
                one,
                switch,
                f"{switch.step} took longer than {SECONDS.get(switch.step, 0) // 60} min; look at it, then try it again",
            )


def _next(tx: Transaction, one: Staging, admitted: set[str]) -> None:
    all_ = [switch.standing for switch in stagings.switches(tx.connection, one.id)]
    for key in steps.may_begin(all_, Rules(one.at_once, one.stop_after), admitted):
        stagings.move(
            tx.connection,
            one.id,
            key,
            "software",
            "works",
            "is asked which software it has",
            seconds=SECONDS["software"],
        )
    all_ = [switch.standing for switch in stagings.switches(tx.connection, one.id)]
    if steps.failures(all_) >= one.stop_after:
        words = "a switch failed" if one.stop_after == 1 else f"{one.stop_after} switches failed"
        stagings.state(tx.connection, one.id, "paused", f"{words}; nothing more begins until somebody says go on")


def fail(tx: Transaction, one: Staging, switch: Staged, words: str) -> None:
    """A switch's step failed. Where its new files were being put in place, all of its wave go back to their old ones."""
    stagings.log(tx.connection, one.id, switch.switch, switch.step, words)
    stagings.move(tx.connection, one.id, switch.switch, switch.step, "failed", words)
    if switch.step != "all files" or switch.task != CONFIRM:
        return
    for other in stagings.switches(tx.connection, one.id):
        if other.wave == switch.wave and other.state == "works" and other.task in IN_PLACE:
            _go_back(tx, one, other, f"{switch.name} is not on its new files, so all of its wave go back")


def _go_back(tx: Transaction, one: Staging, switch: Staged, words: str) -> None:
    stagings.log(tx.connection, one.id, switch.switch, "all files", words)
    seconds = SECONDS["all files"] + one.confirm_seconds
    stagings.move(tx.connection, one.id, switch.switch, "all files", "works", words, BACK, seconds, again=True)


def put_back(desk: Desk, name: str) -> None:
    """End a staging, and have every switch that is on its new files put the old ones back, the last wave first. Raises `Missing`."""

    def work(tx: Transaction) -> None:
        one = stagings.under_way(tx.connection, name, lock=True)
        if one is None:
            raise Missing(f"No staging of {name} is under way.")
        tx.act(Act("staging put back", name, note=f"edition {one.edition}", topic="staging"))
        stagings.state(
            tx.connection, one.id, "back", f"{tx.author.name} has the old files put back, the last wave first"
        )
        for switch in stagings.switches(tx.connection, one.id):
            if switch.state == "skipped":
                continue
            if STEPS.index(switch.step) > STEPS.index("all files") or (
                switch.step == "all files" and (switch.state == "failed" or switch.task in (*IN_PLACE, BACK))
            ):
                _go_back(tx, one, switch, "puts the old files back")
            else:
                stagings.log(tx.connection, one.id, switch.switch, switch.step, f"{tx.author.name} ends the staging")
                stagings.move(tx.connection, one.id, switch.switch, switch.step, "skipped", "nothing of it was changed")
        advance(tx, name)

    desk.writing(work)


def _put_back(tx: Transaction, one: Staging, all_: Sequence[steps.Standing]) -> None:
    """End a staging whose old files are put back, once nobody is at it any more."""
    if any(each.state == "works" for each in all_):
        return
    left = steps.failures(all_)
    words = "the old files are back" + (f"; {left} switches could not be reached for it" if left else "")
    stagings.state(tx.connection, one.id, "left", words)


def told(desk: Desk, name: str, number: int = 0) -> Told:
    """A staging, or the newest one. Raises `Missing`."""
    with desk.reading() as tx:
        every = stagings.newest(tx.connection, name, 1)
        if not number and not every:
            raise Missing(f"Nothing of {name} was staged yet.")
        one = stagings.find(tx.connection, name, number) if number else every[0]
        switches = tuple(stagings.switches(tx.connection, one.id))
        done, each = stagings.seconds_of(tx.connection, one.id)
    left = sum(not steps.through(switch.standing) for switch in switches)
    return Told(one, switches, each * -(-left // one.at_once) if done and one.ended_at is None else None)


def lines(desk: Desk, name: str, number: int, switch: str) -> list[Line]:
    """What was done to a switch (by name) in a staging. Raises `Missing`."""
    with desk.reading() as tx:
        one = stagings.find(tx.connection, name, number)
        return stagings.lines(tx.connection, one.id, _named(tx, one, switch).switch)


def _named(tx: Transaction, one: Staging, switch: str) -> Staged:
    found = next((each for each in stagings.switches(tx.connection, one.id) if each.name == switch), None)
    if found is None:
        raise Missing(f"{switch} is not in this staging.")
    return found


def pause(desk: Desk, name: str) -> None:
    """Let what is under way come to its end, and begin nothing more. Raises `Missing`."""
    _say(desk, name, "staging paused", "paused", lambda by: f"paused by {by}; what was under way goes on to its end")


def go_on(desk: Desk, name: str) -> None:
    """Go on with a staging that was paused, by somebody or by failures. Raises `Missing`, and `Refused` (`stage.failed`) while too many failed."""
    _say(desk, name, "staging goes on", "runs", lambda by: "")


def leave(desk: Desk, name: str) -> None:
    """End a staging where it is: what is handed over stays so, nothing more is begun. Raises `Missing`."""
    _say(desk, name, "staging left", "left", lambda by: f"left by {by}")


def _say(desk: Desk, name: str, act: str, state: str, words: object) -> None:
    def work(tx: Transaction) -> None:
        one = stagings.under_way(tx.connection, name, lock=True)
        if one is None:
            raise Missing(f"No staging of {name} is under way.")
        standing = [each.standing for each in stagings.switches(tx.connection, one.id)]
        if state == "runs" and steps.failures(standing) >= one.stop_after:
            raise refuse("stage.failed", "Switches failed that nobody tried again or skipped yet. Do either first.")
        tx.act(Act(act, name, note=f"edition {one.edition}", topic="staging"))
        stagings.state(tx.connection, one.id, state, words(tx.author.name))  # type: ignore[operator]
        advance(tx, name)

    desk.writing(work)


def again(desk: Desk, name: str, switch: str) -> None:
    """Try a switch again that failed: from the beginning of its step. Raises `Missing`, and `Refused` (`stage.state`)."""

    def work(tx: Transaction) -> None:
        one, found = _failed(tx, name, switch)
        tx.act(Act("switch tried again", name, note=switch, topic="staging"))
        stagings.log(tx.connection, one.id, found.switch, found.step, f"{tx.author.name} has it tried again")
        task = PREPARE if found.step in ("first boot", "all files") else ""
        stagings.move(
            tx.connection,
            one.id,
            found.switch,
            found.step,
            "works",
            "is tried again",
            task,
            SECONDS.get(found.step),
            again=True,
        )
        if one.state == "paused":
            stagings.state(tx.connection, one.id, "runs", "")
        advance(tx, name)

    desk.writing(work)


def skip(desk: Desk, name: str, switch: str, why: str) -> None:
    """Leave a switch out of a staging, with a reason; the others of its wave go on without it. Raises `Missing`, and `Refused` (`stage.why`,
    `stage.state`)."""
    if not why.strip():
        raise refuse("stage.why", "Say why it is skipped.", "why")

    def work(tx: Transaction) -> None:
        one = stagings.under_way(tx.connection, name, lock=True)
        if one is None:
            raise Missing(f"No staging of {name} is under way.")
        found = _named(tx, one, switch)
        if found.state == "works" or steps.through(found.standing):
            raise refuse(
                "stage.state",
                f"{switch} {'is handed over' if found.state == 'done' else 'is at work'}; wait until it is through.",
            )
        tx.act(Act("switch skipped", name, note=f"{switch}: {why}", topic="staging"))
        stagings.log(tx.connection, one.id, found.switch, found.step, f"{tx.author.name} skips it: {why}")
        stagings.move(tx.connection, one.id, found.switch, found.step, "skipped", why.strip())
        if (
            one.state == "paused"
            and steps.failures([each.standing for each in stagings.switches(tx.connection, one.id)]) < one.stop_after
        ):
            stagings.state(tx.connection, one.id, "runs", "")
        advance(tx, name)

    desk.writing(work)


def _failed(tx: Transaction, name: str, switch: str) -> tuple[Staging, Staged]:
    one = stagings.under_way(tx.connection, name, lock=True)
    if one is None:
        raise Missing(f"No staging of {name} is under way.")
    found = _named(tx, one, switch)
    if found.state != "failed":
        raise refuse(
            "stage.state",
            f"{switch} did not fail; it {'is handed over' if found.step == STEPS[-1] else f'is at “{found.step}”'}.",
        )
    return one, found
