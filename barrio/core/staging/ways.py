"""How switches come to Barrio: the address that they reach it at, and who of them is let in without being asked about."""

from __future__ import annotations

import re
from dataclasses import dataclass
from ipaddress import IPv4Network
from typing import Literal, get_args

from barrio.core.errors import refuse

Admits = Literal["nobody", "serial and place", "serial"]
"""Who lets itself in: nobody; a box whose serial number is bound and that hears the neighbours which the plan has there; or by its serial alone."""
ADMITS: tuple[Admits, ...] = get_args(Admits)
_ADDRESS = re.compile(
    r"https://(?:[A-Za-z0-9](?:[A-Za-z0-9.-]*[A-Za-z0-9])?|\d+\.\d+\.\d+\.\d+|\[[0-9a-fA-F:]+\])(?::\d{1,5})?"
)


@dataclass(frozen=True, slots=True)
class Ways:
    """`address` is where switches reach Barrio; `lend` the span of the management network that strangers are lent addresses from."""

    address: str = ""
    admits: Admits = "nobody"
    lend: IPv4Network | None = None


def ways(address: str, admits: str, lend: str) -> Ways:
    """The ways as somebody typed them. Raises `Refused` (`ways.address`, `ways.admits`, `ways.lend`).

    >>> ways("https://barrio.example:8443/", "nobody", "").address
    'https://barrio.example:8443'
    """
    said = address.strip().rstrip("/")
    if said and not _ADDRESS.fullmatch(said):
        words = f"“{address.strip()[:80]}” is no address of a boot server: https://, a name or an address, and a port where it has one of its own."
        raise refuse("ways.address", words, "address")
    if admits not in ADMITS:
        raise refuse("ways.admits", f"“{admits[:40]}” is no rule. There are: {', '.join(ADMITS)}.", "admits")
    span: IPv4Network | None = None
    if lend.strip():
        try:
            span = IPv4Network(lend.strip())
        except ValueError:
            raise refuse(
                "ways.lend", f"“{lend.strip()[:40]}” is no IPv4 prefix, as 10.255.31.192/26 is.", "lend"
            ) from None
    return Ways(said, admits, span)
