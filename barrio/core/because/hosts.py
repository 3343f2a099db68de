"""Why a host port carries what it does: the host at it, the plug, the sets of segments; or why it is shut."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.attach.attachments import Attachment
from barrio.core.attach.ways import default_plug
from barrio.core.because.cables import state_steps
from barrio.core.because.chain import Step, rule_step
from barrio.core.because.place import Place, presence_steps, rule
from barrio.core.because.segments import vlan_steps
from barrio.core.brief.hosts import EVERY, SHUT
from barrio.core.structure.parts import Switch


def _leaf(place: Place) -> Switch:
    return place.compiled.structure.by_key[place.switch.key]


def _port(place: Place) -> str:
    """The port that is asked about: a LAG's is its first."""
    if "port" in place.words:
        return place.words["port"]
    return str(next(lag.members[0] for lag in place.switch.host_lags if lag.label == place.words["lag"]))


def host_steps(place: Place, port: str) -> Iterator[Step]:
    """Which host is at a port, or what ports without one carry."""
    found = place.compiled.attachments.at.get(place.switch.key, {}).get(port)
    if found is not None:
        team = f", of {found.team}" if found.team else ""
        yield place.brief(f"{found.path}.at", f"{found.host}{team} is plugged in here")
        return
    name, path = default_plug(place.compiled.brief, _leaf(place))
    if path:
        words = "are shut" if name == SHUT else f"are attached as {name}"
        yield place.brief(path, f"Ports without a host {words}")
    elif name == EVERY:
        yield rule_step("While no host is named, every port carries the segments of its rack", "attachment rule")
        yield from presence_steps(place)
    else:
        yield rule_step("A port that no host is attached to is shut, once hosts are named", "attachment rule")
        yield place.brief("hosts", "The brief names hosts, and none here")


def way_steps(place: Place, port: str, *fields: str) -> Iterator[Step]:
    """Where one of these fields is said: by the host itself, over its plug, or by the plug."""
    found = place.compiled.attachments.at.get(place.switch.key, {}).get(port)
    if found is None:
        name, _ = default_plug(place.compiled.brief, _leaf(place))
        if name not in (EVERY, SHUT):
            yield place.brief(f"plugs.{name}", f"Plug {name} says it")
        return
    yield from _said_steps(place, found, fields)


def _said_steps(place: Place, found: Attachment, fields: tuple[str, ...]) -> Iterator[Step]:
    brief = place.compiled.brief
    host = brief.hosts[found.entry]
    plug = brief.plugs[host.plug] if host.plug else None
    for field in fields:
        if getattr(host, field) is not None:
            over = f", in place of plug {host.plug}" if plug and getattr(plug, field) is not None else ""
            yield place.brief(f"{found.path}.{field}", f"{found.entry} says its own {field}{over}")
        elif plug and getattr(plug, field) is not None:
            yield place.brief(f"plugs.{host.plug}.{field}", f"Plug {host.plug} says {field}")


@rule(
    "host_ports",
    "host_ports/{port}",
    "host_ports/{port}/label",
    "host_ports/{port}/host",
    "host_lags",
    "host_lags/{lag}",
)
def _host_port(place: Place) -> Iterator[Step]:
    if "port" in place.words or "lag" in place.words:
        yield from host_steps(place, _port(place))
    leaf = _leaf(place)
    count = len(leaf.plan.hosts)
    yield Step(
        "catalogue", f"{leaf.type.title} has {count} host ports", f"catalogue, {leaf.type.id}", {"model": leaf.type.id}
    )
    yield from presence_steps(place)


@rule("host_ports/{port}/(?P<field>shut|free|open)")
def _shut(place: Place) -> Iterator[Step]:
    port, key = place.words["port"], place.switch.key
    yield from state_steps(place.document, place.compiled, (f"{key}:{port}", key, f"rack/{place.switch.rack}"))
    yield from host_steps(place, port)


