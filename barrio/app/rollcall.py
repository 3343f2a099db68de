"""The roll call of a fabric: which box each of its switches is, and who knocks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from barrio.app import kept
from barrio.app.desk import Desk
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.errors import nearest, refuse
from barrio.core.exchange.sheet import Sheet
from barrio.core.staging import boxes
from barrio.core.staging.boxes import Bound, Box, Row, Told
from barrio.core.structure.parts import Switch
from barrio.store import boxes as stored
from barrio.store import editions, ways
from barrio.store.boxes import Knock
from barrio.store.entries import Act
from barrio.store.errors import Missing


@dataclass(frozen=True, slots=True)
class Answered:
    """A switch of the roll call: its box as far as it is known, who was admitted as it, and what of that one is not as planned."""

    switch: Switch
    airflow: str
    box: Box
    knock: Knock | None
    faults: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Knocking:
    """Somebody who waits to be let in: what was bound to their serial or MAC (a name, and whether it is of this fabric), what of them is not as planned for
    it, and where they are plugged in, as they hear by LLDP and as the plan has it."""

    knock: Knock
    expected: Bound | None
    faults: tuple[str, ...]
    planned_there: str


def told_of(knock: Knock) -> Told:
    """What somebody who knocks says that they are."""
    said = knock.said
    ports = said.get("ports", 0)
    return Told(str(said.get("model", "")), str(said.get("airflow", "")), ports if isinstance(ports, int) else 0)


def newest(tx: Transaction, name: str) -> Compiled:
    """The edition that switches are expected by: the newest one. Raises `Missing` while there is none."""
    found = editions.newest(tx.connection, name)
    if found is None:
        raise Missing(f"{name} has no edition yet, and what is staged is an edition. Seal one.")
    return kept.compiled(tx, found, tx.readable(tx.draft(name)))


def roll(desk: Desk, name: str) -> list[Answered]:
    """Every switch that is expected, in the fabric's order. Raises `Missing`."""
    with desk.reading() as tx:
        compiled = newest(tx, name)
        bound = stored.of_fabric(tx.connection, name)
        there = {one.switch: one for one in stored.knocks(tx.connection, name)}
    return [_answered(compiled, switch, bound.get(switch.key), there.get(switch.key)) for switch in compiled.staged]


def _answered(compiled: Compiled, switch: Switch, bound: Bound | None, knock: Knock | None) -> Answered:
    faults = tuple(boxes.faults(compiled, switch, told_of(knock))) if knock else ()
    return Answered(switch, boxes.airflow_of(compiled, switch), bound.box if bound else Box(), knock, faults)


def knocking(desk: Desk, name: str) -> list[Knocking]:
    """Those who knock and are of no fabric yet, as far as this one may see them: not those whose serial is another fabric's."""
    with desk.reading() as tx:
        compiled = newest(tx, name)
        bound = stored.bound(tx.connection)
        waiting = [one for one in stored.knocks(tx.connection) if one.state != "admitted"]
    found: list[Knocking] = []
    for knock in waiting:
        expected = expected_by(knock.box, bound)
        if expected is not None and expected.fabric != name:
            continue
        faults: list[str] = []
        if expected is not None and expected.retired:
            faults.append(f"{knock.box} was {expected.name} and was taken out")
        elif expected is not None and expected.key in compiled.structure.by_key:
            faults += boxes.faults(compiled, compiled.structure.by_key[expected.key], told_of(knock))
        found.append(Knocking(knock, expected, tuple(faults), _planned_there(compiled, knock)))
    return found


def expected_by(box: Box, bound: Sequence[Bound]) -> Bound | None:
    """Whom a box was bound to, by its serial number first."""
    for word in ("serial", "mac"):
        said = getattr(box, word)
        for one in bound:
            if said and getattr(one.box, word) == said:
                return one
    return None


