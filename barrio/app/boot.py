"""What switches ask and report: nothing is given to who was not let in, and what is given is the switch's own.

No process keeps anything of it: what a switch is at stands in the database, and any server answers the next request.
"""

from __future__ import annotations

import hashlib
import re
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey

from barrio.app import rollcall, sent, sztp, turns
from barrio.app.house import House
from barrio.app.transaction import Transaction
from barrio.core.staging import boxes as sums
from barrio.store import boxes, editions
from barrio.store import stagings as stored
from barrio.store.entries import Act

_DIGEST = re.compile("[0-9a-f]{64}")
MOST_NEIGHBOURS = 600
MOST_UNPACKED, MOST_KNOCKING = 24 << 20, 300_000
"""Bytes that somebody who was let in tells at once, unpacked, and anybody else."""
MOST_WAITING, SILENT = 5000, 24
"""Of those that knock so many wait at most; who has not knocked for so many hours is forgotten."""


class NotLetIn(Exception):
    """A request that is not to be answered: not signed by its key, sent before, or by somebody who was not let in."""


class TooMuch(Exception):
    """What was packed comes to more than is taken."""


@dataclass(frozen=True, slots=True)
class Signed:
    """A request as it came: the key that it says it is signed by, its number, the signature, and what was signed."""

    key: bytes
    counter: int
    signature: bytes
    method: str
    path: str
    body: bytes

    def check(self) -> None:
        """Raises `NotLetIn` where the signature (Ed25519, RFC 8032) is not this key's over this very request."""
        if not 0 <= self.counter < 1 << 63:
            raise NotLetIn("its number is none that a switch counts to")
        digest = hashlib.sha256(self.body).hexdigest()
        message = "\n".join((self.method, self.path, str(self.counter), digest)).encode()
        try:
            Ed25519PublicKey.from_public_bytes(self.key).verify(self.signature, message)
        except (InvalidSignature, ValueError):
            raise NotLetIn("the signature is not this key's") from None


def ask(house: House, signed: Signed, said: Mapping[str, Any], address: str) -> dict[str, Any]:
    """What a switch is to do next, after it told how the last task went. Raises `NotLetIn`, and `Refused` (`box.*`) for what no switch says of itself."""
    signed.check()
    box = sums.box(str(said.get("serial", "")), str(said.get("mac", "")))
    about = _about(said)

    def work(tx: Transaction) -> dict[str, Any]:
        known = boxes.find(tx.connection, signed.key)
        if known is None:
            boxes.forget_silent(tx.connection, SILENT)
            if boxes.waiting(tx.connection) >= MOST_WAITING:
                raise NotLetIn(f"{MOST_WAITING:,} wait to be let in already; let in or refuse some first")
            tx.act(Act("switch knocks", note=str(box), topic="staging"))
        knock = boxes.knock(tx.connection, signed.key, box, about, address, signed.counter)
        if knock is None:
            raise NotLetIn("this request was sent before")
        if known is not None and known.state == "admitted" and known.box != box:
            boxes.decide(
                tx.connection,
                signed.key,
                "refused",
                None,
                "",
                "",
                f"it was let in as {known.box} and says now that it is {box}",
            )
            return turns.wait(turns.SELDOM, "was refused")
        if knock.state == "waits" and (
            sztp.admit(tx, knock, str(said.get("word", ""))[:100]) or rollcall.admit_by_rule(tx, knock)
        ):
            knock = boxes.find(tx.connection, signed.key) or knock
        if knock.state != "admitted" or knock.fabric is None:
            refused = knock.state == "refused"
            words = "was refused" if refused else "waits to be let in"
            return {**turns.wait(turns.SELDOM if refused else turns.LATER, words), "known": False}
        return turns.turn(tx, house.keys, knock, said)

    return house.writing(work)


def unpacked(house: House, signed: Signed) -> bytes:
    """What somebody sent packed (gzip, RFC 1952); who was not let in yet has little to tell. Raises `NotLetIn`, and `TooMuch`."""
    signed.check()
    with house.alone() as connection:
        known = boxes.find(connection, signed.key)
    most = MOST_UNPACKED if known is not None and known.state == "admitted" else MOST_KNOCKING
    unpacks = zlib.decompressobj(wbits=16 + zlib.MAX_WBITS)
    try:
        content = unpacks.decompress(signed.body, most)
    except zlib.error:
        raise TooMuch("it cannot be unpacked") from None
    if not unpacks.eof:
        raise TooMuch(f"unpacked it is more than {most:,} bytes, or it is cut off")
    return content


def _about(said: Mapping[str, Any]) -> dict[str, Any]:
    """What somebody who knocks says of themselves, as far as it is of use."""
    found: dict[str, Any] = {
        name: turns.text(said[name], 80) for name in ("model", "airflow", "software") if name in said
    }
    if isinstance(said.get("ports"), int):
        found["ports"] = min(said["ports"], 1 << 16)
    neighbours = said.get("neighbours")
    if isinstance(neighbours, list):
        found["neighbours"] = [
            {name: turns.text(one.get(name, ""), 80) for name in ("switch", "port")}
            for one in neighbours[:MOST_NEIGHBOURS]
            if isinstance(one, Mapping)
        ]
    return found


def files(house: House, signed: Signed, digests: Sequence[str]) -> dict[str, bytes]:
    """Files of the edition that is put on the switch that asks, by their SHA-256. Raises `NotLetIn`, also for a file that is not its own."""
    signed.check()

    def work(tx: Transaction) -> dict[str, bytes]:
        knock = boxes.heard(tx.connection, signed.key, signed.counter)
        if knock is None or knock.state != "admitted" or knock.fabric is None:
            raise NotLetIn("nobody let this key in, or the request was sent before")
        one = stored.under_way(tx.connection, knock.fabric)
        mine = stored.one(tx.connection, one.id, knock.switch) if one else None
        if one is None or mine is None:
            raise NotLetIn("nothing is put on this switch now")
        edition = editions.find(tx.connection, one.fabric, one.edition)
        wanted = {bytes.fromhex(each) for each in digests if _DIGEST.fullmatch(each)}
        texts = sent.texts(tx, house.keys, edition.id, mine.name, wanted)
        if texts.keys() != wanted or len(wanted) != len(set(digests)):
            raise NotLetIn("this file is not this switch's")
        return {each.hex(): text for each, text in texts.items()}

    return house.writing(work)
