"""The slow path: render one file and keep, for each line, why it is there.

The same templates run with two changes. The model is wrapped so that each value knows its path; and the token stream is
rewritten so that the output carries marks (private-use characters) for the template line, for each printed value, and
for each condition and loop that let the text through. `trace` reads the marks back and takes them out, so the
text left is what the fast path prints; a test holds both equal.
"""

from __future__ import annotations

import operator
import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import is_dataclass
from functools import cache
from typing import Any

from jinja2 import Environment
from jinja2.ext import Extension
from jinja2.lexer import Token, TokenStream

from barrio.core.model.switch import SwitchModel
from barrio.core.printed import plain, printable
from barrio.core.render.engine import environment, files_of, own_printable, variables_of
from barrio.core.render.filters import FILTERS
from barrio.core.render.target import Target
from barrio.core.render.traced import Condition, Span, TracedLine

_LINE, _VALUE, _VALUE_END, _ENTER, _LEAVE, _STOP = "\ue010", "\ue011", "\ue012", "\ue013", "\ue014", "\ue015"


class Value:
    """A value of the model that knows its path; behaves in a template as the value itself."""

    __slots__ = ("log", "path", "raw")

    def __init__(self, raw: Any, path: str, log: list[str]) -> None:
        self.raw, self.path, self.log = raw, path, log

    def __getattr__(self, name: str) -> object:
        if name.startswith("_"):
            raise AttributeError(name)
        found = self.raw[name] if isinstance(self.raw, Mapping) and name in self.raw else getattr(self.raw, name)
        return found if callable(found) else Value(found, f"{self.path}/{name}", self.log)

    def __iter__(self) -> Iterator[Value]:
        for index, item in enumerate(self.raw):
            yield Value(item, f"{self.path}/{getattr(item, 'label', index)}", self.log)

    def __len__(self) -> int:
        return len(self.raw)

    def __bool__(self) -> bool:
        self.log.append(self.path)
        return bool(self.raw)

    def __eq__(self, other: object) -> bool:
        self.log.append(self.path)
        return bool(self.raw == (other.raw if isinstance(other, Value) else other))

    def __hash__(self) -> int:
        return hash(self.raw)

    def __contains__(self, item: object) -> bool:
        self.log.append(self.path)
        return item in self.raw

    def __str__(self) -> str:
        return str(self.raw)

    def __int__(self) -> int:
        return int(self.raw)

    def __getitem__(self, at: Any) -> object:
        found = self.raw[at]
        return found if isinstance(at, slice) else Value(found, f"{self.path}/{getattr(found, 'label', at)}", self.log)


def _reckons(name: str) -> Callable[[Value, object], object]:
    """What a value does beside another, as the bare ones do it."""
    does = getattr(operator, name.strip("_"))

    def reckon(self: Value, other: object) -> object:
        self.log.append(self.path)
        return does(self.raw, other.raw if isinstance(other, Value) else other)

    return reckon


for _name in ("__add__", "__sub__", "__mul__", "__floordiv__", "__mod__", "__lt__", "__le__", "__gt__", "__ge__"):
    setattr(Value, _name, _reckons(_name))


