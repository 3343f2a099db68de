"""What cannot work on any network: refused before numbers are drawn, or as soon as they show it.

Each function yields faults with the way out; a compile raises them all together.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from ipaddress import IPv4Network, IPv6Network, ip_address, ip_interface, ip_network

from barrio.core.brief.model import Brief
from barrio.core.checks.tenants import contradicting_tenants, impossible_tenants
from barrio.core.errors import Fault
from barrio.core.ledger.wanted import Taken
from barrio.core.model.devices import Devices
from barrio.core.model.switch import SwitchModel
from barrio.core.printed.words import MOST_NAME
from barrio.core.settings.known import value_in
from barrio.core.settings.ladder import Ladder
from barrio.core.structure.parts import LATER, OUT, Structure, Switch

_NOT_FOR_HOSTS = {
    "0.0.0.0/8": "this network, RFC 1122", "127.0.0.0/8": "loopback of a host, RFC 1122",
    "169.254.0.0/16": "link-local, RFC 3927", "224.0.0.0/3": "multicast and reserved, RFC 5771 and RFC 1112",
    "::/8": "reserved, RFC 4291", "fe80::/10": "link-local, RFC 4291", "ff00::/8": "multicast, RFC 4291",
}  # fmt: skip
_RANGES = [(ip_network(text), why) for text, why in _NOT_FOR_HOSTS.items()]
_TAKEN_NAMES = re.compile(r"localhost|ip6-localhost|ip6-loopback|ns\d{1,3}|mgmt|vtep|gw|hostmaster", re.ASCII)
"""Names that the hosts file and the zones of a fabric give to something else."""


def impossible(ladder: Ladder, structure: Structure, devices: Devices) -> tuple[Fault, ...]:
    """Faults that the brief and its structure show; `devices` are called as the target calls them."""
    brief = ladder.whole
    return (
        *_prefixes(brief), *_servers(ladder), *_names(brief, structure), *_device_names(brief, structure, devices),
        *_top_tier(brief, structure), *impossible_tenants(brief),
    )  # fmt: skip


def contradictions(
    brief: Brief, numbers: Mapping[str, Mapping[str, Taken]], models: Mapping[str, SwitchModel]
) -> tuple[Fault, ...]:
    """Faults that show once numbers are drawn: a gateway that is out of reach, an ASN that is ours."""
    return (*_gateway(brief, models), *_asns(models), *contradicting_tenants(brief, numbers, models))


def _unusable(text: str) -> str | None:
    """Why no host and no router may have addresses of a prefix, or nothing."""
    prefix = ip_network(text)
    for one, why in _RANGES:
        if isinstance(prefix, IPv4Network) and isinstance(one, IPv4Network) and prefix.overlaps(one):
            return why
        if isinstance(prefix, IPv6Network) and isinstance(one, IPv6Network) and prefix.overlaps(one):
            return why
    return None


def _prefixes(brief: Brief) -> Iterator[Fault]:
    said = [
        (f"segments.{name}.{family}", f"Segment {name}", getattr(segment, family))
        for name, segment in brief.segments.items()
        for family in ("v4", "v6")
    ]
    said += [
        (f"segments.{name}.secondary[{at}]", f"Segment {name}", prefix)
        for name, segment in brief.segments.items()
        for at, prefix in enumerate(segment.secondary)
    ]
    for name, system in brief.outside.items():
        for at, link in enumerate(system.links):
            for vrf, part in link.vrfs.items():
                path = f"outside.{name}.links[{at}].vrfs.{vrf}"
                said += [(f"{path}.{family}", f"The link to {name}", getattr(part, family)) for family in ("v4", "v6")]
    for path, thing, text in said:
        why = _unusable(text) if text and not text.startswith("auto") else None
        if why:
            words = (
                f"{thing} would have {text}, whose addresses no host may have ({why}). Choose another prefix, or auto."
            )
            yield Fault("prefix.unusable", words, path)


def _servers(ladder: Ladder) -> Iterator[Fault]:
    nouns = {"services.ntp": "time", "services.dns": "name", "services.syslog": "log"}
    said = [(name, name, value_in(ladder.brief, name)) for name in nouns]
    for entries in ladder.said.values():
        said += [(name, one.path, one.value or []) for name, one in entries.items() if name in nouns]
    for name, path, servers in said:
        for at, server in enumerate(servers):
            try:
                address = ip_address(server)
            except ValueError:
                continue
            why = _unusable(f"{address}/{address.max_prefixlen}")
            if why:
                words = f"No {nouns[name]} server can be reached at {server} ({why}). Give its own address."
                yield Fault("server.unusable", words, f"{path}[{at}]")


def _names(brief: Brief, structure: Structure) -> Iterator[Fault]:
    domain = brief.services.domain
    switches = {switch.name: switch for switch in structure.switches}
    for name, switch in switches.items():
        path = switch.called.path or switch.origin
        if _TAKEN_NAMES.fullmatch(name):
            yield Fault("name.taken", f"A switch cannot be called {name}: that name has a meaning of its own.", path)
        if len(name) > 63:
            words = f"{name} has {len(name)} characters; a host name has 63 at most (RFC 1035). Use shorter names for racks or pods."
            yield Fault("name.too-long", words, path)
        whole = max(switch.plan.longest, 4) + len(name) + len(domain) + 2
        if whole > MOST_NAME:
            words = (
                f"The names of {name}'s ports under {domain} have up to {whole} characters; {MOST_NAME} is the most (RFC 1035). "
                "Use a shorter domain or shorter names."
            )
            yield Fault("name.too-long", words, "services.domain")
    for system in brief.outside:
        if system in switches:
            words = f"A system outside and a switch would both be called {system}. Give one of them another name."
            yield Fault("name.twice", words, f"outside.{system}")


def _device_names(brief: Brief, structure: Structure, devices: Devices) -> Iterator[Fault]:
    """VRFs and the management port are devices on the switch; their names must be no other device's."""
    kinds = {switch.type.id: switch.type for switch in structure.switches}.values()
    ports = {port for kind in kinds for port in kind.group_of}
    management = brief.management.interface
    named = [*((name, f"vrfs.{name}") for name in brief.vrfs), (management, "management.interface")]
    for name, path in named:
        if name in ports or devices.taken(name) or (path.startswith("vrfs.") and name == management):
            yield Fault("name.device", f"{name} is the name of another device on the switch. Choose another.", path)


