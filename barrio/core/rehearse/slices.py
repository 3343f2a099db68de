"""A slice: the switches of a fabric that are rehearsed for all of it, and what they leave out and cannot prove."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from barrio.core.brief.claims import hosts_in
from barrio.core.brief.ranges import contract_names
from barrio.core.compiled import Compiled
from barrio.core.errors import nearest, refuse
from barrio.core.rehearse.claimed import unheard
from barrio.core.rehearse.stations import machines
from barrio.core.structure.parts import Switch


@dataclass(frozen=True, slots=True)
class Wish:
    """What somebody wants rehearsed: the `whole` fabric, or a slice. `spines` counts those of each pod (or of the fabric, in two tiers), `racks` names
    racks; left out, Barrio chooses those that answer for the others, `most` switches in all."""

    whole: bool = False
    spines: int | None = None
    racks: tuple[str, ...] = ()
    most: int = 12


@dataclass(frozen=True, slots=True)
class Slice:
    """The keys of the switches that are rehearsed, in the fabric's order; `outside` are the systems that are played. `left_out` and `cannot` say in
    words what is not there, and what is therefore not proven."""

    keys: tuple[str, ...]
    outside: tuple[str, ...]
    left_out: tuple[str, ...] = ()
    cannot: tuple[str, ...] = ()

    @property
    def whole(self) -> bool:
        return not self.left_out


def choose(compiled: Compiled, wish: Wish) -> Slice:
    """The slice of a fabric that a wish is for. Switches without files (their target refuses them), and those in a language that no daemon here reads, are
    left out and named.

    Raises `Refused` (`rehearse.rack`, `rehearse.spines`, `rehearse.nothing`).
    """
    there = [one for one in compiled.staged if one.key not in compiled.without_files and _runs(compiled, one.key)]
    without = [one for one in compiled.staged if one.key in compiled.without_files]
    other = [one for one in compiled.staged if one.key not in compiled.without_files and not _runs(compiled, one.key)]
    leaves = [one for one in there if one.is_leaf]
    if wish.spines is not None and wish.spines < 1:
        raise refuse("rehearse.spines", "A slice has one spine at least.", "spines")
    if wish.whole:
        chosen = there
    else:
        racks = _named(compiled, wish.racks, leaves) if wish.racks else _answering(compiled, there, wish)
        chosen = [*_above(there, [one for one in leaves if one.rack in racks], wish.spines)]
    if not chosen:
        why = (
            f" {_languages(compiled, other)} is read by no daemon here; a language that writes Debian's files is."
            if other
            else ""
        )
        raise refuse("rehearse.nothing", f"No switch of this fabric has files that could be rehearsed.{why}", "")
    keys = {one.key for one in chosen}
    systems = {end.system: None for end in compiled.structure.outside if end.switch.key in keys}
    return Slice(
        tuple(one.key for one in there if one.key in keys), tuple(systems),
        (*_left_out(there, without, keys), *_foreign(compiled, other)), tuple(_cannot(compiled, there, keys)),
    )  # fmt: skip


RUN = frozenset(
    {
        "etc/network/interfaces",
        "etc/sysctl.d/90-fabric.conf",
        "etc/nftables.conf",
        "etc/frr/daemons",
        "etc/frr/frr.conf",
    }
)
"""The files that a lab runs: those of Debian's programs."""


def _runs(compiled: Compiled, key: str) -> bool:
    """Whether a switch's language is one that this machine's daemons read."""
    return {kind.path for kind in compiled.targets[key].files} >= RUN


def _languages(compiled: Compiled, switches: Iterable[Switch]) -> str:
    return " and ".join(dict.fromkeys(compiled.targets[one.key].name for one in switches))


def _foreign(compiled: Compiled, other: Sequence[Switch]) -> Iterator[str]:
    if other:
        names = f"{', '.join(one.name for one in other[:6])}{' and others' if len(other) > 6 else ''}"
        yield f"{names}, in {_languages(compiled, other)}, which no daemon here reads"


def _named(compiled: Compiled, wanted: Sequence[str], leaves: Sequence[Switch]) -> set[str]:
    known = {str(one.rack) for one in leaves}
    for rack in wanted:
        if rack not in known:
            raise refuse(
                "rehearse.rack", f"There is no rack {rack} with leaves that could be rehearsed.{nearest(rack, sorted(known))}", "racks"
            )  # fmt: skip
    return set(wanted)


