"""Losses that a slice can be drilled with: what is taken away, and what the sums foretell of it."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass

from barrio.core.compiled import Compiled
from barrio.core.errors import nearest, refuse
from barrio.core.paths import neighbours, widths
from barrio.core.structure.parts import OUT, link_speed

SPEAKS = ("bgpd", "ospfd", "ospf6d", "isisd")
"""The daemons without which a switch is no way for others any more; without the rest its kernel forwards on."""


@dataclass(frozen=True, slots=True)
class Loss:
    """Something that is taken away for a while: `switches` (by key) with all their links, and `links` (by key) beside. `how` is what happens to it: `gone`
    when its light goes, `one way` when one direction is lost and the light stays, `lossy` when one packet of a hundred is, `killed` when a `daemon` of a
    switch is, `restarted` when a switch loses its power and starts afresh."""

    id: str
    words: str
    switches: tuple[str, ...] = ()
    links: tuple[str, ...] = ()
    how: str = "gone"
    daemon: str = ""

    @property
    def without(self) -> frozenset[str]:
        """What carries nothing meanwhile."""
        idle = self.how == "lossy" or (self.how == "killed" and self.daemon not in SPEAKS)
        return frozenset() if idle else frozenset((*self.switches, *self.links))


@dataclass(frozen=True, slots=True)
class Between:
    """What is left from one leaf to another while something is away: next hops and bandwidth (Gbit/s), of how many and of how much."""

    one: str
    other: str
    paths: int
    of_paths: int
    bandwidth: int
    of_bandwidth: int


GROUPS = ("spine", "super-spine", "leaf", "border", "link", "daemon", "restart", "singles")


def every(compiled: Compiled, keys: Sequence[str]) -> dict[str, Loss]:
    """Every loss that a slice can be drilled with, by its id, those of switches first."""
    found: dict[str, Loss] = {}
    here = set(keys)
    for key in keys:
        switch = compiled.structure.by_key[key]
        if switch.state != OUT and len(keys) > 1:
            found[switch.name] = Loss(switch.name, f"{switch.name} is away", (key,))
            for daemon in daemons(compiled, key):
                name = f"{switch.name}:{daemon}"
                found[name] = Loss(name, f"{daemon} of {switch.name} is killed", (key,), (), "killed", daemon)
            name = f"{switch.name}:restart"
            found[name] = Loss(name, f"{switch.name} loses its power and starts again", (key,), (), "restarted")
    for end in compiled.ends:
        link = end.link
        if (
            link.kind == "fabric"
            and {link.upper.key, link.lower.key} <= here
            and OUT not in (link.upper.state, link.lower.state)
        ):
            words = f"{link.upper.name} {end.upper_port} to {link.lower.name} {end.lower_port}"
            name = f"{link.upper.name}:{end.upper_port}"
            found[name] = Loss(name, f"the link {words} is away", (), (link.key,))
            found[f"{name}:one-way"] = Loss(
                f"{name}:one-way", f"the link {words} carries nothing downwards", (), (link.key,), "one way"
            )
            found[f"{name}:lossy"] = Loss(
                f"{name}:lossy", f"the link {words} loses 1 % downwards", (), (link.key,), "lossy"
            )
    return found


def daemons(compiled: Compiled, key: str) -> list[str]:
    """The daemons of a switch that route, and those that tell them something."""
    common = compiled.models[key].common
    return [
        "bgpd", *["ospfd"] * (common.ospf and common.has_v4), *["ospf6d"] * (common.ospf and common.has_v6), *["isisd"] * common.isis,
        *["bfdd"] * bool(common.bfd_interval), "zebra",
    ]  # fmt: skip


def chosen(compiled: Compiled, keys: Sequence[str], wanted: Sequence[str]) -> list[Loss]:
    """The losses that are asked for: by id, `a+b` for two at once, or a group's name: `spine`, `super-spine`, `leaf`, `border` and `link` are the first of
    their kind, `daemon` each daemon of a leaf, `restart` a leaf that starts afresh, `singles` every switch and every link, one after the other. Raises `Refused` (`rehearse.drill`)."""
    known = every(compiled, keys)
    found: dict[str, Loss] = {}
    for name in wanted:
        if name in known:
            found[name] = known[name]
        elif name in GROUPS:
            found |= {one.id: one for one in _group(compiled, keys, known, name)}
        elif "+" in name and all(part in known and known[part].how == "gone" for part in name.split("+")):
            parts = [known[part] for part in name.split("+")]
            found[name] = Loss(
                name, " and ".join(one.words.removesuffix(" is away") for one in parts) + " are away",
                tuple(key for one in parts for key in one.switches), tuple(key for one in parts for key in one.links),
            )  # fmt: skip
        else:
            raise refuse(
                "rehearse.drill",
                f"There is nothing called {name} in this slice to take away.{nearest(name, known)} Say a switch, a link as spine-1:p1, two of them with + "
                f"between, a daemon as spine-1:bgpd, spine-1:restart, or one of {', '.join(GROUPS)}.",
                "drills",
            )
    return list(found.values())


def _group(compiled: Compiled, keys: Sequence[str], known: Mapping[str, Loss], name: str) -> Iterator[Loss]:
    """The losses of a group; of kinds of switches the first that something else can stand in for."""
    by_key = compiled.structure.by_key
    if name == "singles":
        yield from (one for one in known.values() if one.how == "gone")
    elif name == "daemon":
        yield from (
            one for one in known.values() if one.how == "killed" and one.switches[0] == _first_leaf(compiled, keys)
        )
    elif name == "restart":
        yield from (
            one for one in known.values() if one.how == "restarted" and one.switches[0] == _first_leaf(compiled, keys)
        )
    elif name == "link":
        yield from [one for one in known.values() if one.links and one.how == "gone"][:1]
    else:
        switches = [known[by_key[key].name] for key in keys if by_key[key].name in known and _is(compiled, key, name)]
        shared = [one for one in switches if compiled.models[one.switches[0]].pair is not None]
        yield from (shared or switches)[:1]


def _first_leaf(compiled: Compiled, keys: Sequence[str]) -> str:
    """The first leaf of a pair, or the first there is."""
    leaves = [key for key in keys if compiled.structure.by_key[key].is_leaf]
    return next((key for key in leaves if compiled.models[key].pair is not None), next(iter(leaves), ""))


def _is(compiled: Compiled, key: str, kind: str) -> bool:
    switch = compiled.structure.by_key[key]
    if kind == "border":
        return bool(compiled.models[key].outside) or switch.role == "border"
    return switch.tier == kind


def foretold(compiled: Compiled, keys: Collection[str], loss: Loss) -> list[Between]:
    """What every leaf has towards every other while something is away, of those that stay."""
    most = {key: compiled.models[key].max_paths for key in keys}
    whole, now = neighbours(compiled, keys), neighbours(compiled, keys, loss.without)
    leaves = [key for key in keys if compiled.structure.by_key[key].is_leaf]
    found: list[Between] = []
    for other in leaves:
        before, after = widths(whole, other, most), widths(now, other, most)
        for one in leaves:
            if one != other and one not in loss.switches and other not in loss.switches and one in before:
                speeds = _speed(compiled, one)
                found.append(
                    Between(
                        one, other, after.get(one, 0), before[one], after.get(one, 0) * speeds, before[one] * speeds
                    )
                )
    return found


def _speed(compiled: Compiled, leaf: str) -> int:
    """What one uplink of a leaf carries, in Gbit/s."""
    switch = compiled.structure.by_key[leaf]
    spine = next((one for one in compiled.structure.pods.get(switch.pod, ())), None)
    return int(link_speed(spine.plan, switch.plan)) if spine is not None else 0


def detection(compiled: Compiled, loss: Loss) -> float:
    """Seconds until everybody around knows that something is away: as long as BFD waits (RFC 5880, 6.8.4), or BGP's hold time without it."""
    common = next(iter(compiled.models.values())).common
    if loss.how == "lossy":
        return 0.0
    if common.bfd_interval:
        return common.bfd_interval * common.bfd_multiplier / 1000
    return float(common.hold)
