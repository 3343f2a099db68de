"""Who makes a change: the name that a person gave in the browser, until there are accounts."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import unquote

from fastapi import Depends, Header


def said_by(x_who: Annotated[str, Header(max_length=200)] = "") -> str:
    """The name in the header `X-Who`, percent-encoded UTF-8; empty when nobody said."""
    return "".join(letter for letter in unquote(x_who) if letter.isprintable()).strip()[:60]


Who = Annotated[str, Depends(said_by)]
