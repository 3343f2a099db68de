"""The office: its files with their history, what a change of them does to every fabric, and templates tried on a switch."""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from barrio.app.desk import Desk
from barrio.app.leaving import while_wanted
from barrio.app.transaction import Transaction
from barrio.contained.process import APART
from barrio.core import Compiled, Fault, Refused, compile
from barrio.core.errors import refuse
from barrio.core.model.switch import SwitchModel
from barrio.core.office import TARGETS, Office, read_office
from barrio.core.render.target import Target
from barrio.core.render.trial import as_data, from_data
from barrio.core.targets.choice import rendered
from barrio.core.targets.own.lesson import Lesson, learn_from
from barrio.core.targets.own.manifest import read_target
from barrio.core.targets.own.tally import Tally, tally
from barrio.core.targets.report import lacking
from barrio.store import office as editions
from barrio.store.entries import Act
from barrio.store.errors import Missing, Stale
from barrio.store.office import Edition


@dataclass(frozen=True, slots=True)
class Standing:
    """The office as it is: the number of its edition, its files, and for each target the fabrics that use it, with how many switches."""

    number: int
    files: Mapping[str, str]
    targets: tuple[Target, ...]
    users: Mapping[str, Mapping[str, int]]


@dataclass(frozen=True, slots=True)
class OfficeEffect:
    """What a changed office does to one fabric: how many switches have other files, and why it cannot be, if it cannot."""

    fabric: str
    switches: int
    refusal: str


@dataclass(frozen=True, slots=True)
class Trial:
    """A template tried on one switch: its files, those by the templates that are saved, what is wrong, what of the model is in no file, and
    the time in ms."""

    switch: str
    files: Mapping[str, str]
    before: Mapping[str, str]
    faults: tuple[Fault, ...]
    missing: tuple[str, ...]
    took: float


def standing(desk: Desk) -> Standing:
    """The office as it is now."""
    with desk.reading() as tx:
        office = tx.office()
        users: dict[str, dict[str, int]] = {name: {} for name in office.targets}
        for draft in tx.drafts():
            compiled = tx.readable(draft) if desk.may_read(draft.name) else None
            for name, count in Counter(target.name for target in compiled.targets.values()).items() if compiled else ():
                users.setdefault(name, {})[draft.name] = count
        return Standing(tx.catalogue().office, office.files, tuple(office.targets.values()), users)


def history(desk: Desk) -> list[Edition]:
    """Every edition, the newest first."""
    with desk.reading() as tx:
        return editions.history(tx.connection)


def files_at(desk: Desk, number: int) -> Mapping[str, str]:
    """The files of one edition. Raises `Missing`."""
    with desk.reading() as tx:
        return editions.files_of(tx.connection, number)


def variables(desk: Desk) -> list[tuple[str, str, str]]:
    """The variables that the office declares: name, kind and sentence."""
    with desk.reading() as tx:
        return [(name, one.kind, one.words) for name, one in tx.office().given.variables.items()]


def preview(desk: Desk, files: Mapping[str, str]) -> list[OfficeEffect]:
    """What these files would do to each fabric. Raises `Refused` for files that are no office."""
    with desk.reading() as tx:
        return _effects(tx, read_office(files, APART))


def save(desk: Desk, seen: int, files: Mapping[str, str], note: str) -> int:
    """Make these files the newest edition, after the one that was seen; answers its number.

    Raises `Refused` for files that are no office, or with which a fabric that can be written now could not be; `Stale`.
    """
    office = read_office(files, APART)

    def work(tx: Transaction) -> int:
        now = tx.catalogue().office
        if now != seen:
            newest = next(iter(editions.history(tx.connection, 1)), None)
            raise Stale("The office", seen, now, newest.note if newest else "")
        if files == tx.office().files:
            raise refuse("office.same", "Nothing of the office is other than before.")
        broken = next((one for one in _effects(tx, office) if one.refusal), None)
        if broken:
            raise refuse("office.in-use", f"{broken.fabric} would have no files any more: {broken.refusal}")
        tx.act(Act("office changed", note=note, topic="catalogue"))
        editions.add(tx.connection, now + 1, files, tx.author.name, note)
        return now + 1

    return desk.writing(work, alone=True)


