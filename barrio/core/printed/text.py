"""Free text: what a person may write, and how it reaches a file."""

from __future__ import annotations

import unicodedata
from typing import Annotated

from pydantic import AfterValidator

from barrio.core.printed.words import Printed

_MARKS = frozenset(" .,:()/+_-")
_HIDDEN = ("C", "Zl", "Zp")
"""Unicode categories that no one-line text holds: controls, formats (such as U+202E), surrogates, private use, separators."""


class Plain(Printed):
    """Free text as a file may hold it: ASCII letters, digits, single spaces and `. , : ( ) / + _ -`."""

    __slots__ = ()


def plain(text: str, also: str = "") -> Plain:
    """Free text encoded for a file: accents are dropped, and what is no letter, digit or plain mark becomes `_`;
    `also` are marks that one file's reader takes as they are.

    A file's reader sees nothing in it but words: no quote, backslash, `%`, `$`, `#`, brace, or line end.

    >>> plain("está averiado; 100% \\\\ ${x}")
    'esta averiado_ 100_ _ __x_'
    """
    folded = unicodedata.normalize("NFKD", text)
    kept = (char for char in folded if not unicodedata.combining(char))
    coded = "".join(
        char if char.isascii() and (char.isalnum() or char in _MARKS or char in also) else "_" for char in kept
    )
    return Plain(" ".join(coded.split(" ")).strip())


def one_line(value: str) -> str:
    """Text of one line without hidden characters. Raises `ValueError`."""
    for char in value:
        if unicodedata.category(char).startswith(_HIDDEN):
            raise ValueError(
                f"the text holds the character U+{ord(char):04X}, which cannot be seen or ends a line; take it out"
            )
    return value


OneLine = Annotated[str, AfterValidator(one_line)]


def printable(value: object) -> object:
    """The value, if a template may print it: a whole number or a printed text. Raises `TypeError` otherwise."""
    if value.__class__ is int or isinstance(value, Printed):
        return value
    raise TypeError(f"a template printed {value!r}, a {type(value).__name__}; only printed types and numbers may be")
