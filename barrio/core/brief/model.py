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
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from barrio.core.brief.additions import Additions
from barrio.core.brief.claims import ClaimWords
from barrio.core.brief.hardware import PortPlan, RackGroup, Spines, SuperSpines
from barrio.core.brief.hosts import HostEntry, HostNames, Plug
from barrio.core.brief.place import CabinetsByRack, Face, Floor, GearByName, Hall, Metres, Placing, Trunk, Unit, Way
from barrio.core.brief.ranges import expand_names
from barrio.core.brief.routing import Outside, Overlay, Underlay
from barrio.core.brief.tenants import Segment, Vrf
from barrio.core.brief.terms import (
    Address,
    Day,
    Device,
    Domain,
    Host,
    Name,
    NameKey,
    OneLine,
    Package,
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
    Zone,
)
from barrio.core.brief.variables import Variable, VariableKey
from barrio.core.catalogue.cables import PartList


class Management(Part):
    """The out-of-band port and its gateway (the first address of the pool's range when left out)."""

    interface: Device = Device("eth0")
    gateway: Address | None = None


class User(Part):
    """Someone who may sign in, by SSH key only. An `admin` may become root; an `operator` looks at routing and changes nothing. After the
    day `until` the keys open nothing any more. `groups` are further ones that the account is in."""

    role: Literal["admin", "operator"] = "admin"
    keys: list[PublicKey] = Field(min_length=1, max_length=20)
    until: Day | None = None
    groups: list[UserName] = Field([], max_length=20)


class Snmp(Part):
    """Monitoring by SNMP version 3 (RFC 3414): who may read, encrypted, and from where.

    Keys are secrets and stand in no brief: each switch is given those of its users when it is staged.
    """

    users: list[UserName] = Field(min_length=1, max_length=20)
    sources: list[Prefix] = Field([], max_length=64)


Cipher = Literal[
    "chacha20-poly1305@openssh.com",
    "aes256-gcm@openssh.com",
    "aes128-gcm@openssh.com",
    "aes256-ctr",
    "aes192-ctr",
    "aes128-ctr",
]
"""What OpenSSH encrypts with and nobody advises against (RFC 4344, RFC 5647)."""


class Services(Part):
    """What every switch uses and who may sign in.

    `sign_in_from` are the prefixes that SSH is answered to (all of the management network when left out). `banner` is shown
    before sign-in. `syslog_over` is how logs travel (RFC 5426, RFC 6587), to `syslog_port`, and
    `syslog_facility` what the routing daemons log as; `packages` are Debian's that a switch has beside those it needs; `lldp_interval` the seconds after which neighbours are told
    again who is there; `software` the version that a switch is meant to run, by which own targets may choose files; `ssh_ciphers` which alone SSH agrees to (its own when left out),
    `time_zone` what its logs count in, and `watchdog` the seconds after which hardware restarts a switch that hangs (0: never).
    """

    domain: Domain = Domain("fabric.example")
    ntp: list[Host] = Field([])
    dns: list[Address] = Field([])
    syslog: list[Host] = Field([])
    syslog_over: Literal["udp", "tcp"] = "udp"
    syslog_facility: Literal[
        "daemon", "local0", "local1", "local2", "local3", "local4", "local5", "local6", "local7"
    ] = "daemon"
    packages: list[Package] = Field([], max_length=200)
    syslog_port: int = Field(514, ge=1, le=65535)
    lldp_interval: int = Field(10, ge=1, le=3600)
    software: Annotated[OneLine, Field(max_length=60)] = ""
    ssh_ciphers: list[Cipher] = Field([], max_length=8)
    time_zone: Zone | None = None
    watchdog: int = Field(0, ge=0, le=600)
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
    relays: PoolName = PoolName("relays")


