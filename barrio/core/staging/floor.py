"""A hall as a simulation builds it: the switches of a fabric with their ports, and the cables between them, and nothing of what is to be put on them."""

from __future__ import annotations

from dataclasses import dataclass
from ipaddress import ip_interface

from barrio.core import Compiled
from barrio.core.staging.boxes import airflow_of


@dataclass(frozen=True, slots=True)
class Bare:
    """A switch with nothing on it: what it is, its `ports`, and the port by which it is managed."""

    name: str
    model: str
    airflow: str
    front: int
    ports: tuple[str, ...]
    management: str


@dataclass(frozen=True, slots=True)
class Cable:
    """A cable: at each end a switch and a port."""

    one: tuple[str, str]
    other: tuple[str, str]


@dataclass(frozen=True, slots=True)
class Floor:
    """The switches, the cables between them, the addresses of the management network's gateways (with their length), and those that are asked there."""

    fabric: str
    switches: tuple[Bare, ...]
    cables: tuple[Cable, ...]
    gateways: tuple[str, ...]
    servers: tuple[str, ...]


def floor(compiled: Compiled) -> Floor:
    """The hall of a fabric. Host ports are there, and nothing is plugged in."""
    switches: list[Bare] = []
    gateways: dict[str, None] = {}
    for switch in compiled.staged:
        model = compiled.models[switch.key]
        ports = [str(one.label) for one in model.fabric_ports]
        if model.pair is not None:
            ports += [str(one.label) for one in model.pair.ports]
        ports += [str(one.label) for one in model.host_ports]
        ports += [str(one.label) for one in model.outside_ports]
        front = sum(group.count for group in switch.type.groups)
        airflow = str(airflow_of(compiled, switch))
        here = tuple(dict.fromkeys(ports))
        switches.append(
            Bare(str(switch.name), str(switch.type.id), airflow, front, here, str(model.management.interface))
        )
        length = ip_interface(str(model.management.address)).network.prefixlen
        gateways[f"{model.management.gateway}/{length}"] = None
    names = {one.name for one in switches}
    cables = tuple(
        Cable((str(end.link.upper.name), str(end.upper_port)), (str(end.link.lower.name), str(end.lower_port)))
        for end in compiled.ends
        if {str(end.link.upper.name), str(end.link.lower.name)} <= names
    )
    services = compiled.brief.services
    asked = [str(one) for one in (*services.ntp, *services.dns, *services.syslog) if str(one)[0].isdigit()]
    return Floor(str(compiled.brief.fabric), tuple(switches), cables, tuple(gateways), tuple(dict.fromkeys(asked)))
