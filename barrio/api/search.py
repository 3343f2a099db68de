"""One search over everything that has a name or a number: switches, racks, addresses, ASNs, VLANs, VNIs, cables."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel

from barrio.api.desk import Looking
from barrio.app import drafts, pools
from barrio.app.desk import Desk
from barrio.app.whois import who_is
from barrio.core import Compiled, Refused
from barrio.core.ledger.pool import Family, prefix_text

router = APIRouter(prefix="/api/v1", tags=["search"])
MOST = 12


class Hit(BaseModel):
    """Something found, with what is needed to open it."""

    kind: Literal["fabric", "switch", "cable", "number", "rack"]
    title: str
    detail: str
    fabric: str
    target: str


@router.get("/search", operation_id="search")
def search(q: Annotated[str, Query(max_length=400)], at: Looking) -> list[Hit]:
    words = q.strip().lower()[:80]
    if not words:
        return []
    hits: list[Hit] = list(_numbers(words, at))
    for draft, compiled in drafts.every(at):
        name, title = draft.name, draft.title
        if words in name or words in title.lower():
            hits.append(Hit(kind="fabric", title=name, detail=title, fabric=name, target=name))
        if not isinstance(compiled, Compiled):
            continue
        hits += _racks(words, name, compiled)
        hits += _first(_switches(words, name, compiled))
        hits += _first(_cables(words, name, compiled))
    return hits[:40]


def _first(found: Iterator[Hit]) -> list[Hit]:
    return [hit for hit, _ in zip(found, range(MOST), strict=False)]


def _numbers(words: str, at: Desk) -> Iterator[Hit]:
    """Whose a number is; where a prefix of a length is free (`/22`)."""
    found = re.fullmatch(r"(?:free\s*)?/(\d{1,3})", words)
    if found and 1 <= int(found[1]) <= 64:
        family = Family.V4 if int(found[1]) <= 32 else Family.V6
        size = 1 << ((32 if family is Family.V4 else 128) - int(found[1]))
        for pool, low, have in pools.free(at, size, family)[:8]:
            text, hole = prefix_text(family, low, size), prefix_text(family, low, have)
            yield Hit(
                kind="number", title=text, detail=f"free in pool {pool.name}, in a hole of {hole}", fabric="",
                target=f"{pool.name}#",
            )  # fmt: skip
        return
    try:
        answered = who_is(at, words)
    except Refused:
        return
    for one in answered.owners:
        yield Hit(
            kind="number", title=one.number, detail=f"{one.use} of {one.name}, {one.state}, pool {one.pool}",
            fabric=one.fabric, target=f"{one.pool}#{one.number}",
        )  # fmt: skip
    if not answered.owners and answered.pools:
        home = answered.pools[0]
        said = f"reserved in pool {home.pool}: {home.reserved}" if home.reserved else f"free, in pool {home.pool}"
        yield Hit(kind="number", title=words, detail=said, fabric="", target=f"{home.pool}#")


def _racks(words: str, fabric: str, compiled: Compiled) -> list[Hit]:
    """The numbers that a rack owns, when it is named whole."""
    wanted = words.removeprefix("numbers of ").removeprefix("rack ")
    if not any(switch.rack == wanted for switch in compiled.structure.switches):
        return []
    detail = "every number that the rack's switches, links and pair have"
    return [Hit(kind="rack", title=f"numbers of {wanted}", detail=detail, fabric=fabric, target=wanted)]


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
