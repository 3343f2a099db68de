"""The demo world: a fictional harbour office, its fabrics, and its ledger after some months of work."""

from __future__ import annotations

from datetime import timedelta

import structlog

from barrio.app import drafts, editions, links, numbering, office, people, poolchanges, reviews
from barrio.app.desk import Actor, Desk
from barrio.app.house import House
from barrio.app.poolchanges import NewPool, PoolSettings
from barrio.app.rights import Role
from barrio.core.ledger.numbers import parse_number
from barrio.core.ledger.pool import Plan
from barrio.places import EXAMPLES
from barrio.store.pins import Pin

log = structlog.get_logger()

PEOPLE = (
    ("ines", "Ines Marrero", (Role.ARCHITECT,)),
    ("teo", "Teo Bandrich", (Role.KEEPER, Role.REVIEWER)),
    ("nadia", "Nadia Oke", (Role.OPERATOR,)),
    ("per", "Per Lindqvist", (Role.TECHNICIAN,)),
    ("lucia", "Lucia Ferrand", ()),
)
"""Made-up people: by which name they sign in, how they are called, and what they are to all fabrics."""
TEAMS = (
    ("Tide Models", "runs the models on Marlin", ("lucia",)),
    ("Buoys", "the sensors along the coast", ("per",)),
    ("Harbour Radar", "cameras and radar at the port", ("nadia", "per")),
)

SHARED = (
    ("Tide Models", Role.READER, "marlin"),
    ("Harbour Radar", Role.ARCHITECT, "tern"),
    ("Buoys", Role.READER, "tern"),
)
"""What the teams are to single fabrics."""


def load_demo(house: House) -> None:
    """Load the demo world into a database that has no fabric yet."""
    desk = Desk(house)
    if drafts.every(desk):
        return
    load_demo_people(house)
    ines = Desk(house, Actor(PEOPLE[0][1]))
    for path in sorted(EXAMPLES.glob("*.yaml")):
        drafts.create(ines, path.read_text(), "loaded from the examples")
        log.info("fabric loaded", fabric=path.stem)
    own = EXAMPLES / "office"
    files = {str(path.relative_to(own)): path.read_text() for path in sorted(own.rglob("*")) if path.is_file()}
    if files:
        office.save(ines, 0, files, "Cantera's own command language, for switches that come with it")
    load_demo_ledger(house)
    for team, role, fabric in SHARED:
        people.give(desk, role, fabric, team=team)


def load_demo_people(house: House) -> None:
    """The office: who is an architect, who agrees, who goes to the racks."""
    desk = Desk(house)
    if people.everybody(desk)[0]:
        return
    for name, called, roles in PEOPLE:
        people.add(desk, name, called)
        for role in roles:
            people.give(desk, role, None, person=name)
    for team, note, members in TEAMS:
        people.set_team(desk, team, note, members)


def demo_links(house: House) -> list[tuple[str, str]]:
    """A link for each person of the demo world who has chosen no password yet: (in whose name, its secret)."""
    there = {person.name: person for person in people.everybody(Desk(house))[0]}
    found = []
    for name, called, roles in PEOPLE:
        person = there.get(name)
        if person is not None and not person.has_password and person.left_at is None:
            what = " and ".join(roles) or "of the team Tide Models"
            found.append((f"Come in as {called}, {what}", links.enter_link(house, person.id)))
    return found


def load_demo_ledger(house: House) -> None:
    """The demo world's ledger as it stands after some months: editions, reservations, a pool cut from another, a trial."""
    ines, teo, nadia = (Desk(house, Actor(called)) for _, called, _ in PEOPLE[:3])
    for name in ("marlin", "pelican", "tern"):
        offered = reviews.offer(
            ines,
            name,
            "As cabled in spring",
            "What stands in the halls, from the cabling up.",
            drafts.version(ines, name),
        )
        reviews.say(teo, name, "agrees", "", offered.seen)
        editions.seal(nadia, name, drafts.version(nadia, name))
    poolchanges.reserve(teo, "oob-marlin", "10.90.1.2..10.90.1.15", "console servers and power strips")
    poolchanges.reserve(teo, "halls-loopback", "10.60.3.0/24", "old harbour routers, until they are gone")
    poolchanges.reserve(teo, "halls-p2p", "10.61.12.0/23", "radio links to the buoys")
    poolchanges.reserve(teo, "office-private", "4200069000..4200069099", "the weather ships")
    radar = NewPool(
        "radar-segments", ("10.72.192.0/20", "fd72:0:0:c000::/52"), plan=Plan.BEST_FIT, parent="office-segments",
        private_to="marlin", note="Harbour Radar numbers its own cameras",
    )  # fmt: skip
    poolchanges.create(teo, radar)
    poolchanges.add_scope(teo, "trial", "the workshop bench, never joined to the halls")
    poolchanges.create(teo, NewPool("trial-loopbacks", ("10.60.0.0/24",), plan=Plan.POSITION, scope="trial"))
    poolchanges.change(teo, "halls-p2p", PoolSettings(rest=timedelta(days=14), warn=0.8))
    wished = {
        "loopback.v4": {"leaf/b01/a": Pin(*parse_number("loopback.v4", "10.60.0.254"), "known to the port authority")}
    }
    numbering.pin(ines, "marlin", drafts.version(ines, "marlin"), wished)
