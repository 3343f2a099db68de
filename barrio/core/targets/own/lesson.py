"""What is learned from a configuration, tried at once: on its own switch, where it has to give back the same, and on a second one."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from difflib import unified_diff

from barrio.core.errors import Refused, refuse
from barrio.core.model.switch import SwitchModel
from barrio.core.render.target import Contained, FileKind, Target, Templates
from barrio.core.targets.own.learn import Learned, learn

MOST_LINES = 40


@dataclass(frozen=True, slots=True)
class Lesson:
    """What was learned; whether the template gives back the same text, and the lines that are other; what a second switch gets."""

    learned: Learned
    same: bool
    differs: tuple[str, ...]
    second: str


def learn_from(text: str, switch: SwitchModel, second: SwitchModel | None, contained: Contained) -> Lesson:
    """A template made of a switch's text. Raises `Refused` (`learn.text`) for a text that cannot be learned from."""
    plain = text.replace("\r\n", "\n")
    plain = plain if plain.endswith("\n") or not plain else f"{plain}\n"
    try:
        learned = learn(plain, switch)
    except ValueError as error:
        raise refuse("learn.text", f"Nothing can be learned from this: {error}.", "text") from None
    digest = hashlib.sha256(learned.template.encode()).hexdigest()
    target = Target(
        "learned", Templates(own={"learned.j2": learned.template}, digest=digest), (FileKind("text", "learned.j2", ""),)
    )
    given = _given(contained, switch, target)
    lines = unified_diff(plain.split("\n"), given.split("\n"), "given", "by the template", "", "", 0, "")
    differs = tuple(line for line in lines if not line.startswith(("---", "+++", "@@")))
    return Lesson(learned, given == plain, differs[:MOST_LINES], _given(contained, second, target) if second else "")


def _given(contained: Contained, switch: SwitchModel, target: Target) -> str:
    try:
        return contained.render(switch, target)["text"]
    except Refused as error:
        return error.faults[0].message
