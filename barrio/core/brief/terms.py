"""The kinds of words that fields of a brief hold, each checked as it is read."""

from __future__ import annotations

import re
from collections.abc import Callable
from ipaddress import IPv4Network, IPv6Network, ip_network
from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from barrio.core.brief.ranges import expand_names, expand_ports
from barrio.core.errors import Refused
from barrio.core.printed import (
    Address,
    Day,
    Device,
    Domain,
    FarPort,
    Host,
    Mac,
    Name,
    Package,
    Prefix,
    PublicKey,
    UserName,
    VrfName,
    Zone,
)
from barrio.core.printed.text import OneLine

__all__ = [
    "Address", "Day", "Device", "Domain", "FarPort", "Host", "Mac", "Name", "NameKey", "OneLine", "Package", "Part", "PoolName", "PortName", "PortRange",
    "Prefix", "PublicKey", "RackRange", "Reason", "SwitchKey", "ThingKey", "UserKey", "UserName", "VrfKey", "VrfName", "Zone", "checked", "prefix_of",
]  # fmt: skip

_PORT = r"[a-z][a-z0-9/]{0,14}"
_SPINE = r"(spine/([a-z][a-z0-9-]*/)?[1-9][0-9]{0,3}|super/[1-9][0-9]{0,3}/[1-9][0-9]{0,3})"
_LEAF = r"leaf/[a-z][a-z0-9-]*/[a-h]"
SWITCH_KEY = re.compile(rf"({_SPINE}|{_LEAF})")
THING_KEY = re.compile(
    rf"(({_SPINE}|{_LEAF})(:{_PORT})?|rack/[a-z][a-z0-9-]*|({_LEAF}|{_SPINE})~({_SPINE}|{_LEAF}|{_PORT})(~\d{{1,3}})?)"
)


def checked(expand: Callable[[str], object]) -> Callable[[str], str]:
    """A text that can be expanded. What cannot is a `ValueError` that says why."""

    def check(value: str) -> str:
        try:
            expand(value)
        except Refused as error:
            raise ValueError(str(error)) from None
        return value

    return check


def _switch_key(value: str) -> str:
    if not SWITCH_KEY.fullmatch(value):
        raise ValueError(f"“{value[:60]}” is not the key of a switch; keys look like spine/3 or leaf/r07/b")
    return value


def _thing_key(value: str) -> str:
    if not THING_KEY.fullmatch(value):
        raise ValueError(
            f"“{value[:60]}” is not the key of a switch, rack, port or link; keys look like leaf/r07/b, rack/r07, "
            "leaf/r07/b:h12 or leaf/r07/b~spine/3~1"
        )
    return value


def prefix_word(value: str, wanted: type[IPv4Network] | type[IPv6Network], longest: int) -> str:
    """A prefix of one family, in its usual form. Raises `ValueError`."""
    if "%" in value:
        raise ValueError(f"“{value[:60]}” names the port of one machine after “%”; a prefix has none")
    try:
        prefix = ip_network(value)
    except ValueError as error:
        raise ValueError(f"“{value[:60]}” is not a prefix: {error}") from None
    if not isinstance(prefix, wanted) or prefix.prefixlen > longest:
        family = "an IPv4" if wanted is IPv4Network else "an IPv6"
        raise ValueError(f"“{value[:60]}” is not {family} prefix with room for hosts")
    return str(prefix)


def prefix_of(value: str | None, field: str, longest_v4: int, longest_v6: int) -> str | None:
    """What a field called `v4` or `v6` holds: a prefix of its family, `auto`, `auto/22`, or nothing. Raises `ValueError`."""
    if value is None or value == "auto":
        return value
    wish = re.fullmatch(r"auto/([1-9][0-9]{0,2})", value)
    if wish:
        least, most = (8, longest_v4) if field == "v4" else (32, longest_v6)
        if not least <= int(wish[1]) <= most:
            raise ValueError(f"“{value}” asks for a length that cannot be here: write auto/{least} to auto/{most}")
        return value
    if field == "v4":
        return prefix_word(value, IPv4Network, longest_v4)
    return prefix_word(value, IPv6Network, longest_v6)


PoolName = Name
PortName = Device
NameKey = Annotated[str, Field(max_length=63), AfterValidator(Name.read)]
UserKey = Annotated[str, Field(max_length=31), AfterValidator(UserName.read)]
VrfKey = Annotated[str, Field(max_length=15), AfterValidator(VrfName.read)]
RackRange = Annotated[str, Field(max_length=4000), AfterValidator(checked(expand_names))]
PortRange = Annotated[str, Field(max_length=2000), AfterValidator(checked(expand_ports))]
SwitchKey = Annotated[str, AfterValidator(_switch_key)]
ThingKey = Annotated[str, Field(max_length=120), AfterValidator(_thing_key)]
Reason = Annotated[OneLine, Field(max_length=120)]


class Part(BaseModel):
    """A part of the brief: frozen, and strict about its fields and their types."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, hide_input_in_errors=True)
