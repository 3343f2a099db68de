"""Why a line stands in a file: its template line, the conditions that let it through, and its values' chains."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from barrio.core.because.chain import Step, rule_step
from barrio.core.because.values import of_value
from barrio.core.brief.document import Document
from barrio.core.compile import Compiled
from barrio.core.errors import Refused
from barrio.core.render.engine import files_of
from barrio.core.render.trace import Condition, TracedLine, trace, why


@dataclass(frozen=True, slots=True)
class LineReason:
    """Why a line is in a file: its template line and conditions, then the chain of each value that it prints."""

    line: TracedLine
    steps: tuple[Step, ...]
    values: tuple[tuple[str, str, tuple[Step, ...]], ...]


def of_line(document: Document, compiled: Compiled, switch: str, file: str, number: int) -> LineReason:
    """The reasons for line `number` (from 1) of a file. Raises `KeyError` when there is no such line, `Refused` when the target has no files for the
    switch."""
    found = compiled.switch(switch)
    if found is None:
        raise KeyError(switch)
    if found.key in compiled.without_files:
        raise Refused([compiled.without_files[found.key]])
    lines = trace(compiled.models[found.key], file)
    if not 1 <= number <= len(lines):
        raise KeyError(f"{file}:{number}")
    return of_traced(document, compiled, lines[number - 1])


def of_traced(document: Document, compiled: Compiled, line: TracedLine) -> LineReason:
    """The reasons for a line that was traced before."""
    steps = [
        Step(
            "template",
            _template_title(line),
            f"linux-frr, {line.template}, line {line.template_line}",
            {"template": line.template, "line": line.template_line},
        )
    ]
    reason = why(line.template, line.template_line)
    if reason:
        steps.append(rule_step(reason[0], reason[1] or "template"))
    for condition in reversed(line.conditions):
        steps.extend(_condition(document, compiled, condition))
    values = []
    for path in dict.fromkeys(span.path for span in line.spans):
        text = next(line.text[span.start : span.end] for span in line.spans if span.path == path)
        values.append((path, text, of_value(document, compiled, path)))
    return LineReason(line, tuple(steps), tuple(values))


def _template_title(line: TracedLine) -> str:
    loops = [condition.source for condition in line.conditions if condition.kind == "for"]
    if not loops:
        return "The template prints it"
    thing = re.match(r"for (\w+)", loops[-1])
    return f"The template prints it for every {_THING.get(thing[1] if thing else '', 'item')}"


_THING = {
    "port": "port", "segment": "segment", "vrf": "VRF", "user": "user", "key": "SSH key", "server": "server",
    "entry": "underlay range", "vlan": "VLAN", "session": "session",
}  # fmt: skip


def _condition(document: Document, compiled: Compiled, condition: Condition) -> Iterator[Step]:
    where = f"{condition.template}, line {condition.line}"
    facts: dict[str, str | int] = {"template": condition.template, "line": condition.line}
    if condition.kind == "for":
        path = condition.paths[0] if condition.paths else ""
        if re.fullmatch(r"switches/[^/]+/(fabric_ports|segments|vrfs|sessions|outside)/[^/]+", path):
            yield from of_value(document, compiled, path)
        return
    yield Step("condition", f"Since {_in_words(condition)}", f"{condition.source}; {where}", facts)
    for path in condition.paths:
        yield from (step for step in of_value(document, compiled, path)[-1:] if step.kind == "brief")


def _in_words(condition: Condition) -> str:
    for pattern, true, false in _CONDITIONS:
        if re.search(pattern, condition.source):
            return false if condition.source.startswith("not ") else true
    return f"“{condition.source}” held"


_CONDITIONS = [
    (r"common\.ebgp", "the underlay is eBGP", "the underlay is an IGP"),
    (r"common\.ospf", "the underlay is OSPF", "the underlay is not OSPF"),
    (r"common\.isis", "the underlay is IS-IS", "the underlay is not IS-IS"),
    (r"ibgp_overlay", "EVPN is carried by iBGP", "EVPN runs over the fabric's own sessions"),
    (r"in_overlay", "EVPN runs on this switch", "EVPN does not run on this switch"),
    (r"graceful_restart", "graceful restart is on", "graceful restart is off"),
    (r"session\.client", "the other end is a client of this reflector", "the other end is a reflector too"),
    (r"\.shut", "it is out of service or planned for later", "it is in service"),
    (r"port\.bond|segment_id", "the port is in a LAG over both leaves", "the port is in no LAG"),
    (r"multihoming", "the pair shares hosts by EVPN multihoming", "the pair has no Ethernet segments"),
    (r"sw\.pair", "the leaf is one of a pair", "the leaf stands alone"),
    (r"session\.vlan", "the VRF has a tag on this link", "the link carries one VRF without a tag"),
    (r"session\.(v4|neighbor_v4)", "the link has IPv4 addresses", "the link has no IPv4 addresses"),
    (r"session\.(v6|neighbor_v6)", "the link has IPv6 addresses", "the link has no IPv6 addresses"),
    (r"vrf\.sessions", "a system outside is linked in this VRF", "no system outside is linked in this VRF"),
    (r"common\.has_v4", "the underlay carries IPv4", "the underlay has no IPv4 on links"),
    (r"common\.has_v6", "the underlay carries IPv6", "the underlay has no IPv6"),
    (r"common\.(dead|hello)", "it differs from FRRouting's own", "it is FRRouting's own"),
    (r"extended_nexthop", "IPv4 routes have IPv6 next hops here (RFC 8950)", "next hops are IPv4 addresses"),
    (r"two_families", "links carry IPv4 and IPv6, a session each", "links carry one address family"),
    (r"unnumbered", "links are unnumbered", "links are numbered"),
    (r"shared_asn", "the leaves of a pair share an ASN", "no two leaves share an ASN"),
    (r"is_leaf", "this switch is a leaf", "this switch is a spine"),
    (r"loopback_v6", "the fabric has IPv6 loopbacks", "the fabric has no IPv6 loopbacks"),
    (r"sw\.segments", "a segment reaches this rack", "no segment reaches this rack"),
    (r"segment\.vrf", "the segment is routed in a VRF", "the segment is not routed"),
    (r"has_v4|gateway_v4", "it has an IPv4 prefix", "it has no IPv4 prefix"),
    (r"has_v6|gateway_v6", "it has an IPv6 prefix", "it has no IPv6 prefix"),
    (r"port\.v4", "the link has an IPv4 /31", "the link has no IPv4 /31"),
    (r"port\.v6", "the link has an IPv6 /127", "the link has no IPv6 /127"),
    (r"bfd_multiplier", "it differs from FRRouting's own 3", "it is FRRouting's own 3"),
    (r"bfd_interval", "it differs from FRRouting's own 300 ms", "it is FRRouting's own 300 ms"),
    (r"forced_speed", "the other end is slower than this port", "both ends run at the port's own speed"),
    (r"common\.users", "the brief names who may sign in", "the brief names nobody"),
]


def printed_on(compiled: Compiled, switch_names: tuple[str, ...], text: str) -> list[tuple[str, str, int]]:
    """Where a text stands in the files of some switches: (switch, file, line from 1)."""
    found = []
    whole = re.compile(rf"(?<![\w.:]){re.escape(text)}(?![\w.:])")
    for name in switch_names:
        switch = compiled.switch(name)
        if switch is None or switch.key in compiled.without_files:
            continue
        model = compiled.models[switch.key]
        for plan in files_of(model):
            for number, line in enumerate(compiled.files(switch.key)[plan.path].split("\n"), 1):
                if whole.search(line):
                    found.append((name, plan.path, number))
    return found
