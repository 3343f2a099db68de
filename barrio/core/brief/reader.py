"""YAML text → plain data with the line of every field, in one pass that is bounded before anything is built.

A brief is a small language: fields, lists and plain words. Anchors, aliases, tags, merge keys and compound keys are
refused, and so are texts over `MOST_BYTES` or nested over `MOST_DEPTH`. Plain scalars are read by the core schema of YAML 1.2
(10.3.2), so that `no` and `on` are words.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache
from typing import Any

from ruamel.yaml import YAML
from ruamel.yaml.cyaml import CParser  # type: ignore[attr-defined]  # compiled, without a stub
from ruamel.yaml.error import MarkedYAMLError, YAMLError
from ruamel.yaml.events import (
    AliasEvent,
    CollectionStartEvent,
    DocumentStartEvent,
    Event,
    MappingEndEvent,
    MappingStartEvent,
    ScalarEvent,
    SequenceEndEvent,
)

from barrio.core.errors import Refused, refuse

MOST_BYTES = 256 * 1024
MOST_DEPTH = 12
_SMALL = 16 * 1024
"""Up to this many characters, what the fast parser does not take is read again by the slow one, which knows all of YAML 1.2
(colons within words of flow style, say) and names what is wrong more plainly."""
_INT = re.compile(r"[-+]?\d+|0o[0-7]+|0x[0-9a-fA-F]+")
_FLOAT = re.compile(r"[-+]?(\.\d+|\d+(\.\d*)?)([eE][-+]?\d+)?")


@lru_cache(maxsize=4)
def load(text: str) -> tuple[dict[str, Any], Places]:
    """The fields of a text, and the place of each path; both are to be looked at, not changed.

    Raises `Refused` (`yaml.*`) with line and column.
    """
    check_size(text)
    try:
        try:
            return _Reader(_events(text)).whole()
        except MarkedYAMLError:
            if len(text) > _SMALL:
                raise
            return _Reader(YAML(typ="rt", pure=True).parse(text)).whole()
    except MarkedYAMLError as error:
        raise slip("yaml.syntax", f"This is not YAML: {error.problem or error.context}.", error) from None
    except (YAMLError, ValueError) as error:
        raise refuse("yaml.syntax", f"This is not YAML: {str(error).splitlines()[0]}.") from None


def check_size(text: str) -> None:
    size = len(text.encode())
    if size > MOST_BYTES:
        raise refuse(
            "yaml.too-large",
            f"The brief is {size / 1e6:.1f} MB of text; the most is {MOST_BYTES // 1024} KB. Use ranges such as r01..r64.",
        )


def slip(code: str, message: str, error: MarkedYAMLError) -> Refused:
    """A refusal at the place of a YAML error."""
    mark = error.problem_mark or error.context_mark
    return refuse(code, message, line=mark.line + 1 if mark else 0, column=mark.column + 1 if mark else 0)


def quoted(key: str) -> str:
    """A key as one step of a path."""
    return f'"{key}"' if re.search(r"[.\[\]/]", key) else key


Places = dict[str, tuple[int, int]]
"""Where each path is written: line and column, from 1."""


class _Reader:
    def __init__(self, events: Iterator[Event]) -> None:
        self._events = events
        self._places: Places = {}

    def whole(self) -> tuple[dict[str, Any], Places]:
        first = self._content()
        if not isinstance(first, MappingStartEvent):
            raise refuse("yaml.shape", "A brief is a list of fields, starting with “fabric: name”.", line=1)
        fields = self._mapping(first, "", 1)
        if any(isinstance(event, DocumentStartEvent) for event in self._events):
            raise refuse("yaml.shape", "A brief is one document; take out what follows the line “---”.")
        return fields, self._places

    def _content(self) -> Event | None:
        for event in self._events:
            if isinstance(event, ScalarEvent | CollectionStartEvent | AliasEvent | MappingEndEvent | SequenceEndEvent):
                return event
        return None

    def _value(self, event: Event | None, path: str, depth: int) -> Any:
        self._guard(event)
        if isinstance(event, ScalarEvent):
            return _scalar(event)
        if depth >= MOST_DEPTH:
            line = event.start_mark.line + 1 if event else 0
            raise refuse("yaml.depth", f"This is nested more than {MOST_DEPTH} deep.", line=line)
        if isinstance(event, MappingStartEvent):
            return self._mapping(event, path, depth + 1)
        items: list[Any] = []
        while not isinstance(inner := self._content(), SequenceEndEvent | None):
            here = f"{path}[{len(items)}]"
            self._places[here] = (inner.start_mark.line + 1, inner.start_mark.column + 1)
            items.append(self._value(inner, here, depth + 1))
        return items

    def _mapping(self, start: Event, path: str, depth: int) -> dict[str, Any]:
        self._guard(start)
        fields: dict[str, Any] = {}
        while not isinstance(event := self._content(), MappingEndEvent | None):
            key = self._key(event)
            line, column = event.start_mark.line + 1, event.start_mark.column + 1
            if key in fields:
                raise refuse(
                    "yaml.twice", f"“{key}” is written twice here. Take one of them out.", line=line, column=column
                )
            here = f"{path}.{quoted(key)}" if path else quoted(key)
            self._places[here] = (line, column)
            fields[key] = self._value(self._content(), here, depth)
        return fields

    def _key(self, event: Event) -> str:
        line = event.start_mark.line + 1
        if not isinstance(event, ScalarEvent):
            if isinstance(event, AliasEvent):
                self._guard(event)
            raise refuse("yaml.key", "The name of a field is a plain word. Write “name: value”.", line=line)
        self._guard(event)
        if event.value == "<<" and event.implicit[0]:
            raise refuse("yaml.tag", "A brief may not use tags or merge keys. Write the value out.", line=line)
        return str(event.value)

    @staticmethod
    def _guard(event: Event | None) -> None:
        if event is None:
            return
        line = event.start_mark.line + 1
        if isinstance(event, AliasEvent) or getattr(event, "anchor", None):
            raise refuse("yaml.anchor", "A brief may not use anchors or aliases. Write the value out.", line=line)
        if getattr(event, "tag", None):
            raise refuse("yaml.tag", "A brief may not use tags or merge keys. Write the value out.", line=line)


def _events(text: str) -> Iterator[Event]:
    parser = CParser(text)
    while parser.check_event():
        yield parser.get_event()


def _scalar(event: ScalarEvent) -> Any:
    """A plain word by the core schema; what is in quotes is text."""
    value = str(event.value)
    if not event.implicit[0]:
        return value
    if value in ("", "~", "null", "Null", "NULL"):
        return None
    if value in ("true", "True", "TRUE"):
        return True
    if value in ("false", "False", "FALSE"):
        return False
    if len(value) < 40 and _INT.fullmatch(value):
        return int(value, 0) if value[:2] in ("0o", "0x") else int(value)
    if len(value) < 40 and _FLOAT.fullmatch(value):
        return float(value)
    return value