class _Marks(Extension):
    """Rewrites the token stream of a template; see the module's head."""

    def filter_stream(self, stream: TokenStream) -> Iterator[Token]:
        name = stream.name or ""
        loops: list[str] = []
        for token in stream:
            if token.type == "data":
                yield Token(token.lineno, "data", _mark_lines(token.value, name, token.lineno))
            elif token.type == "variable_begin":
                yield Token(token.lineno, "data", f"{_LINE}{name}:{token.lineno}{_STOP}")
                yield token
            elif token.type == "block_begin":
                yield from self._block(token, stream, name, loops)
            else:
                yield token

    def _block(self, begin: Token, stream: TokenStream, name: str, open_blocks: list[str]) -> Iterator[Token]:
        inside: list[Token] = []
        while stream.current.type != "block_end":
            inside.append(next(stream))
        end = next(stream)
        word, line = str(inside[0].value), begin.lineno
        if word in ("if", "elif"):
            if word == "elif":
                yield Token(line, "data", _LEAVE)
            condition = inside[1:]
            yield from (begin, inside[0], Token(line, "name", "_held"), Token(line, "lparen", "("))
            yield from condition
            yield from (Token(line, "rparen", ")"), end)
            source = f"if {_source(condition)}"
            yield from self._enter("if", source, name, line)
            if word == "if":
                open_blocks.append(source)
        elif word == "else":
            yield Token(line, "data", _LEAVE)
            yield from (begin, *inside, end)
            yield from self._enter("else", f"not {open_blocks[-1]}", name, line)
        elif word == "for":
            yield from (begin, *inside, end)
            variable = str(inside[1].value)
            open_blocks.append(_source(inside))
            yield Token(line, "data", f"{_ENTER}for\x1f{_source(inside)}\x1f{name}\x1f{line}\x1f")
            yield from _print("variable", line, [Token(line, "name", variable)])
            yield Token(line, "data", _STOP)
        elif word in ("endif", "endfor"):
            open_blocks.pop()
            yield Token(line, "data", _LEAVE)
            yield from (begin, *inside, end)
        else:
            yield from (begin, *inside, end)

    def _enter(self, kind: str, source: str, name: str, line: int) -> Iterator[Token]:
        yield Token(line, "data", f"{_ENTER}{kind}\x1f{source}\x1f{name}\x1f{line}\x1f")
        read = [
            Token(line, "name", "_held"),
            Token(line, "dot", "."),
            Token(line, "name", "last"),
            Token(line, "lparen", "("),
            Token(line, "rparen", ")"),
        ]
        yield from _print("variable", line, read)
        yield Token(line, "data", _STOP)


class _Held:
    """Stands for a condition in a traced template: remembers which paths its evaluation read."""

    log: list[str]

    def __init__(self, log: list[str]) -> None:
        self.log = log
        self.read: tuple[str, ...] = ()

    def __call__(self, value: object) -> bool:
        held = bool(value)
        self.read = tuple(dict.fromkeys(self.log))
        self.log.clear()
        return held

    def last(self) -> str:
        return "\x1e".join(self.read)


def _print(kind: str, line: int, tokens: list[Token]) -> Iterator[Token]:
    yield Token(line, f"{kind}_begin", "{{")
    yield from tokens
    yield Token(line, f"{kind}_end", "}}")


def _source(tokens: list[Token]) -> str:
    text = ""
    glue = True
    for token in tokens:
        word = repr(token.value) if token.type == "string" else str(token.value)
        tight = token.type in ("dot", "rparen", "lparen", "rbracket", "lbracket", "comma")
        text += word if tight or glue else f" {word}"
        glue = token.type in ("dot", "lparen", "lbracket")
    return text


def _mark_lines(data: str, name: str, first: int) -> str:
    lines = data.split("\n")
    marked = [f"{_LINE}{name}:{first + index}{_STOP}{text}" if text else text for index, text in enumerate(lines)]
    # A bare line feed at the start closes the line before it and belongs there.
    return "\n".join(marked)


def _marking(allowed: Callable[[object], object]) -> Callable[[object], object]:
    def mark(value: object) -> object:
        if isinstance(value, Value):
            if is_dataclass(value.raw) or isinstance(value.raw, Mapping):
                return f"{value.path}"
            return f"{_VALUE}{value.path}{_STOP}{allowed(value.raw)}{_VALUE_END}"
        return value

    return mark


def _encode(value: Value) -> Value:
    """The filter `plain` of traced templates: what it prints still knows its path."""
    return Value(plain(value.raw), value.path, value.log)


_WHY = re.compile(r"\s*\{# why: (.*?)(?: \| (.*?))? #\}")
_WHY_ALL = re.compile(r"\{# why-all: (.*?)(?: \| (.*?))? #\}")
_PARAGRAPH_ENDS = re.compile(r"\s*(!?|exit.*|\{% end.*|\{% else %\})")


