"""Numbers by themselves: whose one is, what is free, what was there, and what changed the ledger."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel

from barrio.api.desk import ERRORS, At
from barrio.app import pools, whois
from barrio.app.whois import WhoIs, bare
from barrio.core.errors import refuse
from barrio.core.ledger.pool import Family, full_text

router = APIRouter(prefix="/api/v1", tags=["numbers"], responses=ERRORS)


class FreeBlock(BaseModel):
    pool: str
    prefix: str
    hole: str
    plan: str


class PastState(BaseModel):
    """What a number was for a time; `until` is nothing while it still is."""

    use: str
    key: str
    fabric: str
    pool: str
    number: str
    state: str
    leaving: bool
    pinned: bool
    note: str
    since: datetime
    author: str
    act: str
    version: int | None
    why: str
    until: datetime | None
    ended_by: str
    ended_act: str
    ended_version: int | None


class Change(BaseModel):
    id: int
    at: datetime
    author: str
    fabric: str | None
    version: int | None
    act: str
    note: str


@router.get("/whois", operation_id="whoIs")
def who_is(q: Annotated[str, Query(max_length=100)], at: At) -> WhoIs:
    """Whose an address, prefix, ASN, VLAN or VNI is."""
    return whois.who_is(at, q.strip())


@router.get("/numbers/free", operation_id="findFree")
def find_free(
    length: Annotated[int, Query(ge=1, le=128)],
    at: At,
    family: Literal["v4", "v6"] = "v4",
    pool: str | None = None,
) -> list[FreeBlock]:
    """Where a prefix of a length is free, the best fit first."""
    width = 32 if family == "v4" else 128
    if length > width:
        raise refuse("range.syntax", f"A prefix of IP{family} is /1 to /{width}.", "length")
    size, of = 1 << (width - length), Family(family)
    return [
        FreeBlock(pool=one.name, prefix=full_text(of, low, size), hole=full_text(of, low, have), plan=one.plan.value)
        for one, low, have in pools.free(at, size, of, pool)[:50]
    ]


@router.get("/numbers/history", operation_id="getNumberHistory")
def get_number_history(
    number: Annotated[str, Query(max_length=60)], at: At, space: Annotated[str, Query(max_length=80)] = ""
) -> list[PastState]:
    """All that ever was at a number, how it is now first."""
    whois.read_number(number)
    if not space:
        space = "v6" if ":" in number else "v4" if "." in number else "asn"
    return [PastState(**_past(row)) for row in pools.history(at, space, number)]


def _past(row: tuple[Any, ...]) -> dict[str, Any]:
    (use, key, fabric, pool, number, state, leaving, pinned, note, since, _, author, act, _, version, why,
     until, ended_by, ended_act, ended_version, _) = row  # fmt: skip
    return {
        "use": use, "key": key, "fabric": fabric, "pool": pool, "number": bare(number), "state": state, "leaving": leaving,
        "pinned": pinned, "note": note, "since": since, "author": author or "", "act": act or "", "version": version,
        "why": why or "", "until": until, "ended_by": ended_by or "", "ended_act": ended_act or "",
        "ended_version": ended_version,
    }  # fmt: skip


@router.get("/ledger/changes", operation_id="listChanges")
def list_changes(at: At, limit: Annotated[int, Query(ge=1, le=1000)] = 200) -> list[Change]:
    """The newest acts that changed the ledger."""
    fields = ("id", "at", "author", "fabric", "version", "act", "note")
    return [Change(**dict(zip(fields, row, strict=True))) for row in pools.changes(at, limit)]


@router.get("/ledger/audit", operation_id="audit")
def audit(at: At) -> list[str]:
    """What must never be in the ledger, and is: overlaps, orphans, numbers without a record. Empty when all is well."""
    return [f"{what}: {where}" for what, where in pools.audit(at)]
