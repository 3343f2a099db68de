"""Files to take away: the one place that writes a Content-Disposition (RFC 6266)."""

from __future__ import annotations

import re

from fastapi import Response

_UNUSUAL = re.compile(r"[^A-Za-z0-9._-]+")


def attachment(content: bytes | str, kind: str, name: str) -> Response:
    """A download under a name of plain characters, so that no header can be split or given parameters."""
    plain = _UNUSUAL.sub("-", name).strip("-.") or "barrio"
    return Response(content, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{plain}"'})
