"""The catalogue: models that ship and the architect's own, and what a changed model would do to the fabrics."""

from __future__ import annotations

from dataclasses import dataclass

from barrio.app import drawing
from barrio.app.desk import Desk
from barrio.app.drawing import Change
from barrio.app.transaction import Transaction
from barrio.core import Compiled, Refused, compile
from barrio.core.catalogue.model import SwitchType
from barrio.core.errors import refuse
from barrio.core.sums import effect
from barrio.store import models
from barrio.store.drafts import Draft
from barrio.store.entries import Act
from barrio.store.errors import Missing
from barrio.store.models import Shelf


@dataclass(frozen=True, slots=True)
class ModelEffect:
    """What a changed model does to one fabric that uses it: counts, or why it cannot be."""

    fabric: str
    effect: dict[str, int] | None
    refusal: str | None


def shelf(desk: Desk) -> Shelf:
    """The models there are now."""
    with desk.reading() as tx:
        return tx.catalogue()


def preview(desk: Desk, kind: SwitchType) -> tuple[bool, list[ModelEffect]]:
    """Whether a model of this id is there, and what adding or changing it would do to each fabric that uses it."""
    with desk.reading() as tx:
        known = tx.catalogue().catalogue.find(kind.id) is not None
        return known, [_with_model(tx, draft, before, kind) for draft, before in _using(tx, kind.id)]


def put(desk: Desk, kind: SwitchType) -> tuple[bool, list[ModelEffect]]:
    """Add or change a model, and draw the fabrics that use it again: all of them, or nothing. Answers as `preview`.

    Raises `Refused` when a fabric could not be compiled with the changed model.
    """

    def work(tx: Transaction) -> tuple[bool, list[ModelEffect]]:
        known = tx.catalogue().catalogue.find(kind.id) is not None
        using = _using(tx, kind.id)
        effects = [_with_model(tx, draft, before, kind) for draft, before in using]
        refused = next((found for found in effects if found.refusal), None)
        if refused:
            raise refuse("model.in-use", f"{refused.fabric} uses {kind.id}: {refused.refusal}", "id")
        tx.act(Act("model changed" if known else "model added", note=kind.id, topic="catalogue"))
        models.put(tx.connection, kind, tx.author.name)
        for draft, before in using:
            drawing.draw(tx, draft.document, Change(None, f"model {kind.id} changed"), before)
        return known, effects

    return desk.writing(work, alone=True)


def drop(desk: Desk, model: str) -> None:
    """Take an own model out. Raises `Missing`, or `Refused` when a fabric uses it or, not being readable, names it."""

    def work(tx: Transaction) -> None:
        users = [draft.name for draft, _ in _using(tx, model)]
        users += [draft.name for draft in tx.drafts() if tx.readable(draft) is None and model in draft.text]
        if users:
            words = f"{model} is used by {', '.join(users)}. Give their switches another model first."
            raise refuse("model.in-use", words, "id")
        tx.act(Act("model taken out", note=model, topic="catalogue"))
        if not models.drop(tx.connection, model):
            raise Missing(f"There is no model of your own called {model}.")

    desk.writing(work, alone=True)


def _using(tx: Transaction, model: str) -> list[tuple[Draft, Compiled]]:
    """The fabrics with a switch of this model."""
    found = ((draft, tx.readable(draft)) for draft in tx.drafts())
    return [
        (draft, compiled)
        for draft, compiled in found
        if compiled and any(switch.type.id == model for switch in compiled.structure.switches)
    ]


def _with_model(tx: Transaction, draft: Draft, before: Compiled, kind: SwitchType) -> ModelEffect:
    catalogue = tx.catalogue().catalogue.with_models([kind])
    try:
        after = compile(draft.document.brief, tx.ledger(draft.name, before).stock, catalogue, before, tx.office())
    except Refused as error:
        return ModelEffect(draft.name, None, error.faults[0].message)
    return ModelEffect(draft.name, dict(effect(before, after)), None)
