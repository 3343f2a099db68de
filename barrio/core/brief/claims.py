"""Small claims of one's own: who reaches whom, and who never does, in words that are asked in every rehearsal.

model-01 reaches 10.90.0.21 in vrf tides
vrf public never reaches vrf satellite
leaf-r01a reaches 10.90.0.14 in vrf mgmt
keeper reaches vault-01 by IPv6 with 9000 bytes
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable
from dataclasses import dataclass
from ipaddress import ip_address
from typing import Annotated

from pydantic import AfterValidator, Field

KINDS = ("host", "segment", "vrf", "switch")


@dataclass(frozen=True, slots=True)
class Named:
    """Somebody by name; `kind` is one of `KINDS`, or empty where the brief's own names say which it is."""

    name: str
    kind: str = ""

    def __str__(self) -> str:
        return f"{self.kind} {self.name}".strip()


@dataclass(frozen=True, slots=True)
class Reach:
    """A claim: `who` reaches `whom`, or `never` does. `whom` is somebody by name, or an address. `within` names the VRF or segment in which alone both are
    looked at; `family` is 4, 6, or 0 for each that there is; `size` is the packet's in bytes, 0 for a small one."""

    words: str
    who: Named
    whom: Named | str
    never: bool = False
    within: Named | None = None
    family: int = 0
    size: int = 0

    @property
    def managed(self) -> bool:
        """Whether it is about the management table."""
        return self.within == Named("mgmt", "vrf")


_NAME = r"[a-z][a-z0-9-]*"
_SENTENCE = re.compile(
    rf"(?:(?P<kind>{'|'.join(KINDS)}) )?(?P<who>{_NAME}) (?P<never>never )?reaches (?:(?P<far_kind>{'|'.join(KINDS)}) )?(?P<whom>\S+)"
    rf"(?: in (?P<place>vrf|segment) (?P<within>{_NAME}))?(?: by (?P<family>ipv[46]))?(?: with (?P<size>\d{{1,5}}) bytes)?",
    re.ASCII | re.IGNORECASE,
)
FORM = "WHO reaches WHOM, or WHO never reaches WHOM; then, where wanted: in vrf NAME (or in segment NAME), by IPv6, with 9000 bytes"


def parse(text: str) -> Reach:
    """A claim from its words. Raises `ValueError` with what it may look like."""
    words = " ".join(text.split())
    said = _SENTENCE.fullmatch(words)
    if said is None:
        raise ValueError(f"“{words[:80]}” is no claim; say {FORM}")
    family, size = int((said["family"] or "ipv0")[-1]), int(said["size"] or 0)
    whom = _whom(said["whom"], said["far_kind"])
    if isinstance(whom, str):
        version = ip_address(whom).version
        if family and family != version:
            raise ValueError(
                f"{whom} is not an IPv{family} address; take “by IPv{family}” out, or name an address of it"
            )
        family = version
    if size and not 64 <= size <= 9216:
        raise ValueError(f"{size} bytes are no packet that could be asked for; say 64 to 9216")
    within = Named(said["within"].lower(), said["place"].lower()) if said["within"] else None
    who = Named(said["who"].lower(), (said["kind"] or "").lower())
    return Reach(words, who, whom, bool(said["never"]), within, family, size)


def _whom(text: str, kind: str | None) -> Named | str:
    try:
        return str(ip_address(text))
    except ValueError:
        pass
    if not re.fullmatch(_NAME, text, re.IGNORECASE):
        raise ValueError(
            f"“{text[:60]}” is neither a name nor an address; a prefix is not reached, an address in it is"
        )
    return Named(text.lower(), (kind or "").lower())


def hosts_in(claims: Iterable[str], hosts: Collection[str]) -> frozenset[str]:
    """The hosts that claims name, of those that there are."""
    named = [part for one in map(parse, claims) for part in (one.who, one.whom) if isinstance(part, Named)]
    return frozenset(one.name for one in named if one.kind in ("", "host") and one.name in hosts)


def _is_a_claim(text: str) -> str:
    parse(text)
    return text


ClaimWords = Annotated[str, Field(max_length=200), AfterValidator(_is_a_claim)]
