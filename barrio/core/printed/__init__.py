"""Printed types: the only texts that a file of a switch may hold.

A value that a person wrote becomes one of these by `read`, which holds it to a small grammar of its own (ASCII, no white
space, none of the characters that a file's reader could take for more); what the computation makes of such values and of numbers
is built directly. Templates print nothing else: `printable` refuses a plain `str`, so a field that was forgotten fails
loudly and never becomes a command. Free text (titles, reasons, names of makers) stays a plain `str` and reaches a file only
through the filter `plain`, which encodes it with letters, digits and a few marks.
"""

from barrio.core.printed.keys import PublicKey
from barrio.core.printed.text import Plain, plain, printable
from barrio.core.printed.words import (
    Address,
    Day,
    Device,
    Domain,
    FarPort,
    Host,
    Line,
    Mac,
    Made,
    Name,
    Package,
    Prefix,
    Printed,
    UserName,
    VrfName,
    Zone,
)

__all__ = [
    "Address",
    "Day",
    "Device",
    "Domain",
    "FarPort",
    "Host",
    "Line",
    "Mac",
    "Made",
    "Name",
    "Package",
    "Plain",
    "Prefix",
    "Printed",
    "PublicKey",
    "UserName",
    "VrfName",
    "Zone",
    "plain",
    "printable",
]
