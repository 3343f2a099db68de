"""Switches that come by RFC 8572 (secure zero touch provisioning): who may, what they are told, and what they report.

A switch that runs Linux is given its software, and the agent with a word that lets it in once; its files then come as those of any other. One that does not
is given its configuration itself, when it is its turn.
"""

from __future__ import annotations

import hashlib
import json
import secrets
import time
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from hmac import compare_digest
from urllib.parse import urlsplit

from barrio.app import rollcall, sent, stagings
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.bundle import as_tar_gz
from barrio.core.errors import refuse
from barrio.core.staging import boxes as sums
from barrio.core.staging import steps, sztp
from barrio.core.staging.boxes import Box, Told
from barrio.core.staging.steps import CONFIRM, SECONDS
from barrio.core.staging.sztp import Asked, Encoding, Reported
from barrio.core.structure.parts import Switch
from barrio.sending.cms import NoOwner, plain, voucher
from barrio.store import boxes, editions, images, ways
from barrio.store import stagings as stored
from barrio.store import sztp as kept
from barrio.store.boxes import Knock
from barrio.store.entries import Act
from barrio.store.errors import Missing
from barrio.store.sztp import Ready

AUTHOR = "RFC 8572"


class NotKnown(Exception):
    """Nobody knows this device, or it did not show that it is itself."""


class NothingYet(Exception):
    """The device is known, and there is nothing for it now; the words say why."""


@dataclass(frozen=True, slots=True)
class Shown:
    """How a device shows who it is: by the certificate that its maker gave it, whose serial number was verified, or by a serial number and a word."""

    serial: str
    word: str = ""
    certificate: bool = False


def allow(desk: Desk, name: str, switch: str, own: bytes, word: bool) -> str:
    """Let the box that is bound to a switch come by RFC 8572: with its ownership voucher (CMS; empty for none), and a word that it says by HTTP where that is
    asked for. Returns the word, which is kept nowhere.

    Raises `Missing`, and `Refused`: `sztp.serial` (no serial number is bound), `sztp.voucher`.
    """
    made = secrets.token_urlsafe(24) if word else ""

    def work(tx: Transaction) -> None:
        found = rollcall.named(rollcall.newest(tx, name), switch)
        bound = boxes.of_fabric(tx.connection, name).get(found.key)
        if bound is None or not bound.box.serial:
            words = f"{switch} has no serial number yet, by which a device of RFC 8572 is known. Bind one first."
            raise refuse("sztp.serial", words, "switch")
        expires = _checked(desk.house, own, bound.box.serial) if own else None
        digest = hashlib.sha256(made.encode()).digest() if made else None
        tx.act(Act("box may come by RFC 8572", name, note=f"{bound.box} as {found.name}", topic="staging"))
        kept.keep(tx.connection, Ready(name, found.key, bound.box.serial, digest, own or None, expires, "", None), tx.author.name)  # fmt: skip

    desk.writing(work)
    return made


def _checked(house: House, own: bytes, serial: str) -> datetime | None:
    """When a voucher ends. Raises `Refused` (`sztp.voucher`) for one that is of no use here."""
    try:
        said = voucher(own)
        why = ""
        if said.serial.upper() != serial:
            why = f"it is for {said.serial[:60]}, and this is {serial}"
        elif said.expires_at is not None and said.expires_at < datetime.now(UTC):
            why = f"it ended on {said.expires_at:%Y-%m-%d}"
        elif not house.owner.owns(said.pinned):
            why = "the certificate that it pins has not signed the owner certificate that Barrio has"
    except NoOwner as error:
        why = str(error)
    if why:
        raise refuse("sztp.voucher", f"The voucher was not taken: {why}.", "voucher")
    return said.expires_at


def forbid(desk: Desk, name: str, switch: str) -> None:
    """Let the box of a switch no longer come by RFC 8572. Raises `Missing`."""

    def work(tx: Transaction) -> None:
        found = rollcall.named(rollcall.newest(tx, name), switch)
        tx.act(Act("box may come by RFC 8572 no more", name, note=str(found.name), topic="staging"))
        if not kept.forget(tx.connection, name, found.key):
            raise Missing(f"{found.name} was not to come by RFC 8572.")

    desk.writing(work)


def told(desk: Desk, name: str) -> list[tuple[str, Ready]]:
    """The boxes of a fabric that may come by RFC 8572, with the names of their switches. Raises `Missing`."""
    with desk.reading() as tx:
        compiled = rollcall.newest(tx, name)
        every = kept.of_fabric(tx.connection, name)
    return [(str(one.name), every[one.key]) for one in compiled.staged if one.key in every]


