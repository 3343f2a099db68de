"""The brief: what the architect wants, as one frozen document.

Everything has a default except the fabric's name, so that the shortest brief is one line. Fields hold intent only:
no number that the ledger hands out stands here unless a person pinned it. Units: speeds in Gbit/s, MTU in bytes (layer
3, without the Ethernet header), BFD in milliseconds, BGP timers in seconds.

Keys. A rack, a segment and a VRF are identified by the name under which they stand here; a switch by its place
(`leaf/r07/b`, `spine/3`). Numbers belong to these keys. `names` gives a switch another host name without
touching its key, which is how something is renamed and keeps its numbers.
"""

from __future__ import annotations

import re
from ipaddress import IPv4Network, IPv6Network, ip_address, ip_network
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, field_validator, model_validator

from barrio.core.brief.ranges import expand_names
from barrio.core.errors import Refused

Addressing = Literal["ipv4", "ipv6", "dual", "unnumbered"]
AsnPlan = Literal["per-leaf", "per-pair"]
Role = Literal["leaf", "border"]

_LABEL = re.compile(r"[a-z]([a-z0-9-]{0,61}[a-z0-9])?")
_HOST = re.compile(r"[a-z0-9]([a-z0-9.-]{0,251}[a-z0-9])?")
_MAC = re.compile(r"[0-9a-f]{2}(:[0-9a-f]{2}){5}")
_SSH_KEY = re.compile(
    r"(ssh-ed25519|ssh-rsa|ecdsa-sha2-nistp(256|384|521)|sk-ssh-ed25519@openssh\.com) [A-Za-z0-9+/]+={0,3}( [^\n\r]*)?"
)
_SWITCH_KEY = re.compile(r"(spine/[1-9]\d{0,3}|leaf/[a-z][a-z0-9-]*/[ab])")


def _name(value: str) -> str:
    if not _LABEL.fullmatch(value):
        raise ValueError(
            f"“{value[:70]}” cannot be a name: use lower-case letters, digits and hyphens, starting with a letter"
        )
    return value


def _host(value: str) -> str:
    try:
        return str(ip_address(value))
    except ValueError:
        if re.fullmatch(r"[0-9.]+", value) or not _HOST.fullmatch(value) or ".." in value:
            raise ValueError(f"“{value[:70]}” is neither an address nor a host name") from None
        return value


def _address(value: str) -> str:
    try:
        return str(ip_address(value))
    except ValueError:
        raise ValueError(f"“{value[:70]}” is not an IPv4 or IPv6 address") from None


def _mac(value: str) -> str:
    mac = value.lower()
    if not _MAC.fullmatch(mac):
        raise ValueError(f"“{value[:40]}” is not a MAC address such as 02:00:5e:00:01:01")
    if int(mac[:2], 16) & 1:
        raise ValueError(f"{mac} is a group address; a gateway needs a unicast MAC, such as 02:00:5e:00:01:01")
    return mac


Name = Annotated[str, Field(max_length=63), AfterValidator(_name)]
VrfName = Annotated[str, Field(max_length=15), AfterValidator(_name)]
Host = Annotated[str, AfterValidator(_host)]
Address = Annotated[str, AfterValidator(_address)]
Mac = Annotated[str, AfterValidator(_mac)]
PoolName = Name


def _racks(value: str) -> str:
    try:
        expand_names(value)
    except Refused as error:
        raise ValueError(str(error)) from None
    return value


RackRange = Annotated[str, Field(max_length=4000), AfterValidator(_racks)]


class Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, hide_input_in_errors=True)


class Spines(Part):
    """How many spines, of which model, and the racks they stand in (filled in turn)."""

    count: int = Field(2, ge=1, le=64)
    model: str = "cantera-c32"
    racks: RackRange = "s01"


class RackGroup(Part):
    """Racks of one kind. `leaves` is 1, or 2 for a pair."""

    racks: RackRange
    leaves: Literal[1, 2] = 2
    model: str = "cantera-l48"
    role: Role = "leaf"

    @property
    def rack_names(self) -> tuple[str, ...]:
        return expand_names(self.racks)


class Bfd(Part):
    """RFC 5880: a session fails after `multiplier` missed packets, one each `interval` ms."""

    interval: int = Field(300, ge=50, le=4000)
    multiplier: int = Field(3, ge=2, le=50)


class Timers(Part):
    """BGP keepalive and hold time in seconds (RFC 4271, 4.4: a third of the hold time is reasonable)."""

    keepalive: int = Field(3, ge=1, le=21845)
    hold: int = Field(9, ge=3, le=65535)

    @model_validator(mode="after")
    def _hold_outlasts_keepalive(self) -> Timers:
        if self.hold < 3 * self.keepalive:
            raise ValueError(
                f"a hold time of {self.hold} s is under three keepalives of {self.keepalive} s; "
                f"use {3 * self.keepalive} s or more"
            )
        return self


class Underlay(Part):
    """eBGP on every fabric link (RFC 7938)."""

    addressing: Addressing = "ipv4"
    asn: AsnPlan = "per-leaf"
    mtu: int = Field(9216, ge=1550, le=9216)
    bfd: Bfd = Bfd()
    timers: Timers = Timers()


