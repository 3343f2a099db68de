"""Switches that are drained before they are touched: told to send others another way, and not called drained before every neighbour was asked."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any

from barrio.app import rollcall
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.errors import refuse
from barrio.core.staging import drain
from barrio.core.staging.drain import Cost
from barrio.store import boxes, drains, stagings
from barrio.store.boxes import Knock
from barrio.store.drains import Drain
from barrio.store.entries import Act
from barrio.store.errors import Missing

SECONDS = 300
"""Within which neighbours go another way; they ask once a minute while nothing is staged."""


def cost(desk: Desk, name: str, switch: str) -> Cost:
    """What goes with a switch, beside those that are drained already. Raises `Missing`."""
    with desk.reading() as tx:
        compiled = rollcall.newest(tx, name)
        away = [one.switch for one in drains.of_fabric(tx.connection, name)]
    return drain.cost(compiled, rollcall.named(compiled, switch).key, away)


def every(desk: Desk, name: str) -> list[Drain]:
    """The switches of a fabric that are drained or on their way to be. Raises `Missing`."""
    with desk.reading() as tx:
        tx.readable(tx.draft(name))
        return drains.of_fabric(tx.connection, name)


def begin(desk: Desk, name: str, switch: str, why: str) -> None:
    """Have a switch drained. Raises `Missing`, and `Refused`: `drain.why`, `drain.nobody` (it has no agent that could be told), `drain.busy` (it is staged,
    or drained already), `drain.cuts` (others would not be reached any more)."""
    if not why.strip():
        raise refuse("drain.why", "Say why it is drained; whoever sees it will ask.", "why")

    def work(tx: Transaction) -> None:
        compiled = rollcall.newest(tx, name)
        found = rollcall.named(compiled, switch)
        if found.key not in boxes.admitted(tx.connection, name):
            words = f"Nobody was let in as {switch}, so there is no agent that could be told."
            raise refuse("drain.nobody", words, "switch")
        staging = stagings.under_way(tx.connection, name)
        mine = stagings.one(tx.connection, staging.id, found.key) if staging else None
        if mine is not None and mine.state == "works":
            raise refuse("drain.busy", f"{switch} is being staged. Let that end first.", "switch")
        if drains.of_switch(tx.connection, name, found.key):
            raise refuse("drain.busy", f"{switch} is drained already, or about to be.", "switch")
        others = [one for one in drains.of_fabric(tx.connection, name) if one.switch in compiled.models]
        lost = drain.cost(compiled, found.key, [one.switch for one in others]).cut_off
        if lost:
            beside = f" beside {', '.join(one.name for one in others)}" if others else ""
            words = f"Nobody would reach {', '.join(lost[:3])} without {switch}{beside}. Give them another way first."
            raise refuse("drain.cuts", words, "switch")
        tx.act(Act("switch drained", name, note=f"{switch}: {why.strip()}", topic="staging"))
        words = "waits until it asks, and is told then"
        drains.begin(tx.connection, name, found.key, str(found.name), words, why.strip(), tx.author.name)

    desk.writing(work)


def back(desk: Desk, name: str, switch: str) -> None:
    """Have a switch carry again. Raises `Missing`."""

    def work(tx: Transaction) -> None:
        one = _named(tx, name, switch)
        tx.act(Act("switch carries again", name, note=switch, topic="staging"))
        if one.state == "told":
            drains.move(tx.connection, one, "ended", "it was not told yet")
        else:
            drains.move(tx.connection, one, "returns", "waits until it asks, and is told then")

    desk.writing(work)


def _named(tx: Transaction, name: str, switch: str) -> Drain:
    found = next((one for one in drains.of_fabric(tx.connection, name) if one.name == switch), None)
    if found is None:
        raise Missing(f"{switch} is not drained.")
    return found


def take_out(desk: Desk, name: str, switch: str, why: str, even_so: bool) -> None:
    """Take the box of a switch out for good: one that nobody goes by any more, that is not heard of, or of which somebody says that it goes even so.

    Raises as `rollcall.taken_out`, and `Refused` (`drain.first`).
    """

    def work(tx: Transaction) -> None:
        _may_go(tx, name, rollcall.named(rollcall.newest(tx, name), switch).key, even_so)
        rollcall.taken_out(tx, name, switch, why)

    desk.writing(work)


def _may_go(tx: Transaction, name: str, key: str, even_so: bool) -> None:
    one = drains.of_switch(tx.connection, name, key)
    if one is not None and (one.state == "drained" or even_so):
        drains.move(tx.connection, one, "ended", "it was taken out")
        return
    knock = next((each for each in boxes.knocks(tx.connection, name) if each.switch == key), None)
    heard = knock is not None and (datetime.now(UTC) - knock.last_at).total_seconds() < SECONDS
    carries = key in stagings.handed_over(tx.connection, name)
    if even_so or not heard or not carries:
        return
    how = f"it is not drained yet: {one.words}" if one else "it is alive and carries traffic. Drain it first"
    raise refuse("drain.first", f"{how}, or say that it goes even so.", "switch")


def turn(tx: Transaction, knock: Knock, said: Mapping[str, Any]) -> dict[str, Any] | None:
    """What a switch does for a drain, its own or a neighbour's; nothing where there is none."""
    name = knock.fabric or ""
    under_way = drains.of_fabric(tx.connection, name)
    if not under_way:
        return None
    report = said.get("report")
    told = report if isinstance(report, Mapping) else {}
    compiled = rollcall.newest(tx, name)
    for one in under_way:
        if one.switch not in compiled.models or knock.switch not in compiled.models:
            continue
        if one.switch == knock.switch:
            task = _own(tx, compiled, one, told)
        else:
            task = _neighbours(tx, compiled, one, knock.switch, told)
        if task is not None:
            return task
    return None


