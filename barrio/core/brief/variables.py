"""Variables of one's own: declared once, with a type and a sentence; said on any rung, used in templates as `vars.name`."""

from __future__ import annotations

import re
from ipaddress import ip_address, ip_interface
from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints, model_validator

from barrio.core.brief.terms import Part
from barrio.core.printed import Name
from barrio.core.printed.text import one_line

VariableKey = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,39}$")]
Kind = Literal["text", "number", "address", "prefix", "list", "choice", "table", "secret"]
Simple = Literal["text", "number", "address", "prefix"]
MOST_ROWS = 5000
SECRET = re.compile(r"<secret:([a-z][a-z0-9-]{0,62})>")
"""What a file says in the place of a secret, until it leaves for a switch."""


class Variable(Part):
    """What one variable is. A `secret` is said by the name that it is kept under. `least` and `most` bound a number; `choices` are what a choice may be; `columns` are those of a table, each with
    its kind. One that is `required` must be given a value for every switch; `default` is what holds where nobody says anything."""

    kind: Kind = "text"
    words: Annotated[str, Field(min_length=1, max_length=200)]
    unit: Annotated[str, Field(max_length=20)] = ""
    least: int | None = None
    most: int | None = None
    choices: list[str] = Field([], max_length=100)
    columns: dict[VariableKey, Simple] = Field({}, max_length=30)
    required: bool = False
    default: Any = None

    @model_validator(mode="after")
    def _fits_its_kind(self) -> Variable:
        if (self.kind == "choice") != bool(self.choices):
            raise ValueError("choices are for a choice, which needs some; say kind: choice and its choices")
        if (self.kind == "table") != bool(self.columns):
            raise ValueError("columns are for a table, which needs some; say kind: table and its columns")
        if self.required and self.default is not None:
            raise ValueError("a default makes required needless; take one of the two out")
        if self.default is not None:
            self.read(self.default)
        return self

    def read(self, value: object) -> Any:
        """A value of this kind. Raises `ValueError` with what it must be."""
        if self.kind == "table":
            return self._rows(value)
        if self.kind == "list":
            if not isinstance(value, list) or len(value) > MOST_ROWS:
                raise ValueError(f"it is a list of texts, of {MOST_ROWS:,} at most")
            return [_read("text", one) for one in value]
        if self.kind == "choice":
            if value not in self.choices:
                raise ValueError(f"it is one of {', '.join(self.choices)}")
            return value
        found = _read(self.kind, value)
        if self.kind == "number" and not (_least(self.least) <= found <= _most(self.most)):
            raise ValueError(f"it is a number{_from(self.least, 'from')}{_from(self.most, 'to')}")
        return found

    def _rows(self, value: object) -> list[dict[str, Any]]:
        if not isinstance(value, list) or len(value) > MOST_ROWS:
            raise ValueError(f"it is a list of rows, of {MOST_ROWS:,} at most")
        rows = []
        for at, row in enumerate(value, 1):
            if not isinstance(row, dict) or row.keys() != self.columns.keys():
                raise ValueError(f"row {at} has to have just the columns {', '.join(self.columns)}")
            try:
                rows.append({name: _read(kind, row[name]) for name, kind in self.columns.items()})
            except ValueError as error:
                raise ValueError(f"in row {at} {error}") from None
        return rows


def _from(bound: int | None, word: str) -> str:
    return "" if bound is None else f" {word} {bound:,}"


def _least(least: int | None) -> float:
    return float("-inf") if least is None else least


def _most(most: int | None) -> float:
    return float("inf") if most is None else most


def _read(kind: str, value: object) -> Any:
    if kind == "number":
        if type(value) is not int:
            raise ValueError(f"{str(value)[:40]} is no whole number")
        return value
    if not isinstance(value, str) or len(value) > 500:
        raise ValueError(f"{str(value)[:40]} is no text of 500 characters at most")
    if kind == "secret":
        return f"<secret:{Name.read(value)}>"
    if kind == "address":
        ip_address(value)
    elif kind == "prefix" and ("/" not in value or str(ip_interface(value).network) != value):
        raise ValueError(f"{value} is no prefix, such as 10.9.0.0/24")
    return one_line(value)
