"""The links of a chain: one step for each kind of reason, with the words and refs it needs."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Any, Literal

from barrio.core.brief.document import Document, split_path
from barrio.core.compiled import Compiled
from barrio.core.ledger.demand import FIELDS
from barrio.core.ledger.pool import Family, Plan, Pool, prefix_text
from barrio.core.ledger.prefixes import SEGMENT_SIZES
from barrio.core.ledger.slots import slot_of
from barrio.core.ledger.wanted import Taken
from barrio.core.settings.resolved import Resolved

Kind = Literal["template", "condition", "brief", "office", "ledger", "catalogue", "rule"]


@dataclass(frozen=True, slots=True)
class Step:
    """One reason. `title` is a sentence; `detail` says where it stands; `refs` are for programs (paths, lines, keys)."""

    kind: Kind
    title: str
    detail: str = ""
    refs: dict[str, str | int] = field(default_factory=dict)


def resolved_step(document: Document, said: Resolved[Any], title: str) -> Step:
    """A value that the brief says, and what it says so in place of."""
    step = brief_step(document, said.path, title)
    detail = [step.detail]
    if said.upon:
        detail.append("added to " + " and ".join(_rung(*one) for one in said.upon))
    elif said.beaten and said.beaten[0].value not in (None, "", [], {}):
        detail.append(f"in place of {_rung(*said.beaten[0])}")
    if said.why:
        detail.append(f"because {said.why}")
    return replace(step, detail=", ".join(detail))


def _rung(value: object, path: str) -> str:
    """What a rung says, in words."""
    if isinstance(value, list | dict):
        value = ", ".join(map(str, value)) or "none"
    return f"{value} of {path}" if path else f"Barrio’s own {value}"


def brief_step(document: Document, path: str, title: str) -> Step:
    """A reason that stands in the brief, with its line, or said to be the default when it is not written; or in the office's document."""
    if path.startswith("office."):
        return Step("office", title, f"the office, {path.removeprefix('office.')}", {"path": path})
    line = next((document.lines[at] for at in _ancestors(path) if at in document.lines), 0)
    written = path in document.lines
    where = f"brief, line {line}: {path}" if written else f"brief, {path}, at its default"
    if not written and line:
        where = f"brief, line {line}: {split_path(path)[0]}; {path} at its default"
    return Step("brief", title, where, {"path": path, "line": line})


def _ancestors(path: str) -> Iterator[str]:
    while path:
        yield path
        path = re.sub(r'(\.?("[^"]*"|[^.\["]+)|\[\d+\])$', "", path)


def rule_step(title: str, source: str) -> Step:
    return Step("rule", title, source)


def ledger_step(compiled: Compiled, use: str, key: str) -> Step:
    """A reason that stands in the ledger: which number, of which pool, by which plan."""
    taken = compiled.allocation.numbers[use][key]
    family = _FAMILY.get(use.rsplit(".", 1)[-1], Family.NUMBER)
    text = prefix_text(family, taken.low, taken.size)
    pool, _ = pool_of(compiled, use)
    if pool is None:
        title = f"Position {text} of the {_position(use)}, lowest free when it was taken"
        detail = f"ledger, {use} of {key}; held, so growing moves no cable"
    else:
        part = pool.range_of(family, taken.low)
        pinned = is_pinned(compiled, use, key)
        how = "pinned by the brief" if pinned else _how(compiled, use, key, taken)
        title = f"{text} from pool {pool.name}, {how}" if part or not pinned else f"{text}, {how}"
        inside = f"{part.text}, " if part else "outside the pool's ranges, "
        detail = f"ledger, {inside}held for {key}"
    return Step("ledger", title, detail, {"use": use, "key": key, "number": text, "pool": pool.name if pool else ""})


def _how(compiled: Compiled, use: str, key: str, taken: Taken) -> str:
    """By which rule a number came to its key, as far as today's plan tells."""
    demand = next(one for one in compiled.demands if one.use == use)
    if compiled.pinned.get(use, {}).get(key) == taken:
        return "pinned by hand in the Ledger"
    slot = slot_of(demand.ranges, taken.low, demand.size)
    if demand.follows:
        leader, base = demand.follows
        led = compiled.allocation.numbers.get(leader, {}).get(key)
        if led is not None and slot == led.low - base:
            return f"by position: {slot}, as its VLAN {led.low}"
    if demand.positions is not None and demand.positions.get(key) == slot:
        return f"by position: slot {slot} of {key}"
    twin = compiled.allocation.numbers.get(demand.twin, {}).get(key)
    if twin is not None and slot_of(demand.pool.of(Family.V4), twin.low, _V4_SIZES[use.partition(".")[0]]) == slot:
        return f"position {slot}, the same as in IPv4"
    if compiled.pools[demand.pool.name].plan is Plan.BEST_FIT:
        return "the best fit when it was taken"
    return "lowest free when it was taken"


_V4_SIZES = {"loopback": 1, "link": 2, "outside": 2, "segment": SEGMENT_SIZES[Family.V4], "relay": 1}


_FAMILY = {"v4": Family.V4, "v6": Family.V6}
_POSITION = {
    "port.spine": "spine ports", "port.leaf": "leaf uplinks", "port.super": "super-spine ports", "port.up": "spine uplinks",
    "cable": "cable numbers", "cable.further": "cable numbers",
}  # fmt: skip


def _position(use: str) -> str:
    if use.startswith("port.leaf."):
        return f"uplinks of {use.split('.', 2)[2]} leaves"
    if use.startswith("port.spine."):
        return f"spine ports of pod {use.split('.', 2)[2]}"
    if use.startswith("port.outlet."):
        return "outlets of feed {1} of rack {0}".format(*use.split(".")[2:4])
    if use.startswith(("port.management.", "port.console.", "port.trunk.")):
        noun = "positions of trunk" if use.startswith("port.trunk.") else "ports of"
        return f"{noun} {use.split('.', 2)[2]}"
    return _POSITION[use]


def pool_of(compiled: Compiled, use: str) -> tuple[Pool | None, str]:
    field = FIELDS.get(use.split(".", maxsplit=1)[0])
    return (None, "") if field is None else (compiled.pools[getattr(compiled.brief.numbers, field)], field)


def is_pinned(compiled: Compiled, use: str, key: str) -> bool:
    """Whether the brief itself names the number."""
    return any(demand.use == use and key in demand.pins for demand in compiled.demands)