def _planned_there(compiled: Compiled, knock: Knock) -> str:
    """The switch that the cabling plan has where somebody is plugged in: at the far ends of the ports that they hear of."""
    heard = knock.said.get("neighbours", [])
    names: dict[str, int] = {}
    far = {(end.link.upper.name, str(end.upper_port)): end.link.lower.name for end in compiled.ends}
    far |= {(end.link.lower.name, str(end.lower_port)): end.link.upper.name for end in compiled.ends}
    for one in heard if isinstance(heard, list) else []:
        name = far.get((one.get("switch", ""), one.get("port", ""))) if isinstance(one, dict) else None
        if name is not None:
            names[str(name)] = names.get(str(name), 0) + 1
    return max(names, key=lambda one: names[one], default="")


def named(compiled: Compiled, name: str) -> Switch:
    """A switch of an edition. Raises `Missing`."""
    found = next((one for one in compiled.staged if one.name == name), None)
    if found is None:
        raise Missing(f"There is no switch {name}.{nearest(name, (str(one.name) for one in compiled.staged))}")
    return found


def bind(desk: Desk, name: str, switch: str, box: Box) -> None:
    """Say which box a switch is. Raises `Missing`, and `Refused` (`box.taken`) for one that is another already or was taken out."""

    def work(tx: Transaction) -> None:
        found = named(newest(tx, name), switch)
        _bind(tx, name, found, box)

    desk.writing(work)


def _bind(tx: Transaction, name: str, switch: Switch, box: Box) -> None:
    why = boxes.clash(box, switch.key, name, stored.bound(tx.connection))
    if why:
        raise refuse("box.taken", f"{why}.", "serial")
    tx.act(Act("box bound", name, note=f"{switch.name} is {box}", topic="staging"))
    stored.bind(tx.connection, Bound(name, switch.key, str(switch.name), box), tx.author.name)


def loosen(desk: Desk, name: str, switch: str) -> None:
    """Say no more which box a switch is; whoever was admitted as it waits again. Raises `Missing`."""

    def work(tx: Transaction) -> None:
        found = named(newest(tx, name), switch)
        tx.act(Act("box loosened", name, note=str(found.name), topic="staging"))
        if not stored.loosen(tx.connection, name, found.key):
            raise Missing(f"Nothing is bound to {found.name}.")
        stored.knock_again(tx.connection, name, found.key)

    desk.writing(work)


def taken_out(tx: Transaction, name: str, switch: str, why: str) -> None:
    """Take the box of a switch out, which then never comes back by itself; another may take its place. Raises `Missing`, and `Refused` (`box.why`)."""
    if not why.strip():
        raise refuse("box.why", "Say why it is taken out; whoever finds the box later will want to know.", "why")
    found = named(newest(tx, name), switch)
    tx.act(Act("box taken out", name, note=f"{found.name}: {why}", topic="staging"))
    if not stored.retire(tx.connection, name, found.key, why):
        raise Missing(f"Nothing is bound to {found.name}, so there is nothing to take out.")
    stored.shut_out(tx.connection, name, [found.key], why)


def let_back(desk: Desk, name: str, box: Box) -> None:
    """Let a box that was taken out be bound again, for instance once it was mended. Raises `Missing`."""

    def work(tx: Transaction) -> None:
        tx.act(Act("box let back", name, note=str(box), topic="staging"))
        if not stored.let_back(tx.connection, box):
            raise Missing(f"{box} was not taken out.")
        stored.let_knock(tx.connection, box)

    desk.writing(work)


def preview(desk: Desk, name: str, sheet: Sheet) -> list[Row]:
    """What a delivery's list would bind, row by row. Raises as `delivery`, and `Missing`."""
    with desk.reading() as tx:
        return boxes.delivery(newest(tx, name), sheet, stored.bound(tx.connection))


def take(desk: Desk, name: str, sheet: Sheet) -> int:
    """Bind all of a delivery's list, or nothing. Returns how many boxes. Raises `Missing`, and `Refused` (`delivery.rows`) when a row cannot be taken."""

    def work(tx: Transaction) -> int:
        compiled = newest(tx, name)
        rows = boxes.delivery(compiled, sheet, stored.bound(tx.connection))
        wrong = [one for one in rows if one.outcome == "refused"]
        if wrong:
            words = f"{len(wrong)} of {len(rows)} rows cannot be taken, so none was. Line {wrong[0].line}: {wrong[0].reason}."
            raise refuse("delivery.rows", words, "rows", wrong[0].line)
        new = [one for one in rows if one.outcome != "same"]
        tx.act(Act("delivery taken", name, note=f"{len(new)} boxes", topic="staging"))
        for row in new:
            switch = named(compiled, row.switch)
            stored.bind(tx.connection, Bound(name, switch.key, str(switch.name), row.box), tx.author.name)
        return len(new)

    return desk.writing(work)


