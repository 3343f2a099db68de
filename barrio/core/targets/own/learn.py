"""From a configuration that is known to be good to a template: its values are found in the switch's model, and blocks that repeat become loops.

The text is a tree by its indentation. Among the lines of one block, those that speak of one element of a list (a port, a segment) each are
held against each other; where they differ in that element's values alone, or by a line that stands where one of its fields has a value, they
are one loop. What is not understood stays as it is written, so that the template gives back the same text.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, is_dataclass, replace
from itertools import takewhile
from typing import Any

from barrio.core.model.switch import SwitchModel
from barrio.core.targets.own.merge import condition_for, merged
from barrio.core.targets.own.tree import Body, Cutter, Loop, Node, Token, nodes_in, tree_of
from barrio.core.targets.own.values import Scope, could_be, variable_of

MOST_LINES = 5000


@dataclass(frozen=True, slots=True)
class Choice:
    """A value for which two expressions fit: the line of the text (from 1), the value, what was taken, and what else would print it."""

    line: int
    value: str
    taken: str
    others: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Learned:
    """A template made of a text: how many values were found in the model, how many loops were made, and what is to be decided by a person."""

    template: str
    values: int
    loops: int
    choices: tuple[Choice, ...]


def learn(text: str, switch: SwitchModel) -> Learned:
    """A template that gives this text for this switch. Raises `ValueError` for a text of too many lines, or with tags of templates in it."""
    lines = text.splitlines()
    if len(lines) > MOST_LINES:
        raise ValueError(f"the text has {len(lines):,} lines; {MOST_LINES:,} are the most")
    if re.search(r"\{[{%#]", text):
        raise ValueError("the text has tags of templates in it, such as {{; take them out")
    whole = Scope("sw", switch)
    learner = _Learner([whole])
    made = learner.generalised(tree_of(lines, Cutter(whole)))
    writer = _Writer()
    written = "\n".join(writer.lines(made))
    return Learned(f"{written}\n" if written else "", writer.values, writer.loops, tuple(writer.choices))


class _Learner:
    """Finds values and loops with what is in scope: the switch, and the elements of the loops around, whose lists are `open`."""

    def __init__(self, scopes: list[Scope], open: frozenset[str] = frozenset()) -> None:
        self.scopes, self._open = scopes, open
        self._lists = [
            (over, things, self._elements(over, things))
            for scope in scopes
            for over, things in scope.lists.items()
            if over not in open
        ]

    def generalised(self, nodes: Sequence[Node]) -> Body:
        """The nodes of one block with loops in the place of those that repeat, and values found in the others."""
        made: Body = []
        at = 0
        while at < len(nodes):
            loop, end = self._loop_at(nodes, at)
            if loop is None:
                made.append(self._valued(nodes[at]))
                at += 1
            else:
                made.append(loop)
                at = end
        return made

    def _valued(self, node: Node) -> Node:
        """A line with its values found, and its block likewise."""
        line = "".join(token.text for token in node.tokens)
        return replace(
            node,
            tokens=[self._found(token, line) for token in node.tokens],
            inside=self.generalised(nodes_in(node.inside)),
        )

    def _found(self, token: Token, line: str) -> Token:
        could: list[str] = []
        for scope in reversed(self.scopes):
            could += [one for one in could_be(token.text, line, scope) if one not in could]
        return Token(token.text, could)

    def _elements(self, over: str, things: tuple[Any, ...]) -> tuple[list[Scope], dict[str, int]]:
        """The elements of a list, and which of them a text belongs to, where it is of one alone."""
        taken = {scope.expression for scope in self.scopes}
        wanted = variable_of(over.rpartition(".")[2])
        variable = next(
            name for name in (wanted, *(f"{wanted}{number}" for number in range(2, 99))) if name not in taken
        )
        scopes = [Scope(variable, thing) for thing in things]
        owners: dict[str, int | None] = {}
        for index, scope in enumerate(scopes):
            for text in scope.forms:
                owners[text] = None if owners.get(text, index) != index else index
        return scopes, {
            text: index
            for text, index in owners.items()
            if index is not None and not (text.isdigit() and len(text) < 3)
        }

    def _loop_at(self, nodes: Sequence[Node], at: int) -> tuple[Loop | None, int]:
        """The longest loop that begins at a node, and where it ends."""
        best: tuple[Loop | None, int] = (None, at)
        for over, things, (scopes, owners) in self._lists:
            chunks, end = _chunks(nodes, at, owners)
            if end <= best[1] or len(chunks) < min(2, len(things)):
                continue
            if len(chunks) == 1:
                about = list(takewhile(lambda node: _is_about(node, scopes[0]), chunks[0][1]))  # noqa: B023
                chunks, end = [(0, about)], at + len(about)
                if end <= best[1]:
                    continue
            loop = self._loop_over(over, scopes, chunks)
            if loop is not None:
                best = loop, end
        return best

    def _loop_over(self, over: str, scopes: list[Scope], chunks: list[tuple[int, list[Node]]]) -> Loop | None:
        indexes = [index for index, _ in chunks]
        there = [index in indexes for index in range(len(scopes))]
        when = "" if all(there) else condition_for(scopes, there)
        if when is None:
            return None
        inner = self._open | {over}
        bodies = [_Learner([*self.scopes, scopes[index]], inner).generalised(chunk) for index, chunk in chunks]
        body = merged(bodies, [scopes[index] for index in indexes])
        return None if body is None else Loop(scopes[0].expression, over, when, body)


def _is_about(node: Node, scope: Scope) -> bool:
    """Whether a single element is named by the line that begins its block: without others beside it there is nothing else to know a loop by."""
    label = getattr(scope.thing, "label", scope.thing)
    return str(label) in node.head and (is_dataclass(scope.thing) or not node.inside)


def _speaks_of(node: Node, owners: Mapping[str, int]) -> int | None:
    """Which element of a list a node speaks of, and of no other, in its own line or else in its block; nothing when of none or of several."""
    for words in (node.head, node.words):
        found = {owners[word] for word in words if word in owners}
        if found:
            return found.pop() if len(found) == 1 else None
    return None


def _chunks(nodes: Sequence[Node], at: int, owners: Mapping[str, int]) -> tuple[list[tuple[int, list[Node]]], int]:
    """Nodes from a place on, by the element that they speak of; what stands between two of them belongs to the one before."""
    chunks: list[tuple[int, list[Node]]] = []
    between: list[Node] = []
    end = at
    for place in range(at, len(nodes)):
        node = nodes[place]
        index = _speaks_of(node, owners)
        if index is None:
            if not chunks or any(word in owners for word in node.words) or len(between) > 3:
                break
            between.append(node)
            continue
        if chunks and index < chunks[-1][0]:
            break
        if chunks:
            chunks[-1][1].extend(between)
        if chunks and index == chunks[-1][0]:
            chunks[-1][1].append(node)
        else:
            chunks.append((index, [node]))
        between = []
        end = place + 1
    # The last has as much behind it as the one before it.
    if len(chunks) > 1:
        trailing = len(chunks[-2][1]) - len(chunks[-1][1])
        if 0 < trailing <= len(between) and _texts(between[:trailing]) == _texts(chunks[-2][1][-trailing:]):
            chunks[-1][1].extend(between[:trailing])
            end += trailing
    return chunks, end


def _texts(nodes: Sequence[Node]) -> list[str]:
    return ["".join(token.text for token in node.tokens) for node in nodes]


class _Writer:
    """Writes what was found as a template, and keeps count."""

    def __init__(self) -> None:
        self.values = self.loops = 0
        self.choices: list[Choice] = []

    def lines(self, parts: Body) -> Iterator[str]:
        for part in parts:
            if isinstance(part, Loop):
                self.loops += 1
                yield f"{{% for {part.variable} in {part.over}{f' if {part.when}' if part.when else ''} %}}"
                yield from self.lines(part.body)
                yield "{% endfor %}"
                continue
            if part.when:
                yield f"{{% if {part.when} %}}"
            yield part.indent + "".join(self._printed(token, part.number) for token in part.tokens)
            yield from self.lines(part.inside)
            if part.when:
                yield "{% endif %}"

    def _printed(self, token: Token, number: int) -> str:
        if not token.could:
            return token.text
        self.values += 1
        if len(token.could) > 1:
            self.choices.append(Choice(number, token.text, token.could[0], tuple(token.could[1:5])))
        return f"{{{{ {token.could[0]} }}}}"
