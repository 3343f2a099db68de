"""Why a fabric port is there, with its peer, addresses and cable."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.because.cables import cable_steps, lanes_step, meeting_step, port_steps, state_steps
from barrio.core.because.chain import Step, ledger_step, rule_step
from barrio.core.because.place import LINKS, Place, asn_steps, numbers_step, rule


@rule(
    "fabric_ports",
    "fabric_ports/{port}",
    "fabric_ports/{port}/label",
    "fabric_ports/{port}/peer",
    "fabric_ports/{port}/peer_port",
)
def _port(place: Place) -> Iterator[Step]:
    if "port" not in place.words:
        yield place.brief(
            "uplinks_per_spine",
            f"{place.compiled.brief.uplinks_per_spine} links from each leaf to each spine",
        )
        return
    end = place.end()
    upper = (place.switch.key == end.link.upper.key) != place.path.endswith("peer_port")
    yield meeting_step(place.document, place.compiled, end)
    yield from port_steps(place.document, place.compiled, end, upper)
    yield lanes_step(place.document, place.compiled, end)


@rule("fabric_ports/{port}/shut")
def _shut(place: Place) -> Iterator[Step]:
    link = place.end().link
    keys = [link.key, f"{place.switch.key}:{place.words['port']}"]
    keys += [key for end in (link.upper, link.lower) for key in (end.key, f"rack/{end.rack}")]
    steps = tuple(state_steps(place.document, place.compiled, tuple(keys)))
    yield from steps or (lanes_step(place.document, place.compiled, place.end()),)


@rule("fabric_ports/{port}/cable")
def _cable(place: Place) -> Iterator[Step]:
    yield from cable_steps(place.document, place.compiled, place.end())


@rule("fabric_ports/{port}/peer_asn")
def _peer_asn(place: Place) -> Iterator[Step]:
    link = place.end().link
    peer = link.lower if place.switch.key == link.upper.key else link.upper
    yield rule_step(f"The session is with {peer.name}, so it names that switch's ASN", "RFC 4271, 4.2")
    yield from asn_steps(place, peer.key)


@rule(
    "fabric_ports/{port}/neighbor",
    "fabric_ports/{port}/neighbor6",
    "fabric_ports/{port}/v4",
    "fabric_ports/{port}/v6",
)
def _link_address(place: Place) -> Iterator[Step]:
    link = place.end().link
    addressing = place.switch.common.addressing
    name = place.path.rsplit("/", 1)[-1]
    if name == "neighbor" and addressing == "unnumbered":
        yield rule_step(
            "The session speaks to whatever router is on this port, by its link-local address",
            "RFC 4861; RFC 8950",
        )
        yield from _port(place)
        return
    six = name in ("v6", "neighbor6") or (name == "neighbor" and addressing == "ipv6")
    use = "link.v6" if six else "link.v4"
    if link.key in place.compiled.allocation.numbers.get(use, {}):
        mine = name in ("v4", "v6")
        lower = (place.switch.key == link.upper.key) == mine
        yield rule_step("The upper switch has the lower address of a link" if lower else "The lower switch has the upper address of a link", "numbering rule")  # fmt: skip
        yield ledger_step(place.compiled, use, link.key)
        yield rule_step("A point-to-point link needs two addresses", "RFC 6164" if six else "RFC 3021")
        yield numbers_step(place, use)
    yield place.brief("underlay.addressing", LINKS[addressing])


@rule("fabric_ports/{port}/forced_speed")
def _speed(place: Place) -> Iterator[Step]:
    link = place.end().link
    yield Step(
        "catalogue",
        f"{link.speed}G is the highest speed that {link.lower.type.title} and {link.upper.type.title} share",
        "catalogue",
    )
    field = "super_spines" if link.upper.role == "super-spine" else "spines"
    yield place.brief(f"{field}.model", f"The {field.replace('_', '-')} are {link.upper.type.title}")
