"""A text as a tree by its indentation: lines cut into words, with the lines inside them, and loops where some have become one."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from barrio.core.targets.own.values import Scope

_TOKEN = r"[A-Za-z0-9_/@+-](?:[A-Za-z0-9_.:/@+-]*[A-Za-z0-9_/@+-])?|[^A-Za-z0-9_/@+-]+"


@dataclass(slots=True)
class Token:
    """A piece of a line, and the expressions that would print it; nothing where it is only text."""

    text: str
    could: list[str] = field(default_factory=list)


@dataclass(slots=True)
class Node:
    """A line with the lines inside it. `tokens` are those of the line without its indentation; `head` are its words, `words` those of its
    whole block."""

    number: int
    indent: str
    tokens: list[Token]
    inside: list[Node | Loop]
    head: frozenset[str] = frozenset()
    words: frozenset[str] = frozenset()
    when: str = ""


@dataclass(slots=True)
class Loop:
    """Nodes that stand once for each of a list."""

    variable: str
    over: str
    when: str
    body: list[Node | Loop]


Body = list[Node | Loop]


class Cutter:
    """Cuts lines into words. Free texts of the model stay in one piece; a word that is no value is cut further where a part of it is one."""

    def __init__(self, whole: Scope) -> None:
        scopes, self._known = [whole], set[str]()
        while scopes:
            scope = scopes.pop()
            self._known |= scope.forms.keys()
            scopes += [Scope("one", thing) for things in scope.lists.values() for thing in things]
        phrases = sorted((text for text in self._known if " " in text), key=len, reverse=True)
        self._words = re.compile("|".join([*map(re.escape, phrases), _TOKEN]))

    def cut(self, line: str) -> list[Token]:
        return [Token(part) for word in self._words.findall(line) for part in self._parts(word)]

    def _parts(self, word: str) -> list[str]:
        if word in self._known or (word.isalnum() and word.isalpha()):
            return [word]
        for separator in ("/", ":", "."):
            parts = re.split(f"({re.escape(separator)})", word)
            if len(parts) > 1 and any(part in self._known and not part.isdigit() for part in parts):
                return parts
        number = re.fullmatch(r"([A-Za-z-]+)([0-9]+)", word)
        return [number[1], number[2]] if number and number[2] in self._known else [word]


def tree_of(lines: Sequence[str], cutter: Cutter) -> list[Node]:
    """The lines of a text, those that begin at its left edge with the others inside them."""
    top: list[Node | Loop] = []
    stack: list[tuple[int, list[Node | Loop]]] = [(-1, top)]
    nodes: list[tuple[Node, int]] = []
    for number, line in enumerate(lines, 1):
        bare = line.lstrip()
        depth = len(line) - len(bare)
        if bare:
            while len(stack) > 1 and stack[-1][0] >= depth:
                stack.pop()
        node = Node(number, line[:depth], cutter.cut(bare), [])
        node.head = node.words = frozenset(token.text for token in node.tokens)
        stack[-1][1].append(node)
        nodes.append((node, depth))
        if bare:
            stack.append((depth, node.inside))
    for node, _ in reversed(nodes):
        node.words = node.head.union(*(one.words for one in nodes_in(node.inside)))
    return nodes_in(top)


def nodes_in(parts: Sequence[Node | Loop]) -> list[Node]:
    """The parts that are lines."""
    return [one for one in parts if isinstance(one, Node)]