class Overlay(Part):
    """EVPN over the same sessions; one gateway MAC everywhere (RFC 8365, RFC 9135)."""

    route_target_as: int = Field(64512, ge=1, le=65534)
    gateway_mac: Mac = "02:00:5e:00:01:01"
    host_mtu: int = Field(9000, ge=1280, le=9166)


class Vrf(Part):
    """A routing table of its own; `vni` and `vlan` pin its L3 VNI and the VLAN that carries it."""

    vni: int | None = Field(None, ge=1, le=16777215)
    vlan: int | None = Field(None, ge=2, le=4094)


class Segment(Part):
    """One VLAN with its VNI and gateways, on the racks named (all racks when left out).

    `v4` and `v6` are the prefix of the segment, `auto` to draw one from the pool, or nothing.
    """

    vrf: VrfName | None = None
    vlan: int | None = Field(None, ge=2, le=4094)
    vni: int | None = Field(None, ge=1, le=16777215)
    v4: str | None = None
    v6: str | None = None
    racks: RackRange | None = None
    untagged: bool = False

    @field_validator("v4", "v6")
    @classmethod
    def _prefix(cls, value: str | None, info: object) -> str | None:
        if value is None or value == "auto":
            return value
        wanted: type[IPv4Network] | type[IPv6Network] = (
            IPv4Network if getattr(info, "field_name", "") == "v4" else IPv6Network
        )
        try:
            prefix = ip_network(value)
        except ValueError as error:
            raise ValueError(f"“{value[:60]}” is not a prefix: {error}") from None
        longest = 30 if wanted is IPv4Network else 126
        if not isinstance(prefix, wanted) or prefix.prefixlen > longest:
            raise ValueError(
                f"“{value[:60]}” is not {'an IPv4' if longest == 30 else 'an IPv6'} prefix with room for hosts"
            )
        return str(prefix)


class Management(Part):
    """The out-of-band port and its gateway (the first address of the pool's range when left out)."""

    interface: Annotated[str, Field(pattern=r"^[a-z][a-z0-9]{0,14}$")] = "eth0"
    gateway: Address | None = None


class User(Part):
    """Someone who may sign in, by SSH key only."""

    keys: list[str] = Field(min_length=1, max_length=20)

    @field_validator("keys")
    @classmethod
    def _public_keys(cls, keys: list[str]) -> list[str]:
        for key in keys:
            if "PRIVATE KEY" in key:
                raise ValueError("this is a private key; give the public one (one line, from the .pub file)")
            if not _SSH_KEY.fullmatch(key.strip()):
                raise ValueError(f"“{key[:24]}…” is not an SSH public key (one line: kind, key, comment)")
        return [key.strip() for key in keys]


class Services(Part):
    """What every switch uses and who may sign in."""

    domain: Host = "fabric.example"
    ntp: list[Host] = []
    dns: list[Address] = []
    syslog: list[Host] = []
    users: dict[Annotated[str, Field(pattern=r"^[a-z][a-z0-9_-]{0,30}$")], User] = {}


class Numbers(Part):
    """Which pool each kind of number is drawn from."""

    loopback: PoolName = "loopbacks"
    vtep: PoolName = "vteps"
    links: PoolName = "links"
    asn: PoolName = "asns"
    management: PoolName = "management"
    vlan: PoolName = "vlans"
    vni: PoolName = "vnis"
    segments: PoolName = "segments"


class Cabling(Part):
    """`prefix` starts every cable's label; `kind` is the cable between racks (inside one it is a DAC)."""

    prefix: Annotated[str, Field(pattern=r"^[A-Z][A-Z0-9]{0,7}$")] | None = None
    kind: Literal["AOC", "SR optics", "DR optics"] = "AOC"


class Brief(Part):
    """The intent of one fabric."""

    fabric: Annotated[str, Field(max_length=31), AfterValidator(_name)]
    title: str = Field("", max_length=120, pattern=r"^[^\n\r\x00-\x1f]*$")
    spines: Spines = Spines()
    racks: list[RackGroup] = Field([], max_length=200)
    uplinks_per_spine: int = Field(1, ge=1, le=16)
    underlay: Underlay = Underlay()
    overlay: Overlay = Overlay()
    vrfs: dict[VrfName, Vrf] = Field({}, max_length=500)
    segments: dict[Name, Segment] = Field({}, max_length=3900)
    management: Management = Management()
    services: Services = Services()
    numbers: Numbers = Numbers()
    pools: dict[PoolName, list[str]] = Field({}, max_length=200)
    names: dict[str, Name] = Field({}, max_length=8000)
    cabling: Cabling = Cabling()

    @field_validator("pools", mode="before")
    @classmethod
    def _one_range_or_many(cls, pools: object) -> object:
        if not isinstance(pools, dict):
            return pools
        return {name: [ranges] if isinstance(ranges, str) else ranges for name, ranges in pools.items()}

    @field_validator("names")
    @classmethod
    def _names_belong_to_switches(cls, names: dict[str, str]) -> dict[str, str]:
        for key in names:
            if not _SWITCH_KEY.fullmatch(key):
                raise ValueError(f"“{key[:60]}” is not the key of a switch; keys look like spine/3 or leaf/r07/b")
        return names

    @property
    def cable_prefix(self) -> str:
        return self.cabling.prefix or re.sub(r"[^A-Z0-9]", "", self.fabric.upper())[:8]

    @property
    def rack_names(self) -> tuple[str, ...]:
        return tuple(name for group in self.racks for name in group.rack_names)
