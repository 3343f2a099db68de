"""The part of the brief that says what the fabric carries: VRFs and segments."""

from __future__ import annotations

from ipaddress import ip_network
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, ValidationInfo, field_validator

from barrio.core.brief.ranges import expand_names
from barrio.core.brief.terms import Address, Name, OneLine, Part, Prefix, RackRange, VrfKey, VrfName, prefix_of


def _share(value: str) -> Prefix | Name:
    """A prefix, or the name of a segment. Raises `ValueError`."""
    return Prefix.read(value) if "/" in value or ":" in value else Name.read(value)


PrefixKey = Annotated[Prefix, Field(max_length=49)]
Hops = Annotated[list[Address], Field(min_length=1, max_length=16)]

Shares = Annotated[
    list[Annotated[str, Field(max_length=63), AfterValidator(_share)]], Field(min_length=1, max_length=200)
]


class Vrf(Part):
    """A routing table of its own; `vni` and `vlan` pin its L3 VNI and the VLAN that carries it.

    `routes` are static: each prefix with the addresses that lead to it, in a segment of the VRF or on a link to the outside. `imports`
    are, by the other VRF, what is taken from it: segments by name, or prefixes. `aggregates` are told to systems outside in place of
    the prefixes that they cover.
    """

    vni: int | None = Field(None, ge=1, le=16777215)
    vlan: int | None = Field(None, ge=2, le=4094)
    routes: dict[PrefixKey, Hops] = Field({}, max_length=1000)
    imports: dict[VrfKey, Shares] = Field({}, max_length=100)
    aggregates: list[Prefix] = Field([], max_length=100)
    note: OneLine = Field("", max_length=120)

    @field_validator("routes", mode="before")
    @classmethod
    def _one_hop_or_many(cls, routes: object) -> object:
        if not isinstance(routes, dict):
            return routes
        return {prefix: [hops] if isinstance(hops, str) else hops for prefix, hops in routes.items()}

    @field_validator("aggregates")
    @classmethod
    def _are_no_default(cls, aggregates: list[Prefix]) -> list[Prefix]:
        for one in aggregates:
            if ip_network(one).prefixlen == 0:
                raise ValueError("a default route is no aggregate; give a system outside its default by default: out")
        return aggregates


class Relay(Part):
    """Where DHCP questions of a segment's hosts go (RFC 2131, RFC 8415): to these servers, in this VRF (the segment's own when left out).

    A leaf asks from an address of its own in that VRF, so that the answer comes back to it whichever leaf has the same gateway.
    """

    servers: list[Address] = Field(min_length=1, max_length=8)
    vrf: VrfName | None = None


class Segment(Part):
    """One VLAN with its VNI and gateways, on the ports that carry it, in the racks named (any rack when left out).

    `state` is whether it carries anything: a `paused` one keeps its ports and numbers and is silent, one `planned later` has but numbers.

    `v4` and `v6` are the prefix of the segment, `auto` to draw one from the pool, or nothing; `secondary` are more prefixes of it, each
    with a gateway. `ra` is what router advertisements tell its hosts (RFC 4861, 4.2): to make addresses of their own out of the prefix, to
    ask DHCP, or nothing. `mtu` is the largest packet in bytes (the fabric's for hosts when left out). `suppress` is whether leaves answer
    ARP and ND for hosts that they know of (RFC 9161). `multicast` is who gets what is sent to a group: all of the segment, or those who joined
    (RFC 4541), whom the leaves ask.

    `scope` is where its VLAN is the same: in the whole fabric, or on the leaves of one rack, where each rack draws a VLAN of its own (a VLAN is
    local to a bridge; the VNI alone joins the racks: RFC 8365, 5.1.2).
    """

    vrf: VrfName | None = None
    vlan: int | None = Field(None, ge=2, le=4094)
    scope: Literal["fabric", "leaf"] = "fabric"
    vni: int | None = Field(None, ge=1, le=16777215)
    v4: str | None = None
    v6: str | None = None
    secondary: list[Prefix] = Field([], max_length=16)
    racks: RackRange | None = None
    untagged: bool = False
    ra: Literal["slaac", "managed", "off"] = "slaac"
    mtu: int | None = Field(None, ge=1280, le=9166)
    suppress: bool = True
    relay: Relay | None = None
    multicast: Literal["flood", "snoop"] = "flood"
    state: Literal["active", "paused", "planned later"] = "active"
    note: OneLine = Field("", max_length=120)
    owner: OneLine = Field("", max_length=60)

    @property
    def rack_names(self) -> tuple[str, ...] | None:
        """The racks that it may be in; nothing when it may be in any."""
        return expand_names(self.racks) if self.racks else None

    @field_validator("scope")
    @classmethod
    def _one_of_two(cls, scope: str, info: ValidationInfo) -> str:
        if scope == "leaf" and info.data.get("vlan"):
            raise ValueError("each rack draws a VLAN of its own; leave out vlan, or this")
        return scope

    @field_validator("v4", "v6")
    @classmethod
    def _prefix(cls, value: str | None, info: ValidationInfo) -> str | None:
        return prefix_of(value, info.field_name or "", 30, 126)

    @field_validator("secondary")
    @classmethod
    def _have_room(cls, secondary: list[Prefix]) -> list[Prefix]:
        for one in secondary:
            prefix_of(one, "v6" if ":" in one else "v4", 30, 126)
        return secondary