class Cabling(Part):
    """`prefix` starts every cable's label; `kind` is what cables between racks are: the cheapest that reaches when left out and racks have
    their places, an AOC when they have none.

    `slack` is what is left over at each end, in metres; `fill` how full a tray may be, in per cent of its section (TIA-569 has 50 at the
    most); `spares` how many more of each part are ordered, in per cent. `parts` are those that may be chosen beside the ones that ship.
    `plans` are the further cables that are planned beside the fabric's links.
    """

    prefix: Annotated[str, Field(pattern=r"^[A-Z][A-Z0-9]{0,7}$")] | None = None
    kind: Literal["DAC", "AOC", "SR optics", "DR optics"] | None = None
    slack: Annotated[Metres, Field(le=20)] = 0.5
    fill: int = Field(50, ge=5, le=100)
    spares: int = Field(5, ge=0, le=100)
    parts: PartList = PartList()
    plans: list[Literal["management", "console", "power", "hosts"]] = Field([], max_length=4)


RungKey = Annotated[
    str, Field(pattern=r"^(fabric|(role|model|pod|kind|rack|switch) [a-z0-9][a-z0-9/-]*)$", max_length=80)
]
"""`role border`, `rack r07`, `switch leaf/r07/b`; or `fabric`, to hold something for all."""


class Brief(Part):
    """The intent of one fabric. With `pods` and `super_spines` it has three tiers, and every pod the same spines.

    `hosts` are what is attached, by name; `default_plug` is what a port without a host carries, in the whole fabric, and `leaf_plugs` on
    one leaf. While no host is named, nobody has said which ports are used, and each carries every segment of its rack.

    `rungs` are where a setting is other than in the whole fabric: for a role, a model, a pod, a kind of rack, a rack or a switch, by the
    setting's dotted name. What a setting may be is checked where settings are known (`barrio.core.settings`). `target` is what files are
    written in: the one that ships, or one of the office's own. `claims` are who reaches whom and
    who never does, asked in every rehearsal. `variables` are those that this fabric declares, and `vars` what variables are in the whole fabric, the
    office's too.
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
    additions: Additions = Additions()
    claims: list[ClaimWords] = Field([], max_length=500)
    target: Annotated[Name, Field(max_length=31)] = Name("linux-frr")
    variables: dict[VariableKey, Variable] = Field({}, max_length=500)
    vars: dict[VariableKey, Any] = Field({}, max_length=500)
    rungs: dict[RungKey, Annotated[dict[str, Any], Field(max_length=100)]] = Field({}, max_length=4000)
    numbers: Numbers = Numbers()
    pools: dict[PoolName, list[str]] = Field({}, max_length=200)
    names: dict[SwitchKey, Name] = Field({}, max_length=8000)
    models: dict[SwitchKey, str] = Field({}, max_length=8000)
    ports: dict[SwitchKey, PortPlan] = Field({}, max_length=8000)
    out_of_service: dict[ThingKey, Reason] = Field({}, max_length=2000)
    planned_later: dict[ThingKey, Reason] = Field({}, max_length=2000)
    cabling: Cabling = Cabling()
    floor: Floor | None = None
    halls: dict[NameKey, Hall] = Field({}, max_length=50)
    ways: dict[NameKey, Way] = Field({}, max_length=200)
    cabinets: CabinetsByRack = Field({}, max_length=2000)
    gear: GearByName = Field({}, max_length=4000)
    trunks: dict[NameKey, Trunk] = Field({}, max_length=4000)
    placing: Placing = "top down"
    units: dict[SwitchKey, Unit] = Field({}, max_length=8000)
    faces: dict[SwitchKey, Face] = Field({}, max_length=8000)

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

    @model_validator(mode="after")
    def _one_floor(self) -> Brief:
        if self.floor is not None and self.halls:
            raise ValueError("“floor” makes one hall by rule and “halls” are drawn; keep one of the two")
        if self.ways and not self.halls:
            raise ValueError("“ways” join halls, and there are none; draw them under halls")
        return self

    @property
    def cable_prefix(self) -> str:
        return self.cabling.prefix or re.sub(r"[^A-Z0-9]", "", self.fabric.upper())[:8]

    @property
    def pod_names(self) -> tuple[str, ...]:
        """The pods; a fabric of two tiers is one pod without a name."""
        return expand_names(self.pods) if self.pods else ("",)

    def racks_at(self, origin: str) -> str:
        """The racks of the group that the origin of a leaf names, as they are written.

        >>> Brief(fabric="marlin", racks=[{"racks": "r01..r12"}]).racks_at("racks[0].racks")
        'r01..r12'
        """
        return str(self.racks[int(origin.removeprefix("racks[").partition("]")[0])].racks)

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
