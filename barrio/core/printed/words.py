"""Words that files print: names, addresses, devices, each with its own small grammar.

`read` takes what a person wrote, or raises `ValueError` in words. Building one directly (`Made("bond-h1")`) is for the
computation, from numbers and from other printed values.
"""

from __future__ import annotations

import re
from datetime import date
from ipaddress import ip_address, ip_network
from typing import Annotated, Any, ClassVar, Self

from pydantic import AfterValidator, Field, GetCoreSchemaHandler

from barrio.core.printed.reserved import SYSTEM_ACCOUNTS, VRF_WORDS

_LABEL = re.compile(r"[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?")
MOST_NAME = 253
"""Characters of a whole host name (RFC 1035, 2.3.4); a label of it has at most 63."""


class Printed(str):
    """A text that may stand in a file."""

    __slots__ = ()
    longest: ClassVar[int] = 255

    @classmethod
    def read(cls, value: str) -> Self:
        """This kind of text from what a person wrote. Raises `ValueError`."""
        raise NotImplementedError

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> Any:
        text = Annotated[str, Field(strict=True, max_length=cls.longest), AfterValidator(cls.read)]
        return handler.generate_schema(text)


class Made(Printed):
    """What the computation makes of numbers and other printed values: device names, distinguishers, labels."""

    __slots__ = ()


class Name(Printed):
    """A name of ours: a label of the DNS that begins with a letter (RFC 1123, 2.1).

    >>> Name.read("leaf-07")
    'leaf-07'
    """

    __slots__ = ()
    longest = 63
    pattern: ClassVar[re.Pattern[str]] = re.compile(r"[a-z]([a-z0-9-]{0,61}[a-z0-9])?")

    @classmethod
    def read(cls, value: str) -> Self:
        if not cls.pattern.fullmatch(value):
            raise ValueError(
                f"“{_shown(value)}” cannot be a name: use lower-case letters, digits and hyphens, starting with a letter"
            )
        return cls(value)


class VrfName(Name):
    """A VRF, which is a device too: at most 15 characters, and no word that a program reads as something else."""

    __slots__ = ()
    longest = 15
    reserved: ClassVar[frozenset[str]] = VRF_WORDS
    devices: ClassVar[re.Pattern[str]] = re.compile(r"(vlan|vni)\d+|bond-.*|eth\d+|br\d+|table\d+", re.ASCII)

    @classmethod
    def read(cls, value: str) -> Self:
        name = super().read(value)
        if name in cls.reserved or cls.devices.fullmatch(name):
            raise ValueError(f"“{name}” means something else to the programs that read it; give the VRF another name")
        return name


class Package(Printed):
    """A package of Debian (Debian policy, 5.6.1); none ends in a hyphen, with which apt would take it away.

    >>> Package.read("g++")
    'g++'
    """

    __slots__ = ()
    longest = 100
    pattern: ClassVar[re.Pattern[str]] = re.compile(r"[a-z0-9][a-z0-9+.-]*[a-z0-9+.]")

    @classmethod
    def read(cls, value: str) -> Self:
        if not cls.pattern.fullmatch(value):
            raise ValueError(
                f"“{_shown(value)}” cannot be a package: use lower-case letters, digits, +, - and ., and begin and end with no hyphen"
            )
        return cls(value)


class UserName(Printed):
    """An account of a person; names that a system keeps for itself are refused."""

    __slots__ = ()
    longest = 31
    pattern: ClassVar[re.Pattern[str]] = re.compile(r"[a-z][a-z0-9_-]{0,30}")
    reserved: ClassVar[frozenset[str]] = SYSTEM_ACCOUNTS

    @classmethod
    def read(cls, value: str) -> Self:
        if not cls.pattern.fullmatch(value):
            raise ValueError(
                f"“{_shown(value)}” cannot be a user: use lower-case letters, digits, _ and -, at most 31, starting with a letter"
            )
        if value in cls.reserved or value.startswith("systemd-"):
            raise ValueError(f"“{value}” is an account or group of the system itself; name a person instead")
        return cls(value)


class Day(Printed):
    """A day of the calendar (ISO 8601).

    >>> Day.read("2026-12-31")
    '2026-12-31'
    """

    __slots__ = ()
    longest = 10

    @classmethod
    def read(cls, value: str) -> Self:
        try:
            return cls(date.fromisoformat(value).isoformat())
        except ValueError:
            raise ValueError(f"“{_shown(value)}” is no day; write it as 2026-12-31") from None


class Line(Printed):
    """A line that a person adds to a file as it is: printable ASCII, one line.

    >>> Line.read("    mtu 1500")
    '    mtu 1500'
    """

    __slots__ = ()
    longest = 300
    pattern: ClassVar[re.Pattern[str]] = re.compile(r"[ -~]*[!-~][ -~]*", re.ASCII)

    @classmethod
    def read(cls, value: str) -> Self:
        if not cls.pattern.fullmatch(value) or "end of what was added" in value:
            raise ValueError(f"“{_shown(value)}” cannot be added: a line is printable ASCII, and not empty")
        return cls(value.rstrip())


