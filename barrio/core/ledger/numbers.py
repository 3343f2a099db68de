"""Numbers as people write them: the text of one number of a use, read and checked."""

from __future__ import annotations

from ipaddress import ip_network

from barrio.core.errors import refuse
from barrio.core.ledger.demand import FIELDS
from barrio.core.ledger.pool import Family, family_of
from barrio.core.ledger.wanted import Taken

_SIZES = {"loopback": 1, "vtep": 1, "management": 1, "link": 2}


def parse_number(use: str, text: str) -> Taken:
    """A number of a use from its text: `10.60.0.7`, `10.61.0.4/31`, `4200065007`.

    Raises `Refused` (`number.use`, `number.syntax`, `number.family`, `number.size`, `range.host-bits`).

    >>> parse_number("link.v4", "10.61.0.4/31")
    Taken(low=171769860, size=2)
    """
    thing = use.split(".", maxsplit=1)[0]
    words = text.strip()
    if thing not in FIELDS:
        raise refuse(
            "number.use", f"“{use[:40]}” is nothing that numbers are drawn for. Use one of: {', '.join(FIELDS)}."
        )
    family = family_of(use)
    if family is Family.NUMBER:
        if not (words.isascii() and words.isdigit() and len(words) <= 10):
            raise refuse("number.syntax", f"“{words[:60]}” is not a number; {thing}s are plain numbers.")
        return Taken(int(words), 1)
    try:
        prefix = ip_network(words, strict=False)
        exact = ip_network(words.split("/", maxsplit=1)[0]).network_address == prefix.network_address
    except ValueError:
        raise refuse("number.syntax", f"“{words[:60]}” is not an address or a prefix.") from None
    if prefix.version != (4 if family is Family.V4 else 6):
        raise refuse(
            "number.family", f"{words} is IPv{prefix.version}, and {use} is {family.value.replace('v', 'IPv')}."
        )
    if not exact:
        raise refuse("range.host-bits", f"{words} has bits set past its length. Did you mean {prefix}?")
    size = _SIZES.get(thing)
    if size is not None and prefix.num_addresses != size:
        wanted = prefix.max_prefixlen - (size.bit_length() - 1)
        raise refuse("number.size", f"{words} is a /{prefix.prefixlen}; a {thing} is a /{wanted}.")
    return Taken(int(prefix.network_address), prefix.num_addresses)
