"""Blocks that speak of one element of a list each, as the body of one loop: what they share, and what only some of them have."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import fields, is_dataclass, replace
from itertools import product

from barrio.core.targets.own.tree import Body, Loop, Node, Token
from barrio.core.targets.own.values import Scope


def merged(bodies: Sequence[Body], scopes: Sequence[Scope]) -> Body | None:
    """One body for all elements, or nothing. A part that not all have stands under a condition that tells them apart."""
    rows: list[tuple[Node | Loop, list[bool]]] = []
    for which, body in enumerate(bodies):
        rows = _beside(rows, body, which)
    made: Body = []
    for part, seen in rows:
        there = _padded(seen, len(bodies))
        if all(there):
            made.append(part)
            continue
        when = condition_for(scopes, there)
        if not when or isinstance(part, Loop):
            return None
        made.append(replace(part, when=f"{part.when} and {when}" if part.when else when))
    return made


Rows = list[tuple["Node | Loop", list[bool]]]


def _beside(rows: Rows, body: Body, which: int) -> Rows:
    """Rows with the parts of one more body beside those that they are the same as, as many as can be in both orders; others between them."""
    both = [[_both(row[0], part) for part in body] for row in rows]
    longest = [[0] * (len(body) + 1) for _ in range(len(rows) + 1)]
    for one in range(len(rows) - 1, -1, -1):
        for other in range(len(body) - 1, -1, -1):
            longest[one][other] = (
                longest[one + 1][other + 1] + 1
                if both[one][other] is not None
                else max(longest[one + 1][other], longest[one][other + 1])
            )
    found: Rows = []
    one = other = 0
    while one < len(rows) or other < len(body):
        together = both[one][other] if one < len(rows) and other < len(body) else None
        if together is not None:
            found.append((together, [*_padded(rows[one][1], which), True]))
            one, other = one + 1, other + 1
        elif other == len(body) or (one < len(rows) and longest[one + 1][other] >= longest[one][other + 1]):
            found.append((rows[one][0], [*_padded(rows[one][1], which), False]))
            one += 1
        else:
            found.append((body[other], [*[False] * which, True]))
            other += 1
    return found


def _padded(there: list[bool], length: int) -> list[bool]:
    return there + [False] * (length - len(there))


def _both(one: Node | Loop, other: Node | Loop) -> Node | Loop | None:
    """What two parts have in common when they are the same but for the element that they speak of."""
    if isinstance(one, Loop) or isinstance(other, Loop):
        if isinstance(one, Loop) and isinstance(other, Loop) and (one.over, one.when) == (other.over, other.when):
            body = _same(one.body, other.body)
            return replace(one, body=body) if body is not None else None
        return None
    if one.indent != other.indent or len(one.tokens) != len(other.tokens) or one.when != other.when:
        return None
    tokens = []
    for mine, theirs in zip(one.tokens, other.tokens, strict=True):
        common = [expression for expression in mine.could if expression in theirs.could]
        if mine.text != theirs.text and not common:
            return None
        tokens.append(Token(mine.text, common))
    inside = _same(one.inside, other.inside)
    return None if inside is None else replace(one, tokens=tokens, inside=inside)


def _same(one: Body, other: Body) -> Body | None:
    """Two bodies as one, part by part."""
    if len(one) != len(other):
        return None
    found = [_both(mine, theirs) for mine, theirs in zip(one, other, strict=True)]
    return None if any(part is None for part in found) else [part for part in found if part is not None]


def condition_for(scopes: Sequence[Scope], there: Sequence[bool]) -> str | None:
    """The field that has a value for just these elements, as a condition, or one that has while another has not; nothing when none does."""
    if not is_dataclass(scopes[0].thing):
        return None
    name, wanted = scopes[0].expression, list(there)
    has = {one.name: [bool(getattr(scope.thing, one.name)) for scope in scopes] for one in fields(scopes[0].thing)}
    has = {at: truths for at, truths in has.items() if any(truths) and not all(truths)}
    for at, truths in has.items():
        if truths == wanted:
            return f"{name}.{at}"
    lacks = {at: [not truth for truth in truths] for at, truths in has.items()}
    for at, truths in lacks.items():
        if truths == wanted:
            return f"not {name}.{at}"
    for (one, first), (other, second) in product(has.items(), lacks.items()):
        if [a and b for a, b in zip(first, second, strict=True)] == wanted:
            return f"{name}.{one} and not {name}.{other}"
    return None
