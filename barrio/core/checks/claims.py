"""Checks of the small claims of a brief: each is about somebody whom the brief has."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from barrio.core.attach.attachments import Attachments
from barrio.core.brief.claims import Named, parse
from barrio.core.brief.model import Brief
from barrio.core.errors import Fault, nearest
from barrio.core.structure.parts import Structure

_TITLES = {"host": "host", "segment": "segment", "vrf": "VRF", "switch": "switch"}


def check_claims(brief: Brief, structure: Structure, attachments: Attachments) -> Iterator[Fault]:
    """Findings about claims: of somebody whom the brief does not have (`claim.nobody`), or of whom it has several (`claim.several`). They hold up no draft; in
    a rehearsal such a claim does not hold."""
    if not brief.claims:
        return
    known = _known(brief, structure, attachments)
    for at, one in enumerate(map(parse, brief.claims)):
        for named in (one.who, one.whom, one.within):
            if isinstance(named, Named):
                yield from _fault(named, known, f"claims[{at}]")


def _known(brief: Brief, structure: Structure, attachments: Attachments) -> dict[str, Collection[str]]:
    return {
        "host": attachments.hosts, "segment": brief.segments, "vrf": {*brief.vrfs, "mgmt"}, "switch": {str(one.name) for one in structure.switches},
    }  # fmt: skip


def _fault(named: Named, known: dict[str, Collection[str]], path: str) -> Iterator[Fault]:
    kinds = [kind for kind, names in known.items() if named.name in names and named.kind in ("", kind)]
    if not kinds:
        names = [name for kind, names in known.items() if named.kind in ("", kind) for name in names]
        what = _TITLES.get(named.kind, "host, segment, VRF or switch")
        yield Fault(
            "claim.nobody", f"There is no {what} {named.name}.{nearest(named.name, names)} Name one that there is, or take the claim out.", path
        )  # fmt: skip
    elif len(kinds) > 1:
        words = f"{named.name} is a {' and a '.join(_TITLES[kind] for kind in kinds)}. Say which, such as “{kinds[0]} {named.name}”."
        yield Fault("claim.several", words, path)
