"""The chain of a cable: its crossing, its number, its two ports and its kind."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.because.chain import Step, brief_step, ledger_step, rule_step
from barrio.core.brief.document import Document
from barrio.core.compile import Compiled
from barrio.core.model.build import Ends


def cable_steps(document: Document, compiled: Compiled, end: Ends) -> Iterator[Step]:
    """The chain of a cable: its crossing, number, ports and kind."""
    link, brief = end.link, compiled.brief
    yield rule_step(
        f"Every leaf meets every spine: {link.leaf.name} and {link.spine.name}", "folded Clos; RFC 7938, 3.2"
    )
    yield brief_step(
        document,
        "uplinks_per_spine",
        f"{brief.uplinks_per_spine} from each leaf to each spine; this is link {link.lane}",
    )
    yield ledger_step(compiled, "cable", link.key)
    yield ledger_step(compiled, "port.spine", f"{link.leaf.key}~{link.lane}")
    yield ledger_step(compiled, "port.leaf", f"{link.spine.key}~{link.lane}")
    if link.leaf.rack == link.spine.rack:
        yield rule_step("Both ends stand in one rack, so it is a DAC", "cabling rule")
    else:
        yield brief_step(document, "cabling.kind", f"Between racks the brief uses {brief.cabling.kind}")
    yield rule_step("Each end's label names both ends", "TIA-606")
