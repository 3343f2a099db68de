"""Plans by position: rack 7, leaf b, spine 3 give numbers that a person can work out in the head.

Every switch has a slot. Spine 3 is slot 3; leaves follow, rack by rack in blocks of one stem (`r07` is number 7 of stem
`r`), and with pods everything of a pod lies in one block. Blocks have room for the growth that the brief declares and are
rounded up, to powers of two for addresses and of ten for plain numbers, so that a slot reads: of ASNs, rack 7 leaf b of
the first stem is 1072. A slot depends on names and on the room declared, never on what stands before in a list.

What is declared may be outgrown: then slots behind the block are others. Numbers that are held stay; a new key whose slot
is held by another is refused, and the brief is asked for more growth or the pool for another plan.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable

from barrio.core.brief.model import Brief

_LINK = re.compile(r"(?P<lower>[^~]+)~(?P<upper>[^~]+)~(?P<lane>\d+)")
MANAGEMENT_FIRST = 16
"""Slots left at the start of management ranges for gateways and what else stands there."""


def _binary(count: int) -> int:
    """The power of two that holds `count` slots."""
    return 1 << max(0, count - 1).bit_length()


def _decimal(count: int) -> int:
    """The power of ten that holds `count` slots."""
    return int(10 ** len(str(max(1, count - 1))))


def split_name(name: str) -> tuple[str, int]:
    """A name as its stem and its number.

    >>> split_name("r07"), split_name("border")
    (('r', 7), ('border', 0))
    """
    found = re.fullmatch(r"(.*?)(\d+)", name)
    return (found[1], int(found[2])) if found else (name, 0)


class _Grid:
    """The slots of all switches, in steps of one kind of rounding."""

    def __init__(self, brief: Brief, room: Callable[[int], int], step: int, first_leaf: int) -> None:
        self._step, self._first_leaf = step, first_leaf
        self._places = {full: (pod, full[len(pod) + 1 :] if pod else full) for group in brief.racks
                        for pod, full in brief.places(group)}  # fmt: skip
        self.spine_room = max(room(brief.spines.count + brief.spines.growth + 1), 16)
        stems: dict[str, int] = {}
        for group in brief.racks:
            growth = group.growth
            for name in group.rack_names:
                stem, number = split_name(name)
                stems[stem] = max(stems.get(stem, 0), number + growth + 1)
        end = self.spine_room
        self._stems: dict[str, int] = {}
        for stem, count in sorted(stems.items(), key=lambda found: (-found[1], found[0])):
            size = room(count * step)
            start = -(-end // size) * size
            self._stems[stem] = start
            end = start + size
        supers, planes = brief.super_spines, brief.spines.count + brief.spines.growth
        self._plane_room = room(supers.per_plane + supers.growth + 1) if supers else 0
        self._pods = {"": 0}
        if brief.pods:
            size = room(end)
            first = -(-planes * self._plane_room // size)
            numbers = {pod: split_name(pod)[1] for pod in brief.pod_names}
            alone = [number for number in numbers.values() if number and list(numbers.values()).count(number) == 1]
            self._pods = {pod: (first - 1 + number) * size for pod, number in numbers.items() if number in alone}

    def rack(self, rack: str) -> int | None:
        """The slot at which the leaves of a rack begin; with pods the rack's name is `pod-rack`."""
        pod, name = self._places.get(rack, ("", rack))
        stem, number = split_name(name)
        if stem not in self._stems or pod not in self._pods:
            return None
        return self._pods[pod] + self._stems[stem] + number * self._step

    def switch(self, key: str) -> int | None:
        kind, *rest = key.split("/")
        if kind == "spine":
            base = self._pods.get(rest[0] if len(rest) > 1 else "")
            return None if base is None else base + int(rest[-1])
        if kind == "leaf":
            base = self.rack(rest[0])
            return None if base is None else base + ord(rest[1]) - ord("a") + self._first_leaf
        return (int(rest[0]) - 1) * self._plane_room + int(rest[1]) if kind == "super" else None


class Layout:
    """Slots by use and key for one brief.

    >>> layout = Layout(Brief.model_validate({"fabric": "marlin", "racks": [{"racks": "r01..r12"}], "spines": {"count": 4}}))
    >>> layout.positions("asn", ["spines", "leaf/r07/b"]), layout.positions("loopback.v4", ["spine/3", "leaf/r07/b"])
    ({'spines': 10, 'leaf/r07/b': 1072}, {'spine/3': 3, 'leaf/r07/b': 47})
    """

    def __init__(self, brief: Brief) -> None:
        leaves = max((group.leaves for group in brief.racks), default=1)
        self._binary = _Grid(brief, _binary, _binary(leaves), 0)
        self._decimal = _Grid(brief, _decimal, 10, 1)
        lanes = max([brief.uplinks_per_spine, *(brief.lanes_of(group) for group in brief.racks)])
        up = brief.super_spines
        self._lanes = _binary(max(lanes, up.links if up else 1))
        uppers = max(brief.spines.count + brief.spines.growth, up.per_plane + up.growth if up else 0)
        self._links = _binary(uppers) * self._lanes

    def positions(self, use: str, keys: Iterable[str]) -> dict[str, int]:
        """The slots of those keys that have one."""
        slot = self._slot_of(use.partition(".")[0])
        found = ((key, slot(key)) for key in keys)
        return {key: at for key, at in found if at is not None}

    def _slot_of(self, thing: str) -> Callable[[str], int | None]:
        special: dict[str, Callable[[str], int | None]] = {
            "link": self._link, "asn": self._asn, "vtep": self._vtep, "pair": self._pair, "management": self._management,
        }  # fmt: skip
        return special.get(thing, self._binary.switch)

    def _management(self, key: str) -> int | None:
        at = self._binary.switch(key)
        return None if at is None else MANAGEMENT_FIRST + at

    def _vtep(self, key: str) -> int | None:
        return self._binary.rack(key[5:]) if key.startswith("pair/") else self._binary.switch(key)

    def _pair(self, key: str) -> int | None:
        return self._decimal.rack(key[5:])

    def _asn(self, key: str) -> int | None:
        fixed = {"fabric": 0, "super-spines": 1, "overlay": 2, "spines": 10}
        if key in fixed:
            return fixed[key]
        kind, name = key.split("/", 1)
        if kind == "spines":
            return self._decimal.switch(f"spine/{name}/10")
        return self._decimal.rack(name) if kind == "rack" else self._decimal.switch(key)

    def _link(self, key: str) -> int | None:
        found = _LINK.fullmatch(key)
        lower = self._binary.switch(found["lower"]) if found else None
        if found is None or lower is None:
            return None
        upper = int(found["upper"].rsplit("/", 1)[-1]) - 1
        return lower * self._links + upper * self._lanes + int(found["lane"]) - 1