@rule(
    "host_ports/{port}/(?P<field>tagged|untagged)",
    "host_ports/{port}/tagged/{index}",
    "host_lags/{lag}/(?P<field>tagged|untagged)",
    "host_lags/{lag}/tagged/{index}",
)
def _carries(place: Place) -> Iterator[Step]:
    port = _port(place)
    at = next(one for one in place.switch.host_ports if one.label == port)
    vlan = at.tagged[int(place.words["index"])] if "index" in place.words else at.untagged
    named = next((part.label for part in place.switch.segments if part.vlan == vlan), None)
    field = "untagged" if place.words.get("field") == "untagged" else "tagged"
    if named is not None:
        yield from vlan_steps(place, named)
        yield from _set_steps(place, port, str(named))
    yield from way_steps(place, port, field)
    yield from host_steps(place, port)


def _set_steps(place: Place, port: str, segment: str) -> Iterator[Step]:
    """The sets by which a segment came to a port."""
    found = place.compiled.attachments.at.get(place.switch.key, {}).get(port)
    brief = place.compiled.brief
    if found is None:
        return
    host = brief.hosts[found.entry]
    plug = brief.plugs[host.plug] if host.plug else None
    said = host.tagged if host.tagged is not None else plug.tagged if plug else None
    for name in said or ():
        if segment in brief.sets.get(name, ()):
            yield place.brief(f"sets.{name}", f"{segment} is in the set {name}")


@rule("host_ports/{port}/(?P<field>mtu)", "host_lags/{lag}/(?P<field>mtu)")
def _mtu(place: Place) -> Iterator[Step]:
    port = _port(place)
    steps = tuple(way_steps(place, port, "mtu"))
    yield from steps
    if not steps:
        yield place.brief("overlay.host_mtu", f"Hosts may send {place.switch.common.host_mtu} bytes")
    yield from host_steps(place, port)


_LIMITS = ("storm", "macs", "only_macs")


@rule(
    "limits",
    "special",
    "special/{index}",
    "limits/{device}",
    "limits/{device}/(?P<field>label|place|storm|share|burst|macs|only)(/.+)?",
)
def _limit(place: Place) -> Iterator[Step]:
    if "device" not in place.words and "index" not in place.words:
        yield rule_step("Hosts that have limits of their own are counted apart", "attachment rule")
        yield place.brief("hosts", "The brief names hosts")
        return
    device = place.words.get("device") or str(place.switch.special[int(place.words["index"])])
    port = next((str(lag.members[0]) for lag in place.switch.host_lags if lag.label == device), device)
    field = place.words.get("field", "")
    said = {"only": "only_macs", "share": "storm", "burst": "storm"}.get(field, field)
    yield from way_steps(place, port, *((said,) if said in _LIMITS else _LIMITS))
    yield from host_steps(place, port)


@rule("host_ports/{port}/fec")
def _fec(place: Place) -> Iterator[Step]:
    yield from way_steps(place, place.words["port"], "fec")
    yield from host_steps(place, place.words["port"])


@rule("host_ports/{port}/forced_speed")
def _speed(place: Place) -> Iterator[Step]:
    port, leaf = place.words["port"], _leaf(place)
    steps = tuple(way_steps(place, port, "speed"))
    yield from steps
    if not steps:
        speed = leaf.group.host_speed if leaf.group else None
        path = f"{leaf.origin.removesuffix('.racks')}.host_speed"
        yield place.brief(path, f"Host ports run at {speed}G" if speed else "Host ports run at their highest")


@rule(
    "host_ports/{port}/bond",
    "host_lags/{lag}/(?P<field>label|host|members|static|slow)",
    "host_lags/{lag}/members/{index}",
)
def _lag(place: Place) -> Iterator[Step]:
    port = _port(place)
    yield rule_step("A LAG is called after its first port", "attachment rule")
    yield from way_steps(place, port, "rate" if place.words.get("field") == "slow" else "lag")
    yield from host_steps(place, port)
