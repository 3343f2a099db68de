"""Where what stands beside the program is found: in a wheel within the package, in a checkout in the repository's root."""

from __future__ import annotations

from pathlib import Path

_PACKAGE = Path(__file__).parent


def _found(shipped: str, checkout: str) -> Path:
    within = _PACKAGE / shipped
    return within if within.is_dir() else _PACKAGE.parent / checkout


FRONT = _found("front", "web/dist")
"""The built front end."""
EXAMPLES = _found("demo", "examples")
"""The briefs of the demo world."""
