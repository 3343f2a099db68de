"""Whose a number is: who holds it, which pools it lies in, and that in a sentence."""

from __future__ import annotations

from dataclasses import dataclass
from ipaddress import ip_address, ip_network
from typing import Any

from barrio.app.desk import Desk
from barrio.app.transaction import Transaction
from barrio.core import Refused
from barrio.core.errors import refuse
from barrio.core.ledger.pool import Pool, parse_range
from barrio.store import pools
from barrio.store.errors import Missing
from barrio.store.records import Number, bare


@dataclass(frozen=True, slots=True, kw_only=True)
class Owner(Number):
    """An entry that holds the number asked for; `name` is what its key is called on the floor."""

    name: str
    pool: str
    space: str


@dataclass(frozen=True, slots=True)
class Home:
    """A pool that the number lies in, and what is reserved there."""

    pool: str
    range: str
    scope: str
    plan: str
    reserved: str


@dataclass(frozen=True, slots=True)
class WhoIs:
    """Whose a number is: entries, the most specific first; the pools it lies in, the innermost first; and in a sentence."""

    asked: str
    says: str
    owners: list[Owner]
    pools: list[Home]


def who_is(desk: Desk, asked: str) -> WhoIs:
    """Whose an address, prefix, ASN, VLAN or VNI is. Raises `Refused` (`number.syntax`) for anything else."""
    address, number = read_number(asked)
    with desk.reading() as tx:
        owners = [_owner(row, tx) for row in pools.whose(tx.connection, address, number)]
        homes = _homes(pools.known(tx.connection), address, number)
    return WhoIs(asked, _says(asked, owners, homes), owners, homes)


def _homes(known: dict[str, Pool], address: str | None, number: int | None) -> list[Home]:
    part = parse_range(str(number) if number is not None else str(ip_network(address or "", strict=False)))
    homes = []
    for pool in known.values():
        for span in pool.ranges:
            if span.family is part.family and span.low <= part.low and part.high <= span.high:
                kept = [one.note for one in pool.kept(part.family) if one.low <= part.low and part.high <= one.high]
                home = Home(pool.name, span.text, pool.scope, pool.plan.value, "; ".join(kept))
                homes.append((span.size, home))
    return [home for _, home in sorted(homes, key=lambda pair: pair[0])]


def read_number(asked: str) -> tuple[str | None, int | None]:
    """An address or prefix, or else a number. Raises `Refused` (`number.syntax`)."""
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


def _owner(row: tuple[Any, ...], tx: Transaction) -> Owner:
    use, key, fabric, pool, space, number, state, leaving, pinned, note, since = row
    return Owner(
        use=use, key=key, name=_name_of(tx, fabric, key), fabric=fabric, pool=pool, space=space, number=bare(number),
        state=state, leaving=leaving, pinned=pinned, note=note, since=since,
    )  # fmt: skip


def _name_of(tx: Transaction, fabric: str, key: str) -> str:
    """What a key is called on the floor: switch names instead of keys."""
    try:
        by_key = tx.compiled(tx.draft(fabric)).structure.by_key
    except (Refused, Missing):  # a fabric that cannot be read, or is gone, still has its numbers
        return key
    found = [by_key[part].name for part in key.split("~") if part in by_key]
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
