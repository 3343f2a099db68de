"""The brief as text: YAML in, a checked `Brief` with the line of every field out; edits that keep comments and order.

The reader is bounded before it builds anything: size, nesting, and no anchors or aliases, so that a hostile document
costs little. Paths are dotted with list places in brackets: `racks[0].model`.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from io import StringIO
from itertools import pairwise
from typing import Any

from pydantic import ValidationError
from ruamel.yaml import YAML
from ruamel.yaml.comments import CommentedMap, CommentedSeq
from ruamel.yaml.constructor import DuplicateKeyError
from ruamel.yaml.error import MarkedYAMLError, YAMLError
from ruamel.yaml.events import (
    AliasEvent,
    MappingEndEvent,
    MappingStartEvent,
    NodeEvent,
    ScalarEvent,
    SequenceEndEvent,
    SequenceStartEvent,
)

from barrio.core.brief.model import Brief
from barrio.core.errors import Fault, Refused, refuse

MOST_BYTES = 256 * 1024
MOST_DEPTH = 12


@dataclass(frozen=True, slots=True)
class Document:
    """A brief with its text. `lines` maps a path to the line (from 1) where it is written."""

    text: str
    brief: Brief
    lines: Mapping[str, int]


def read(text: str) -> Document:
    """A document from its text.

    Raises `Refused` with the line of each fault (`yaml.*` for the text itself, `brief.*` for what it says).
    """
    data = _load(text)
    lines: dict[str, int] = {}
    plain = _plain(data, "", lines)
    try:
        return Document(text, Brief.model_validate(plain), lines)
    except ValidationError as error:
        raise Refused(_faults(error, lines)) from None


def locate(error: Refused, lines: Mapping[str, int]) -> Refused:
    """The same refusal with the line of each fault filled in, where the text has its field."""
    return Refused(
        Fault(fault.code, fault.message, fault.path, fault.line or _line_of(fault.path, lines), fault.column)
        for fault in error.faults
    )


def set_value(text: str, path: str, value: object) -> str:
    """The text with one field changed; `None` takes it out, so that its default holds. Comments and order stay.

    Raises `Refused` (`edit.path`) when the path leads nowhere.
    """
    data = _load(text)
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
    _put(here, steps[-1], value, path)
    _drop_empty(data)
    return _dump(data)


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


def _drop_empty(data: CommentedMap) -> None:
    for key in [key for key, value in data.items() if isinstance(value, CommentedMap) and not value]:
        del data[key]


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
    yaml.preserve_quotes = True
    yaml.width = 4096
    yaml.indent(mapping=2, sequence=4, offset=2)
    return yaml


def _load(text: str) -> CommentedMap:
    size = len(text.encode())
    if size > MOST_BYTES:
        raise refuse(
            "yaml.too-large",
            f"The brief is {size / 1e6:.1f} MB of text; the most is {MOST_BYTES // 1024} KB. Use ranges such as r01..r64.",
        )
    try:
        _guard(text)
        data = _yaml().load(text)
    except DuplicateKeyError as error:
        key = re.search(r'duplicate key "([^"]*)"', str(error.problem))
        raise _slip(
            "yaml.twice", f"“{key[1] if key else '?'}” is written twice here. Take one of them out.", error
        ) from None
    except MarkedYAMLError as error:
        raise _slip("yaml.syntax", f"This is not YAML: {error.problem or error.context}.", error) from None
    except (YAMLError, ValueError) as error:
        raise refuse("yaml.syntax", f"This is not YAML: {str(error).splitlines()[0]}.") from None
    if not isinstance(data, CommentedMap):
        raise refuse("yaml.shape", "A brief is a list of fields, starting with “fabric: name”.", line=1)
    return data


def _guard(text: str) -> None:
    """Refuse what a brief has no use for, and what could cost or confuse, before anything is built."""
    # For each open collection: whether the next node in it is a key (None inside a list).
    awaits_key: list[bool | None] = []
    for event in _yaml().parse(text):
        line = event.start_mark.line + 1
        if isinstance(event, MappingEndEvent | SequenceEndEvent):
            awaits_key.pop()
            continue
        if not isinstance(event, NodeEvent):
            continue
        if isinstance(event, AliasEvent) or event.anchor:
            raise refuse("yaml.anchor", "A brief may not use anchors or aliases. Write the value out.", line=line)
        merge = isinstance(event, ScalarEvent) and event.value == "<<" and not event.style
        if getattr(event, "tag", None) or merge:
            raise refuse("yaml.tag", "A brief may not use tags or merge keys. Write the value out.", line=line)
        is_key = bool(awaits_key and awaits_key[-1])
        if awaits_key and awaits_key[-1] is not None:
            awaits_key[-1] = not is_key
        if isinstance(event, MappingStartEvent | SequenceStartEvent):
            if is_key:
                raise refuse("yaml.key", "The name of a field is a plain word. Write “name: value”.", line=line)
            awaits_key.append(True if isinstance(event, MappingStartEvent) else None)
            if len(awaits_key) > MOST_DEPTH:
                raise refuse("yaml.depth", f"This is nested more than {MOST_DEPTH} deep.", line=line)


def _slip(code: str, message: str, error: MarkedYAMLError) -> Refused:
    mark = error.problem_mark or error.context_mark
    return refuse(code, message, line=mark.line + 1 if mark else 0, column=mark.column + 1 if mark else 0)


def _plain(node: Any, path: str, lines: dict[str, int]) -> Any:
    if isinstance(node, CommentedMap):
        found = {}
        for key, value in node.items():
            name = str(key)
            here = f"{path}.{_quoted(name)}" if path else _quoted(name)
            lines[here] = node.lc.key(key)[0] + 1
            found[name] = _plain(value, here, lines)
        return found
    if isinstance(node, CommentedSeq):
        items = []
        for index, value in enumerate(node):
            here = f"{path}[{index}]"
            lines[here] = node.lc.item(index)[0] + 1
            items.append(_plain(value, here, lines))
        return items
    if isinstance(node, bool) or node is None:
        return node
    for kind in (int, float, str):
        if isinstance(node, kind):
            return kind(node)
    return str(node)


def _quoted(key: str) -> str:
    return f'"{key}"' if re.search(r"[.\[\]/]", key) else key


def _line_of(path: str, lines: Mapping[str, int]) -> int:
    while path:
        if path in lines:
            return lines[path]
        path = re.sub(r'(\.?("[^"]*"|[^.\["]+)|\[\d+\])$', "", path)
    return 0


def _faults(error: ValidationError, lines: Mapping[str, int]) -> list[Fault]:
    faults = []
    for entry in error.errors(include_url=False, include_input=False):
        path = ""
        for step in entry["loc"]:
            path += f"[{step}]" if isinstance(step, int) else f".{_quoted(step)}" if path else _quoted(step)
        path = path.removesuffix('."[key]"')
        faults.append(
            Fault(f"brief.{entry['type'].replace('_', '-')}", _words(path, entry), path, _line_of(path, lines))
        )
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
            return f"{field}: {message.removeprefix('Value error, ')}."
        case "dict_type" | "model_type":
            return f"{field} must hold fields, one a line, indented under it."
        case "list_type":
            return f"{field} must be a list: one item a line, each starting with “- ”."
        case _:
            return f"{field}: {message[:1].lower()}{message[1:]}."


def _dump(data: CommentedMap) -> str:
    out = StringIO()
    _yaml().dump(data, out)
    return out.getvalue()
