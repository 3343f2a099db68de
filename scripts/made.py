"""What the server answers about two fabrics of the demo world, as JSON: the front end's tests are made from it."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from barrio.api.catalogue import ModelRow
from barrio.api.fabrics import row_of
from barrio.api.faces import face_view
from barrio.api.picture import rack_views, weave_view
from barrio.api.views import fabric_view
from barrio.app.drafts import Opened
from barrio.core import compile
from barrio.core.brief.document import read
from barrio.core.catalogue.made import MADE
from barrio.core.catalogue.text import text_of
from barrio.store.drafts import Draft

EXAMPLES = Path(__file__).parent.parent / "examples"


def opened(name: str) -> Opened:
    """A fabric of the demo world as if it had just been made."""
    text = (EXAMPLES / f"{name}.yaml").read_text()
    brief = read(text).brief
    saved = datetime(2026, 5, 4, 9, 30, tzinfo=UTC)
    draft = Draft(name, brief.title, 3, text, None, "5 spines", saved, {}, [], None, "5 spines", None)
    return Opened(draft, compile(brief))


def views(name: str, switch: str) -> dict[str, Any]:
    found = opened(name)
    return {
        "fabric": fabric_view(found),
        "weave": weave_view(found),
        "row": row_of(found.draft, found.compiled),
        "racks": rack_views(found.compiled),
        "face": face_view(found.compiled, switch),
    }


def main() -> None:
    shelf = [ModelRow(model=kind, own=False, text=text_of(kind)) for kind in MADE.models]
    made = {"marlin": views("marlin", "leaf-r07b"), "pelican": views("pelican", "leaf-p01-r01a"), "catalogue": shelf}
    print(TypeAdapter(Any).dump_json(made).decode())


if __name__ == "__main__":
    main()
