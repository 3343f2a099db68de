"""Which segments and VRFs each rack carries, and the numbers they have on its switches."""

from __future__ import annotations

from collections.abc import Mapping

from barrio.core.attach.attachments import Attachments
from barrio.core.brief.model import Brief
from barrio.core.ledger.pool import Family, address_text, prefix_text
from barrio.core.ledger.wanted import Taken
from barrio.core.model.devices import Devices
from barrio.core.model.switch import FilterEntry, OutsideSession, SegmentModel, VrfModel
from barrio.core.printed import Made, Name, Prefix, VrfName
from barrio.core.structure.parts import Switch


class Segments:
    """Answers for one switch at a time."""

    def __init__(
        self, brief: Brief, numbers: Mapping[str, Mapping[str, Taken]], devices: Devices, attachments: Attachments
    ) -> None:
        self._brief, self._numbers, self._devices, self._attachments = brief, numbers, devices, attachments

    def on(
        self, switch: Switch, router_id: str, outside: tuple[OutsideSession, ...]
    ) -> tuple[tuple[SegmentModel, ...], tuple[VrfModel, ...]]:
        """The segments of a leaf, and the VRFs that a segment or a link to the outside brings to it, by name."""
        if switch.is_spine:
            return (), ()
        here = sorted(self._attachments.carried[switch.key])
        segments = tuple(self._segment(name, router_id) for name in here)
        routed = {self._brief.segments[name].vrf for name in here} | {session.vrf for session in outside}
        vrfs = tuple(
            self._vrf(name, router_id, here, tuple(session for session in outside if session.vrf == name))
            for name in sorted(self._brief.vrfs)
            if name in routed
        )
        return segments, vrfs

    def _segment(self, name: str, router_id: str) -> SegmentModel:
        segment, key = self._brief.segments[name], f"segment/{name}"
        vlan, vni = self._numbers["vlan"][key].low, self._numbers["vni"][key].low
        v4, v6 = (self._numbers.get(f"segment.{family}", {}).get(key) for family in ("v4", "v6"))
        return SegmentModel(
            label=Name(name),
            vlan=vlan,
            vni=vni,
            vxlan=self._devices.tunnel(vni),
            svi=self._devices.svi(vlan),
            vrf=segment.vrf,
            gateway_v4=_gateway(Family.V4, v4),
            gateway_v6=_gateway(Family.V6, v6),
            untagged=segment.untagged,
            ra=v6 is not None and segment.ra != "off",
            slaac=_slaac(v6) if segment.ra == "slaac" else None,
            rd=Made(f"{router_id}:{vlan}"),
            route_target=Made(f"{self._brief.overlay.route_target_as}:{vni}"),
        )

    def _vrf(self, name: str, router_id: str, here: list[str], sessions: tuple[OutsideSession, ...]) -> VrfModel:
        key = f"vrf/{name}"
        vlan, vni = self._numbers["vlan"][key].low, self._numbers["vni"][key].low
        mine = [self._brief.segments[segment] for segment in here if self._brief.segments[segment].vrf == name]
        return VrfModel(
            label=VrfName(name),
            vlan=vlan,
            vni=vni,
            vxlan=self._devices.tunnel(vni),
            svi=self._devices.svi(vlan),
            rd=Made(f"{router_id}:{vlan}"),
            route_target=Made(f"{self._brief.overlay.route_target_as}:{vni}"),
            has_v4=any(segment.v4 for segment in mine) or any(session.v4 for session in sessions),
            has_v6=any(segment.v6 for segment in mine) or any(session.v6 for session in sessions),
            own_v4=self._own(Family.V4, name) if sessions else (),
            own_v6=self._own(Family.V6, name) if sessions else (),
            sessions=sessions,
        )

    def _own(self, family: Family, vrf: str) -> tuple[FilterEntry, ...]:
        """The prefixes of a VRF's segments, wherever in the fabric they are."""
        held = self._numbers.get(f"segment.{family}", {})
        keys = [f"segment/{name}" for name, segment in sorted(self._brief.segments.items()) if segment.vrf == vrf]
        texts = [Prefix(prefix_text(family, held[key].low, held[key].size)) for key in keys if key in held]
        return tuple(FilterEntry(text, text) for text in texts)


def _slaac(prefix: Taken | None) -> Prefix | None:
    """The prefix that hosts may make addresses from, which takes a /64 (RFC 4862, 5.5.3)."""
    return Prefix(prefix_text(Family.V6, prefix.low, prefix.size)) if prefix and prefix.size == 1 << 64 else None


def _gateway(family: Family, prefix: Taken | None) -> Prefix | None:
    if prefix is None:
        return None
    width = 32 if family is Family.V4 else 128
    return Prefix(f"{address_text(family, prefix.low + 1)}/{width - (prefix.size.bit_length() - 1)}")