def ask(
    house: House, shown: Shown, said: Asked, host: str, address: str, encoding: Encoding, agent: Mapping[str, bytes]
) -> bytes:
    """What a device is answered that asks get-bootstrapping-data, at a host of ours: encoded. Raises `NotKnown`, `NothingYet`, and `Refused` as `sent.files`."""

    def work(tx: Transaction) -> bytes | NothingYet:
        one, compiled, switch = _known(tx, shown)
        try:
            return answer(tx, one, compiled, switch)
        except NothingYet as why:
            # That it asked, and that it was let in, is kept all the same.
            return why

    def answer(tx: Transaction, one: Ready, compiled: Compiled, switch: Switch) -> bytes:
        told = Told(said.model)
        wrong = list(sums.faults(compiled, switch, told))
        if wrong:
            raise NothingYet("; ".join(wrong))
        if one.seen_at is None:
            tx.act(Act("switch comes by RFC 8572", one.fabric, note=f"{one.serial} as {switch.name}", topic="staging"))
        kept.seen(tx.connection, one.serial, "")
        where = ways.of(tx.connection, one.fabric).address
        if not where:
            raise NothingYet(f"nobody said yet at which address the switches of {one.fabric} reach Barrio")
        if _place(where) != _place(f"https://{host}"):
            document = sztp.redirect(where, house.owner.anchor_cms())
        elif any(path.startswith("etc/") for path in compiled.files(switch.key)):
            document = _with_agent(tx, house, one, where, agent)
        else:
            image = _image(tx, one, compiled, switch, said, where)
            document = _with_all(tx, house, one, switch, said, address, image)
        return sztp.encode(_packed(house, one, document, said.signed, encoding), encoding)

    found = house.writing(work)
    if isinstance(found, NothingYet):
        raise found
    return found


def _place(address: str) -> tuple[str, int]:
    """The host and port of an address."""
    try:
        parts = urlsplit(address)
        return (parts.hostname or "", parts.port or 443)
    except ValueError:
        return ("", 0)


def _packed(
    house: House, one: Ready, document: Mapping[str, object], signed: bool, encoding: Encoding
) -> dict[str, object]:
    """The answer, signed where the device asks for that, or where it can be: then with what shows whose signature that is."""
    content, kind = sztp.encode(document, encoding), sztp.CONTENT[encoding]
    if one.voucher is not None and house.owner.signs and not _ended(one):
        return sztp.output(house.owner.signed(content, kind), house.owner.certificates(), one.voucher)
    if signed:
        words = f"{one.serial} wants what is signed, and has no ownership voucher here that holds; bring one"
        raise NothingYet(words)
    return sztp.output(plain(content, kind))


def _ended(one: Ready) -> bool:
    return one.voucher_expires_at is not None and one.voucher_expires_at < datetime.now(UTC)


def _known(tx: Transaction, shown: Shown) -> tuple[Ready, Compiled, Switch]:
    """The device, and the switch that it is. Raises `NotKnown`."""
    serial = shown.serial.strip().upper()
    one = kept.of_serial(tx.connection, serial)
    if one is None and shown.certificate:
        one = _by_rule(tx, serial)
    if one is None:
        raise NotKnown("nobody said that this device may come")
    digest = hashlib.sha256(shown.word.encode()).digest()
    if not shown.certificate and (one.secret is None or not compare_digest(one.secret, digest)):
        raise NotKnown("it did not show that it is itself")
    bound = boxes.of_fabric(tx.connection, one.fabric).get(one.switch)
    if bound is None or bound.box.serial != serial or boxes.was_refused(tx.connection, Box(serial)):
        raise NotKnown("it is no switch any more, or was refused")
    compiled = rollcall.newest(tx, one.fabric)
    switch = next((each for each in compiled.staged if each.key == one.switch), None)
    if switch is None:
        raise NotKnown("the newest edition has no such switch")
    return one, compiled, switch


def _by_rule(tx: Transaction, serial: str) -> Ready | None:
    """A box with its maker's certificate, of a fabric that lets in by serial number."""
    expected = rollcall.expected_by(Box(serial), boxes.bound(tx.connection))
    if expected is None or expected.retired or ways.of(tx.connection, expected.fabric).admits != "serial":
        return None
    kept.keep(tx.connection, Ready(expected.fabric, expected.key, serial, None, None, None, "", None), "the rule")
    return kept.of_serial(tx.connection, serial)


def _with_agent(tx: Transaction, house: House, one: Ready, where: str, agent: Mapping[str, bytes]) -> dict[str, object]:
    """The agent, with a word that lets it in once."""
    word = secrets.token_urlsafe(24)
    kept.give_word(tx.connection, one.serial, hashlib.sha256(word.encode()).digest())
    anchor = house.owner.anchor_text()
    words = {"server": where, "serial": one.serial, "word": word}
    if anchor:
        words["trust"] = "/etc/barrio-agent.pem"
    files = [
        ("/usr/local/sbin/barrio-agent", 0o755, agent["barrio-agent"]),
        ("/etc/systemd/system/barrio-agent.service", 0o644, agent["barrio-agent.service"]),
        ("/etc/barrio-agent.json", 0o600, json.dumps(words, indent=2).encode()),
        *([("/etc/barrio-agent.pem", 0o644, anchor.encode())] if anchor else []),
    ]
    run = "systemctl daemon-reload && systemctl enable --now barrio-agent"
    return sztp.onboarding(after=sztp.installer(files, run))


