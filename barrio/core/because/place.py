"""A place in the compiled model that is asked why, the registry of rules that answer, and the steps they share."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from barrio.core.because.chain import Step, brief_step, ledger_step, pool_of, rule_step
from barrio.core.brief.document import Document
from barrio.core.compiled import Compiled
from barrio.core.ledger.demand import asn_key
from barrio.core.model.links import Ends
from barrio.core.model.switch import SwitchModel


@dataclass(frozen=True, slots=True)
class Place:
    """What a rule gets: everything compiled, the switch, and the words its pattern caught."""

    document: Document
    compiled: Compiled
    switch: SwitchModel
    words: dict[str, str]
    path: str

    def brief(self, path: str, title: str) -> Step:
        return brief_step(self.document, path, title)

    def end(self) -> Ends:
        port = next(port for port in self.switch.fabric_ports if port.label == self.words["port"])
        return next(end for end in self.compiled.ends if end.link.key == port.link)


_Rule = Callable[[Place], Iterator[Step]]
RULES: list[tuple[re.Pattern[str], _Rule]] = []


def rule(*patterns: str) -> Callable[[_Rule], _Rule]:
    """Register a rule for paths below `switches/<name>/`; `{x}` in a pattern catches one step as `x`."""

    def register(function: _Rule) -> _Rule:
        for pattern in patterns:
            RULES.append((re.compile(re.sub(r"\{(\w+)\}", r"(?P<\1>[^/]+)", pattern)), function))
        return function

    return register


def numbers_step(place: Place, use: str) -> Step:
    _, name = pool_of(place.compiled, use)
    return place.brief(f"numbers.{name}", f"The brief draws these from {getattr(place.compiled.brief.numbers, name)}")


def presence_steps(place: Place) -> Iterator[Step]:
    """Why the switch itself is there."""
    switch = place.compiled.switch(place.switch.key)
    assert switch is not None
    brief = place.compiled.brief
    if switch.role == "super-spine":
        count = brief.super_spines.per_plane if brief.super_spines else 0
        yield rule_step("There is a plane for each spine of a pod", "folded Clos of three tiers; RFC 7938, 3.2")
        yield place.brief(
            "super_spines.per_plane", f"The brief asks for {count} super-spines a plane; this is {switch.key}"
        )
    elif switch.role == "spine":
        where = (
            f" in each pod; this is number {switch.plane} of pod {switch.pod}"
            if switch.pod
            else f"; this is {switch.key}"
        )
        yield place.brief("spines.count", f"The brief asks for {brief.spines.count} spines{where}")
        if switch.pod:
            yield place.brief("pods", f"The pods are {brief.pods}")
    else:
        count = switch.group.leaves if switch.group else 1
        leaves = {1: "one leaf", 2: "a pair of leaves"}.get(count, f"{count} leaves")
        yield place.brief(switch.origin, f"The brief puts {leaves} in rack {switch.rack}")


def asn_steps(place: Place, switch_key: str) -> Iterator[Step]:
    compiled = place.compiled
    key = asn_key(compiled.brief, compiled.structure.by_key[switch_key])
    yield ledger_step(compiled, "asn", key)
    if key == "fabric":
        yield rule_step("The whole fabric is one AS, since iBGP carries EVPN in it", "RFC 4456, 3")
        yield place.brief("underlay.protocol", f"The underlay is {compiled.brief.underlay.protocol.upper()}")
    elif key == "super-spines":
        yield rule_step("The super-spines share one ASN, so that no path leads through two of them", "RFC 7938, 5.2.1")
    elif key.startswith("spines"):
        which = f"The spines of pod {key[7:]} share" if key[7:] else "The spines share"
        yield rule_step(f"{which} one ASN, so that no path leads through two of them", "RFC 7938, 5.2.1")
    else:
        yield place.brief("underlay.asn", f"The ASN plan is {compiled.brief.underlay.asn}")
        yield rule_step("Private ASNs are for use inside one network", "RFC 6996; RFC 7938, 5.2.2")
    yield numbers_step(place, "asn")


LINKS = {
    "ipv4": "Links are numbered with /31s",
    "ipv6": "Links are numbered with /127s",
    "dual": "Links are numbered with /31s and /127s",
    "unnumbered": "Links are unnumbered",
}
