"""The brief as text: YAML in, a checked `Brief` with the line of every field out; edits that keep comments and order.

Reading is done by `reader`, in one bounded pass; the slower round-trip form is built only to edit a text that was read
before. Paths are dotted with list places in brackets: `racks[0].model`.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass, field
from functools import lru_cache
from io import StringIO
from itertools import pairwise
from typing import Any

from pydantic import ValidationError
from ruamel.yaml import YAML
from ruamel.yaml.comments import CommentedMap, CommentedSeq
from ruamel.yaml.error import YAMLError

from barrio.core.brief import pieces, reader
from barrio.core.brief.model import Brief
from barrio.core.errors import Fault, Refused, refuse
from barrio.core.printed import Printed

MOST_BYTES = reader.MOST_BYTES
LONG = 8_000
"""Characters above which a text is edited piece by piece; it takes half a millisecond for each hundred as a whole."""


@dataclass(frozen=True, slots=True)
class Document:
    """A brief with its text. `lines` maps a path to the line (from 1) where it is written, `columns` to its column."""

    text: str
    brief: Brief
    lines: Mapping[str, int]
    columns: Mapping[str, int] = field(default_factory=dict)


@lru_cache(maxsize=16)
def read(text: str) -> Document:
    """A document from its text; texts that were read a moment ago are not read again.

    Raises `Refused` with the line of each fault (`yaml.*` for the text itself, `brief.*` for what it says).
    """
    plain, places = reader.load(text)
    try:
        brief = Brief.model_validate(plain)
    except ValidationError as error:
        raise Refused(faults_of(error, places)) from None
    lines = {path: line for path, (line, _) in places.items()}
    return Document(text, brief, lines, {path: column for path, (_, column) in places.items()})


def locate(error: Refused, document: Document) -> Refused:
    """The same refusal with the line and column of each fault filled in, where the text has its field."""
    places = {path: (line, document.columns.get(path, 0)) for path, line in document.lines.items()}
    located = []
    for fault in error.faults:
        line, column = (fault.line, fault.column) if fault.line else _place_of(fault.path, places)
        located.append(Fault(fault.code, fault.message, fault.path, line, column))
    return Refused(located)


Edits = Sequence[tuple[str, object]]
"""Changes to fields, as (path, value); None takes a field out, so that its default holds."""


def apply(text: str, edits: Edits) -> str:
    """The text with fields changed, one after the other, read once and written once. Comments and order stay.

    Raises `Refused` (`edit.path`) when a path leads nowhere.
    """
    if len(text) > LONG:
        changed = pieces.apply(text, reader.load(text)[1], edits, split_path, _apply)
        if changed is not None:
            return changed
    return _apply(text, edits)


def _apply(text: str, edits: Edits) -> str:
    data = _load(text)
    for path, value in edits:
        _edit(data, path, value)
    return _dump(data)


def set_value(text: str, path: str, value: object) -> str:
    """The text with one field changed, as `apply`."""
    return apply(text, [(path, value)])


def _edit(data: CommentedMap, path: str, value: object) -> None:
    steps = split_path(path)
    if not steps:
        raise refuse("edit.path", "An edit needs the path of a field, such as spines.count.")
    here: Any = data
    for step, following in pairwise(steps):
        try:
            here = here[step]
        except (KeyError, IndexError, TypeError):
            if not isinstance(here, CommentedMap) or isinstance(step, int) or value is None:
                raise refuse("edit.path", f"The brief has nothing at {path}.", path) from None
            here[step] = CommentedSeq() if isinstance(following, int) else CommentedMap()
            here = here[step]
    check_depth(value, path)
    # A copy, so that a value used twice is written twice and not as an alias.
    _put(here, steps[-1], deepcopy(value), path)
    first = data.get(steps[0])
    if value is None and len(steps) > 1 and isinstance(first, CommentedMap) and not first:
        del data[steps[0]]


def check_depth(value: object, path: str) -> None:
    """Refuse (`edit.depth`) a value that is nested deeper than a brief may be."""
    layer = [value]
    for _ in range(reader.MOST_DEPTH):
        layer = [
            inner
            for one in layer
            if isinstance(one, dict | list)
            for inner in (one.values() if isinstance(one, dict) else one)
        ]
        if not layer:
            return
    raise refuse("edit.depth", f"This value is nested more than {reader.MOST_DEPTH} deep.", path)


def _put(here: Any, step: str | int, value: object, path: str) -> None:
    if isinstance(here, CommentedMap) and isinstance(step, str):
        if value is None:
            here.pop(step, None)
        else:
            here[step] = value
    elif isinstance(here, CommentedSeq) and isinstance(step, int) and step <= len(here):
        if value is None:
            del here[step]
        elif step == len(here):
            here.append(value)
        else:
            here[step] = value
    else:
        raise refuse("edit.path", f"The brief has nothing at {path}.", path)


def split_path(path: str) -> list[str | int]:
    """The steps of a path. A key with dots or slashes stands in quotes: `names."leaf/r07/b"`.

    >>> split_path('racks[0].model')
    ['racks', 0, 'model']
    """
    steps: list[str | int] = []
    for quoted, plain, place in re.findall(r'"([^"]*)"|([^.\[\]"]+)|\[(\d{1,6})\]', path):
        steps.append(int(place) if place else quoted or plain)
    return steps


def _yaml() -> YAML:
    yaml = YAML(typ="rt", pure=True)
    yaml.representer.add_multi_representer(Printed, lambda made, word: made.represent_str(str(word)))
    yaml.preserve_quotes = True
    yaml.width = 4096
    yaml.indent(mapping=2, sequence=4, offset=2)
    return yaml


def _load(text: str) -> CommentedMap:
    """The text in the form that keeps comments and order."""
    reader.load(text)
    try:
        data = _yaml().load(text)
    except (YAMLError, ValueError) as error:
        raise refuse("yaml.syntax", f"This is not YAML: {str(error).splitlines()[0]}.") from None
    assert isinstance(data, CommentedMap)
    return data


def _place_of(path: str, places: Mapping[str, tuple[int, int]]) -> tuple[int, int]:
    """Where a path is written, or the nearest part of it that is."""
    while path:
        if path in places:
            return places[path]
        path = re.sub(r'(\.?("[^"]*"|[^.\["]+)|\[\d+\])$', "", path)
    return 0, 0


def faults_of(error: ValidationError, places: reader.Places) -> list[Fault]:
    """What pydantic found wrong, in words, each with its path, line and column."""
    faults = []
    for entry in error.errors(include_url=False, include_input=False):
        path = ""
        for step in entry["loc"]:
            path += f"[{step}]" if isinstance(step, int) else f".{reader.quoted(step)}" if path else reader.quoted(step)
        path = path.removesuffix('."[key]"')
        line, column = _place_of(path, places)
        faults.append(Fault(f"brief.{entry['type'].replace('_', '-')}", _words(path, entry), path, line, column))
    return faults


def _words(path: str, entry: Any) -> str:
    kind, message = entry["type"], str(entry["msg"])
    context = entry.get("ctx", {})
    field = path or "the brief"
    match kind:
        case "extra_forbidden":
            return f"There is no field “{field}”. Check its spelling, or take it out."
        case "missing":
            return f"{field} is missing."
        case "literal_error":
            return f"{field} can be {context['expected'].replace(' or ', ', or ')}."
        case "greater_than_equal":
            return f"{field} must be {context['ge']} or more."
        case "less_than_equal":
            return f"{field} must be {context['le']} or less."
        case "int_type" | "int_from_float":
            return f"{field} must be a whole number, without quotes."
        case "bool_type":
            return f"{field} must be true or false."
        case "string_type":
            return f"{field} must be text; put it in quotes."
        case "value_error":
            return f"{field}: {message.removeprefix('Value error, ').rstrip('.')}."
        case "dict_type" | "model_type":
            return f"{field} must hold fields, one a line, indented under it."
        case "list_type":
            return f"{field} must be a list: one item a line, each starting with “- ”."
        case _:
            return f"{field}: {message[:1].lower()}{message[1:].rstrip('.')}."


def _dump(data: CommentedMap) -> str:
    out = StringIO()
    _yaml().dump(data, out)
    return out.getvalue()