def _answering(compiled: Compiled, there: Sequence[Switch], wish: Wish) -> set[str]:
    """Racks that answer for the others: each kind of leaf and every system outside first, then each segment, ways of attachment, a second pod, and a
    second leaf for each segment, as far as they fit with what is above them."""
    by_rack: dict[str, list[Switch]] = {}
    for leaf in there:
        if leaf.is_leaf:
            by_rack.setdefault(leaf.rack, []).append(leaf)
    named = hosts_in(compiled.brief.claims, compiled.attachments.hosts)
    offers = {rack: set(_features(compiled, leaves, named)) for rack, leaves in by_rack.items()}
    seen: Counter[Feature] = Counter()
    chosen: list[str] = []

    def worth(rack: str) -> float:
        return sum(weight / (1 + 3 * seen[one]) for one in offers[rack] for weight in [one[0]] if seen[one] < 2)

    def fits(rack: str) -> bool:
        leaves = [leaf for one in (*chosen, rack) for leaf in by_rack[one]]
        return len([*_above(there, leaves, wish.spines)]) <= wish.most

    while True:
        best = max((rack for rack in by_rack if rack not in chosen and fits(rack)), key=worth, default=None)
        if best is None or (len(chosen) > 1 and worth(best) < 1):
            break
        chosen.append(best)
        seen.update(offers[best])
    return set(chosen or [*by_rack][:1])


Feature = tuple[float, str, object]
"""Something that a rack shows: how much it is worth to see it once, what it is, and which."""


def _features(compiled: Compiled, leaves: Iterable[Switch], named: frozenset[str]) -> Iterator[Feature]:
    """What a rack stands for: its kind of leaves, the segments there, the ways in which hosts are attached, hosts that claims name, systems outside."""
    for leaf in leaves:
        model = compiled.models[leaf.key]
        pair = "" if model.pair is None else "multihoming" if model.pair.multihoming else "peer link"
        yield (20, "kind", (leaf.role, leaf.type.id, compiled.targets[leaf.key].name, pair))
        if leaf.pod:
            yield (12, "pod", leaf.pod)
        for segment in model.segments:
            yield (5, "segment", segment.label)
        for host in compiled.attachments.at.get(leaf.key, {}).values():
            yield (2, "way", (host.way.plug, host.way.lag, len(host.ports)))
            if host.host in named:
                yield (30, "named", host.host)
        for session in model.outside:
            yield (20, "outside", session.system)


def _above(there: Sequence[Switch], leaves: Sequence[Switch], spines: int | None) -> Iterator[Switch]:
    """Leaves with what is above them: so many spines of each pod that they are in, and super-spines of those planes."""
    pods = {one.pod for one in leaves}
    seen: Counter[str] = Counter()
    planes: set[int] = set()
    for one in there:
        if one.tier == "spine" and one.pod in pods and seen[one.pod] < (spines or 2):
            seen[one.pod] += 1
            planes.add(one.plane)
            yield one
    supers: Counter[int] = Counter()
    for one in there:
        if one.tier == "super-spine" and one.plane in planes and supers[one.plane] < (1 if len(planes) > 1 else 2):
            supers[one.plane] += 1
            if len(pods) > 1:
                yield one
    yield from leaves


def _left_out(there: Sequence[Switch], without: Sequence[Switch], keys: set[str]) -> Iterator[str]:
    for tier, words in (("super-spine", "super-spines"), ("spine", "spines"), ("leaf", "leaves")):
        every = [one for one in there if one.tier == tier]
        out = [one for one in every if one.key not in keys]
        if out:
            racks = f", in {contract_names(tuple(dict.fromkeys(one.rack for one in out)))}" if tier == "leaf" else ""
            yield f"{len(out)} of {len(every)} {words}{racks}"
    if without:
        yield f"{', '.join(one.name for one in without[:6])}{' and others' if len(without) > 6 else ''}, whose target makes no files for it"


def _cannot(compiled: Compiled, there: Sequence[Switch], keys: set[str]) -> Iterator[str]:
    """What a slice does not prove, of what the whole fabric would."""
    if any(one.is_spine and one.key not in keys for one in there):
        yield "how wide paths are over all spines: only those to the spines that are here are counted"
    if any(one.is_leaf and one.key not in keys for one in there):
        yield "tables as large as the whole fabric's, and cables to switches that are not here"
    on: Counter[str] = Counter()
    for key in keys:
        on.update(segment.label for segment in compiled.models[key].segments)
    everywhere = Counter(segment.label for one in there for segment in compiled.models[one.key].segments)
    none = [name for name in everywhere if not on[name]]
    alone = [name for name in everywhere if on[name] == 1 and everywhere[name] > 1]
    if none:
        yield f"anything about {_some(none)}, which {'is' if len(none) == 1 else 'are'} on no switch here"
    for words in unheard(compiled, [station for one in machines(compiled, keys)[0] for station in one.stations], keys):
        yield f"the claim “{words}”: nobody of one of its sides is here"
    if alone:
        yield f"that {_some(alone)} {'crosses' if len(alone) == 1 else 'cross'} the fabric: one switch here has {'it' if len(alone) == 1 else 'them'}"


def _some(names: Sequence[str]) -> str:
    return f"{', '.join(names[:5])}{f' and {len(names) - 5} more' if len(names) > 5 else ''}"
