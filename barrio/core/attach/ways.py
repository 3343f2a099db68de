"""What a port carries and how, of what the host, its plug and Barrio itself say: the closest that says anything wins."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from barrio.core.brief.hosts import EVERY, NONE, SHUT, HostEntry, Plug, Ways
from barrio.core.brief.model import Brief
from barrio.core.brief.reader import quoted
from barrio.core.errors import Fault, nearest
from barrio.core.printed import Mac, Name
from barrio.core.structure.parts import Switch


@dataclass(frozen=True, slots=True)
class Way:
    """How a port is attached. `untagged` and `tagged` are the segments on it, sets taken apart, in the brief's order.

    `storm` and `share` of nothing are the fabric's own: frames for all a second, and what they may take of the port's speed in per cent;
    `speed` in Gbit/s and `mtu` in bytes of nothing are the rack's and the fabric's.
    """

    plug: Name | None
    lag: str
    slow: bool
    fallback: bool
    untagged: Name | None
    tagged: tuple[Name, ...]
    speed: int | None
    mtu: int | None
    storm: int | None
    share: float | None
    macs: int | None
    only: tuple[Mac, ...] = ()
    fec: str | None = None

    @property
    def carried(self) -> tuple[Name, ...]:
        """Every segment on the port."""
        return self.tagged if self.untagged is None else (self.untagged, *self.tagged)


class WayMaker:
    """Works ways out, once for each plug and each host that says something of its own; what is wrong goes to `faults`."""

    def __init__(self, brief: Brief, faults: list[Fault]) -> None:
        self._brief, self._faults = brief, faults
        self._of_plug: dict[str | None, Way] = {}
        self._told: set[str] = set()
        self._every_of: dict[str, Way] = {}
        everywhere = frozenset(brief.rack_names)
        self.within = {
            name: everywhere if segment.rack_names is None else frozenset(segment.rack_names)
            for name, segment in brief.segments.items()
        }
        self.sets: Mapping[str, tuple[Name, ...]] = {
            name: tuple(self._segments(members, f"sets.{name}", within_set=True))
            for name, members in brief.sets.items()
        }
        self._names()
        self._of_plug[None] = self._way(None, [(Ways(), "")])
        for name, plug in brief.plugs.items():
            self._of_plug[name] = self._way(Name(name), [(plug, f"plugs.{quoted(name)}")])

    def of_host(self, host: HostEntry, path: str) -> Way:
        plug = self._plug(host.plug, f"{path}.plug")
        if all(getattr(host, field) is None for field in Ways.model_fields):
            return self._of_plug.get(host.plug, self._of_plug[None])
        return self._way(host.plug, [(host, path), *([(plug, f"plugs.{host.plug}")] if plug else [])])

    def default(self, leaf: Switch) -> tuple[Way | None, str]:
        """What a port of a leaf without a host carries (nothing when it is shut), and where that is said."""
        name, path = default_plug(self._brief, leaf)
        if name == SHUT:
            return None, path
        if name == EVERY:
            if leaf.rack not in self._every_of:
                self._every_of[leaf.rack] = self._every(leaf.rack)
            return self._every_of[leaf.rack], path
        self._plug(name, path)
        return self._of_plug.get(name), path

    def _names(self) -> None:
        """Words that would mean two things."""
        for name in self._brief.plugs:
            if name in (EVERY, SHUT):
                words = f"“{name}” is a plug of Barrio's own. Call yours something else."
                self._tell("host.plug-name", words, f"plugs.{name}")
        for name in self._brief.sets:
            if name in self._brief.segments:
                words = f"{name} is a segment and a set of segments. Call the set something else."
                self._tell("host.set-name", words, f"sets.{name}")
        if NONE in self._brief.segments and (self._brief.hosts or self._brief.plugs):
            words = "A segment called none cannot be told from no segment at all. Call it something else."
            self._tell("host.segment-name", words, f"segments.{NONE}")

    def _every(self, rack: str) -> Way:
        here = [name for name in self._brief.segments if rack in self.within[name]]
        untagged = [Name(name) for name in here if self._brief.segments[name].untagged]
        tagged = tuple(Name(name) for name in here if not self._brief.segments[name].untagged)
        return Way(EVERY, "lacp", False, True, untagged[0] if untagged else None, tagged, None, None, None, None, None)

    def _plug(self, name: Name | None, path: str) -> Plug | None:
        if name is None or name in self._brief.plugs:
            return self._brief.plugs[name] if name else None
        self._tell(
            "host.plug", f"There is no plug {name}.{nearest(name, self._brief.plugs)} Add it under “plugs”.", path
        )
        return None

    def _way(self, plug: Name | None, said: list[tuple[Ways, str]]) -> Way:
        def of(field: str, own: object) -> tuple[object, str]:
            for ways, path in said:
                if getattr(ways, field) is not None:
                    return getattr(ways, field), f"{path}.{field}"
            return own, ""

        lag, _ = of("lag", "none")
        tags, where = of("tagged", None)
        tagged = tuple(self._segments(tags if isinstance(tags, list) else [], where))
        untagged, at = of("untagged", None)
        if untagged == NONE:
            untagged = None
        if isinstance(untagged, Name) and untagged not in self._brief.segments:
            self._unknown(untagged, at)
            untagged = None
        if untagged in tagged:
            words = f"{untagged} would be on one port untagged and tagged. Take it out of one of the two."
            self._tell("host.untagged-twice", words, at)
        fallback, _ = of("fallback", None)
        if fallback is not None and lag != "lacp":
            self._tell(
                "host.fallback",
                "Only a LAG by LACP falls back to one link. Set lag: lacp, or take fallback out.",
                said[0][1],
            )
        limits = [of(field, None)[0] for field in ("speed", "mtu", "storm", "macs")]
        speed, mtu, storm, macs = (limit if isinstance(limit, int) else None for limit in limits)
        most_of, _ = of("storm", None)
        share = float(most_of.rstrip("%")) if isinstance(most_of, str) else None
        only, fec = of("only_macs", None)[0], of("fec", None)[0]
        if only is not None and macs is not None and len(only if isinstance(only, list) else []) > macs:
            words = f"{len(only if isinstance(only, list) else [])} addresses are named, and {macs} may be there. Name fewer, or take macs out."
            self._tell("host.macs", words, of("only_macs", None)[1])
        most = self._brief.overlay.host_mtu
        if mtu is not None and mtu > most:
            words = f"An MTU of {mtu} is over the {most} that the fabric gives hosts. Ask for {most} at most, or raise overlay.host_mtu."
            self._tell("host.mtu", words, of("mtu", None)[1])
        return Way(
            plug, str(lag or "none"), of("rate", None)[0] == "slow", fallback is not False,
            untagged if isinstance(untagged, Name) else None, tagged, speed, mtu, storm, share, macs,
            tuple(dict.fromkeys(only)) if isinstance(only, list) else (), fec if isinstance(fec, str) else None,
        )  # fmt: skip

    def _segments(self, names: list[Name], path: str, within_set: bool = False) -> Iterator[Name]:
        """The segments that a list names, each once, sets taken apart."""
        seen: dict[Name, None] = {}
        for name in names:
            if name in self._brief.segments:
                seen.setdefault(name)
            elif not within_set and name in self._brief.sets:
                seen.update(dict.fromkeys(self.sets[name]))
            else:
                self._unknown(name, path, within_set)
        yield from seen

    def _unknown(self, name: str, path: str, within_set: bool = False) -> None:
        known = [*self._brief.segments, *(() if within_set else self._brief.sets)]
        what = "segment" if within_set else "segment and no set"
        self._tell(
            "host.segment",
            f"There is no {what} {name}.{nearest(name, known)} Add it under “segments”, or take it out.",
            path,
        )

    def _tell(self, code: str, words: str, path: str) -> None:
        if words + path not in self._told:
            self._told.add(words + path)
            self._faults.append(Fault(code, words, path))


def default_plug(brief: Brief, leaf: Switch) -> tuple[Name, str]:
    """What ports of a leaf without a host carry, by name, and where that is said; nowhere when Barrio's own rule holds."""
    if leaf.key in brief.leaf_plugs:
        return brief.leaf_plugs[leaf.key], f'leaf_plugs."{leaf.key}"'
    if leaf.group is not None and leaf.group.default_plug:
        return leaf.group.default_plug, leaf.origin.replace(".racks", ".default_plug")
    if brief.default_plug:
        return brief.default_plug, "default_plug"
    return (SHUT if brief.hosts else EVERY), ""
