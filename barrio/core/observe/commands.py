"""Commands that look and change nothing, which switches may be asked: those that ship, and those that an office keeps beside them."""

from __future__ import annotations

import re
import shlex
from collections.abc import Mapping
from dataclasses import dataclass

from barrio.core.errors import refuse


@dataclass(frozen=True, slots=True)
class Command:
    """A command as one types it, and what it tells."""

    command: str
    words: str


SHIPPED = (
    Command("show bgp summary", "sessions and how many prefixes each told"),
    Command("show bgp l2vpn evpn summary", "sessions of EVPN"),
    Command("show bfd peers brief", "what BFD watches"),
    Command("show ip route summary", "how many routes there are, by where they come from"),
    Command("show evpn vni", "VNIs, with their MACs and tunnel ends"),
    Command("show evpn mac vni all", "MACs and where they are"),
    Command("show evpn es", "Ethernet segments and who forwards"),
    Command("show ip ospf neighbor", "neighbours of OSPF"),
    Command("show isis neighbor", "neighbours of IS-IS"),
    Command("show version", "FRRouting's version"),
    Command("lldpcli show neighbors summary", "neighbours by LLDP"),
    Command("ip -s link", "devices with their counters"),
    Command("ip -br address", "devices with their addresses"),
    Command("ip route show table all", "routes of every table"),
    Command("ip neighbor", "neighbours and their MACs"),
    Command("bridge vlan", "VLANs of each port"),
    Command("bridge fdb", "MACs of the bridge"),
    Command("chronyc -n sources", "time servers and how far off each is"),
    Command("uptime", "since when it runs, and how busy it is"),
    Command("df -h", "room on its disks"),
    Command("free -m", "memory"),
    Command("journalctl -p warning -n 40 --no-pager", "the last forty warnings"),
    Command("last -w -n 20", "who signed in"),
)

_LOOKS: Mapping[str, str] = {
    "ip": r"(-[46jdsbr]+ |-br |-json |-brief |-details |-statistics )*(link|address|addr|route|neighbor|neigh|rule|nexthop|vrf)( show.*| list.*| get [\w.:]+( vrf [\w-]+)?)?",
    "bridge": r"(-[jds]+ |-json )*(vlan|fdb|link|mdb)( show.*)?",
    "lldpcli": r"(-f \w+ )?show [a-z]+( [a-z]+)*",
    "chronyc": r"(-n )?(sources|tracking|sourcestats|activity)( -v)?",
    "ethtool": r"(-[imSaTk] )?[a-z][\w.]{0,14}",
    "journalctl": r"(-p \w+ |-u [\w@.-]+ |-b |--since \S+ )*-n [1-9]\d{0,2}( --no-pager)?",
    "nft": r"(-j )?list (ruleset|tables|table \w+ [\w-]+|set \w+ [\w-]+ [\w-]+|chain \w+ [\w-]+ [\w-]+)",
    "ss": r"-[tulnpaH46ei]+",
    "last": r"(-w |-F )*-n [1-9]\d{0,2}",
    "uptime": r"(-p|-s)?",
    "df": r"(-h|-i)?",
    "free": r"(-m|-h)?",
    "uname": r"-a",
    "show": r"[\w./:-]+( [\w./:-]+)*( json)?",
}
"""What follows the first word of a command that only looks."""
_NOT = re.compile(r"[;&|<>$`\\\"'(){}*?\n\r~!#]")


def argv_of(command: str) -> list[str]:
    """The words of a command that only looks; what begins with `show` is asked of FRRouting.

    Raises `Refused` (`ask.command`) for any other.

    >>> argv_of("show bgp summary")
    ['vtysh', '-c', 'show bgp summary']
    """
    said = " ".join(command.split())
    word, _, rest = said.partition(" ")
    if len(said) > 200 or _NOT.search(command) or word not in _LOOKS or not re.fullmatch(_LOOKS[word], rest):
        known = ", ".join(sorted(_LOOKS))
        raise refuse(
            "ask.command", f"“{said[:80]}” is no command that only looks. It begins with one of: {known}.", "command"
        )
    return ["vtysh", "-c", said] if word == "show" else shlex.split(said)