def why(target: Target, template: str, line: int) -> tuple[str, str] | None:
    """The reason that a template gives for one of its lines, and its source: `{# why: reason | source #}`.

    Such a comment stands above a line and holds for the paragraph that it begins; `why-all` on the first line
    holds for what has none of its own.
    """
    lines = _sources(target, template)
    whole = _WHY_ALL.fullmatch(lines[0])
    otherwise = (whole[1], whole[2] or "") if whole else None
    for above in range(line - 2, -1, -1):
        found = _WHY.fullmatch(lines[above])
        if found:
            return found[1], found[2] or ""
        if _PARAGRAPH_ENDS.fullmatch(lines[above]):
            return otherwise
    return otherwise


@cache
def _sources(target: Target, template: str) -> list[str]:
    loaded = environment(target)
    assert loaded.loader is not None
    return loaded.loader.get_source(loaded, template)[0].split("\n")


@cache
def _traced(target: Target) -> Environment:
    made = environment(target, _marking(printable if target.templates.package else own_printable), _encode, [_Marks])
    made.filters.update({name: _keeping(one) for name, one in FILTERS.items()})
    return made


def _keeping(does: Callable[..., object]) -> Callable[..., object]:
    """A filter whose answer knows the path of what it was asked about."""

    def keep(value: object, *more: object) -> object:
        return Value(does(value.raw, *more), value.path, value.log) if isinstance(value, Value) else does(value, *more)

    return keep


def trace(switch: SwitchModel, path: str, target: Target) -> tuple[TracedLine, ...]:
    """The lines of one file of a switch, each with its template line, its values and its conditions.

    Raises `KeyError` when the switch has no file at `path`.
    """
    plan = next((plan for plan in files_of(switch, target) if plan.path == path), None)
    if plan is None:
        raise KeyError(path)
    log: list[str] = []
    root = Value(switch, f"switches/{switch.name}", log)
    given = {}
    if plan.owner is not None:
        place = "relays" if plan.kind.each == "relay" else "common/users"
        given[plan.kind.each] = Value(plan.owner, f"{root.path}/{place}/{plan.owner.label}", log)
    given["vars"] = Value(variables_of(switch), f"{root.path}/common/variables", log)
    template = _traced(target).get_template(plan.kind.template)
    text = template.render(sw=root, **given, _held=_Held(log))
    return tuple(_Reader(text, plan.kind.template).lines())


class _Reader:
    """Takes the marks out of rendered text, line by line."""

    def __init__(self, text: str, template: str) -> None:
        self.text, self.place = text, 0
        self.template, self.number = template, 1
        self.stack: list[Condition] = []

    def lines(self) -> Iterator[TracedLine]:
        out: list[str] = []
        spans: list[Span] = []
        opened: list[tuple[int, str]] = []
        column = 0
        first: tuple[str, int] | None = None
        held: tuple[Condition, ...] = ()
        while self.place < len(self.text):
            char = self.text[self.place]
            self.place += 1
            if char == _LINE:
                self.template, _, number = self._until(_STOP).rpartition(":")
                self.number = int(number)
            elif char == _VALUE:
                opened.append((column, self._until(_STOP)))
            elif char == _VALUE_END:
                start, path = opened.pop()
                spans.append(Span(start, column, path))
            elif char == _ENTER:
                self._enter()
            elif char == _LEAVE:
                self.stack.pop()
            elif char == "\n":
                template, line = first or (self.template, self.number)
                yield TracedLine("".join(out), template, line, tuple(spans), held if first else tuple(self.stack))
                out, spans, column, first, held = [], [], 0, None, ()
            else:
                if first is None:
                    first, held = (self.template, self.number), tuple(self.stack)
                out.append(char)
                column += 1

    def _until(self, mark: str) -> str:
        end = self.text.index(mark, self.place)
        found, self.place = self.text[self.place : end], end + 1
        return found

    def _enter(self) -> None:
        fields: list[str] = []
        text, depth = "", 0
        # The last field is a printed value, which has marks of its own.
        while True:
            char = self.text[self.place]
            self.place += 1
            if char == _VALUE:
                depth += 1
                text += self._until(_STOP)
                self._until(_VALUE_END)
                depth -= 1
            elif char == "\x1f":
                fields.append(text)
                text = ""
            elif char == _STOP:
                break
            else:
                text += char
        kind, source, template, line = fields
        paths = tuple(path for path in text.split("\x1e") if path)
        self.stack.append(Condition(kind, source, template, int(line), paths))
