"""A drawing as a start: who is linked to whom becomes a shape, and what labels say of AS numbers, loopbacks and subnets becomes pins.

A drawing says nothing of routing, segments or hosts, so nothing of these is proposed. The same drawing is the same proposals, and one that was changed
changes just those that it says otherwise.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from ipaddress import ip_address, ip_network
from typing import Any

from barrio.core.adopt.adopting import Adoption, in_order
from barrio.core.adopt.found import Findings, Pin, Proposal
from barrio.core.adopt.pools import Numbers, pools_for
from barrio.core.adopt.running import clean
from barrio.core.adopt.shape import clos
from barrio.core.brief import reader
from barrio.core.brief.document import apply, read
from barrio.core.catalogue.made import MADE
from barrio.core.catalogue.model import Catalogue
from barrio.core.compile import ask, complete
from barrio.core.compiled import Asked
from barrio.core.exchange.drawing import Drawing
from barrio.core.exchange.understand import understand
from barrio.core.ledger.demand import asn_key
from barrio.core.ledger.pool import Pool
from barrio.core.ledger.wanted import Holdings, Taken
from barrio.core.office import BARE, Office


def adopt_drawing(
    drawing: Drawing,
    fabric: str,
    catalogue: Catalogue = MADE,
    pools: Mapping[str, Pool] | None = None,
    office: Office = BARE,
) -> Adoption:
    """What a drawing seems to be, as proposals that one looks at.

    Raises `Refused`: `import.shape` where hardly anything of it is a folded Clos, `import.model`, `import.names`.
    """
    return _Drawn(drawing, fabric, catalogue, pools or {}, office).adopted()


class _Drawn:
    def __init__(
        self, drawing: Drawing, fabric: str, catalogue: Catalogue, pools: Mapping[str, Pool], office: Office
    ) -> None:
        self.drawing, self.fabric, self.catalogue, self.pools, self.office = drawing, fabric, catalogue, pools, office
        self.found = Findings()
        self.edits: dict[str, Any] = {}

    def adopted(self) -> Adoption:
        self._shape()
        asked = self._asked()
        by_name = {str(switch.name): switch for switch in asked.structure.switches}
        keys = {name: by_name[clean(name)].key for name in self.drawing.nodes if clean(name) in by_name}
        self._asn_plan(keys, asked)
        asked = self._asked()
        pins = list(self._pins(keys, asked))
        self._pools(pins)
        if pins:
            counts = Counter(one.use.partition(".")[0] for one in pins)
            names = {"asn": "AS numbers", "loopback": "loopbacks", "link": "subnets of links"}
            words = ", ".join(f"{count} {names[use]}" for use, count in counts.items())
            # It says no word of the brief: what is taken with it are pins.
            self.found.proposals.append(Proposal("numbers", "numbers", words, ("as they are drawn",), "certain", ()))
        asked = self._asked()
        wanted = {demand.use: set(demand.keys) for demand in asked.demands}
        pins = [one for one in pins if one.key in wanted.get(one.use, ())]
        pinned: dict[str, dict[str, Taken]] = {}
        for pin in pins:
            pinned.setdefault(pin.use, {})[pin.key] = pin.number
        for place, words in enumerate(self.drawing.notes):
            self.found.odd(f"drawing/{place}", "", words.removesuffix("."))
        compiled = complete(asked, Holdings(pinned=pinned))
        return Adoption(
            self._text(), in_order(self.found.proposals), tuple(self.found.oddities), tuple(pins), (), keys, compiled
        )

    def _text(self) -> str:
        return apply(f"fabric: {self.fabric}\n", list(self.edits.items()))

    def _asked(self) -> Asked:
        return ask(read(self._text()).brief, self.pools, self.catalogue, office=self.office)

    def _shape(self) -> None:
        """The part that is a folded Clos, as words of the brief; who is no part of it is named."""
        near: dict[str, set[str]] = defaultdict(set)
        for one in self.drawing.links:
            near[one.a].add(one.b)
            near[one.b].add(one.a)
        left = {name: "it has no link to another" for name in self.drawing.nodes if name not in near}
        clos(near, left)
        for name, why in left.items():
            self.found.odd(f"outside/{name}", name, f"{name} is no part of the fabric: {why}")
        links = [one for one in self.drawing.links if one.a not in left and one.b not in left]
        models = {name: node.model for name, node in self.drawing.nodes.items() if node.model}
        understood = understand(links, self.fabric, self.catalogue, models)
        said = {path: value for path, value in reader.load(understood.text)[0].items() if path != "fabric"}
        self.edits |= said
        title = f"{understood.leaves} leaves under {understood.spines} spines"
        if understood.tiers == 3:
            title += f" in {understood.pods} pods, under {understood.super_spines} super-spines"
        notes = [f"{understood.links} links are drawn", *understood.notes]
        self.found.propose("shape", "shape", title, said, notes, "likely")

    def _asn_plan(self, keys: Mapping[str, str], asked: Asked) -> None:
        """Whether the leaves of a rack share an AS."""
        racks: dict[str, set[int]] = defaultdict(set)
        count: Counter[str] = Counter()
        for name, key in keys.items():
            switch, asn = asked.structure.by_key[key], self.drawing.nodes[name].asn
            if switch.is_leaf and asn is not None:
                racks[switch.rack].add(asn)
                count[switch.rack] += 1
        pairs = [rack for rack in racks if count[rack] > 1]
        if pairs and all(len(racks[rack]) == 1 for rack in pairs):
            said = {"underlay.asn": "per-rack"}
            self.edits |= said
            words = [f"the leaves of {len(pairs)} racks say the same"]
            self.found.propose("routing", "underlay.asn", "one AS for the leaves of a rack", said, words)

    def _pins(self, keys: Mapping[str, str], asked: Asked) -> Iterator[Pin]:
        asns: dict[str, Counter[int]] = defaultdict(Counter)
        for name, key in keys.items():
            node = self.drawing.nodes[name]
            if node.asn is not None:
                asns[asn_key(asked.brief, asked.structure.by_key[key])][node.asn] += 1
            for text in node.loopbacks:
                address = ip_address(text)
                yield Pin(f"loopback.v{address.version}", key, Taken(int(address), 1))
        for owner, said in asns.items():
            (asn, _), *others = said.most_common()
            yield Pin("asn", owner, Taken(asn, 1))
            for other, _ in others:
                words = f"AS {other} is drawn beside AS {asn} for {owner}, which has one: the more frequent is taken"
                self.found.odd(f"asn/{owner}/{other}", "", words)
        yield from self._subnets(keys, asked)

    def _subnets(self, keys: Mapping[str, str], asked: Asked) -> Iterator[Pin]:
        """The subnets of links, each crossing's in the order in which they are drawn."""
        free: dict[frozenset[str], list[str]] = defaultdict(list)
        for link in asked.structure.links:
            free[frozenset((link.upper.key, link.lower.key))].append(link.key)
        for one in self.drawing.links:
            both = frozenset((keys.get(one.a, ""), keys.get(one.b, "")))
            if not free.get(both):
                continue
            key = free[both].pop(0)
            if one.row in self.drawing.subnets:
                net = ip_network(self.drawing.subnets[one.row])
                yield Pin(f"link.v{net.version}", key, Taken(int(net.network_address), net.num_addresses))

    def _pools(self, pins: list[Pin]) -> None:
        """Pools that hold what is drawn."""
        texts: dict[str, list[str]] = defaultdict(list)
        for one in pins:
            use = one.use.partition(".")[0]
            if use == "asn":
                texts["asn"].append(str(one.number.low))
                continue
            six = one.use.endswith("v6")
            length = (128 if six else 32) - (one.number.size.bit_length() - 1)
            address = ip_address(one.number.low) if not six else ip_address(one.number.low.to_bytes(16))
            texts["links" if use == "link" else use].append(f"{address}/{length}")
        every = len(self.drawing.nodes)
        raw = {use: Numbers(sorted(set(found), key=_order), [], every) for use, found in texts.items()}
        self.edits |= pools_for(raw, self.fabric, self.pools, self.found)


def _order(text: str) -> tuple[int, int, int]:
    if "/" not in text:
        return (0, int(text), 0)
    net = ip_network(text)
    return (net.version, int(net.network_address), net.prefixlen)
