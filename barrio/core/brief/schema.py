"""The JSON Schema of a brief, as published: for editors and programs that write briefs."""

from __future__ import annotations

from typing import Any

from barrio.core.brief.model import Brief


def brief_schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of a brief."""
    schema = Brief.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "$id": "/schemas/brief.json"} | schema
