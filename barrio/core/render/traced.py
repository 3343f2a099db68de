"""A line of a file and where it comes from: its place in a template, the values that it prints, and the conditions that let it through."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Span:
    """Columns `start` to `end` of a line print the value at `path`."""

    start: int
    end: int
    path: str


@dataclass(frozen=True, slots=True)
class Condition:
    """A condition (`if`) that held, or a loop (`for`) that ran, with the paths that it read."""

    kind: str
    source: str
    template: str
    line: int
    paths: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class TracedLine:
    text: str
    template: str
    template_line: int
    spans: tuple[Span, ...]
    conditions: tuple[Condition, ...]
