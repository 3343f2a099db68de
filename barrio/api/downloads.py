"""Files to take away and to bring: how they are described, and the one place that writes a Content-Disposition (RFC 6266)."""

from __future__ import annotations

import re
from typing import Any

from fastapi import Response

_UNUSUAL = re.compile(r"[^A-Za-z0-9._-]+")
_BYTES = {"schema": {"type": "string", "format": "binary"}}


def attachment(content: bytes | str, kind: str, name: str) -> Response:
    """A download under a name of plain characters, so that no header can be split or given parameters."""
    plain = _UNUSUAL.sub("-", name).strip("-.") or "barrio"
    return Response(content, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{plain}"'})


def download(*kinds: str) -> dict[str, Any]:
    """How a route that answers with a file of these media types is described."""
    return {"response_class": Response, "responses": {200: {"content": dict.fromkeys(kinds, _BYTES)}}}


WORKBOOK = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


def upload(*kinds: str) -> dict[str, Any]:
    """How a route that takes a file of these media types as its body is described."""
    return {"requestBody": {"required": True, "content": dict.fromkeys(kinds, _BYTES)}}
