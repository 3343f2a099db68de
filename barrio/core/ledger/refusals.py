"""Why a number could not be given, in words that name the way out."""

from __future__ import annotations

from barrio.core.errors import Fault
from barrio.core.ledger.pool import Family, Pool, family_of, prefix_text
from barrio.core.ledger.wanted import Demand, Taken


def not_in_pool(pool: Pool, use: str, key: str, taken: Taken) -> Fault | None:
    """Why a number cannot be pinned, whoever has it: it is not in the pool, or reserved there. None when it can."""
    family = family_of(use)
    text, part = prefix_text(family, taken.low, taken.size), pool.range_of(family, taken.low)
    if part is None or taken.high > part.high:
        has = ", ".join(one.text for one in pool.of(family)) or "nothing of its family"
        return Fault("pin.outside", f"{text} is not in pool {pool.name} ({has}), which {use} draws from.", key)
    for kept in pool.kept(family):
        if kept.low <= taken.high and taken.low <= kept.high:
            return Fault("pin.reserved", f"{text} is reserved in pool {pool.name} ({kept.note or 'no note'}).", key)
    return None


def pinned_twice(demand: Demand, key: str, wish: Taken, pinned: Taken) -> Fault:
    one, two = (prefix_text(demand.family, *taken) for taken in (wish, pinned))
    words = (
        f"The {demand.noun} of {key} is {one} in the brief and pinned to {two} in the Ledger. "
        "Take one of them out; a number has one home."
    )
    return Fault("pin.twice", words, path_of(demand.use, key))


def outside(demand: Demand, key: str, slot: int | None) -> Fault:
    path = f"pools.{demand.pool.name}"
    if slot is None:
        words = f"{key} has no position for its {demand.noun}. Pin it, or give pool {demand.pool.name} another plan."
        return Fault("position.outside", words, path)
    room = sum(part.size // demand.size for part in demand.ranges)
    words = (
        f"The {demand.noun} of {key} stands at position {slot} of pool {demand.pool.name}, which has room for {room} "
        f"(0 to {room - 1}). Add a range to the pool, pin the number, or choose another plan."
    )
    return Fault("position.outside", words, path)


def exhausted(demand: Demand, wanted: int, short: int, resting: int) -> Fault:
    has = ", ".join(part.text for part in demand.ranges) or f"no {_FAMILY_WORD[demand.family]} range"
    rest = f" {resting} more are resting; end their rest in the Ledger to use them now." if resting else ""
    return Fault(
        "pool.exhausted",
        f"Pool {demand.pool.name} ({has}) is {short} short of the {wanted} new {plural(demand.noun)} that are needed. "
        f"Add a range to it under “pools”.{rest}",
        f"pools.{demand.pool.name}",
    )


def path_of(use: str, key: str) -> str:
    """The field of the brief that pins a number, or the key where no field does.

    >>> path_of("segment.v4", "segment/tide-grid"), path_of("vni", "vrf/tides"), path_of("asn", "leaf/r07/b")
    ('segments.tide-grid.v4', 'vrfs.tides.vni', 'leaf/r07/b')
    """
    thing, _, name = key.partition("/")
    name, beside, place = name.partition("~")
    if thing == "segment" and beside:
        return f"segments.{name}.secondary[{int(place) - 2}]"
    if use.startswith("vlan."):
        return f"segments.{name}.scope"
    if thing in ("segment", "vrf"):
        return f"{thing}s.{name}.{use.rpartition('.')[2]}"
    return key


def plural(noun: str) -> str:
    """
    >>> plural("address"), plural("ASN"), plural("/31")
    ('addresses', 'ASNs', '/31s')
    """
    return f"{noun}es" if noun.endswith(("s", "x")) else f"{noun}s"


_FAMILY_WORD = {Family.V4: "IPv4", Family.V6: "IPv6", Family.NUMBER: "number"}
