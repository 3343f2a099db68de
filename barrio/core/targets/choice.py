"""Which target each switch's files are written in, and who renders them."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from barrio.core.attach.attachments import Attachments
from barrio.core.brief.model import Brief
from barrio.core.errors import Fault, refuse
from barrio.core.model.switch import SwitchModel
from barrio.core.render.engine import Stale, render
from barrio.core.render.target import Contained, Target
from barrio.core.render.trace import trace
from barrio.core.render.traced import TracedLine
from barrio.core.settings.ladder import Ladder
from barrio.core.structure.parts import Structure


def chosen(ladder: Ladder, structure: Structure, find: Callable[[str, str], Target]) -> dict[str, Target]:
    """The target of each switch, by key. `find` has the target of a name that stands at a path, or raises `Refused`."""
    known: dict[tuple[str, ...], Target] = {}
    found = {}
    for switch in structure.switches:
        rungs = ladder.speaking(switch.standing)
        if rungs not in known:
            won = ladder.climb(rungs, "target")
            known[rungs] = find(won.value, won.path)
        found[switch.key] = known[rungs]
    return found


def refused(
    brief: Brief, structure: Structure, attachments: Attachments, targets: Mapping[str, Target]
) -> dict[str, Fault]:
    """The switches that get no files, by key, with the reason."""
    found = {}
    for target in {id(target): target for target in targets.values()}.values():
        for key, fault in target.refused(brief, structure, attachments).items():
            if targets[key] is target:
                found[key] = fault
    return found


def rendered(switch: SwitchModel, target: Target, stale: Stale | None = None) -> dict[str, str]:
    """Every file of a switch, by path; of a target that ships, those that are not `stale` as they were. Raises `Refused` (`template.*`)."""
    return render(switch, target, stale) if target.templates.package else _apart(target).render(switch, target)


def traced(switch: SwitchModel, path: str, target: Target) -> tuple[TracedLine, ...]:
    """One file with where each line comes from. Raises `KeyError` without such a file, `Refused` (`template.*`)."""
    return trace(switch, path, target) if target.templates.package else _apart(target).trace(switch, path, target)


def _apart(target: Target) -> Contained:
    if target.contained is None:
        words = f"The templates of {target.name} are one's own, and nothing runs them apart here. Ask a Barrio that does: barrio render, or the server."
        raise refuse("template.uncontained", words)
    return target.contained
