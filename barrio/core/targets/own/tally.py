"""A target tried on many switches, in numbers: how many it is good for, why not for the others, and what of the model it does not say."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from barrio.core.errors import Refused
from barrio.core.model.switch import SwitchModel
from barrio.core.render.target import Target
from barrio.core.targets.choice import rendered
from barrio.core.targets.report import lacking


@dataclass(frozen=True, slots=True)
class Tally:
    """`same` are the switches whose files are what they were before, `refused` counts why files could not be made, `missing` in how many
    switches' files something of the model is not, by its path."""

    switches: int
    written: int
    same: int
    lines: int
    refused: Mapping[str, int]
    missing: Mapping[str, int]


def tally(switches: Iterable[tuple[SwitchModel, Mapping[str, str]]], target: Target) -> Tally:
    """The target on each of these switches, beside the files that each had before; the commonest reasons come first."""
    refused, missing = Counter[str](), Counter[str]()
    count = written = same = lines = 0
    for model, before in switches:
        count += 1
        try:
            files = rendered(model, target)
        except Refused as error:
            refused[error.faults[0].message.replace(model.name, "a switch")] += 1
            continue
        written += 1
        same += files == before
        lines += sum(text.count("\n") for text in files.values())
        missing.update({path for path, _, _ in lacking(model, target, files)})
    return Tally(count, written, same, lines, dict(refused.most_common()), dict(missing.most_common()))