def _effects(tx: Transaction, office: Office) -> list[OfficeEffect]:
    found = []
    for draft in tx.drafts():
        before = tx.readable(draft)
        if before is None:
            continue
        try:
            after = compile(draft.document.brief, tx.ledger(draft.name, before).stock, before.catalogue, before, office)
            others = [
                key
                for key in after.models
                if after.targets[key] != before.targets.get(key) or after.models[key] != before.models[key]
            ]
            changed = 0
            for key in while_wanted(others):
                if key not in after.without_files:
                    changed += after.files(key) != _now(before, key)
        except Refused as error:
            found.append(OfficeEffect(draft.name, 0, error.faults[0].message))
            continue
        found.append(OfficeEffect(draft.name, changed, ""))
    return found


def _now(compiled: Compiled, key: str) -> Mapping[str, str]:
    try:
        return compiled.files(key)
    except Refused:
        return {}


def tried(desk: Desk, name: str, target: str, files: Mapping[str, str], switch: str, data: object = None) -> Trial:
    """A target's files, as they are being written, tried on one switch of a fabric, or on data that were changed by hand.

    Raises `Missing` for a fabric or switch that is not there, and `Refused` for a manifest that is none and data that are of no switch; what a template does
    wrong is in the answer.
    """
    with desk.reading() as tx:
        compiled, saved = tx.compiled(tx.draft(name)), tx.office().targets.get(target)
    given = _model(compiled, switch)
    began = time.perf_counter()
    read = _target(target, files)
    model = given if data is None else from_data(data)
    texts, faults = _rendered(model, read)
    took = (time.perf_counter() - began) * 1000
    unsaid = [f"{what}, {value}" for _, what, value in lacking(model, read, texts)] if texts else []
    before = _rendered(model, saved)[0] if saved else {}
    return Trial(model.name, texts, before, faults, tuple(unsaid[:30]), took)


def tallied(desk: Desk, name: str, target: str, files: Mapping[str, str]) -> Tally:
    """The same for every switch of a fabric, in numbers. Raises as `tried`, and `Busy` while much of this is under way."""
    with desk.reading() as tx:
        compiled = tx.compiled(tx.draft(name))
    read = _target(target, files)
    with desk.house.gate.room_for(len(compiled.models)):
        now = (
            (model, _now(compiled, key) if compiled.targets[key].name == read.name else {})
            for key, model in compiled.models.items()
        )
        return tally(while_wanted(now), read)


def learned(desk: Desk, name: str, switch: str, text: str, second: str = "") -> Lesson:
    """A template made of a configuration of a switch, tried on it and on a second one. Raises `Missing`, `Refused`."""
    with desk.reading() as tx:
        compiled = tx.compiled(tx.draft(name))
    other = _model(compiled, second) if second else None
    return learn_from(text, _model(compiled, switch), other, APART)


def data_of(desk: Desk, name: str, switch: str) -> dict[str, Any]:
    """What templates see of a switch. Raises `Missing`, `Refused`."""
    with desk.reading() as tx:
        compiled = tx.compiled(tx.draft(name))
    return as_data(_model(compiled, switch))


def _model(compiled: Compiled, name: str) -> SwitchModel:
    found = compiled.switch(name)
    if found is None:
        raise Missing(f"{compiled.brief.fabric} has no switch called {name[:60]}.")
    return compiled.models[found.key]


def _target(name: str, files: Mapping[str, str]) -> Target:
    try:
        return read_target(name, files, APART)
    except Refused as error:
        raise Refused(
            [Fault(one.code, one.message, f"{TARGETS}/{name}/{one.path}", one.line, one.column) for one in error.faults]
        ) from None


def _rendered(model: SwitchModel, target: Target) -> tuple[dict[str, str], tuple[Fault, ...]]:
    try:
        return rendered(model, target), ()
    except Refused as error:
        return {}, error.faults
