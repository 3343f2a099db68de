"""What rehearsals of the very state of a draft say about sealing it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from barrio.app.transaction import Transaction
from barrio.rehearsal.run import AFTER
from barrio.store import rehearsals
from barrio.store.rehearsals import Rehearsed
from barrio.store.reviews import Rule


@dataclass(frozen=True, slots=True)
class Standing:
    """`lacking` is in words what of rehearsals the rule still asks for; `despite` is what its change drill showed that Ripple had not said, for which
    whoever seals gives a reason."""

    lacking: tuple[str, ...]
    despite: str


def standing(tx: Transaction, name: str, rule: Rule, digest: bytes) -> Standing:
    """How a draft, known by the digest of its inputs, stands by its rehearsals."""
    found = rehearsals.of_inputs(tx.connection, name, digest)
    drilled = next((one for one in found if one.wish.get("change")), None)
    return Standing(tuple(_lacking(found)) if rule.rehearsed else (), _other(drilled) if drilled else "")


def _answers(one: Rehearsed) -> list[dict[str, Any]]:
    """The answers that are about the draft: in a change drill, those after it was put on the edition; none where it never came to that."""
    answers: list[dict[str, Any]] = one.found.get("answers", [])
    return [each for each in answers if not one.wish.get("change") or str(each["question"]).endswith(AFTER)]


def _lacking(found: list[Rehearsed]) -> list[str]:
    """What keeps a draft from counting as rehearsed: its newest rehearsal counts."""
    found = [one for one in found if _answers(one)]
    if not found:
        return ["It was not rehearsed as it is now, which this fabric's rule asks for. Rehearse it, every question."]
    no = [str(one["title"]) for one in _answers(found[0]) if one["state"] == "no"]
    if no:
        return [
            f"Its rehearsal said no: {', '.join(no[:3])}{f' and {len(no) - 3} more' if len(no) > 3 else ''}. Mend the draft, and rehearse it again."
        ]
    if "all" not in found[0].wish.get("questions", ()):
        return ["Its newest rehearsal asked only some questions. Rehearse it with every one."]
    return []


def _other(drilled: Rehearsed) -> str:
    """What a change drill showed that was not said; nothing when all of it was."""
    drills = [one for one in drilled.found.get("drills", []) if one["id"] == "change"]
    faults = [str(fault) for one in drills for fault in one["faults"]]
    if not drills:
        faults = ["the draft was not put on the edition, since a drill before it left sessions down"]
    return f"{'; '.join(faults[:3])}{f'; and {len(faults) - 3} more' if len(faults) > 3 else ''}" if faults else ""
