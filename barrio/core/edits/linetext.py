"""A new brief from a quick line."""

from __future__ import annotations

from barrio.core.brief.document import apply
from barrio.core.catalogue.model import Catalogue
from barrio.core.edits.quickline import edits_of, parse_line


def text_of_line(line: str, catalogue: Catalogue) -> str:
    """The text of the brief that a line says. Raises `Refused` with the column of the word that is not understood."""
    said = parse_line(line, catalogue)
    return apply("fabric: x\n", [("fabric", said.name or "new-fabric"), *edits_of(said, None)])
