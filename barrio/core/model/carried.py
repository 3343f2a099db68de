"""What hosts cause on a leaf: its ports and LAGs for them, the segments and VRFs that they bring, and the edge that guards it.

These parts of a model can be made anew alone, while nothing but hosts has changed.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import replace
from typing import Any

from barrio.core.attach.attachments import Attachments
from barrio.core.brief.model import Brief
from barrio.core.ledger.wanted import Taken
from barrio.core.model.devices import Devices
from barrio.core.model.edge import HostLag, HostPort
from barrio.core.model.hosts import HostPorts
from barrio.core.model.segments import Segments
from barrio.core.model.switch import OutsideSession, PairModel, SwitchModel
from barrio.core.printed import Address, Printed
from barrio.core.structure.parts import Structure, Switch

Numbers = Mapping[str, Mapping[str, Taken]]


class Carried:
    """Answers for one switch at a time."""

    def __init__(
        self, brief: Brief, structure: Structure, numbers: Numbers, devices: Devices, attachments: Attachments
    ) -> None:
        self._segments = Segments(brief, numbers, devices, attachments)
        self._ports = HostPorts(brief, structure, attachments, numbers, devices)

    def of(
        self, switch: Switch, router_id: Address, outside: tuple[OutsideSession, ...], pair: PairModel | None
    ) -> dict[str, Any]:
        """The fields of a switch's model that its hosts cause."""
        segments, vrfs, relays = self._segments.on(switch, router_id, outside)
        hosts, lags = self._ports.of(switch) if switch.is_leaf else ((), ())
        edge = _edge(hosts, lags)
        limits = self._ports.limits(switch, edge) if switch.is_leaf else ()
        shared = [lag for lag in lags if lag.segment_id]
        vlans = [part.vlan for part in segments] + [part.vlan for part in vrfs]
        if pair and pair.vlan:
            vlans.append(pair.vlan)
        snooped = {part.vlan for part in segments if part.snoop}
        return {
            "host_ports": hosts,
            "host_lags": lags,
            "segments": segments,
            "vrfs": vrfs,
            "relays": relays,
            "vlans": tuple(sorted(vlans)),
            "snooped": tuple(sorted(snooped)),
            "flooded": tuple(sorted(set(vlans) - snooped)),
            "edge_ports": edge,
            "shared": tuple(lag.label for lag in shared),
            "waiting": tuple(lag.label for lag in shared if pair and lag.odd != pair.first),
            "limits": limits,
            "special": tuple(one.label for one in limits if one.storm is not None or one.share is not None),
            "bridge_ports": tuple[Printed, ...](
                [*edge, *(part.vxlan for part in segments), *(part.vxlan for part in vrfs)]
            ),
        }


def made_anew(
    brief: Brief,
    structure: Structure,
    numbers: Numbers,
    devices: Devices,
    attachments: Attachments,
    models: Mapping[str, SwitchModel],
    leaves: Collection[str],
) -> dict[str, SwitchModel]:
    """The models of a fabric of which nothing but the hosts of these leaves has changed."""
    carried = Carried(brief, structure, numbers, devices, attachments)
    found = dict(models)
    for key in leaves:
        before = models[key]
        parts = carried.of(structure.by_key[key], before.router_id, before.outside, before.pair)
        found[key] = replace(before, **parts)
    return found


def _edge(ports: tuple[HostPort, ...], lags: tuple[HostLag, ...]) -> tuple[Printed, ...]:
    """The devices by which hosts are on the bridge: ports, and LAGs each in the place of its first port."""
    first = {lag.members[0]: lag.label for lag in lags}
    return tuple(first.get(port.label, port.label) for port in ports if port.open or port.label in first)
