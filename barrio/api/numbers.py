"""Numbers by themselves: whose one is, what is free, what a rack owns, pins, renumbering, and the past."""

from __future__ import annotations

from datetime import datetime
from ipaddress import ip_address, ip_network
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from barrio.api import views
from barrio.api.fabrics import ERRORS, Store
from barrio.api.ledger import Ledger, Words, bare
from barrio.api.people import Who
from barrio.core import Refused
from barrio.core.errors import Fault, refuse
from barrio.core.ledger.demand import FIELDS, pool_name
from barrio.core.ledger.numbers import parse_number
from barrio.core.ledger.pool import Family, family_of, full_text, parse_range, prefix_text
from barrio.store.drafts import Missing
from barrio.store.fabrics import Fabrics
from barrio.store.pins import Pin
from barrio.store.pools import Pools

router = APIRouter(prefix="/api", tags=["numbers"])


class Owner(BaseModel):
    """An entry that holds the number asked for."""

    use: str
    key: str
    name: str
    fabric: str
    pool: str
    space: str
    number: str
    state: str
    leaving: bool
    pinned: bool
    note: str
    since: datetime


class Home(BaseModel):
    """A pool that the number lies in, and what is reserved there."""

    pool: str
    range: str
    scope: str
    plan: str
    reserved: str


class WhoIs(BaseModel):
    """Whose a number is: entries, the most specific first; the pools it lies in, the innermost first; and in a sentence."""

    asked: str
    says: str
    owners: list[Owner]
    pools: list[Home]


class FreeBlock(BaseModel):
    pool: str
    prefix: str
    hole: str
    plan: str


class Mine(BaseModel):
    """A number of a thing."""

    use: str
    key: str
    number: str
    pool: str | None


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


@router.get("/whois", operation_id="whoIs", responses=ERRORS)
def who_is(q: Annotated[str, Query(max_length=100)], store: Store, ledger: Ledger) -> WhoIs:
    """Whose an address, prefix, ASN, VLAN or VNI is."""
    return answer(q.strip(), store, ledger)


def answer(asked: str, store: Fabrics, ledger: Pools) -> WhoIs:
    address, number = _read(asked)
    owners = [_owner(row, store) for row in ledger.whose(address, number)]
    part = parse_range(str(number) if number is not None else str(ip_network(address or "", strict=False)))
    homes = []
    for pool in ledger.known().values():
        for span in pool.ranges:
            if span.family is part.family and span.low <= part.low and part.high <= span.high:
                kept = [one.note for one in pool.kept(part.family) if one.low <= part.low and part.high <= one.high]
                homes.append((span.size, Home(
                    pool=pool.name, range=span.text, scope=pool.scope, plan=pool.plan.value, reserved="; ".join(kept),
                )))  # fmt: skip
    pools = [home for _, home in sorted(homes, key=lambda pair: pair[0])]
    return WhoIs(asked=asked, says=_says(asked, owners, pools), owners=owners, pools=pools)


def _read(asked: str) -> tuple[str | None, int | None]:
    if asked.isascii() and asked.isdigit() and len(asked) <= 10:
        return None, int(asked)
    try:
        return (str(ip_network(asked, strict=False)) if "/" in asked else str(ip_address(asked))), None
    except ValueError:
        raise refuse(
            "number.syntax",
            f"“{asked[:60]}” is neither an address, a prefix nor a number. Write 10.60.0.7, or 4200065007.",
            "q",
        ) from None


def _owner(row: tuple[Any, ...], store: Fabrics) -> Owner:
    use, key, fabric, pool, space, number, state, leaving, pinned, note, since = row
    return Owner(
        use=use, key=key, name=name_of(store, fabric, key), fabric=fabric, pool=pool, space=space,
        number=bare(number), state=state, leaving=leaving, pinned=pinned, note=note, since=since,
    )  # fmt: skip


def name_of(store: Fabrics, fabric: str, key: str) -> str:
    """What a key is called on the floor: switch names instead of keys."""
    try:
        compiled = store.compiled(store.draft(fabric))
    except (Refused, Missing):  # a fabric that cannot be read still has its numbers
        return key
    parts = [compiled.structure.by_key.get(part) for part in key.split("~")]
    found = [part.name for part in parts if part is not None]
    return " – ".join(found) if found else key.partition("/")[2] or key


def _says(asked: str, owners: list[Owner], pools: list[Home]) -> str:
    if owners:
        first = owners[0]
        state = "live, leaving with the next edition," if first.leaving else first.state
        return f"{first.number} is the {_THING.get(first.use.partition('.')[0], first.use)} of {first.name} in {first.fabric}, {state}."
    if pools and pools[0].reserved:
        return f"{asked} is reserved in pool {pools[0].pool}: {pools[0].reserved}."
    if pools:
        return f"{asked} is free, in pool {pools[0].pool} ({pools[0].range})."
    return f"{asked} is in no pool."


