"""One search over everything that has a name or a number: switches, racks, addresses, ASNs, VLANs, VNIs, cables."""

from __future__ import annotations

from collections.abc import Iterator
from ipaddress import ip_address
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel

from barrio.api.fabrics import Store
from barrio.api.ledger import Ledger
from barrio.core import Compiled

router = APIRouter(prefix="/api", tags=["search"])
MOST = 12


class Hit(BaseModel):
    """Something found, with what is needed to open it."""

    kind: Literal["fabric", "switch", "cable", "number"]
    title: str
    detail: str
    fabric: str
    target: str


@router.get("/search", operation_id="search")
def search(q: str, store: Store, ledger: Ledger) -> list[Hit]:
    words = q.strip().lower()[:80]
    if not words:
        return []
    hits: list[Hit] = list(_numbers(words, ledger))
    for name, title, _, _ in store.names():
        if words in name or words in title.lower():
            hits.append(Hit(kind="fabric", title=name, detail=title, fabric=name, target=name))
        compiled = store.compiled(store.draft(name))
        hits += _first(_switches(words, name, compiled))
        hits += _first(_cables(words, name, compiled))
    return hits[:40]


def _first(found: Iterator[Hit]) -> list[Hit]:
    return [hit for hit, _ in zip(found, range(MOST), strict=False)]


def _numbers(words: str, ledger: Ledger) -> Iterator[Hit]:
    try:
        address = str(ip_address(words.split("/", maxsplit=1)[0]))
    except ValueError:
        address = None
    number = int(words) if words.isdigit() and len(words) <= 10 else None
    for use, key, fabric, pool, text, state in ledger.whose(address, number):
        yield Hit(
            kind="number",
            title=text,
            detail=f"{use} of {key}, {state}, pool {pool}",
            fabric=fabric,
            target=f"{pool}#{text}",
        )


def _switches(words: str, fabric: str, compiled: Compiled) -> Iterator[Hit]:
    for switch in compiled.structure.switches:
        if words in switch.name or words in switch.rack or words in switch.key:
            detail = f"{switch.type.title}, rack {switch.rack}"
            yield Hit(kind="switch", title=switch.name, detail=detail, fabric=fabric, target=switch.name)


def _cables(words: str, fabric: str, compiled: Compiled) -> Iterator[Hit]:
    for end in compiled.ends:
        if words in end.label.lower():
            ends = f"{end.link.lower.name} {end.lower_port} – {end.link.upper.name} {end.upper_port}"
            yield Hit(kind="cable", title=end.label, detail=ends, fabric=fabric, target=end.label)