class Zone(Printed):
    """A time zone by its name in the tz database, such as `Europe/Madrid`. Whether the switch has it is seen there."""

    __slots__ = ()
    longest = 64
    pattern: ClassVar[re.Pattern[str]] = re.compile(r"[A-Z][A-Za-z]*(/[A-Z][A-Za-z0-9_+-]*){0,2}", re.ASCII)

    @classmethod
    def read(cls, value: str) -> Self:
        if not cls.pattern.fullmatch(value):
            raise ValueError(
                f"“{_shown(value)}” is no time zone; name one of the tz database, such as Europe/Madrid or Etc/UTC"
            )
        return cls(value)


class Address(Printed):
    """An IPv4 or IPv6 address without a scope, in its usual form (RFC 5952).

    >>> Address.read("FD90::0053")
    'fd90::53'
    """

    __slots__ = ()
    longest = 45

    @classmethod
    def read(cls, value: str) -> Self:
        if "%" not in value:
            try:
                return cls(ip_address(value))
            except ValueError:
                pass
        raise ValueError(f"“{_shown(value)}” is not an IPv4 or IPv6 address")


class Prefix(Printed):
    """A prefix, or an address with the length of its prefix."""

    __slots__ = ()
    longest = 49

    @classmethod
    def read(cls, value: str) -> Self:
        if "%" not in value:
            try:
                return cls(ip_network(value))
            except ValueError:
                pass
        raise ValueError(f"“{_shown(value)}” is not a prefix such as 10.90.0.0/16 or fd90::/48")


class Domain(Printed):
    """A domain: labels of letters, digits and hyphens (RFC 1123, 2.1), at most 253 characters in all."""

    __slots__ = ()

    @classmethod
    def read(cls, value: str) -> Self:
        labels = value.split(".")
        long = next((label for label in labels if len(label) > 63), None)
        if long:
            raise ValueError(
                f"“{_shown(long)}” has {len(long)} characters; a label of a name has at most 63 (RFC 1035)"
            )
        if len(value) > MOST_NAME:
            raise ValueError(
                f"“{_shown(value)}” has {len(value)} characters; a name has at most {MOST_NAME} (RFC 1035)"
            )
        if not all(_LABEL.fullmatch(label) for label in labels) or re.fullmatch(r"[0-9.]+", value):
            raise ValueError(
                f"“{_shown(value)}” is not a domain: use lower-case letters, digits and hyphens, with dots between labels"
            )
        return cls(value)


class Host(Printed):
    """A system that switches speak to: an address or a host name."""

    __slots__ = ()

    @classmethod
    def read(cls, value: str) -> Self:
        for kind in (Address, Domain):
            try:
                return cls(kind.read(value))
            except ValueError as error:
                if "characters" in str(error):
                    raise
        raise ValueError(f"“{_shown(value)}” is neither an address nor a host name")


class Mac(Printed):
    """A unicast MAC address, in lower case."""

    __slots__ = ()
    longest = 17
    pattern: ClassVar[re.Pattern[str]] = re.compile(r"[0-9a-f]{2}(:[0-9a-f]{2}){5}")

    @classmethod
    def read(cls, value: str) -> Self:
        mac = value.lower()
        if not cls.pattern.fullmatch(mac):
            raise ValueError(f"“{_shown(value)}” is not a MAC address such as 02:00:5e:00:01:01")
        if int(mac[:2], 16) & 1:
            raise ValueError(f"{mac} is a group address; a gateway needs a unicast MAC, such as 02:00:5e:00:01:01")
        return cls(mac)


class Device(Printed):
    """A port of a switch, by its name on the front and in its system."""

    __slots__ = ()
    longest = 15
    pattern: ClassVar[re.Pattern[str]] = re.compile(r"[a-z][a-z0-9/]{0,14}")

    @classmethod
    def read(cls, value: str) -> Self:
        if not cls.pattern.fullmatch(value):
            raise ValueError(f"“{_shown(value)}” cannot be a port: use lower-case letters, digits and /, at most 15")
        return cls(value)


class FarPort(Printed):
    """A port of a system that is not ours, as its people write it."""

    __slots__ = ()
    longest = 40
    pattern: ClassVar[re.Pattern[str]] = re.compile(r"[A-Za-z0-9_./:-]*")

    @classmethod
    def read(cls, value: str) -> Self:
        if not cls.pattern.fullmatch(value):
            raise ValueError(f"“{_shown(value)}” cannot be a port: use letters, digits and _ . / : -")
        return cls(value)


def _shown(value: str) -> str:
    """What of a wrong value may stand in a message: its beginning, without characters that hide or reorder text."""
    return "".join(char if char.isprintable() else "�" for char in value[:60])
