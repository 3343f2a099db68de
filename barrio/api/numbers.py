"""Numbers of a fabric: which it holds, pins, and renumbering."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from barrio.api import views
from barrio.api.desk import ERRORS, Numbering, Reading
from barrio.api.paging import PAGED, Paged
from barrio.api.pools import Words
from barrio.app import drafts, numbering
from barrio.core import Compiled, Refused
from barrio.core.errors import Fault, refuse
from barrio.core.ledger.demand import FIELDS, pool_name
from barrio.core.ledger.numbers import parse_number
from barrio.core.ledger.pool import family_of, prefix_text
from barrio.store.pins import Pin

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["numbers"], responses=ERRORS)


class Mine(BaseModel):
    """A number of a thing."""

    use: str
    key: str
    number: str
    pool: str | None


class PinBody(BaseModel):
    """A number to fix for a key; without a number the pin is let go."""

    use: str = Field(max_length=40)
    key: str = Field(max_length=200)
    number: str | None = Field(None, max_length=60)
    note: Words = ""


class Pins(BaseModel):
    version: int
    pins: list[PinBody] = Field(min_length=1, max_length=5000)


class Renumber(BaseModel):
    version: int
    uses: list[Annotated[str, Field(max_length=40)]] = Field(min_length=1, max_length=20)


class Move(BaseModel):
    use: str
    key: str
    now: str
    then: str


class Moves(BaseModel):
    """What a renumbering would do."""

    moves: list[Move]
    sessions: int


@router.get("/numbers", operation_id="listNumbers", responses=PAGED)
def list_numbers(
    name: str, at: Reading, page: Paged, of: Annotated[str, Query(max_length=100)] = "", use: str = ""
) -> list[Mine]:
    """The numbers that a fabric holds: all, or those of a rack, a switch or a key, links and pairs included."""
    compiled = drafts.load(at, name).compiled
    wanted = _keys_of(compiled, of.strip()) if of else None
    found = [
        (one, key, taken)
        for one, entries in compiled.allocation.numbers.items()
        if not use or one == use or one.partition(".")[0] == use
        for key, taken in entries.items()
        if wanted is None or wanted & {key, *key.split("~")}
    ]
    return [
        Mine(use=one, key=key, number=prefix_text(family_of(one), *taken), pool=pool_name(compiled.brief, one))
        for one, key, taken in page.of(found)
    ]


def _keys_of(compiled: Compiled, words: str) -> set[str]:
    """Every key that belongs to a rack, a switch or a thing."""
    switches = [
        switch
        for switch in compiled.structure.switches
        if words in (switch.rack, switch.name, switch.key, f"rack/{switch.rack}")
    ]
    found = {switch.key for switch in switches}
    found |= {
        f"{kind}/{switch.rack}" for switch in switches for kind in ("pair", "rack") if words.endswith(switch.rack)
    }
    if not found:
        known = {key for entries in compiled.allocation.numbers.values() for key in entries}
        found = {key for key in (words, f"segment/{words}", f"vrf/{words}") if key in known}
    if not found:
        raise refuse(
            "owner.unknown",
            f"Nothing in {compiled.brief.fabric} is called {words[:60]}. Name a rack, switch or segment.",
            "of",
        )
    return found


@router.post("/pins", operation_id="pin")
def pin(name: str, asked: Pins, at: Numbering) -> views.FabricView:
    """Fix numbers for keys, or let them go; together or not at all."""
    wished: dict[str, dict[str, Pin | None]] = {}
    faults: list[Fault] = []
    for place, one in enumerate(asked.pins):
        try:
            taken = None if one.number is None else Pin(*parse_number(one.use, one.number), one.note)
            wished.setdefault(one.use, {})[one.key] = taken
        except Refused as error:
            faults += [Fault(fault.code, fault.message, f"pins[{place}].number") for fault in error.faults]
    if faults:
        raise Refused(faults)
    return views.fabric_view(numbering.pin(at, name, asked.version, wished))


@router.get("/renumbering", operation_id="previewRenumbering")
def preview_renumbering(name: str, uses: Annotated[list[str], Query(max_length=20)], at: Reading) -> Moves:
    """What drawing these uses anew would move; nothing is written."""
    compiled, found = numbering.preview(at, name, _uses(uses))
    moves = [
        Move(use=use, key=key, now=_text(use, compiled.allocation.numbers[use][key]), then=_text(use, taken))
        for use, keys in found.items()
        for key, taken in keys.items()
    ]
    links = [move for move in moves if move.use.startswith("link.")]
    return Moves(moves=moves, sessions=len({move.key for move in links}))


@router.post("/renumbering", operation_id="renumber")
def renumber(name: str, asked: Renumber, at: Numbering) -> views.FabricView:
    """Draw these uses anew, as previewed. What is pinned stays; what is given up rests, unless another key takes it."""
    return views.fabric_view(numbering.renumber(at, name, asked.version, _uses(asked.uses)))


def _uses(asked: list[str]) -> list[str]:
    """Uses as asked, both families of a thing together, since they share their positions."""
    found = []
    for use in asked:
        thing = use.partition(".")[0]
        if thing not in FIELDS:
            raise refuse("number.use", f"“{use[:40]}” is nothing that is numbered from a pool.", "uses")
        found += [use] if thing in ("asn", "vlan", "vni", "pair") else [f"{thing}.v4", f"{thing}.v6"]
    return list(dict.fromkeys(found))


def _text(use: str, taken: tuple[int, int]) -> str:
    return prefix_text(family_of(use), *taken)
