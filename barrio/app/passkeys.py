"""Passkeys (Web Authentication, Level 3): a key that a device or a token holds and uses only for its owner, who shows it who they are.

So it is two factors in one, and lets in without a password. Whoever has one is not let in by a password alone any more.
"""

from __future__ import annotations

import json
from typing import Any
from urllib.parse import urlsplit

import webauthn
from webauthn.helpers import base64url_to_bytes, bytes_to_base64url, options_to_json
from webauthn.helpers.exceptions import WebAuthnException
from webauthn.helpers.structs import (
    AuthenticatorSelectionCriteria,
    PublicKeyCredentialDescriptor,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)

from barrio.app import door, people, tickets
from barrio.app.desk import Desk
from barrio.app.door import Caller, Entered, NoEntry
from barrio.app.house import House
from barrio.app.transaction import Transaction
from barrio.core.errors import refuse
from barrio.store import proofs, signing
from barrio.store.entries import Act, Author
from barrio.store.errors import Missing

SIGN_IN = "sign in by passkey"
MOST = 10
_WRONG = "This passkey is not known here, or did not sign what it was asked to. Begin again, or sign in by password."
Asked = tuple[dict[str, Any], str]
"""What a browser's `navigator.credentials` is asked, as JSON, and the ticket that goes with the answer."""


def _host(origin: str) -> str:
    """The name that passkeys are bound to. Raises `Refused` where Barrio is opened by a number, which no passkey can be bound to."""
    host = urlsplit(origin).hostname or ""
    if ":" in host or host.replace(".", "").isdigit():
        words = "Passkeys are bound to a name, and this page was opened by a number. Open Barrio by its name (localhost, on this machine)."
        raise refuse("passkey.host", words)
    return host


def begin_sign_in(house: House, origin: str) -> Asked:
    """What to ask a device for. Raises `Refused` where no passkey can be."""
    asked = webauthn.generate_authentication_options(
        rp_id=_host(origin), user_verification=UserVerificationRequirement.REQUIRED
    )
    said = {"challenge": bytes_to_base64url(asked.challenge), "origin": origin}
    return json.loads(options_to_json(asked)), tickets.made(house, SIGN_IN, said)


def sign_in(house: House, ticket: str, answer: dict[str, Any], caller: Caller) -> Entered:
    """Sign in by the answer of a passkey. Raises `NoEntry`, and `Busy`."""
    with door.by_another_way(house, caller):
        return _let_in(house, tickets.spend(house, SIGN_IN, ticket), answer, caller)


def _let_in(house: House, said: dict[str, Any], answer: dict[str, Any], caller: Caller) -> Entered:
    def work(tx: Transaction) -> Entered:
        try:
            key = base64url_to_bytes(str(answer["id"]))
            found = proofs.signer(tx.connection, key)
            if found is None:
                raise NoEntry(_WRONG)
            shown = webauthn.verify_authentication_response(
                credential=answer, expected_challenge=base64url_to_bytes(said["challenge"]),
                expected_rp_id=_host(said["origin"]), expected_origin=said["origin"],
                credential_public_key=found.public_key, credential_current_sign_count=found.signed,
                require_user_verification=True,
            )  # fmt: skip
        except (WebAuthnException, ValueError, KeyError, TypeError):
            raise NoEntry(_WRONG) from None
        tx.author = Author(found.called, found.person, "", caller.address)
        entered = door.begin(tx, found.person, found.name, caller, "signed in by passkey", vouched=True)
        proofs.has_signed(tx.connection, key, shown.new_sign_count)
        return entered

    return house.writing(work, author=Author("", None, "", caller.address))


def begin_to_add(desk: Desk, password: str, origin: str) -> Asked:
    """What to ask a device for, to make a passkey of one's own. Raises `NoEntry` when the password is wrong, and `Refused`."""
    person, host = door.own(desk), _host(origin)
    lock = door.prove(desk, password)
    with desk.reading() as tx:
        had = proofs.passkey_ids(tx.connection, person)
    asked = webauthn.generate_registration_options(
        rp_id=host, rp_name="Barrio", user_name=lock.name, user_display_name=lock.called,
        user_id=desk.house.keys.blind(f"passkeys of {person}"),
        exclude_credentials=[PublicKeyCredentialDescriptor(id=key) for key in had],
        authenticator_selection=AuthenticatorSelectionCriteria(
            resident_key=ResidentKeyRequirement.REQUIRED, user_verification=UserVerificationRequirement.REQUIRED
        ),
    )  # fmt: skip
    said = {"challenge": bytes_to_base64url(asked.challenge), "origin": origin}
    return json.loads(options_to_json(asked)), tickets.made(desk.house, f"passkey of {person}", said)


def add(desk: Desk, ticket: str, answer: dict[str, Any], name: str) -> None:
    """Keep a passkey that a device has made. Raises `NoEntry` for an answer that is none, `Refused` for its name."""
    person, shown = door.own(desk), people.clean(name, "name")
    said = tickets.spend(desk.house, f"passkey of {person}", ticket)
    try:
        made = webauthn.verify_registration_response(
            credential=answer, expected_challenge=base64url_to_bytes(said["challenge"]),
            expected_rp_id=_host(said["origin"]), expected_origin=said["origin"], require_user_verification=True,
        )  # fmt: skip
    except (WebAuthnException, ValueError, KeyError, TypeError):
        raise NoEntry("This is not the answer of a device to what it was asked. Begin again.") from None

    def work(tx: Transaction) -> None:
        tx.act(Act("passkey added", note=shown, topic="people"))
        if len(proofs.passkeys(tx.connection, person)) >= MOST:
            raise refuse("passkey.many", f"You have {MOST} passkeys. Take one away first.")
        if not proofs.add_passkey(
            tx.connection, made.credential_id, person, shown, made.credential_public_key, made.sign_count
        ):
            raise refuse("passkey.twice", f"You have a passkey called {shown} already, or this one is in use.", "name")
        signing.end(tx.connection, person, but=desk.actor.session)

    desk.writing(work)


def drop(desk: Desk, name: str, password: str) -> None:
    """Take a passkey away. Raises `NoEntry` when the password is wrong, `Missing`, or `Refused` for who has no other way in."""
    person = door.own(desk)
    door.prove(desk, password)

    def work(tx: Transaction) -> None:
        tx.act(Act("passkey taken away", note=name, topic="people"))
        if not proofs.drop_passkeys(tx.connection, person, name):
            raise Missing(f"You have no passkey called {name}.")
        door.check_way_in(tx, person)

    desk.writing(work)
