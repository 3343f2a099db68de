"""Numbers by themselves: whose one is, what is free, what was there, and what changed the ledger."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Looking
from barrio.app import pools, whois
from barrio.app.whois import WhoIs
from barrio.core.errors import refuse
from barrio.core.ledger.pool import Family, full_text
from barrio.store.records import Change, PastState

router = APIRouter(prefix="/api/v1", tags=["numbers"], responses=ERRORS)


class FreeBlock(BaseModel):
    pool: str
    prefix: str
    hole: str
    plan: str


@router.get("/whois", operation_id="whoIs")
def who_is(q: Annotated[str, Query(max_length=100)], at: Looking) -> WhoIs:
    """Whose an address, prefix, ASN, VLAN or VNI is."""
    return whois.who_is(at, q.strip())


@router.get("/numbers/free", operation_id="findFree")
def find_free(
    length: Annotated[int, Query(ge=1, le=128)],
    at: Looking,
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
    number: Annotated[str, Query(max_length=60)], at: Looking, space: Annotated[str, Query(max_length=80)] = ""
) -> list[PastState]:
    """All that ever was at a number, how it is now first."""
    whois.read_number(number)
    if not space:
        space = "v6" if ":" in number else "v4" if "." in number else "asn"
    return pools.history(at, space, number)


@router.get("/ledger/changes", operation_id="listChanges")
def list_changes(at: Looking, limit: Annotated[int, Query(ge=1, le=1000)] = 200) -> list[Change]:
    """The newest acts that changed the ledger."""
    return pools.changes(at, limit)


@router.get("/ledger/audit", operation_id="audit")
def audit(at: Looking) -> list[str]:
    """What must never be in the ledger, and is: overlaps, orphans, numbers without a record. Empty when all is well."""
    return [f"{what}: {where}" for what, where in pools.audit(at)]
