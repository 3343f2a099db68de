"""The brief: what the architect wants, as one frozen document.

Everything has a default except the fabric's name, so that the shortest brief is one line. Fields hold intent only:
no number that the ledger hands out stands here unless a person pinned it. Units: speeds in Gbit/s, MTU in bytes (layer
3, without the Ethernet header), BFD in milliseconds, timers in seconds.

Keys. A rack, a segment and a VRF are identified by the name under which they stand here; a switch by its place
(`leaf/r07/b`, `spine/3`, and with pods `leaf/p01-r07/b`, `spine/p01/3`, `super/3/1`). Numbers belong to these keys.
`names` gives a switch another host name without touching its key, which is how something is renamed and keeps its
numbers; `models` gives it another model, while a migration runs.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field, ValidationInfo, field_validator, model_validator

from barrio.core.brief.hardware import PortPlan, RackGroup, Spines, SuperSpines
from barrio.core.brief.hosts import HostEntry, HostNames, Plug
from barrio.core.brief.ranges import expand_names
from barrio.core.brief.routing import Outside, Overlay, Underlay
from barrio.core.brief.terms import (
    Address,
    Device,
    Domain,
    Host,
    Name,
    NameKey,
    OneLine,
    Part,
    PoolName,
    Prefix,
    PublicKey,
    RackRange,
    Reason,
    SwitchKey,
    ThingKey,
    UserKey,
    UserName,
    VrfKey,
    VrfName,
    prefix_of,
)


class Vrf(Part):
    """A routing table of its own; `vni` and `vlan` pin its L3 VNI and the VLAN that carries it."""

    vni: int | None = Field(None, ge=1, le=16777215)
    vlan: int | None = Field(None, ge=2, le=4094)


class Segment(Part):
    """One VLAN with its VNI and gateways, on the ports that carry it, in the racks named (any rack when left out).

    `state` is whether it carries anything: a `paused` one keeps its ports and numbers and is silent, one `planned later` has but numbers.

    `v4` and `v6` are the prefix of the segment, `auto` to draw one from the pool, or nothing. `ra` is what router advertisements
    tell its hosts (RFC 4861, 4.2): to make addresses of their own out of the prefix, to ask DHCP, or nothing.
    """

    vrf: VrfName | None = None
    vlan: int | None = Field(None, ge=2, le=4094)
    vni: int | None = Field(None, ge=1, le=16777215)
    v4: str | None = None
    v6: str | None = None
    racks: RackRange | None = None
    untagged: bool = False
    ra: Literal["slaac", "managed", "off"] = "slaac"
    state: Literal["active", "paused", "planned later"] = "active"
    note: OneLine = Field("", max_length=120)
    owner: OneLine = Field("", max_length=60)

    @property
    def rack_names(self) -> tuple[str, ...] | None:
        """The racks that it may be in; nothing when it may be in any."""
        return expand_names(self.racks) if self.racks else None

    @field_validator("v4", "v6")
    @classmethod
    def _prefix(cls, value: str | None, info: ValidationInfo) -> str | None:
        return prefix_of(value, info.field_name or "", 30, 126)


class Management(Part):
    """The out-of-band port and its gateway (the first address of the pool's range when left out)."""

    interface: Device = Device("eth0")
    gateway: Address | None = None


class User(Part):
    """Someone who may sign in, by SSH key only. An `admin` may become root; an `operator` looks at routing and changes nothing."""

    role: Literal["admin", "operator"] = "admin"

    keys: list[PublicKey] = Field(min_length=1, max_length=20)


class Snmp(Part):
    """Monitoring by SNMP version 3 (RFC 3414): who may read, encrypted, and from where.

    Keys are secrets and stand in no brief: each switch is given those of its users when it is staged.
    """

    users: list[UserName] = Field(min_length=1, max_length=20)
    sources: list[Prefix] = Field([], max_length=64)


class Services(Part):
    """What every switch uses and who may sign in.

    `sign_in_from` are the prefixes that SSH is answered to (all of the management network when left out). `banner` is shown
    before sign-in.
    """

    domain: Domain = Domain("fabric.example")
    ntp: list[Host] = Field([])
    dns: list[Address] = Field([])
    syslog: list[Host] = Field([])
    users: dict[UserKey, User] = Field({}, max_length=200)
    sign_in_from: list[Prefix] = Field([], max_length=64)
    banner: OneLine = Field("", max_length=400)
    snmp: Snmp | None = None


class Numbers(Part):
    """Which pool each kind of number is drawn from."""

    loopback: PoolName = PoolName("loopbacks")
    vtep: PoolName = PoolName("vteps")
    links: PoolName = PoolName("links")
    asn: PoolName = PoolName("asns")
    management: PoolName = PoolName("management")
    vlan: PoolName = PoolName("vlans")
    vni: PoolName = PoolName("vnis")
    segments: PoolName = PoolName("segments")
    pairs: PoolName = PoolName("pairs")
    outside: PoolName = PoolName("outside")


class Cabling(Part):
    """`prefix` starts every cable's label; `kind` is the cable between racks (inside one it is a DAC)."""

    prefix: Annotated[str, Field(pattern=r"^[A-Z][A-Z0-9]{0,7}$")] | None = None
    kind: Literal["AOC", "SR optics", "DR optics"] = "AOC"


class Brief(Part):
    """The intent of one fabric. With `pods` and `super_spines` it has three tiers, and every pod the same spines.

    `hosts` are what is attached, by name; `default_plug` is what a port without a host carries, in the whole fabric, and `leaf_plugs` on
    one leaf. While no host is named, nobody has said which ports are used, and each carries every segment of its rack.
    """

    fabric: Annotated[Name, Field(max_length=31)]
    title: OneLine = Field("", max_length=120)
    pods: RackRange | None = None
    pods_growth: int = Field(0, ge=0, le=512)
    super_spines: SuperSpines | None = None
    spines: Spines = Spines()
    racks: list[RackGroup] = Field([], max_length=200)
    uplinks_per_spine: int = Field(1, ge=1, le=16)
    underlay: Underlay = Underlay()
    overlay: Overlay = Overlay()
    vrfs: dict[VrfKey, Vrf] = Field({}, max_length=500)
    segments: dict[NameKey, Segment] = Field({}, max_length=3900)
    sets: dict[NameKey, Annotated[list[Name], Field(max_length=3900)]] = Field({}, max_length=500)
    plugs: dict[NameKey, Plug] = Field({}, max_length=500)
    hosts: dict[HostNames, HostEntry] = Field({}, max_length=40_000)
    default_plug: Name | None = None
    leaf_plugs: dict[SwitchKey, Name] = Field({}, max_length=8000)
    outside: dict[NameKey, Outside] = Field({}, max_length=200)
    management: Management = Management()
    services: Services = Services()
    numbers: Numbers = Numbers()
    pools: dict[PoolName, list[str]] = Field({}, max_length=200)
    names: dict[SwitchKey, Name] = Field({}, max_length=8000)
    models: dict[SwitchKey, str] = Field({}, max_length=8000)
    ports: dict[SwitchKey, PortPlan] = Field({}, max_length=8000)
    out_of_service: dict[ThingKey, Reason] = Field({}, max_length=2000)
    planned_later: dict[ThingKey, Reason] = Field({}, max_length=2000)
    cabling: Cabling = Cabling()

    @field_validator("pools", mode="before")
    @classmethod
    def _one_range_or_many(cls, pools: object) -> object:
        if not isinstance(pools, dict):
            return pools
        return {name: [ranges] if isinstance(ranges, str) else ranges for name, ranges in pools.items()}

    @model_validator(mode="after")
    def _pods_have_super_spines(self) -> Brief:
        if self.pods and self.super_spines is None:
            raise ValueError("pods need super-spines to meet in; add super_spines, or take pods out")
        if self.super_spines is not None and not self.pods:
            raise ValueError("super-spines join pods; name some, such as pods: p01..p04, or take super_spines out")
        return self

    @property
    def cable_prefix(self) -> str:
        return self.cabling.prefix or re.sub(r"[^A-Z0-9]", "", self.fabric.upper())[:8]

    @property
    def pod_names(self) -> tuple[str, ...]:
        """The pods; a fabric of two tiers is one pod without a name."""
        return expand_names(self.pods) if self.pods else ("",)

    def lanes_of(self, group: RackGroup) -> int:
        """Parallel links from each leaf of a group to each spine."""
        return group.uplinks_per_spine or self.uplinks_per_spine

    def places(self, group: RackGroup) -> Iterator[tuple[str, str]]:
        """Every rack of a group as (pod, full name of the rack), pod by pod."""
        if not self.pods:
            for rack in group.rack_names:
                yield "", rack
            return
        for pod in expand_names(group.pods) if group.pods else self.pod_names:
            for rack in group.rack_names:
                yield pod, f"{pod}-{rack}"

    @property
    def rack_names(self) -> tuple[str, ...]:
        """The full names of the racks that hold leaves."""
        return tuple(rack for group in self.racks for _, rack in self.places(group))