def admit(desk: Desk, name: str, key: bytes, switch: str) -> None:
    """Let somebody who knocks in, as a switch; its box is theirs from then on.

    Raises `Missing`, and `Refused`: `knock.refused` (who was refused stays so), `knock.taken` (another was admitted as it), `box.taken`.
    """

    def work(tx: Transaction) -> None:
        compiled = newest(tx, name)
        found, knock = named(compiled, switch), _knock(tx, key)
        if knock.state == "refused":
            raise refuse(
                "knock.refused", f"{knock.box} was refused, and stays so: {knock.why or 'no reason was given'}.", "key"
            )
        other = next(
            (one for one in stored.knocks(tx.connection, name) if one.switch == found.key and one.key != key), None
        )
        if other is not None:
            words = (
                f"{other.box} was admitted as {found.name} already. Take that one out first, if it is to be replaced."
            )
            raise refuse("knock.taken", words, "switch")
        was = stored.of_fabric(tx.connection, name).get(found.key)
        if was is not None and expected_by(knock.box, [was]) is None:
            words = f"{found.name} is expected as {was.box}, and this is {knock.box}. Find the right one, or say that {found.name} is this box."
            raise refuse("knock.other", words, "switch")
        if was is None:
            _bind(tx, name, found, knock.box)
        tx.act(Act("switch admitted", name, note=f"{knock.box} as {found.name}", topic="staging"))
        stored.decide(tx.connection, key, "admitted", name, found.key, tx.author.name, "")

    desk.writing(work)


def admit_by_rule(tx: Transaction, knock: Knock) -> bool:
    """Let somebody in whom the rule of a fabric lets in: a serial number that is bound to one of its switches, which nobody was let in as; that is as
    planned; and, where the rule asks for it, that is plugged in where the plan has it. Whether it was let in."""
    expected = expected_by(Box(serial=knock.box.serial), stored.bound(tx.connection)) if knock.box.serial else None
    if expected is None or expected.retired:
        return False
    admits = ways.of(tx.connection, expected.fabric).admits
    if admits == "nobody" or expected.key in stored.admitted(tx.connection, expected.fabric):
        return False
    if stored.was_refused(tx.connection, knock.box):
        return False
    compiled = newest(tx, expected.fabric)
    switch = compiled.structure.by_key.get(expected.key)
    if switch is None or any(boxes.faults(compiled, switch, told_of(knock))):
        return False
    if admits == "serial and place" and _planned_there(compiled, knock) != switch.name:
        return False
    words = f"{knock.box} as {switch.name}, by the rule “{admits}”"
    tx.act(Act("switch admitted", expected.fabric, note=words, topic="staging"))
    stored.decide(tx.connection, knock.key, "admitted", expected.fabric, expected.key, "the rule", "")
    return True


def turn_away(desk: Desk, name: str, key: bytes, why: str) -> None:
    """Refuse somebody who knocks; they stay refused. Raises `Missing`, and `Refused` (`knock.why`)."""
    if not why.strip():
        raise refuse("knock.why", "Say why it is refused; whoever stands beside it will ask.", "why")

    def work(tx: Transaction) -> None:
        knock = _knock(tx, key)
        tx.act(Act("switch refused", name, note=f"{knock.box}: {why}", topic="staging"))
        stored.decide(tx.connection, key, "refused", None, "", tx.author.name, why.strip())

    desk.writing(work)


def _knock(tx: Transaction, key: bytes) -> Knock:
    found = stored.find(tx.connection, key)
    if found is None:
        raise Missing("Nobody with this key knocks.")
    return found
