"""Two texts of one file held against each other by meaning: each changed line with the thing it is about and what it does.

The order of lines that say the same counts for nothing. A line that says something else of the same thing is one change, and lines that move
with a block that is made anew are told under the block's own line.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from barrio.core.render.effects import Effect, EffectRule, Effects, FileEffects

Stack = tuple[str, ...]
"""The lines that begin the blocks around a line, the outermost first."""


@dataclass(frozen=True, slots=True)
class LineChange:
    """A change of one line: what was said and what is said, of which one may be nothing; what it does, by which rule. `about` are the things that
    the line and its blocks name, by their kind; `within` are its blocks as they read."""

    path: str
    within: Stack
    before: str
    after: str
    effect: Effect
    about: Mapping[str, str] = field(hash=False)
    rule: EffectRule | None = None
    why: str = ""
    source: str = ""

    @property
    def words(self) -> str:
        """The change as one reads it."""
        return f"{self.before} → {self.after}" if self.before and self.after else self.after or self.before


class _Said(NamedTuple):
    """A line by what it means: which thing of which blocks it is about, and what it says."""

    identity: tuple[object, ...]
    line: str
    within: Stack
    about: Mapping[str, str]
    rule: EffectRule | None
    added: bool


_Line = tuple[Stack, str, bool]
"""A line with the blocks that it stands in, and whether somebody added it."""
_Blocks = list[tuple[int, str]]
"""The blocks that are open: the indentation and the first line of each."""
_MOST_KEPT = 100_000


class Reader:
    """Reads changes by the rules of a target; what it has once understood of a line it knows for the next switch."""

    def __init__(self, effects: Effects) -> None:
        self._effects = effects
        self._by_file: dict[int, _FileReader] = {}

    def changes(self, path: str, before: str, after: str) -> list[LineChange]:
        """What is other between two texts of the file at `path`; an empty text is no file."""
        if before == after:
            return []
        rules = self._effects.of(path)
        reader = self._by_file.get(id(rules))
        if reader is None:
            reader = self._by_file[id(rules)] = _FileReader(rules)
        gone, come = _apart(before.split("\n"), after.split("\n"), rules, " added:" in before or " added:" in after)
        reader.cancel(gone, come)
        return list(_paired(path, [*reader.all_of(gone)], [*reader.all_of(come)], rules))


def _apart(
    ours: Sequence[str], theirs: Sequence[str], rules: FileEffects, added: bool
) -> tuple[Counter[_Line], Counter[_Line]]:
    """The lines that only one of two texts has, whatever their order in their block."""
    low = 0
    for one, other in zip(ours, theirs, strict=False):
        if one != other:
            break
        low += 1
    high = 0
    for one, other in zip(reversed(ours[low:]), reversed(theirs[low:]), strict=False):
        if one != other:
            break
        high += 1
    # Lines of a block whose own first line is other are others too, though they read the same.
    least = min(_least(ours[low : len(ours) - high]), _least(theirs[low : len(theirs) - high]))
    while high and _indent(ours[len(ours) - high]) > least:
        high -= 1
    if len(ours) == len(theirs) and not added:
        places = [at for at in range(low, len(ours) - high) if ours[at] != theirs[at]]
        if all(_alone(ours, at, rules.comment) and _alone(theirs, at, rules.comment) for at in places):
            # Lines in the same place of the same blocks: the others need not be read.
            stacks = list(_around(ours, places, rules.comment))
            gone = Counter((stack, ours[at].strip(), False) for at, stack in zip(places, stacks, strict=True))
            come = Counter((stack, theirs[at].strip(), False) for at, stack in zip(places, stacks, strict=True))
            return gone - come, come - gone
    opened, added_to = _opened(ours, low, rules.comment), False
    for line in ours[:low] if added else ():
        added_to = _adds(line.strip(), added_to)
    gone = Counter(_lines(ours[low : len(ours) - high], rules, opened, added_to))
    come = Counter(_lines(theirs[low : len(theirs) - high], rules, opened, added_to))
    both = gone & come
    return gone - both, come - both


def _least(lines: Sequence[str]) -> int:
    """The smallest indentation of lines that say something; large where there are none."""
    if any(line and not line[0].isspace() for line in lines):
        return 0
    return min((_indent(line) for line in lines if line.strip()), default=_NOTHING)


_NOTHING = 1000


def _alone(lines: Sequence[str], at: int, comment: str) -> bool:
    """Whether a line says something, and begins no block."""
    line = lines[at].strip()
    if not line or line.startswith(comment):
        return False
    return at + 1 == len(lines) or _indent(lines[at + 1]) <= _indent(lines[at])


def _indent(line: str) -> int:
    return len(line) - len(line.lstrip())


def _opened(lines: Sequence[str], at: int, comment: str) -> _Blocks:
    """The blocks that are open before a line."""
    blocks: _Blocks = []
    for before in range(at - 1, -1, -1):
        raw = lines[before]
        line = raw.strip()
        if not line or line.startswith(comment):
            continue
        indent = _indent(raw)
        if not blocks or indent < blocks[-1][0]:
            blocks.append((indent, line))
        if indent == 0:
            break
    return blocks[::-1]


def _around(lines: Sequence[str], places: Sequence[int], comment: str) -> Iterator[Stack]:
    """The blocks around each of some lines, whose places ascend; no line is read twice."""
    blocks: _Blocks = []
    done = 0
    for at in places:
        found: _Blocks = []
        wanted = _indent(lines[at])
        for before in range(at - 1, done - 1, -1):
            if wanted == 0:
                break
            raw = lines[before]
            line = raw.strip()
            if line and not line.startswith(comment) and _indent(raw) < wanted:
                wanted = _indent(raw)
                found.append((wanted, line))
        blocks = [one for one in blocks if one[0] < wanted] + found[::-1]
        done = at
        yield tuple(line for _, line in blocks)


def _adds(line: str, added: bool) -> bool:
    """Whether the lines after this one were added by somebody."""
    return (added or line.endswith(" added:")) and not line.endswith("end of what was added")


def _lines(lines: Sequence[str], rules: FileEffects, opened: _Blocks, added: bool) -> Iterator[_Line]:
    """Each line that says something, with its blocks, and whether somebody added it."""
    ends, comment, flat = frozenset(rules.ends), rules.comment, not rules.rules
    indents = [indent for indent, _ in opened]
    stacks: list[Stack] = [tuple(line for _, line in opened[:depth]) for depth in range(len(opened) + 1)]
    for raw in lines:
        line = raw.strip()
        if comment and line.startswith(comment):
            added = _adds(line, added)
            continue
        if not line or line in ends:
            continue
        if flat:
            yield (), line, added
            continue
        indent = len(raw) - len(raw.lstrip())
        while indents and indents[-1] >= indent:
            indents.pop()
            stacks.pop()
        stack = stacks[-1]
        yield stack, line, added
        indents.append(indent)
        stacks.append((*stack, line))


class _FileReader:
    """Reads lines by the rules of a file, and keeps what it has read."""

    def __init__(self, rules: FileEffects) -> None:
        self._rules = rules
        self._blocks: dict[Stack, tuple[tuple[object, ...], Mapping[str, str]]] = {(): ((), {})}
        self._read: dict[_Line, _Said] = {}

    def cancel(self, gone: Counter[_Line], come: Counter[_Line]) -> None:
        """Take out the lines that both have in one block whose own first line says something else."""
        if {stack for stack, _, _ in gone} == {stack for stack, _, _ in come}:
            return
        theirs = {(self._block(stack)[0], line): (stack, line, added) for stack, line, added in come}
        for one in list(gone):
            other = theirs.get((self._block(one[0])[0], one[1]))
            if other is not None and other[2] == one[2] and gone[one] == come[other]:
                del gone[one], come[other]

    def all_of(self, lines: Counter[_Line]) -> Iterator[_Said]:
        for one, count in lines.items():
            said = self._read.get(one)
            if said is None:
                if len(self._read) > _MOST_KEPT:
                    self._read.clear()
                said = self._read[one] = self._said(*one)
            yield from [said] * count

    def _said(self, stack: Stack, line: str, added: bool) -> _Said:
        identity, about = self._block(stack)
        rule, found = self._rule(stack, line)
        return _Said((*identity, self._identity(rule, found, line)), line, stack, {**about, **found}, rule, added)

    def _block(self, stack: Stack) -> tuple[tuple[object, ...], Mapping[str, str]]:
        """Which blocks these are, and what they are about, whatever else their lines say."""
        known = self._blocks.get(stack)
        if known is None:
            identity, about = self._block(stack[:-1])
            rule, found = self._rule(stack[:-1], stack[-1])
            known = ((*identity, self._identity(rule, found, stack[-1])), {**about, **found})
            self._blocks[stack] = known
        return known

    def _rule(self, stack: Stack, line: str) -> tuple[EffectRule | None, dict[str, str]]:
        for rule in self._rules.rules_for(len(stack), line.partition(" ")[0]):
            shapes = rule.shapes
            found = shapes[-1].fullmatch(line)
            if found and all(one.fullmatch(block) for one, block in zip(shapes, stack, strict=False)):
                return rule, found.groupdict()
        return None, {}

    @staticmethod
    def _identity(rule: EffectRule | None, found: Mapping[str, str], line: str) -> object:
        return line if rule is None else (id(rule), *(one for hole, one in found.items() if hole != "joins"))


def _paired(path: str, removed: list[_Said], added: list[_Said], rules: FileEffects) -> Iterator[LineChange]:
    """What was removed and added, those beside each other that are about the same thing; what goes or comes with its block only as that."""
    gone: dict[tuple[object, ...], list[_Said]] = {}
    come: dict[tuple[object, ...], list[_Said]] = {}
    for found, lines in ((gone, removed), (come, added)):
        for one in lines:
            found.setdefault(one.identity, []).append(one)
    without = {identity for identity in gone if identity not in come}
    fresh = {identity for identity in come if identity not in gone}
    for identity, lines in gone.items():
        others = come.get(identity, [])
        for at, one in enumerate(lines):
            after = others[at] if at < len(others) else None
            if after is None or after.line != one.line:
                yield _change(path, one, after, rules, _inside(identity, without))
    for identity, lines in come.items():
        for one in lines[len(gone.get(identity, ())) :]:
            yield _change(path, None, one, rules, _inside(identity, fresh))


def _inside(identity: tuple[object, ...], blocks: set[tuple[object, ...]]) -> bool:
    """Whether a line goes or comes together with a block around it."""
    return any(identity[:depth] in blocks for depth in range(1, len(identity)))


def _change(path: str, before: _Said | None, after: _Said | None, rules: FileEffects, with_block: bool) -> LineChange:
    said = after or before
    assert said is not None
    rule = said.rule
    if with_block:
        effect, why, source = (Effect.NEW if after else Effect.GONE), "", ""
        # What nobody knows is no better for standing in a block of its own.
        if rule is None and (rules.otherwise is Effect.UNKNOWN or said.added):
            effect = Effect.UNKNOWN
    elif rule is None:
        effect = Effect.UNKNOWN if said.added else rules.otherwise
        why, source = rules.why, rules.source
    else:
        effect, why, source = _by_rule(rule, before, after), rule.why, rule.source
    return LineChange(
        path, said.within, before.line if before else "", after.line if after else "", effect, said.about, rule, why, source,
    )  # fmt: skip


def _by_rule(rule: EffectRule, before: _Said | None, after: _Said | None) -> Effect:
    if before and after:
        if rule.listed and set(before.line.split()) <= set(after.line.split()):
            return Effect.NEW
        return rule.effect
    if rule.thing or rule.listed:
        return Effect.NEW if after else Effect.GONE
    return rule.effect
