"""Between a quick line and a brief: what a line changes in one, the brief that a line begins, and the line that says a brief."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

from barrio.core.brief.compare import changed_paths
from barrio.core.brief.document import apply
from barrio.core.brief.hardware import RackGroup
from barrio.core.brief.model import Brief
from barrio.core.catalogue.model import Catalogue
from barrio.core.edits.quickline import Said, parse_line


def text_of_line(line: str, catalogue: Catalogue) -> str:
    """The text of the brief that a line says. Raises `Refused` with the column of the word that is not understood."""
    said = parse_line(line, catalogue)
    return apply("fabric: x\n", [("fabric", said.name or "new-fabric"), *edits_of(said, None)])


def edits_of(said: Said, brief: Brief | None) -> list[tuple[str, object]]:
    """The edits that make a brief say what the line says. A group of racks keeps what the line does not speak of."""
    fields = dict(said.fields)
    if "pods" in fields and (brief is None or brief.super_spines is None):
        fields.setdefault("super_spines.per_plane", 2)
    elif (
        "pods" not in fields and brief is not None and brief.pods and any(path.startswith("spines.") for path in fields)
    ):
        fields |= {"pods": None, "super_spines": None}
    edits: list[tuple[str, object]] = list(fields.items())
    if said.groups:
        before = {group.racks: group for group in brief.racks} if brief else {}
        edits.append(("racks", [_kept(before.get(group["racks"])) | group for group in said.groups]))
    return edits


_SAID = {"racks", "kind", "pods", "leaves", "model", "role", "pairing", "uplinks_per_spine", "host_speed"}


def _kept(group: RackGroup | None) -> dict[str, Any]:
    if group is None:
        return {}
    return group.model_dump(exclude_unset=True, exclude=_SAID)


def write_line(brief: Brief) -> str:
    """The line that says a brief's shape and routing. `parse_line` reads it back as the same fields."""
    clauses = []
    if brief.pods and brief.super_spines:
        clauses.append(f"{len(brief.pod_names)} pods {_joined(brief.pods)}")
        top = brief.super_spines
        noun = _plural(top.per_plane, "super-spine")
        links = f" with {top.links} links" if top.links > 1 else ""
        clauses.append(f"{top.per_plane} {noun} a plane {top.model} in {_joined(top.racks)}{links}")
    spines = brief.spines
    pod = " a pod" if brief.pods else ""
    clauses.append(f"{spines.count} {_plural(spines.count, 'spine')}{pod} {spines.model} in {_joined(spines.racks)}")
    clauses += [_group_line(group) for group in brief.racks]
    lanes = brief.uplinks_per_spine
    clauses.append(f"{lanes} {_plural(lanes, 'uplink')} per spine")
    addressing = brief.underlay.addressing
    clauses += ["dual stack" if addressing == "dual" else addressing, brief.underlay.protocol]
    if brief.overlay.protocol == "ibgp":
        clauses.append(f"{brief.overlay.reflectors} {_plural(brief.overlay.reflectors, 'reflector')}")
    clauses.append(f"asn per {brief.underlay.asn.removeprefix('per-')}")
    return f"{brief.fabric}: {', '.join(clauses)}"


def _group_line(group: RackGroup) -> str:
    count = len(group.rack_names)
    words: Iterable[str] = [
        str(count),
        "border" if group.role == "border" else "",
        group.kind or "",
        _plural(count, "rack"),
        _joined(group.racks),
        f"in pods {_joined(group.pods)}" if group.pods else "",
        "of",
        {1: "single leaves", 2: "leaf pairs"}.get(group.leaves, f"{group.leaves} leaves"),
        group.model,
        {"multihoming": "joined by multihoming", "peer-link": "joined by peer link"}.get(group.pairing, ""),
        f"with {group.uplinks_per_spine} {_plural(group.uplinks_per_spine, 'uplink')}"
        if group.uplinks_per_spine
        else "",
        f"at {group.host_speed}G" if group.host_speed else "",
    ]
    return " ".join(word for word in words if word)


def _plural(count: int, noun: str) -> str:
    return noun if count == 1 else f"{noun}s"


def _joined(ranges: str) -> str:
    return re.sub(r",\s*", "+", ranges)


def beyond_line(brief: Brief, catalogue: Catalogue) -> list[str]:
    """The fields that a line cannot say: those that a brief made from its own line would lack."""
    said = parse_line(write_line(brief), catalogue)
    data: dict[str, Any] = {"fabric": brief.fabric}
    for path, value in edits_of(said, None):
        here = data
        *stem, last = path.split(".")
        for step in stem:
            here = here.setdefault(step, {})
        here[last] = value
    missing = changed_paths(Brief.model_validate(data), brief)
    return [field for field in dict.fromkeys(map(_outline, missing)) if field not in _RANGES]


_SHAPES = {"racks", "spines", "super_spines", "underlay", "overlay"}
_RANGES = {"pods", "racks.racks", "racks.pods", "spines.racks", "super_spines.racks"}
"""What a line says in its own way: `r01, r02` is `r01..r02` to it."""


def _outline(path: str) -> str:
    """The part of a path that a person would name: a field of the shape, or the section it is in."""
    parts = re.sub(r"\[\d+\]", "", path).split(".")
    return ".".join(parts[:2]) if parts[0] in _SHAPES else parts[0]
