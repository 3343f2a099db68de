"""The part of the brief that says what is attached: hosts, plugs (ways to attach, said once; the trade says port profile), and sets of
segments."""

from __future__ import annotations

import re
from typing import Annotated, Literal

from pydantic import AfterValidator, BeforeValidator, Field, field_validator

from barrio.core.brief.ranges import expand_names
from barrio.core.brief.terms import Mac, Name, OneLine, Part, checked

EVERY, SHUT = Name("every"), Name("shut")
"""The two plugs that Barrio has of its own, for ports without a host: one that carries every segment of its rack, and none."""

NONE = Name("none")
"""What `untagged` says for nothing, where a plug says something."""

HostNames = Annotated[str, Field(max_length=400), AfterValidator(checked(expand_names))]


def _storm(value: object) -> object:
    frames = type(value) is int and 0 <= value <= 1_000_000_000
    share = isinstance(value, str) and _SHARE.fullmatch(value) and 0 < float(value[:-1]) <= 100
    if value is None or frames or share:
        return value
    raise ValueError(
        "say frames a second, such as 2000 (0 for no limit), or a share of the port's speed over 0%, such as 1%"
    )


_SHARE = re.compile(r"\d{1,3}(\.\d{1,2})?%", re.ASCII)
Storm = Annotated[int | str | None, BeforeValidator(_storm)]
"""Frames a second, or per cent of the speed of a port."""
Place = Annotated[str, Field(max_length=400)]


class Ways(Part):
    """How something is attached; what is left out is said by the plug, or is Barrio's own.

    `lag` is how its ports are bonded (IEEE 802.1AX), `rate` how often LACP speaks, `fallback` whether a host without LACP is served over
    one link. `untagged` and `tagged` are what the port carries: segments, and sets of them. Speeds in Gbit/s, MTU in bytes.
    `storm` is how many broadcasts and multicasts a second a port may send, or what share of its speed (`1%`), `macs` how many addresses may stand behind it, `only_macs` which
    alone. `fec` is the forward error correction of its links (IEEE 802.3, 91 and 74): by Reed-Solomon, by Fire code, none, or as both agree.
    """

    lag: Literal["none", "static", "lacp"] | None = None
    rate: Literal["fast", "slow"] | None = None
    fallback: bool | None = None
    untagged: Name | None = None
    tagged: list[Name] | None = Field(None, max_length=4000)
    speed: int | None = Field(None, ge=1, le=3200)
    mtu: int | None = Field(None, ge=1280, le=9216)
    storm: Storm = None
    macs: int | None = Field(None, ge=1, le=100_000)
    only_macs: list[Mac] | None = Field(None, min_length=1, max_length=64)
    fec: Literal["rs", "fc", "none"] | None = None


class Plug(Ways):
    """A way to attach, used by many hosts."""

    note: OneLine = Field("", max_length=120)


class HostEntry(Ways):
    """One host, or as many as its name is a range of, and the ports that each is plugged into.

    `at` are places such as `r01 h1..h40`: a rack and ports, which are dealt to the hosts in turn. In a rack with several leaves the host is
    plugged into all of them; `r01/b h7` names one.
    """

    at: Annotated[list[Place], Field(min_length=1, max_length=16)]
    plug: Name | None = None
    team: OneLine = Field("", max_length=60)
    note: OneLine = Field("", max_length=120)

    @field_validator("at", mode="before")
    @classmethod
    def _one_place_or_many(cls, at: object) -> object:
        return [at] if isinstance(at, str) else at
