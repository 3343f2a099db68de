"""What templates of one's own may ask of an address: its parts, and other notations of it. The text of an address may carry a length."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from ipaddress import IPv4Network, ip_interface
from typing import Any

from barrio.core.printed import Made


def address_of(value: object) -> Made:
    """The address alone.

    >>> address_of("10.64.0.1/31")
    '10.64.0.1'
    """
    return Made(ip_interface(str(value)).ip)


def length_of(value: object) -> int:
    """The length of the prefix.

    >>> length_of("10.64.0.1/31")
    31
    """
    return ip_interface(str(value)).network.prefixlen


def network_of(value: object) -> Made:
    """The prefix that an address is in.

    >>> network_of("10.71.0.1/24")
    '10.71.0.0/24'
    """
    return Made(ip_interface(str(value)).network)


def mask_of(value: object) -> Made:
    """The length written out.

    >>> mask_of("10.71.0.1/24")
    '255.255.255.0'
    """
    return Made(ip_interface(str(value)).network.netmask)


def wildcard_of(value: object) -> Made:
    """The mask turned round.

    >>> wildcard_of("10.71.0.1/24")
    '0.0.0.255'
    """
    network = ip_interface(str(value)).network
    return Made(network.hostmask if isinstance(network, IPv4Network) else network.netmask)


def mac_as(value: object, shape: str = "xxxx.xxxx.xxxx") -> Made:
    """A MAC address in another notation, each x a digit.

    >>> mac_as("02:00:5e:00:00:01")
    '0200.5e00.0001'
    """
    digits = iter(re.sub(r"[^0-9a-f]", "", str(value).lower()))
    return Made("".join(next(digits, "") if mark in "xX" else mark for mark in shape))


def ranges_of(numbers: Iterable[Any]) -> Made:
    """Whole numbers as ranges.

    >>> ranges_of([101, 102, 103, 200])
    '101-103,200'
    """
    runs: list[list[int]] = []
    for number in sorted({int(one) for one in numbers}):
        if runs and number == runs[-1][1] + 1:
            runs[-1][1] = number
        else:
            runs.append([number, number])
    return Made(",".join(str(low) if low == high else f"{low}-{high}" for low, high in runs))


def word_of(value: object, at: int) -> Made:
    """One word of a text, counted from 0.

    >>> word_of("ssh-ed25519 AAAA", 1)
    'AAAA'
    """
    return Made(str(value).split()[at])


FILTERS: dict[str, Callable[..., object]] = {
    one.__name__: one for one in (address_of, length_of, network_of, mask_of, wildcard_of, mac_as, ranges_of, word_of)
}
"""By the name that a template says."""
