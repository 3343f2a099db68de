"""Sends what is to be sent: one delivery after the other, each in a transaction that holds it, so that no two senders send one."""

from __future__ import annotations

import json

import structlog

from barrio.app import editions as use_editions
from barrio.app import outlets as use_outlets
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.repositories import brought_up
from barrio.sending import git, mail, webhook
from barrio.sending.webhook import NotTaken
from barrio.store import outlets, people
from barrio.store.outlets import Delivery, Outlet

log = structlog.get_logger()
AT_ONCE = 50
"""Deliveries in one go, before somebody else has the thread."""

SUBJECTS = {
    "offered": "{by} offers the draft of {fabric} for review: {title}",
    "agrees": "{by} agrees to the draft of {fabric}",
    "asks": "{by} asks for changes of the draft of {fabric}",
    "declines": "{by} declines the draft of {fabric}",
    "commented": "{by} comments on the draft of {fabric}",
    "withdrawn": "{by} takes the offer of {fabric} back",
    "drifted": "{switch} of {fabric} is not as edition {number} has it",
    "as meant": "{switch} of {fabric} is as it was meant again",
    "staged": "A staging of {fabric} has ended: {title}",
    "sealed": "{by} sealed edition {number} of {fabric}: {title}",
}


def send_due(house: House) -> int:
    """Send what is due; how many went out."""
    sent = 0
    for _ in range(AT_ONCE):
        with house.alone() as connection:
            one = outlets.due(connection)
            if one is None:
                return sent
            outlet = outlets.find(connection, one.outlet)
            try:
                _send(house, outlet, one)
            except NotTaken as error:
                outlets.later(connection, one.id, str(error))
                log.warning("delivery waits", outlet=outlet.kind, fabric=one.fabric, why=str(error)[:200])
                continue
            outlets.done(connection, one.id)
            sent += 1
    return sent


def _send(house: House, outlet: Outlet, one: Delivery) -> None:
    desk = Desk(house)
    secret = use_outlets.opened(desk, outlet)
    if outlet.kind == "webhook":
        body = {**one.body, "at": one.made_at.isoformat(), "delivery": str(one.id)}
        webhook.send(outlet.address, json.dumps(body, ensure_ascii=False).encode(), str(one.id), secret.encode())
    elif outlet.kind == "mail":
        to = _readers(house, one)
        if to:
            subject = SUBJECTS.get(one.what, "{what} of {fabric}").format_map({"title": "", "number": "", **one.body})
            mail.send(outlet.address, secret, to, subject, _text(one, subject), str(one.id))
    elif any(edition.number for edition in use_editions.every(desk, one.fabric)):
        git.push(brought_up(desk, one.fabric), outlet.address, one.fabric)


def _readers(house: House, one: Delivery) -> list[str]:
    """The addresses of those whom it concerns, without the one who did it: who may agree to an offer, and else who offered and who changed it."""
    named = set(one.body.get("to", ()))
    with house.alone() as connection:
        return sorted(
            manners["mail"]
            for called, manners in people.reachable(connection)
            if called in named and called != one.body.get("by") and manners.get("mail")
        )


def _text(one: Delivery, subject: str) -> str:
    said = [str(one.body[key]) for key in ("why", "note", "words") if one.body.get(key)]
    return "\n\n".join([f"{subject}.", *said, "You find it in Barrio, under Editions."]) + "\n"
