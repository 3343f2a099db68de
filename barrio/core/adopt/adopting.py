"""The front door: switches that run in, a brief with its evidence and every number out. Pure: the same switches, the same brief.

What is proposed is held against what runs: the brief is compiled with the numbers that were found, and what its files say otherwise is told.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from barrio.core.adopt.attached import attached
from barrio.core.adopt.carried import carried
from barrio.core.adopt.found import PARTS, Findings, Oddity, Pin, Proposal
from barrio.core.adopt.left import Left, additions, left_of
from barrio.core.adopt.marked import marked
from barrio.core.adopt.numbers import Numbers, pair_mac
from barrio.core.adopt.outside import outside
from barrio.core.adopt.pools import managed, pooled
from barrio.core.adopt.routed import routed
from barrio.core.adopt.rungs import placed
from barrio.core.adopt.running import Known, Running, know, unread
from barrio.core.adopt.services import OF_LEAVES, domain_of, settings_of
from barrio.core.adopt.shape import Shape, shape
from barrio.core.adopt.wired import wired
from barrio.core.brief.document import apply, read
from barrio.core.catalogue.made import MADE
from barrio.core.catalogue.model import Catalogue, SwitchType
from barrio.core.compile import ask, complete
from barrio.core.compiled import Asked, Compiled
from barrio.core.errors import Refused, refuse
from barrio.core.ledger.pool import Pool
from barrio.core.ledger.wanted import Holdings, Taken
from barrio.core.office import BARE, Office
from barrio.core.settings.known import SETTINGS

MOST = 4_000
"""Switches that are read at once."""


@dataclass(frozen=True)
class Adoption:
    """What a network seems to be: the `text` of a brief that says all of it, the proposals that it is made of and the oddities that fit none, the numbers to
    pin, and models that are new to the catalogue. `compiled` is that brief with those numbers, `left` what its files still say otherwise, by switch key."""

    text: str
    proposals: tuple[Proposal, ...]
    oddities: tuple[Oddity, ...]
    pins: tuple[Pin, ...]
    models: tuple[SwitchType, ...]
    keys: Mapping[str, str]
    compiled: Compiled
    left: Mapping[str, Left] = field(default_factory=dict)


def in_order(proposals: Iterable[Proposal]) -> tuple[Proposal, ...]:
    """Proposals in the order in which their parts stand on each other."""
    return tuple(sorted(proposals, key=lambda one: PARTS.index(one.part)))


def adopt(
    every: Iterable[Running],
    fabric: str,
    catalogue: Catalogue = MADE,
    pools: Mapping[str, Pool] | None = None,
    office: Office = BARE,
) -> Adoption:
    """A brief for what runs.

    Raises `Refused`: `adopt.nothing`, `adopt.many`, and `import.shape` where hardly anything of it is a folded Clos.
    """
    found = Findings()
    known = _known(every, found)
    if len(known) < 2:
        raise refuse(
            "adopt.nothing", "No two switches could be read. A switch needs its frr.conf and its interfaces file."
        )
    return _Adopting(known, fabric, catalogue, pools or {}, office, found).adopted()


def _known(every: Iterable[Running], found: Findings) -> dict[str, Known]:
    """The switches that could be read, by name; each name once."""
    known: dict[str, Known] = {}
    for count, one in enumerate(every):
        if count >= MOST:
            raise refuse("adopt.many", f"There are over {MOST:,} switches. Adopt the pods one by one.")
        if one.name in known:
            found.odd(
                f"twice/{one.name}",
                one.name,
                f"two switches are called {one.name}; the second is left out. Rename one.",
            )
            continue
        try:
            known[one.name] = know(one)
        except ValueError as error:
            found.odd(f"unread/{one.name}", one.name, f"{one.name} cannot be read: {error}")
    return known


class _Adopting:
    def __init__(
        self, known: dict[str, Known], fabric: str, catalogue: Catalogue, pools: Mapping[str, Pool], office: Office, found: Findings
    ) -> None:  # fmt: skip
        self.known, self.fabric, self.pools, self.office, self.found = known, fabric, pools, office, found
        self.catalogue = catalogue
        self.edits: dict[str, Any] = {}

    def adopted(self) -> Adoption:
        links = wired(self.known, self.found)
        told = {one.switch for one in self.found.oddities if one.key.startswith("unread/")}
        for name in sorted(links.unread):
            self.known[name] = unread(name)
            if name not in told:
                self.found.odd(
                    f"unread/{name}", name, f"{name} could not be read; what is known of it is what others say"
                )
        shaped = shape(self.known, links, self.catalogue, self.found)
        self.catalogue = self.catalogue.with_models(shaped.new_models)
        far = links.far()
        leaves = {name: self.known[name] for name in shaped.keys if shaped.tier[name] == "leaf"}
        self.edits |= shaped.edits
        self.edits |= routed(self.known, shaped, far, self.found)
        marks = marked(self.known, shaped, far, self.found)
        self.edits |= marks
        carries = carried(leaves, self.edits.get("overlay.host_mtu", 9000), self.found)
        self.edits |= carries.edits
        host_mtu = self.edits.get("overlay.host_mtu", 9000)
        silent = {
            name for name, key in shaped.keys.items() if self.known[name].unread or f'out_of_service."{key}"' in marks
        }
        self.edits |= attached(self.known, shaped, carries, host_mtu, silent, self.found)
        self.edits |= outside(self.known, shaped, self.found)
        numbers = Numbers(self.known, shaped, far, carries, self.found)
        self._pair_macs(numbers)
        there = [self.known[name] for name in shaped.keys if not self.known[name].unread]
        self.edits |= pooled(there, carries, links, self.fabric, self.pools, self.found)
        self.edits |= managed(there, links, self.found)
        self._domain(shaped)
        asked = self._asked()
        self._settings(asked, numbers)
        asked = self._asked()
        pins = numbers.pins(asked)
        read_ones = {key: one for key, one in numbers.by_key.items() if not one.unread}
        compiled = self._completed(asked, pins)
        left = left_of(compiled, read_ones)
        if self._additions(asked, left, read_ones):
            compiled = self._completed(self._asked(), pins)
            left = left_of(compiled, read_ones)
        return Adoption(
            self._text(),
            in_order(self.found.proposals),
            tuple(self.found.oddities),
            tuple(pins),
            shaped.new_models,
            shaped.keys,
            compiled,
            left,
        )

    def _text(self) -> str:
        return apply(f"fabric: {self.fabric}\n", list(self.edits.items()))

    def _asked(self) -> Asked:
        return ask(read(self._text()).brief, self.pools, self.catalogue, office=self.office)

    def _completed(self, asked: Asked, pins: list[Pin]) -> Compiled:
        pinned: dict[str, dict[str, Taken]] = {}
        for pin in pins:
            pinned.setdefault(pin.use, {})[pin.key] = pin.number
        return complete(asked, Holdings(pinned=pinned))

    def _pair_macs(self, numbers: Numbers) -> None:
        """The first system MAC of pairs, where theirs do not follow Barrio's own."""
        macs = [mac for one in numbers.by_key.values() if (mac := pair_mac(one)) is not None]
        if macs and not all(0 < mac - numbers.base < 1 << 16 for mac in macs):
            numbers.base = (min(macs) - 1) & ~0xFFFF if min(macs) & 0xFFFF else min(macs) - 1
            text = f"{numbers.base:012x}"
            said = {"overlay.pair_mac": ":".join(text[at : at + 2] for at in range(0, 12, 2))}
            self.edits |= said
            self.found.propose(
                "routing",
                "overlay.pair_mac",
                f"system MACs of pairs from {said['overlay.pair_mac']}",
                said,
                [f"{len(set(macs))} pairs have such"],
            )

    def _domain(self, shaped: Shape) -> None:
        counts = Counter(domain for name in shaped.keys if (domain := domain_of(self.known[name])))
        if counts:
            said = {"services.domain": counts.most_common(1)[0][0]}
            self.edits |= said
            self.found.propose(
                "settings",
                "services.domain",
                f"domain {said['services.domain']}",
                said,
                [f"{counts.most_common(1)[0][1]} switches are in it"],
            )

    def _settings(self, asked: Asked, numbers: Numbers) -> None:
        """Every setting on the highest rung that explains it."""
        standing = {key: switch.standing for key, switch in asked.structure.by_key.items()}
        said = {key: settings_of(one) for key, one in numbers.by_key.items() if not one.unread}
        for name, setting in SETTINGS.items():
            with_hosts = {key for key, one in numbers.by_key.items() if "bridge" in one.devices}
            values = {
                key: of_switch[name]
                for key, of_switch in said.items()
                if name in of_switch and (name not in OF_LEAVES or key in with_hosts)
            }
            if values:
                self._place(
                    name,
                    values,
                    standing,
                    setting.default,
                    "settings",
                    f"{setting.words[:1].lower()}{setting.words[1:]}",
                )

    def _place(
        self, name: str, values: Mapping[str, Any], standing: Mapping[str, Any], default: Any, part: Any, words: str
    ) -> bool:
        way = placed(values, standing, default)
        edits: dict[str, Any] = {}
        if way.fabric != default:
            edits[name] = way.fabric
        for rung, value in way.rungs:
            edits[f'rungs."{rung}"."{name}"'] = value
        self.edits |= edits
        told = [
            f"so on {len(values)} switches"
            if not way.rungs
            else f"{len(values)} switches, otherwise on {', '.join(rung for rung, _ in way.rungs[:3])}"
        ]
        self.found.propose(part, name, words, edits, told, "certain" if not way.rungs else "likely")
        return bool(edits)

    def _additions(self, asked: Asked, left: Mapping[str, Left], by_key: Mapping[str, Known]) -> bool:
        """Lines that run and that no word says, as additions on the highest rung that has them all."""
        standing = {key: switch.standing for key, switch in asked.structure.by_key.items()}
        changed = False
        before = dict(self.edits), list(self.found.proposals)
        for place, by_switch in additions(left, by_key).items():
            values = {
                key: list(dict.fromkeys(by_switch.get(key, ()))) for key in standing if key in asked.structure.by_key
            }
            changed |= self._place(
                f"additions.{place}", values, standing, [], "additions", f"lines of their own: {place}"
            )
        if changed:
            try:
                self._asked()
            except Refused as error:
                # What no addition may say stays an oddity.
                self.edits, self.found.proposals = before
                self.found.odd("additions", "", f"lines that run cannot be additions: {error.faults[0].message}")
                return False
        return changed
