"""Checks of trunks: panels that are not there, positions that two trunks claim, and polarity that cannot be kept."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.brief.model import Brief
from barrio.core.brief.reader import quoted
from barrio.core.errors import Fault, nearest
from barrio.core.place.elevation import gear_of


def check_trunks(brief: Brief) -> Iterator[Fault]:
    """Findings about trunks, in the order of the brief."""
    panels = {name: said for name, _, said, _ in gear_of(brief) if said.kind == "panel"}
    claimed: dict[tuple[str, int], str] = {}
    for name, trunk in brief.trunks.items():
        path = f"trunks.{quoted(name)}"
        if trunk.medium.endswith("MPO-12") and trunk.polarity == "C":
            words = f"Trunk {name} is made by method C, which swaps fibres in pairs: no cord keeps the lanes of parallel optics straight through it. Order it by method A or B."
            yield Fault("trunk.polarity", words, f"{path}.polarity")
        for field, panel, first in (("panel", trunk.panel, trunk.first), ("to", trunk.to, trunk.to_first)):
            if panel not in panels:
                words = f"Trunk {name} ends at {panel}, which is no panel.{nearest(panel, panels)} Add it as gear of kind panel."
                yield Fault("trunk.panel", words, f"{path}.{field}")
                continue
            last = first + trunk.positions - 1
            if last > panels[panel].ports:
                words = f"Trunk {name} takes positions {first} to {last} of {panel}, which has {panels[panel].ports}. Take fewer, or say a larger panel."
                yield Fault("trunk.positions", words, path)
            taken = next((at for at in range(first, last + 1) if (panel, at) in claimed), None)
            if taken is not None:
                words = f"Position {taken} of {panel} is taken by {claimed[panel, taken]} and by {name}. A position holds one strand; let one begin elsewhere."
                yield Fault("trunk.twice", words, path)
            claimed |= {(panel, at): name for at in range(first, last + 1)}
