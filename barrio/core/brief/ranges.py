"""Ranges of names and of numbers, as people write them: `r01..r12, r20`, `4200000000..4200009999`.

A name range keeps the width of its digits: `r08..r11` is r08, r09, r10, r11. Both ends must share the prefix and the
width. Expansion is bounded, so that a slip (`r1..r99999999`) is refused and not computed.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from functools import lru_cache

from barrio.core.errors import refuse

MOST_NAMES = 4096
_RANGE = re.compile(r"([a-z][a-z0-9-]*?)(\d{1,9})\.\.([a-z][a-z0-9-]*?)(\d{1,9})", re.ASCII)
_NAME = re.compile(r"[a-z][a-z0-9-]*")


@lru_cache(maxsize=8192)
def expand_names(text: str, path: str = "") -> tuple[str, ...]:
    """The names a comma-separated list of names and ranges stands for, in the order written.

    Raises `Refused` (`range.syntax`, `range.reversed`, `range.too-long`, `range.twice`).

    >>> expand_names("r08..r11, b01")
    ('r08', 'r09', 'r10', 'r11', 'b01')
    """
    names: list[str] = []
    for part in (piece.strip() for piece in text.split(",")):
        found = _RANGE.fullmatch(part)
        if found:
            names.extend(_span(part, found, path))
        elif _NAME.fullmatch(part):
            names.append(part)
        else:
            raise refuse(
                "range.syntax",
                f"“{part}” is not a name or a range. Write names like r07, or ranges like r01..r12, "
                "lower case, separated by commas.",
                path,
            )
        if len(names) > MOST_NAMES:
            raise refuse(
                "range.too-long",
                f"“{text[:60]}” stands for more than {MOST_NAMES} racks. Use a shorter range.",
                path,
            )
    twice = (
        next((name for index, name in enumerate(names) if name in names[:index]), None)
        if len(set(names)) < len(names)
        else None
    )
    if twice:
        raise refuse("range.twice", f"{twice} is written twice in “{text}”. Name each rack once.", path)
    return tuple(names)


def _span(part: str, found: re.Match[str], path: str) -> list[str]:
    prefix, first, other, last = found.groups()
    if prefix != other or len(first) != len(last):
        raise refuse(
            "range.syntax",
            f"“{part}” does not read as a range: both ends need the same letters and the same number of "
            "digits, as in r01..r12.",
            path,
        )
    low, high = int(first), int(last)
    if high < low:
        raise refuse("range.reversed", f"“{part}” runs backwards. Write {prefix}{last}..{prefix}{first}.", path)
    if high - low >= MOST_NAMES:
        raise refuse("range.too-long", f"“{part}” stands for {high - low + 1} racks; the most is {MOST_NAMES}.", path)
    return [f"{prefix}{number:0{len(first)}d}" for number in range(low, high + 1)]


def contract_names(names: tuple[str, ...]) -> str:
    """The shortest text that `expand_names` reads back as these names, in this order.

    >>> contract_names(("r01", "r02", "r03", "b01"))
    'r01..r03, b01'
    """
    parts: list[list[str]] = []
    for name in names:
        if parts and _follows(parts[-1][-1], name):
            parts[-1].append(name)
        else:
            parts.append([name])
    return ", ".join(part[0] if len(part) == 1 else f"{part[0]}..{part[-1]}" for part in parts)


def _follows(before: str, name: str) -> bool:
    one, two = re.fullmatch(r"(.*?)(\d+)", before), re.fullmatch(r"(.*?)(\d+)", name)
    if not one or not two or one[1] != two[1] or len(one[2]) != len(two[2]):
        return False
    return int(two[2]) == int(one[2]) + 1


_PORT = r"[a-z][a-z0-9/]*?"
_PORTS = re.compile(rf"({_PORT})(\d{{1,4}})(?:\.\.\1(\d{{1,4}})|(?:s|/)\d)?", re.ASCII)


def expand_ports(text: str, path: str = "") -> tuple[str, ...]:
    """The ports that a list of ports and ranges stands for, in the order written.

    Raises `Refused` (`range.syntax`, `range.reversed`, `range.twice`).

    >>> expand_ports("u1..u3, h48, p7s0")
    ('u1', 'u2', 'u3', 'h48', 'p7s0')
    """
    ports: list[str] = []
    for part in (piece.strip() for piece in text.split(",")):
        found = _PORTS.fullmatch(part)
        if not found:
            raise refuse(
                "range.syntax",
                f"“{part[:40]}” is not a port or a range of ports. Write ports like u3, or u1..u6.",
                path,
            )
        low, high = int(found[2]), int(found[3] or found[2])
        if high < low:
            raise refuse("range.reversed", f"“{part}” runs backwards. Write {found[1]}{high}..{found[1]}{low}.", path)
        ports.extend([part] if low == high else [f"{found[1]}{number}" for number in range(low, high + 1)])
    twice = next((port for port, times in Counter(ports).items() if times > 1), None)
    if twice:
        raise refuse("range.twice", f"{twice} is written twice in “{text[:60]}”. Name each port once.", path)
    return tuple(ports)


def contract_ports(ports: Sequence[str]) -> str:
    """The shortest text that `expand_ports` reads back as these ports, in this order.

    >>> contract_ports(("u1", "u2", "u3", "h48"))
    'u1..u3, h48'
    """
    parts: list[list[str]] = []
    for port in ports:
        if parts and _next_port(parts[-1][-1], port):
            parts[-1].append(port)
        else:
            parts.append([port])
    return ", ".join(part[0] if len(part) == 1 else f"{part[0]}..{part[-1]}" for part in parts)


def _next_port(before: str, port: str) -> bool:
    one, two = re.fullmatch(rf"({_PORT})(\d+)", before), re.fullmatch(rf"({_PORT})(\d+)", port)
    return bool(one and two and one[1] == two[1] and int(two[2]) == int(one[2]) + 1)