_THING = {
    "loopback": "loopback", "vtep": "VTEP address", "link": "link", "management": "management address", "asn": "ASN",
    "vlan": "VLAN", "vni": "VNI", "segment": "prefix", "pair": "pair domain", "outside": "outside link",
}  # fmt: skip


@router.get("/numbers/free", operation_id="findFree", responses=ERRORS)
def find_free(
    length: Annotated[int, Query(ge=1, le=128)],
    ledger: Ledger,
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
        for one, low, have in ledger.free(size, of, pool)[:50]
    ]


@router.get("/fabrics/{name}/numbers", operation_id="listNumbers", responses=ERRORS)
def list_numbers(name: str, store: Store, of: Annotated[str, Query(max_length=100)] = "", use: str = "") -> list[Mine]:
    """The numbers that a fabric holds: all, or those of a rack, a switch or a key, links and pairs included."""
    compiled = store.compiled(store.draft(name))
    wanted = _keys_of(compiled, of.strip()) if of else None
    return [
        Mine(use=one, key=key, number=prefix_text(family_of(one), *taken), pool=pool_name(compiled.brief, one))
        for one, entries in compiled.allocation.numbers.items()
        if not use or one == use or one.partition(".")[0] == use
        for key, taken in entries.items()
        if wanted is None or wanted & {key, *key.split("~")}
    ]


def _keys_of(compiled: Any, words: str) -> set[str]:
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


@router.get("/numbers/history", operation_id="getNumberHistory", responses=ERRORS)
def get_number_history(
    number: Annotated[str, Query(max_length=60)], ledger: Ledger, space: Annotated[str, Query(max_length=80)] = ""
) -> list[PastState]:
    """All that ever was at a number, how it is now first."""
    _read(number)
    if not space:
        space = "v6" if ":" in number else "v4" if "." in number else "asn"
    return [PastState(**_past(row)) for row in ledger.history(space, number)]


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
def list_changes(ledger: Ledger, limit: Annotated[int, Query(ge=1, le=1000)] = 200) -> list[Change]:
    """The newest acts that changed the ledger."""
    fields = ("id", "at", "author", "fabric", "version", "act", "note")
    return [Change(**dict(zip(fields, row, strict=True))) for row in ledger.changes(limit)]


@router.get("/ledger/audit", operation_id="audit")
def audit(ledger: Ledger) -> list[str]:
    """What must never be in the ledger, and is: overlaps, orphans, numbers without a record. Empty when all is well."""
    return [f"{what}: {where}" for what, where in ledger.audit()]


@router.post("/fabrics/{name}/pins", operation_id="pin", responses=ERRORS)
def pin(name: str, asked: Pins, store: Store, who: Who) -> views.FabricView:
    """Fix numbers for keys, or let them go; together or not at all."""
    wished: dict[str, dict[str, Pin | None]] = {}
    faults: list[Fault] = []
    for at, one in enumerate(asked.pins):
        try:
            taken = None if one.number is None else Pin(*parse_number(one.use, one.number), one.note)
            wished.setdefault(one.use, {})[one.key] = taken
        except Refused as error:
            faults += [Fault(fault.code, fault.message, f"pins[{at}].number") for fault in error.faults]
    if faults:
        raise Refused(faults)
    draft = store.pin(name, asked.version, wished, who)
    return views.fabric_view(draft, store.compiled(draft))


@router.get("/fabrics/{name}/renumbering", operation_id="previewRenumbering", responses=ERRORS)
def preview_renumbering(name: str, uses: Annotated[list[str], Query(max_length=20)], store: Store) -> Moves:
    """What drawing these uses anew would move; nothing is written."""
    compiled = store.compiled(store.draft(name))
    moves = [
        Move(use=use, key=key, now=_said(use, compiled.allocation.numbers[use][key]), then=_said(use, taken))
        for use, keys in store.renumbering(name, _uses(uses)).items()
        for key, taken in keys.items()
    ]
    links = [move for move in moves if move.use.startswith("link.")]
    return Moves(moves=moves, sessions=len({move.key for move in links}))


@router.post("/fabrics/{name}/renumbering", operation_id="renumber", responses=ERRORS)
def renumber(name: str, asked: Renumber, store: Store, who: Who) -> views.FabricView:
    """Draw these uses anew, as previewed. What is pinned stays; what is given up rests, unless another key takes it."""
    draft = store.renumber(name, asked.version, _uses(asked.uses), who)
    return views.fabric_view(draft, store.compiled(draft))


def _uses(asked: list[str]) -> list[str]:
    """Uses as asked, both families of a thing together, since they share their positions."""
    found = []
    for use in asked:
        thing = use.partition(".")[0]
        if thing not in FIELDS:
            raise refuse("number.use", f"“{use[:40]}” is nothing that is numbered from a pool.", "uses")
        found += [thing] if thing in ("asn", "vlan", "vni", "pair") else [f"{thing}.v4", f"{thing}.v6"]
    return list(dict.fromkeys(found))


def _said(use: str, taken: tuple[int, int]) -> str:
    return prefix_text(family_of(use), *taken)
