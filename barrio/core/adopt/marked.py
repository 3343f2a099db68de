"""What does not stand there yet, and what is out of service, told by ports that are shut."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from typing import Any

from barrio.core.adopt.found import Findings
from barrio.core.adopt.running import Known
from barrio.core.adopt.shape import Shape

Far = Mapping[str, Mapping[str, tuple[str, str]]]
LATER, OUT = "no switch is there yet", "shut where it runs"


def marked(known: Mapping[str, Known], shape: Shape, far: Far, found: Findings) -> dict[str, Any]:
    """The edits that mark switches and racks: nobody answers there and every port to them is shut, or all of a switch's own links are."""
    edits: dict[str, Any] = {}
    racks: dict[str, list[str]] = defaultdict(list)
    later: dict[str, str] = {}
    for name, key in shape.keys.items():
        if shape.tier[name] == "leaf":
            racks[key.split("/")[1]].append(name)
        ends = [(known[there], port) for there, port in far.get(name, {}).values()]
        reasons = [one.why_shut(port) for one, port in ends if not one.unread]
        if not reasons or any(reason is None for reason in reasons):
            continue
        why = next((reason for reason in reasons if reason), "")
        unread = known[name].unread
        out = any(one.remark(port).startswith("out of service") for one, port in ends if not one.unread)
        if unread and not out:
            later[name] = why or LATER
        elif unread or all(known[name].why_shut(port) is not None for port in far[name]):
            edits[f'out_of_service."{key}"'] = why or OUT
            found.propose(
                "shape",
                f"out/{key}",
                f"{name} is out of service",
                {f'out_of_service."{key}"': why or OUT},
                [f"{'every port to it is' if unread else 'both ends of its links are'} shut"],
                "likely",
            )
    for rack, members in racks.items():
        if all(name in later for name in members):
            why = later[members[0]]
            edits[f'planned_later."rack/{rack}"'] = why
            found.propose(
                "shape",
                f"later/{rack}",
                f"rack {rack} is planned",
                {f'planned_later."rack/{rack}"': why},
                ["every port to it is shut, and nobody answers"],
                "likely",
            )
            for name in members:
                later.pop(name)
    for name, why in later.items():
        path = f'planned_later."{shape.keys[name]}"'
        edits[path] = why
        found.propose(
            "shape",
            f"later/{name}",
            f"{name} is planned",
            {path: why},
            ["every port to it is shut, and nobody answers"],
            "likely",
        )
    return edits
