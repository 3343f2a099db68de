"""The DOT language, read: nodes and edges as they were written, with their attributes."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cache
from html import unescape
from itertools import pairwise
from typing import Any

from lark import Lark, Token, Tree
from lark.exceptions import LarkError, UnexpectedInput

from barrio.core.errors import refuse
from barrio.core.exchange.links import MOST_LINKS


@dataclass(slots=True)
class Node:
    """A node as it was written: attributes by name, and labels."""

    id: str
    said: dict[str, str]


@dataclass(slots=True)
class Edge:
    """An edge as it was written, with the ports that it names."""

    a: str
    b: str
    said: dict[str, str] = field(default_factory=dict)
    ports: tuple[str, str] = ("", "")


_GRAMMAR = r"""
start: "strict"i? (GRAPH | DIGRAPH) id? "{" _list "}"
_list: (statement ";"?)*
?statement: node | edge | defaults | assign | subgraph
assign: id "=" id
defaults: (GRAPH | NODE | EDGE) attrs+
node: node_id attrs*
edge: end (_OP end)+ attrs*
?end: node_id | subgraph
node_id: id (":" id)*
subgraph: ("subgraph"i id?)? "{" _list "}"
attrs: "[" (attr (";" | ",")?)* "]"
attr: id ("=" id)?
id: WORD | NUMERAL | QUOTED ("+" QUOTED)* | HTML
GRAPH.2: "graph"i
DIGRAPH.2: "digraph"i
NODE.2: "node"i
EDGE.2: "edge"i
_OP: "--" | "->"
WORD: /[a-zA-Z_\u0080-\uffff][\w\u0080-\uffff]*/
NUMERAL: /-?(\.\d+|\d+(\.\d*)?)/
QUOTED: /"(?:[^"\\]|\\.)*"/s
HTML: /<(?:[^<>]|<[^<>]*>)*>/s
%ignore /\s+/
%ignore /\/\/[^\n]*/
%ignore /\/\*.*?\*\//s
%ignore /^#[^\n]*/m
"""


@cache
def _parser() -> Lark:
    return Lark(_GRAMMAR, parser="lalr", propagate_positions=False, maybe_placeholders=False)


def dot(text: str) -> tuple[list[Node], list[Edge]]:
    """The nodes and edges of a graph. Raises `Refused`: `drawing.syntax` with the line, `import.too-many`."""
    try:
        tree = _parser().parse(text)
    except UnexpectedInput as error:
        raise refuse("drawing.syntax", "From here on this is not DOT.", line=error.line) from None
    except (LarkError, RecursionError):
        raise refuse("drawing.syntax", "This is not DOT, or it is nested too deep.") from None
    found = _Dot()
    found.take(tree.children, {})
    return list(found.nodes.values()), found.edges


class _Dot:
    """Statements, one after the other; what a subgraph says counts for its nodes as well."""

    def __init__(self) -> None:
        self.nodes: dict[str, Node] = {}
        self.edges: list[Edge] = []

    def take(self, statements: Iterable[Any], outer: Mapping[str, Mapping[str, str]]) -> list[tuple[str, str]]:
        """The nodes of some statements, each with the port that is named there."""
        usual = {kind: dict(outer.get(kind, {})) for kind in ("node", "edge")}
        every: list[tuple[str, str]] = []
        for one in statements:
            if not isinstance(one, Tree):
                continue
            if one.data == "defaults":
                kind = str(one.children[0]).lower()
                if kind in usual:
                    usual[kind] |= _attrs(one)
            elif one.data == "node":
                every += self._ends(one.children[0], usual, _attrs(one))
            elif one.data == "subgraph":
                every += self.take(one.children, usual)
            elif one.data == "edge":
                every += self._edge(one, usual)
        return every

    def _edge(self, one: Tree[Token], usual: Mapping[str, Mapping[str, str]]) -> list[tuple[str, str]]:
        said = {**usual["edge"], **_attrs(one)}
        groups = [
            self._ends(each, usual, {})
            for each in one.children
            if isinstance(each, Tree) and each.data in ("node_id", "subgraph")
        ]
        for left, right in pairwise(groups):
            for a, a_port in left:
                for b, b_port in right:
                    self.edges.append(Edge(a, b, dict(said), (a_port, b_port)))
                    if len(self.edges) > MOST_LINKS:
                        raise refuse(
                            "import.too-many", f"There are over {MOST_LINKS:,} links. Draw the pods one by one."
                        )
        return [end for group in groups for end in group]

    def _ends(self, one: Any, usual: Mapping[str, Mapping[str, str]], said: dict[str, str]) -> list[tuple[str, str]]:
        if one.data == "subgraph":
            return self.take(one.children, usual)
        name, *ports = [_id(each) for each in one.children]
        node = self.nodes.setdefault(name, Node(name, dict(usual["node"])))
        node.said |= said
        # A compass point is where an edge meets its box, and no port.
        port = next((each for each in ports if each not in ("n", "ne", "e", "se", "s", "sw", "w", "nw", "c", "_")), "")
        return [(name, port)]


def _attrs(one: Tree[Token]) -> dict[str, str]:
    found = {}
    for attrs in one.children:
        if isinstance(attrs, Tree) and attrs.data == "attrs":
            for attr in attrs.children:
                assert isinstance(attr, Tree)
                found[_id(attr.children[0])] = _id(attr.children[1]) if len(attr.children) > 1 else "true"
    return found


def _id(one: Any) -> str:
    words = []
    for token in one.children:
        text = str(token)
        if text[:1] == '"':
            words.append(re.sub(r"\\\n", "", text[1:-1]).replace('\\"', '"'))
        elif text[:1] == "<":
            words.append(unescape(re.sub(r"<[^>]*>", "", re.sub(r"<br\s*/?>", "\n", text[1:-1], flags=re.IGNORECASE))))
        else:
            words.append(text)
    return "".join(words)
