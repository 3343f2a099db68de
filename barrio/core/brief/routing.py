"""The part of the brief that says how the fabric routes: underlay, overlay, and the systems outside it."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, ValidationInfo, field_validator, model_validator

from barrio.core.brief.terms import FarPort, Mac, Part, PortName, Prefix, SwitchKey, VrfKey, prefix_of

Addressing = Literal["ipv4", "ipv6", "dual", "unnumbered"]
Protocol = Literal["ebgp", "ospf", "isis"]
AsnPlan = Literal["per-leaf", "per-pair", "per-rack"]


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
    """eBGP on every fabric link (RFC 7938), or OSPF (RFC 2328, 5340) or IS-IS (RFC 1195, 5308) in one area.

    `hello` is the IGP's hello time in seconds; a neighbour is dead after four. `max_paths` bounds ECMP; left out, it is as
    wide as the fabric. `ttl_security` takes BGP packets of fabric sessions only from the far end of the cable (RFC 5082).
    """

    protocol: Protocol = "ebgp"
    addressing: Addressing = "ipv4"
    asn: AsnPlan = "per-leaf"
    mtu: int = Field(9216, ge=1550, le=9216)
    bfd: Bfd = Bfd()
    timers: Timers = Timers()
    hello: int = Field(10, ge=1, le=600)
    max_paths: int | None = Field(None, ge=1, le=256)
    graceful_restart: bool = False
    ttl_security: bool = False


class Overlay(Part):
    """EVPN (RFC 8365): over the same eBGP sessions, or iBGP between loopbacks by way of route reflectors (RFC 4456).

    `reflectors` is how many switches of the top tier reflect. `pair_mac` is the first of the system MACs of pairs. `storm` is how
    many broadcast and multicast frames a second a host port takes (0: as many as come). `startup_delay` is how many seconds
    a leaf that starts keeps its Ethernet segments down, until it knows the fabric's routes.
    """

    protocol: Literal["ebgp", "ibgp"] = "ebgp"
    reflectors: int = Field(2, ge=1, le=8)
    route_target_as: int = Field(64512, ge=1, le=65534)
    gateway_mac: Mac = Mac("02:00:5e:00:01:01")
    pair_mac: Mac = Mac("02:00:5e:10:00:00")
    host_mtu: int = Field(9000, ge=1280, le=9166)
    storm: int = Field(2000, ge=0, le=10_000_000)
    startup_delay: int = Field(60, ge=0, le=3600)


class OutsideVrf(Part):
    """One VRF over a link to the outside: its tag (none for untagged) and its addresses; ours is the lower one."""

    vlan: int | None = Field(None, ge=2, le=4094)
    v4: str | None = "auto"
    v6: str | None = None

    @field_validator("v4", "v6")
    @classmethod
    def _prefix(cls, value: str | None, info: ValidationInfo) -> str | None:
        return prefix_of(value, info.field_name or "", 31, 127)


class OutsideLink(Part):
    """A link from a border leaf to an outside system: our switch and port, and theirs by name."""

    switch: SwitchKey
    port: PortName
    far_port: FarPort = FarPort("")
    speed: int | None = Field(None, ge=1, le=3200)
    vrfs: dict[VrfKey, OutsideVrf] = Field(min_length=1, max_length=64)


class Outside(Part):
    """A system that Barrio does not manage: a router, a firewall, a load balancer, another fabric. We speak eBGP to it.

    It is told the prefixes of the VRF's own segments and nothing else, so that no traffic passes from one outside system to
    another. From it come the prefixes under `accept`, and longer ones within them, `max_prefixes` of a family at most (RFC 7454, 7).
    `default` is `in` to take a default route from it, `out` to give it one.
    """

    kind: Literal["router", "firewall", "load balancer", "fabric"] = "router"
    asn: int = Field(ge=1, le=4294967294)
    accept: list[Prefix] = Field([], max_length=200)
    default: Literal["none", "in", "out"] = "none"
    max_prefixes: int = Field(12_000, ge=1, le=4_000_000)
    bfd: bool = True
    ttl_security: bool = False
    links: list[OutsideLink] = Field(min_length=1, max_length=64)

    @field_validator("asn")
    @classmethod
    def _usable(cls, asn: int) -> int:
        if asn in (23456, 65535):
            raise ValueError(f"{asn} is reserved (RFC 6793, RFC 7300) and no system has it")
        return asn