def _top_tier(brief: Brief, structure: Structure) -> Iterator[Fault]:
    for field, word in (("out_of_service", OUT), ("planned_later", LATER)):
        marks = list(getattr(brief, field))
        for tier, switches in (("spines", structure.spines), ("super-spines", structure.supers)):
            idle = [switch for switch in switches if switch.state]
            if switches and len(idle) == len(switches) and idle[-1].state == word:
                words = (
                    f"All {tier} are out of service or planned later, so nothing reaches anything. Keep one in service."
                )
                yield Fault("state.no-way", words, f'{field}."{marks[-1]}"' if marks else field)
    if brief.overlay.protocol != "ibgp":
        return
    top: Sequence[Switch] = structure.supers or structure.spines
    if brief.overlay.reflectors > len(top) and "reflectors" in brief.overlay.model_fields_set:
        words = (
            f"{brief.overlay.reflectors} route reflectors are asked for, and {'there is' if len(top) == 1 else 'there are'} "
            f"{len(top)} switches of the top tier to be one. Ask for {len(top)}."
        )
        yield Fault("routing.reflectors", words, "overlay.reflectors")
    elif sum(not switch.state for switch in top) == 0 < len(top):
        words = "No route reflector is in service, so leaves learn nothing of each other. Keep one switch of the top tier in service."
        yield Fault("routing.no-reflector", words, "overlay.reflectors")


def _gateway(brief: Brief, models: Mapping[str, SwitchModel]) -> Iterator[Fault]:
    said = brief.management.gateway
    if said is None:
        return
    gateway = ip_address(said)
    for model in models.values():
        network = ip_interface(model.management.address).network
        if gateway.version != network.version:
            words = f"The management gateway {said} is of another family than the management addresses ({network}). Give one of {network}."
        elif gateway not in network:
            words = f"The management gateway {said} is not in {network}, where {model.name} has its address. Give an address of it."
        elif model.management.ip == said or gateway in (network.network_address, network.broadcast_address):
            words = (
                f"{said} cannot be the management gateway of {network}: it is no router's address. Give another of it."
            )
        else:
            continue
        yield Fault("management.gateway", words, "management.gateway")
        return


def _asns(models: Mapping[str, SwitchModel]) -> Iterator[Fault]:
    told = set()
    for model in models.values():
        for session in model.outside:
            if session.asn == model.process_asn and session.system not in told:
                told.add(session.system)
                words = (
                    f"{session.system} would be AS {session.asn}, which is the AS of {model.name}; eBGP is between two. Give the "
                    "system its own ASN, or draw ours from another range."
                )
                yield Fault("outside.own-asn", words, f"outside.{session.system}.asn")