def wants(tx: Transaction, name: str) -> bool:
    """Whether switches of a fabric are to ask again soon."""
    return any(one.state in ("told", "asked", "returns") for one in drains.of_fabric(tx.connection, name))


def _own(tx: Transaction, compiled: Compiled, one: Drain, told: Mapping[str, Any]) -> dict[str, Any] | None:
    number = f"drain/{one.id}/{one.state}"
    if one.state not in ("told", "returns"):
        return None
    if told.get("task") != number:
        commands = drain.order(compiled.models[one.switch], one.state == "told")
        return {"id": number, "do": "run", "commands": commands}
    if told.get("ok") is not True:
        drains.move(tx.connection, one, "kept", f"it was not told: {str(told.get('words', ''))[:200]}")
    elif one.state == "returns":
        drains.move(tx.connection, one, "ended", "it carries again")
    else:
        drains.move(tx.connection, one, "asked", "it is told; its neighbours are asked whether they go another way", SECONDS)  # fmt: skip
    return None


def _neighbours(
    tx: Transaction, compiled: Compiled, one: Drain, key: str, told: Mapping[str, Any]
) -> dict[str, Any] | None:
    """Ask a neighbour by which ports it goes, until it goes another way or the time is over."""
    names = {str(port.peer) for port in compiled.models[one.switch].fabric_ports}
    if one.state != "asked" or compiled.models[key].name not in names or one.seen.get(key) == "":
        return None
    number = f"drain/{one.id}/asked"
    if told.get("task") != number:
        return {"id": number, "do": "look", "commands": [list(argv) for argv in drain.ROUTES], "files": []}
    ran = told.get("ran")
    said = {
        str(each.get("command")): str(each.get("output", ""))
        for each in (ran if isinstance(ran, list) else [])
        if isinstance(each, Mapping) and not each.get("code")
    }
    try:
        answers = {tuple(argv): said[" ".join(argv)] for argv in drain.ROUTES}
        words = drain.paths_in_words(drain.passing(compiled, one.switch, key, answers))
    except (ValueError, KeyError):
        words = "what its answer does not tell"
    drains.see(tx.connection, one, {key: words})
    settle(tx, compiled, one.fabric)
    return None


def settle(tx: Transaction, compiled: Compiled, name: str) -> None:
    """Call those drained whose neighbours all go another way, and say of the others, when their time is over, who still goes by them."""
    there = boxes.admitted(tx.connection, name)
    by_name = {str(one.name): one.key for one in compiled.staged}
    for one in drains.of_fabric(tx.connection, name):
        if one.state != "asked" or one.switch not in compiled.models:
            continue
        names = dict.fromkeys(str(port.peer) for port in compiled.models[one.switch].fabric_ports)
        asked = {each: one.seen.get(by_name[each]) for each in names if by_name.get(each) in there}
        silent = [each for each in names if each not in asked]
        beside = f"; {', '.join(silent[:3])} has no agent to ask" if silent else ""
        if asked and all(words == "" for words in asked.values()):
            words = f"nobody goes by it any more; {len(asked)} neighbours say so{beside}"
            drains.move(tx.connection, one, "drained", words)
        elif one.until_at is not None and one.until_at < datetime.now(UTC):
            still = [f"{each} {'was not heard' if words is None else f'still goes by it to {words}'}" for each, words in asked.items() if words != ""]  # fmt: skip
            drains.move(tx.connection, one, "kept", f"{'; '.join(still[:4]) or 'nobody could be asked'}{beside}")


def settle_all(house: House) -> None:
    """The same, also where no neighbour asks any more."""
    with house.alone() as connection:
        fabrics = drains.asked(connection)
    for name in fabrics:
        house.writing(lambda tx, name=name: settle(tx, rollcall.newest(tx, name), name))  # type: ignore[misc]
