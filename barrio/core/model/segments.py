"""Which segments and VRFs each rack carries, and the numbers they have on its switches."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import partial

from barrio.core.attach.attachments import Attachments
from barrio.core.brief.model import Brief
from barrio.core.brief.tenants import Segment
from barrio.core.ledger.pool import Family, address_text, prefix_text
from barrio.core.ledger.prefixes import secondaries
from barrio.core.ledger.vlans import vlan_of
from barrio.core.ledger.wanted import Taken
from barrio.core.model.devices import Devices
from barrio.core.model.relays import relays, relays_to, sources
from barrio.core.model.switch import FilterEntry, Imported, OutsideSession, Relay, SegmentModel, VrfModel
from barrio.core.model.tenants import Tenants, covering
from barrio.core.printed import Made, Name, Prefix, VrfName
from barrio.core.structure.parts import Switch


class Segments:
    """Answers for one switch at a time."""

    def __init__(
        self, brief: Brief, numbers: Mapping[str, Mapping[str, Taken]], devices: Devices, attachments: Attachments
    ) -> None:
        self._brief, self._numbers, self._devices, self._attachments = brief, numbers, devices, attachments
        self._tenants = Tenants(brief, numbers)
        self._known: dict[tuple[str, int], partial[SegmentModel]] = {}

    def on(
        self, switch: Switch, router_id: str, outside: tuple[OutsideSession, ...]
    ) -> tuple[tuple[SegmentModel, ...], tuple[VrfModel, ...], tuple[Relay, ...]]:
        """The segments of a leaf, and the VRFs that a segment or a link to the outside brings to it, by name."""
        if switch.is_spine:
            return (), (), ()
        here = sorted(self._attachments.carried[switch.key])
        segments = tuple(self._segment(name, switch.rack, router_id) for name in here)
        routed = {self._brief.segments[name].vrf for name in here} | {session.vrf for session in outside}
        routed |= {relays_to(self._brief.segments[name]) for name in here}
        # What a VRF takes from another, it takes from the same switch's table of that one.
        routed |= {VrfName(other) for name in routed if name for other in self._brief.vrfs[name].imports}
        known = sorted(name for name in routed if name)
        vrfs = tuple(
            self._vrf(
                name, switch, router_id, here, known, tuple(session for session in outside if session.vrf == name)
            )
            for name in known
        )
        return segments, vrfs, tuple(relays(self._brief, self._tenants, segments, vrfs, outside))

    def _segment(self, name: str, rack: str, router_id: str) -> SegmentModel:
        """A segment on a switch: the same on each, or on each of a rack, but for its route distinguisher."""
        vlan = vlan_of(self._brief, self._numbers, name, rack)
        if (name, vlan) not in self._known:
            self._known[name, vlan] = self._anywhere(name, vlan)
        return self._known[name, vlan](rd=Made(f"{router_id}:{vlan}"))

    def _anywhere(self, name: str, vlan: int) -> partial[SegmentModel]:
        segment, key = self._brief.segments[name], f"segment/{name}"
        vni = self._numbers["vni"][key].low
        v4, v6 = (self._numbers.get(f"segment.{family}", {}).get(key) for family in ("v4", "v6"))
        return partial(
            SegmentModel,
            label=Name(name),
            vlan=vlan,
            local=segment.scope == "leaf",
            vni=vni,
            vxlan=self._devices.tunnel(vni),
            svi=self._devices.svi(vlan),
            vrf=segment.vrf,
            gateway_v4=_gateway(Family.V4, v4),
            gateway_v6=_gateway(Family.V6, v6),
            secondary=self._beside(name) if segment.secondary else (),
            mtu=segment.mtu or self._brief.overlay.host_mtu,
            suppress=segment.suppress,
            snoop=segment.multicast == "snoop",
            asked_v6=name in self._tenants.asked_v6,
            untagged=segment.untagged,
            ra=v6 is not None and segment.ra != "off",
            slaac=_slaac(v6) if segment.ra == "slaac" else None,
            route_target=Made(f"{self._brief.overlay.route_target_as}:{vni}"),
        )

    def _vrf(
        self,
        name: str,
        switch: Switch,
        router_id: str,
        here: list[str],
        routed: Sequence[str],
        sessions: tuple[OutsideSession, ...],
    ) -> VrfModel:
        key = f"vrf/{name}"
        vlan, vni = self._numbers["vlan"][key].low, self._numbers["vni"][key].low
        mine = [self._brief.segments[segment] for segment in here if self._brief.segments[segment].vrf == name]
        routes = {family: self._tenants.routes(name, here, sessions, family) for family in (Family.V4, Family.V6)}
        used = any(relays_to(self._brief.segments[one]) == name for one in here)
        asks = sources(name, switch.key, self._numbers) if used else ()
        # A VRF that is here for another's sake alone has the families that the other takes from it, and takes nothing itself.
        alone = not mine and not sessions and not asks
        lent = [one for other in (routed if alone else ()) for one in self._tenants.imports[other] if one.label == name]
        has_v4 = (
            _has(mine, 4)
            or any(session.v4 for session in sessions)
            or any(one.v4 for one in lent)
            or any("." in one.prefix for one in asks)
        )
        has_v6 = (
            _has(mine, 6)
            or any(session.v6 for session in sessions)
            or any(one.v6 for one in lent)
            or any(":" in one.prefix for one in asks)
        )
        imports = tuple(
            Imported(one.label, one.v4 if has_v4 else (), one.v6 if has_v6 else ())
            for one in (() if alone else self._tenants.imports[name])
        )
        return VrfModel(
            label=VrfName(name),
            vlan=vlan,
            vni=vni,
            vxlan=self._devices.tunnel(vni),
            svi=self._devices.svi(vlan),
            rd=Made(f"{router_id}:{vlan}"),
            route_target=Made(f"{self._brief.overlay.route_target_as}:{vni}"),
            has_v4=has_v4,
            has_v6=has_v6,
            routes_v4=routes[Family.V4],
            routes_v6=routes[Family.V6],
            imports=imports,
            sources=asks,
            covers_v4=covering(self._brief.vrfs[name], 4) if sessions else (),
            covers_v6=covering(self._brief.vrfs[name], 6) if sessions else (),
            own_v4=self._tenants.own(Family.V4, name) if sessions else (),
            own_v6=self._tenants.own(Family.V6, name) if sessions else (),
            sessions=sessions,
        )

    def _beside(self, name: str) -> tuple[FilterEntry, ...]:
        """The gateways in the further prefixes of a segment."""
        found = []
        for family in (Family.V4, Family.V6):
            held = self._numbers.get(f"segment.{family}", {})
            for key in secondaries(self._brief, family):
                if key.startswith(f"segment/{name}~"):
                    gateway = _gateway(family, held[key])
                    assert gateway is not None
                    found.append(FilterEntry(gateway, gateway))
        return tuple(found)


def _has(segments: list[Segment], version: int) -> bool:
    """Whether a segment of a list has a prefix of a family."""
    return any(
        (segment.v4 if version == 4 else segment.v6)
        or any((":" in prefix) == (version == 6) for prefix in segment.secondary)
        for segment in segments
    )


def _slaac(prefix: Taken | None) -> Prefix | None:
    """The prefix that hosts may make addresses from, which takes a /64 (RFC 4862, 5.5.3)."""
    return Prefix(prefix_text(Family.V6, prefix.low, prefix.size)) if prefix and prefix.size == 1 << 64 else None


def _gateway(family: Family, prefix: Taken | None) -> Prefix | None:
    if prefix is None:
        return None
    width = 32 if family is Family.V4 else 128
    return Prefix(f"{address_text(family, prefix.low + 1)}/{width - (prefix.size.bit_length() - 1)}")
