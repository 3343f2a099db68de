"""Why a line stands in a file: its template line, the conditions that let it through, and its values' chains."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from barrio.core.because.chain import Step, rule_step
from barrio.core.because.values import of_value
from barrio.core.brief.document import Document
from barrio.core.compiled import Compiled
from barrio.core.errors import Refused
from barrio.core.render.target import Target
from barrio.core.render.trace import why
from barrio.core.render.traced import Condition, TracedLine


@dataclass(frozen=True, slots=True)
class LineReason:
    """Why a line is in a file: its template line and conditions, then the chain of each value that it prints."""

    line: TracedLine
    steps: tuple[Step, ...]
    values: tuple[tuple[str, str, tuple[Step, ...]], ...]


def of_line(document: Document, compiled: Compiled, switch: str, file: str, number: int) -> LineReason:
    """The reasons for line `number` (from 1) of a file. Raises `KeyError` when there is no such line, `Refused` when the target has no files for the
    switch."""
    found = compiled.switch(switch)
    if found is None:
        raise KeyError(switch)
    if found.key in compiled.without_files:
        raise Refused([compiled.without_files[found.key]])
    lines = compiled.traced(found.key, file)
    if not 1 <= number <= len(lines):
        raise KeyError(f"{file}:{number}")
    return of_traced(document, compiled, found.key, lines[number - 1])


def of_traced(document: Document, compiled: Compiled, key: str, line: TracedLine) -> LineReason:
    """The reasons for a line of a switch that was traced before."""
    target = compiled.targets[key]
    steps = [
        Step(
            "template",
            _template_title(line),
            f"{target.name}, {line.template}, line {line.template_line}",
            {"template": line.template, "line": line.template_line},
        )
    ]
    reason = why(target, line.template, line.template_line)
    if reason:
        steps.append(rule_step(reason[0], reason[1] or "template"))
    for condition in reversed(line.conditions):
        steps.extend(_condition(document, compiled, target, condition))
    values = []
    for path in dict.fromkeys(span.path for span in line.spans):
        text = next(line.text[span.start : span.end] for span in line.spans if span.path == path)
        values.append((path, text, of_value(document, compiled, path)))
    return LineReason(line, tuple(steps), tuple(values))


def _template_title(line: TracedLine) -> str:
    loops = [condition.source for condition in line.conditions if condition.kind == "for"]
    if not loops:
        return "The template prints it"
    thing = re.match(r"for (\w+)", loops[-1])
    return f"The template prints it for every {_THING.get(thing[1] if thing else '', 'item')}"


_THING = {
    "port": "port", "segment": "segment", "vrf": "VRF", "user": "user", "key": "SSH key", "server": "server",
    "entry": "underlay range", "vlan": "VLAN", "session": "session",
}  # fmt: skip


def _condition(document: Document, compiled: Compiled, target: Target, condition: Condition) -> Iterator[Step]:
    where = f"{condition.template}, line {condition.line}"
    refs: dict[str, str | int] = {"template": condition.template, "line": condition.line}
    if condition.kind == "for":
        path = condition.paths[0] if condition.paths else ""
        if re.fullmatch(r"switches/[^/]+/(fabric_ports|segments|vrfs|sessions|outside)/[^/]+", path):
            yield from of_value(document, compiled, path)
        return
    yield Step("condition", f"Since {_in_words(target, condition)}", f"{condition.source}; {where}", refs)
    for path in condition.paths:
        yield from (step for step in of_value(document, compiled, path)[-1:] if step.kind == "brief")


def _in_words(target: Target, condition: Condition) -> str:
    for pattern, true, false in target.conditions:
        if re.search(pattern, condition.source):
            return false if condition.source.startswith("not ") else true
    return f"“{condition.source}” held"


def printed_on(compiled: Compiled, switch_names: tuple[str, ...], text: str) -> list[tuple[str, str, int]]:
    """Where a text stands in the files of some switches: (switch, file, line from 1)."""
    found = []
    whole = re.compile(rf"(?<![\w.:]){re.escape(text)}(?![\w.:])")
    for name in switch_names:
        switch = compiled.switch(name)
        if switch is None or switch.key in compiled.without_files:
            continue
        for path, said in compiled.files(switch.key).items():
            for number, line in enumerate(said.split("\n"), 1):
                if whole.search(line):
                    found.append((name, path, number))
    return found
