"""Outlets: who is told outside of what happens, and how it went."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Path
from pydantic import BaseModel, Field

from barrio.api.desk import ERRORS, KeepingPeople
from barrio.app import outlets

router = APIRouter(prefix="/api/v1/outlets", tags=["outlets"], responses=ERRORS)


class DeliveryView(BaseModel):
    """Something that was sent, or waits; `trouble` says why the last try did not succeed."""

    id: UUID
    fabric: str
    what: str
    made_at: datetime
    next_at: datetime
    attempts: int
    done_at: datetime | None
    trouble: str


class OutletView(BaseModel):
    """Somewhere that is told, of one fabric or of all, with what was sent there last."""

    id: int
    kind: outlets.Kind
    fabric: str | None
    address: str
    author: str
    made_at: datetime
    deliveries: list[DeliveryView]


class NewOutlet(BaseModel):
    """A webhook, a mail server or a git remote. `secret` is what a webhook is signed with (made when left out), or the mail server's password."""

    kind: outlets.Kind
    fabric: str | None = Field(None, max_length=60)
    address: str = Field(min_length=1, max_length=300)
    secret: str = Field("", max_length=200)


class Added(BaseModel):
    """The number of an outlet, and the secret that its webhook is signed with, told this once."""

    id: int
    secret: str


@router.get("", operation_id="listOutlets")
def list_outlets(at: KeepingPeople) -> list[OutletView]:
    every, sent = outlets.every(at)
    return [
        OutletView.model_validate({
            "id": one.id, "kind": one.kind, "fabric": one.fabric, "address": one.address, "author": one.author, "made_at": one.made_at,
            "deliveries": [
                DeliveryView(
                    id=each.id, fabric=each.fabric, what=each.what, made_at=each.made_at, next_at=each.next_at, attempts=each.attempts,
                    done_at=each.done_at, trouble=each.trouble,
                )
                for each in sent if each.outlet == one.id
            ][:20],
        })
        for one in every
    ]  # fmt: skip


@router.post("", operation_id="addOutlet", status_code=201)
def add_outlet(new: NewOutlet, at: KeepingPeople) -> Added:
    number, secret = outlets.add(at, new.kind, new.fabric, new.address, new.secret)
    return Added(id=number, secret=secret)


@router.delete("/{outlet}", operation_id="dropOutlet", status_code=204)
def drop_outlet(outlet: Annotated[int, Path(ge=1, lt=2**63)], at: KeepingPeople) -> None:
    outlets.drop(at, outlet)


@router.post("/deliveries/{delivery}", operation_id="deliverAtOnce", status_code=204)
def deliver_at_once(delivery: UUID, at: KeepingPeople) -> None:
    """Try a delivery now, also one that was given up."""
    outlets.at_once(at, delivery)
