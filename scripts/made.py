"""What the server answers about the demo world's Marlin, as JSON: the front end's tests are made from it."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from pathlib import Path

from barrio.api.fabrics import row_of
from barrio.api.picture import weave_view
from barrio.api.views import fabric_view
from barrio.app.drafts import Opened
from barrio.core import compile
from barrio.core.brief.document import read
from barrio.store.drafts import Draft

MARLIN = Path(__file__).parent.parent / "examples" / "marlin.yaml"


def main() -> None:
    document = read(MARLIN.read_text())
    brief = document.brief
    saved = datetime(2026, 5, 4, 9, 30, tzinfo=UTC)
    draft = Draft("marlin", brief.title, 3, document.text, None, "5 spines", saved, {}, [], None, "5 spines", None)
    found = Opened(draft, compile(brief))
    views = {"fabric": fabric_view(found), "weave": weave_view(found), "row": row_of(draft, found.compiled)}
    print(json.dumps({name: view.model_dump(mode="json") for name, view in views.items()}))


if __name__ == "__main__":
    main()
