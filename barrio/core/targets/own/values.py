"""What a text could have been printed from: every value of a switch in every notation, with the expression that prints it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import fields, is_dataclass
from functools import cached_property
from typing import Any

from barrio.core.printed import Printed, plain
from barrio.core.render.filters import length_of, mac_as, mask_of, network_of, ranges_of, wildcard_of
from barrio.core.render.paths import LOOPS

_SMALL = 256
"""Numbers below this stand in many lines by chance: they are taken for a value only where the line names it."""
_WORDS = {
    "vlan": ("vlan", "vid", "tag", "tagged", "untagged", "access"), "vni": ("vni", "vxlan"), "mtu": ("mtu", "bytes"), "asn": ("as", "asn", "bgp"),
    "keepalive": ("timers", "keepalive"), "hold": ("timers", "hold"), "bfd_interval": ("bfd",), "bfd_multiplier": ("bfd", "multiplier"),
    "domain": ("pair", "domain"), "priority": ("priority", "rank"), "max_paths": ("paths", "multipath", "ecmp"), "watchdog": ("watchdog",),
    "segment_id": ("segment", "shared"), "max_prefixes": ("most", "max", "limit"), "forced_speed": ("speed",), "unit": ("unit",),
    "hello": ("hello",), "dead": ("dead",), "peer_asn": ("as", "asn"), "untagged": ("untagged", "vlan", "access", "native"),
}  # fmt: skip
"""Beside its own name, the words by which a line may name a field."""
_MAC = re.compile(r"([0-9a-f]{2}:){5}[0-9a-f]{2}")
_PREFIX = re.compile(r"(\d+\.\d+\.\d+\.\d+|[0-9a-f]*:[0-9a-f:]*:[0-9a-f:]*)/\d{1,3}")
_SKIPPED = frozenset({"key", "link", "state", "place"})


class Scope:
    """One thing that templates can speak of, such as the switch, or a port in a loop: its expression, and what it is."""

    def __init__(self, expression: str, thing: Any) -> None:
        self.expression, self.thing = expression, thing

    @cached_property
    def forms(self) -> Mapping[str, list[tuple[str, str]]]:
        """By a text: the expressions that print it, each with the field that it is of."""
        found: dict[str, list[tuple[str, str]]] = {}
        for text, expression, field in _forms_of(self.expression, self.thing):
            known = found.setdefault(text, [])
            if not known or len(known[0][0]) > len(expression):
                known.insert(0, (expression, field))
            else:
                known.append((expression, field))
        return found

    @cached_property
    def lists(self) -> Mapping[str, tuple[Any, ...]]:
        """What it has several of, by the expression of the list."""
        return dict(_lists_of(self.expression, self.thing))


def named(line: str, field: str) -> bool:
    """Whether a line says a word that stands for a field.

    >>> named("  tag 110", "vlan"), named("  tag 110", "mtu")
    (True, False)
    """
    words = set(re.findall(r"[a-z]+", line.lower()))
    return bool(words & {field, *_WORDS.get(field, ()), *field.split("_")})


def could_be(text: str, line: str, scope: Scope) -> list[str]:
    """The expressions of a scope that print a text, as far as its line lets them; those of a field that the line names first."""
    found = scope.forms.get(text, [])
    if text.isdigit() and int(text) < _SMALL:
        found = [one for one in found if named(line, one[1])]
    return [expression for expression, _ in sorted(found, key=lambda one: not named(line, one[1]))]


def variable_of(field: str) -> str:
    """What one of a list is called in a loop.

    >>> variable_of("fabric_ports"), variable_of("ntp"), variable_of("covers_v4")
    ('port', 'server', 'one')
    """
    return "server" if field in ("ntp", "dns", "syslog", "servers") else LOOPS.get(field, "one")


def _lists_of(expression: str, thing: Any) -> Iterator[tuple[str, tuple[Any, ...]]]:
    if not is_dataclass(thing):
        return
    for one in fields(thing):
        value = getattr(thing, one.name)
        if isinstance(value, tuple) and value and not isinstance(value[0], int):
            yield f"{expression}.{one.name}", value
        elif is_dataclass(value):
            yield from _lists_of(f"{expression}.{one.name}", value)


def _forms_of(expression: str, thing: Any, field: str = "") -> Iterator[tuple[str, str, str]]:
    if is_dataclass(thing):
        for one in fields(thing):
            if one.name not in _SKIPPED:
                yield from _forms_of(f"{expression}.{one.name}", getattr(thing, one.name), one.name)
    elif isinstance(thing, tuple):
        if thing and isinstance(thing[0], int):
            yield str(ranges_of(thing)), f"{expression} | ranges_of", field
    elif isinstance(thing, int) and not isinstance(thing, bool):
        yield str(thing), expression, field
    elif isinstance(thing, str) and thing and (" " in thing or not isinstance(thing, Printed)):
        yield str(plain(thing)), f"{expression} | plain", field
    elif isinstance(thing, str) and thing:
        yield from _text_forms(expression, str(thing), field)


def _text_forms(expression: str, text: str, field: str) -> Iterator[tuple[str, str, str]]:
    yield text, expression, field
    if _MAC.fullmatch(text):
        for shape in ("xxxx.xxxx.xxxx", "xx-xx-xx-xx-xx-xx", "xxxx-xxxx-xxxx", "xxxxxxxxxxxx"):
            yield str(mac_as(text, shape)), f'{expression} | mac_as("{shape}")', field
            yield str(mac_as(text, shape)).upper(), f'{expression} | mac_as("{shape}") | upper', field
        yield text.upper(), f"{expression} | upper", field
    elif _PREFIX.fullmatch(text):
        address = text.partition("/")[0]
        yield address, f"{expression} | address_of", field
        if str(network_of(text)) != text:
            yield str(network_of(text)), f"{expression} | network_of", field
        if "." in address and length_of(text) not in (0, 32):
            yield str(mask_of(text)), f"{expression} | mask_of", field
            yield str(wildcard_of(text)), f"{expression} | wildcard_of", field
