"""What edits would come to, for what is being typed: sums and findings, without a number drawn."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from barrio.app.desk import Desk
from barrio.core import Fault, Refused
from barrio.core.brief.document import Edits, apply, check_depth, read
from barrio.core.catalogue.model import Catalogue
from barrio.core.checks.brief import check_brief
from barrio.core.checks.structure import check_structure
from barrio.core.structure.expand import expand
from barrio.core.sums import Sums, add_up


@dataclass(frozen=True, slots=True)
class Option:
    """One possible value of a field and what it would do; `refusal` says why it cannot be, in words."""

    value: Any
    sums: Sums | None
    refusal: str | None


@dataclass(frozen=True, slots=True)
class Trial:
    """What edits would come to: sums and findings, or why they cannot be."""

    sums: Sums | None
    findings: tuple[Fault, ...]
    faults: tuple[Fault, ...]


def weigh(desk: Desk, name: str, path: str, values: list[Any]) -> list[Option]:
    """What each value of a field would do to the sums of a draft. Raises `Missing`."""
    text, catalogue = _text(desk, name)
    options = []
    for value in values:
        check_depth(value, path)
        found = _attempt(text, [(path, value)], catalogue)
        options.append(Option(value, found.sums, found.faults[0].message if found.faults else None))
    return options


def attempt(desk: Desk, name: str, edits: Edits) -> Trial:
    """What edits of a draft, taken together, would come to. Raises `Missing`."""
    text, catalogue = _text(desk, name)
    return _attempt(text, edits, catalogue)


def _text(desk: Desk, name: str) -> tuple[str, Catalogue]:
    with desk.reading() as tx:
        return tx.draft(name).text, tx.catalogue().catalogue


def _attempt(text: str, edits: Edits, catalogue: Catalogue) -> Trial:
    try:
        brief = read(apply(text, edits)).brief
        structure = expand(brief, catalogue)
    except Refused as error:
        return Trial(None, (), error.faults)
    return Trial(add_up(brief, structure), check_brief(brief) + check_structure(brief, structure), ())
