"""Lines of one's own at named places of the files that ship: for the whole fabric here, and on rungs for some of its switches."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, Field

from barrio.core.brief.terms import Part
from barrio.core.printed import Line

PLACES = {
    "interfaces": ("at the end of interfaces", "etc/network/interfaces"),
    "frr": ("at the end of frr.conf", "etc/frr/frr.conf"),
    "bgp": ("in the router bgp block of the underlay", "etc/frr/frr.conf"),
    "input": ("at the end of the filter's input chain", "etc/nftables.conf"),
    "sysctl": ("at the end of the kernel's settings", "etc/sysctl.d/90-fabric.conf"),
    "sshd": ("at the end of sshd_config", "etc/ssh/sshd_config"),
    "chrony": ("at the end of chrony.conf", "etc/chrony/chrony.conf"),
    "rsyslog": ("at the end of the log's rules", "etc/rsyslog.d/40-fabric.conf"),
}
"""Every place: where it is in words, and the file."""


def _stays(line: Line) -> Line:
    if line.split()[0] in ("end", "exit"):
        raise ValueError("the block ends by itself; take end and exit out")
    return line


def _not_the_end(line: Line) -> Line:
    if line.split()[0] == "end":
        raise ValueError("the file ends by itself; take end out")
    return line


Lines = Annotated[list[Line], Field(max_length=200)]


class Additions(Part):
    """Lines by place, each as it is to stand in the file."""

    interfaces: Lines = Field([])
    frr: Annotated[list[Annotated[Line, AfterValidator(_not_the_end)]], Field(max_length=200)] = Field([])
    bgp: Annotated[list[Annotated[Line, AfterValidator(_stays)]], Field(max_length=200)] = Field([])
    input: Lines = Field([])
    sysctl: Lines = Field([])
    sshd: Lines = Field([])
    chrony: Lines = Field([])
    rsyslog: Lines = Field([])
