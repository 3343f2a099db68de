"""How the switches of a fabric come to Barrio, and what a DHCP server of their management network is told."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from barrio.app import rollcall, sent
from barrio.app.desk import Desk
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.errors import nearest, refuse
from barrio.core.staging import dhcp
from barrio.core.staging.floor import Floor, floor
from barrio.core.staging.medium import by_hand, label
from barrio.core.staging.medium import medium as made
from barrio.core.staging.ways import Ways
from barrio.store import boxes, editions, pools
from barrio.store import ways as stored
from barrio.store.entries import Act
from barrio.store.errors import Missing


def told(desk: Desk, name: str) -> Ways:
    """The ways of a fabric. Raises `Missing`."""
    with desk.reading() as tx:
        tx.readable(tx.draft(name))
        return stored.of(tx.connection, name)


def say(desk: Desk, name: str, one: Ways) -> None:
    """Say how the switches of a fabric come to Barrio.

    Raises `Missing`, and `Refused` (`ways.lend`) for a span that its management pool does not keep free: one that is not reserved there.
    """

    def work(tx: Transaction) -> None:
        brief = tx.draft(name).document.brief
        if one.lend is not None:
            _kept_free(tx, str(brief.numbers.management), one)
        tx.act(Act("ways said", name, note=f"{one.address or 'no address'}, lets in {one.admits}", topic="staging"))
        stored.keep(tx.connection, name, one, tx.author.name)

    desk.writing(work)


def _kept_free(tx: Transaction, pool: str, one: Ways) -> None:
    assert one.lend is not None
    low, high = int(one.lend.network_address), int(one.lend.broadcast_address)
    kept = pools.reservations(tx.connection, pool)
    if not any(each.range.low <= low and high <= each.range.high for each in kept):
        words = f"{one.lend} is not kept free. Reserve it in the pool {pool} first, so that no switch of any fabric is given a number of it."
        raise refuse("ways.lend", words, "lend")


@dataclass(frozen=True, slots=True)
class Written:
    """A DHCP server's configuration: for which program, under which name it is kept, and its text."""

    program: str
    path: str
    text: str


def dhcp_of(desk: Desk, name: str, program: str, interface: str = "") -> Written:
    """What a DHCP server (`kea4`, `kea6`, `dnsmasq`) of the management network is told. Raises `Missing`, and `Refused` (`ways.address`, `ways.program`)."""
    with desk.reading() as tx:
        found = editions.newest(tx.connection, name)
        compiled = rollcall.newest(tx, name)
        said = stored.of(tx.connection, name)
        served = _served(tx, compiled, found.number if found else 0, said)
    if program == "kea4":
        return Written(program, "kea-dhcp4.conf", dhcp.kea4(served, interface or "*"))
    if program == "kea6":
        return Written(program, "kea-dhcp6.conf", dhcp.kea6(served, interface or "eth0"))
    if program == "dnsmasq":
        return Written(program, "dnsmasq.conf", dhcp.dnsmasq(served, interface))
    raise Missing(f"There is no configuration for {program}: kea4, kea6, dnsmasq.")


def medium(desk: Desk, name: str, switch: str, trust: str, agent: Mapping[str, bytes]) -> tuple[str, dict[str, bytes]]:
    """A boot medium for a switch (by name), or for all of a fabric: its label, and its files with secrets in them. `agent` are the agent's own files.

    Raises `Missing`, and `Refused`: `ways.address`, `secret.missing`.
    """
    with desk.reading() as tx:
        found = editions.newest(tx.connection, name)
        compiled = rollcall.newest(tx, name)
        chosen = [one for one in compiled.staged if not switch or one.name == switch]
        if not chosen or found is None:
            raise Missing(f"There is no switch {switch}.{nearest(switch, (str(one.name) for one in compiled.staged))}")
        bound = {key: one.box for key, one in boxes.of_fabric(tx.connection, name).items()}
        said = stored.of(tx.connection, name)
        files = {one.key: _files(tx, desk, found.id, str(one.name)) for one in chosen}
    return label(name, switch), made(compiled, chosen, bound, said.address, trust, agent, files)


def _files(tx: Transaction, desk: Desk, edition: int, switch: str) -> dict[str, bytes]:
    wanted = sent.files(tx, desk.house.keys, edition, switch)
    texts = sent.texts(tx, desk.house.keys, edition, switch, wanted.values())
    return {path: texts[digest] for path, digest in wanted.items()}


def floor_of(desk: Desk, name: str) -> Floor:
    """The hall of a fabric's newest edition, as a simulation builds it. Raises `Missing`."""
    with desk.reading() as tx:
        return floor(rollcall.newest(tx, name))


def by_hand_of(desk: Desk, name: str, switch: str) -> str:
    """The page for whoever brings a switch's files on by hand. Raises `Missing`."""
    with desk.reading() as tx:
        compiled = rollcall.newest(tx, name)
    found = next((one for one in compiled.staged if one.name == switch), None)
    if found is None:
        raise Missing(f"There is no switch {switch}.{nearest(switch, (str(one.name) for one in compiled.staged))}")
    return by_hand(compiled, found)


def _served(tx: Transaction, compiled: Compiled, edition: int, said: Ways) -> dhcp.Served:
    name = str(compiled.brief.fabric)
    if not said.address:
        raise refuse("ways.address", f"Say first at which address the switches of {name} reach Barrio.", "address")
    bound = {key: one.box for key, one in boxes.of_fabric(tx.connection, name).items()}
    return dhcp.served(compiled, edition, bound, said.address, [said.lend] if said.lend else [])