def admit(tx: Transaction, knock: Knock, word: str) -> bool:
    """Let an agent in by the word that its switch was given by RFC 8572; whoever was let in as this switch before, with the same box, is forgotten. Whether
    it was let in."""
    one = kept.take_word(tx.connection, knock.serial, hashlib.sha256(word.encode()).digest()) if word else None
    if one is None:
        return False
    try:
        _, compiled, switch = _known(tx, Shown(one.serial, certificate=True))
    except NotKnown:
        return False
    others = [each for each in boxes.knocks(tx.connection, one.fabric) if each.switch == one.switch]
    if any(each.serial != knock.serial for each in others) or any(
        sums.faults(compiled, switch, rollcall.told_of(knock))
    ):
        return False
    boxes.forget(tx.connection, one.fabric, one.switch)
    words = f"{knock.box} as {switch.name}, which came by RFC 8572"
    tx.act(Act("switch admitted", one.fabric, note=words, topic="staging"))
    boxes.decide(tx.connection, knock.key, "admitted", one.fabric, one.switch, AUTHOR, "")
    return True


def _image(
    tx: Transaction, one: Ready, compiled: Compiled, switch: Switch, said: Asked, where: str
) -> sztp.Image | None:
    """The software that a device is to run, where it runs another and there is such."""
    wanted = str(compiled.models[switch.key].common.software)
    found = images.wanted(tx.connection, one.fabric, wanted, switch.type.id) if wanted != said.software else None
    return sztp.Image(wanted, f"{where}/boot/v1/images/{found.digest.hex()}", found.digest) if found else None


def _with_all(
    tx: Transaction, house: House, one: Ready, switch: Switch, said: Asked, address: str, image: sztp.Image | None
) -> dict[str, object]:
    """All of a switch's configuration, once it is its turn. Raises `NothingYet`."""
    key = hashlib.sha256(f"{AUTHOR} {one.serial}".encode()).digest()
    about = {"model": said.model, "software": said.software, "way": AUTHOR}
    knock = boxes.knock(tx.connection, key, Box(one.serial), about, address, time.time_ns() // 1000)
    if knock is None or knock.state == "refused":
        raise NothingYet("it was refused")
    if knock.state == "waits":
        boxes.decide(tx.connection, key, "admitted", one.fabric, one.switch, AUTHOR, "")
    stagings.advance(tx, one.fabric)
    staging = stored.under_way(tx.connection, one.fabric, lock=True)
    mine = stored.one(tx.connection, staging.id, one.switch) if staging else None
    if staging is None or mine is None:
        raise NothingYet("nothing is staged now")
    if mine.state != "works":
        raise NothingYet(mine.words)
    edition = editions.find(tx.connection, one.fabric, staging.edition)
    wanted = sent.files(tx, house.keys, edition.id, mine.name)
    texts = sent.texts(tx, house.keys, edition.id, mine.name, wanted.values())
    stored.log(tx.connection, staging.id, one.switch, "all files", "its configuration was given to it by RFC 8572")
    seconds = SECONDS["software"]
    words = "takes its configuration by RFC 8572"
    stored.move(tx.connection, staging.id, one.switch, "all files", "works", words, CONFIRM, seconds)
    return sztp.onboarding(image, configuration({path: texts[digest] for path, digest in wanted.items()}))


def configuration(files: Mapping[str, bytes]) -> bytes:
    """A switch's configuration as one: the file, where it is one, else an archive (tar, gzip) of all. The same files are the same bytes."""
    return next(iter(files.values())) if len(files) == 1 else as_tar_gz(files)


def report(house: House, shown: Shown, said: Reported) -> None:
    """Take what a device tells by report-progress. Raises `NotKnown`."""

    def work(tx: Transaction) -> None:
        one, _, _ = _known(tx, shown)
        kept.seen(tx.connection, one.serial, said.progress)
        staging = stored.under_way(tx.connection, one.fabric, lock=True)
        mine = stored.one(tx.connection, staging.id, one.switch) if staging else None
        if staging is None or mine is None:
            return
        words = f"RFC 8572: {said.progress}{f', {said.message}' if said.message else ''}"
        stored.log(tx.connection, staging.id, one.switch, mine.step, words)
        if mine.state != "works" or mine.words != "takes its configuration by RFC 8572":
            return
        if said.failed:
            stagings.fail(tx, staging, mine, words)
        elif said.progress == "bootstrap-complete":
            words = "says that it is up; it runs no agent, so nothing was asked of it"
            stored.log(tx.connection, staging.id, one.switch, steps.STEPS[-1], words)
            stored.move(tx.connection, staging.id, one.switch, steps.STEPS[-1], "done", words)
            stagings.release(tx, staging, mine.wave)
        stagings.advance(tx, one.fabric)

    house.writing(work)
