"""What a switch holds beside its files, as rows that one look can be held against another by: a key and what is there, in words.

A row changes when what it says does, and not because time passes: ages, counters and the order of a listing are left out.
"""

from __future__ import annotations

import json
import re
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from barrio.core.cabling.heard import read_heard
from barrio.core.errors import Refused
from barrio.core.observe.tables import devices
from barrio.core.staging.tasks import LLDP

Rows = dict[str, str]
"""What is there, by the key of each row."""
MOST_ROWS, MOST_WORDS = 250_000, 4000
"""Rows of a table that are kept, and characters of each: a route by a hundred ways."""

_HARDWARE = r"""
for name in sys_vendor product_name product_serial board_name bios_version; do
  [ -r /sys/class/dmi/id/$name ] && printf '%s\t%s\n' "$name" "$(cat /sys/class/dmi/id/$name)"
done
printf 'processors\t%s\n' "$(nproc)"
sed -n 's/^MemTotal: *\([0-9]*\) kB/memory\t\1 kB/p' /proc/meminfo
for disk in /sys/block/[smnv]*; do
  [ -e "$disk/device" ] && printf 'disk %s\t%s blocks of 512 bytes\n' "${disk##*/}" "$(cat "$disk/size")"
done
for port in /sys/class/net/*; do
  [ -e "$port/device" ] || continue
  name=${port##*/}
  ethtool -m "$name" 2>/dev/null | sed -n "s/^\s*Vendor \(name\|PN\|SN\)\s*: *\(.*[^ ]\) *$/optics $name \1\t\2/p"
  printf 'port %s\t%s\n' "$name" "$(cat "$port/address")"
done
true
"""
_SOFTWARE = r"""
printf 'kernel\t%s\n' "$(uname -r)"
sed -n 's/^PRETTY_NAME="\(.*\)"/system\t\1/p' /etc/os-release
dpkg-query --show --showformat '${db:Status-Status}|${Package}\t${Version}\n' 2>/dev/null | sed -n 's/^installed|//p'
true
"""


@dataclass(frozen=True, slots=True)
class Kind:
    """A table: what it is called, the command that prints it, and how its rows are read. What prints the same while nothing changes is `steady`."""

    words: str
    argv: tuple[str, ...]
    read: Callable[[str], Iterable[tuple[str, str]]]
    steady: bool = True

    @property
    def command(self) -> str:
        return " ".join(self.argv)

    @property
    def typed(self) -> str:
        """The command as one types it: in FRRouting's own shell where it is FRRouting's."""
        return self.argv[-1] if self.argv[0] == "vtysh" else self.command


def rows(kind: str, text: str) -> Rows | None:
    """The rows of a table as its command printed it; None where it told nothing that can be read.

    >>> rows("sessions", '{"tides": {"u1": {"bgpState": "Active", "localAs": 65010, "remoteAs": 65001}}}')
    {'tides u1': 'Active, AS 65010 with AS 65001'}
    """
    if not text.strip():
        return None
    found: dict[str, list[str]] = defaultdict(list)
    try:
        for place, (key, words) in enumerate(KINDS[kind].read(text)):
            if place >= MOST_ROWS:
                break
            found[_plain(key)].append(_plain(words))
    except (ValueError, TypeError, KeyError, AttributeError, Refused):
        return None
    whole = {
        key: words[0] if len(words) == 1 else "; ".join(sorted(set(words) - {""}))[:MOST_WORDS]
        for key, words in sorted(found.items())
    }
    return {key: words for key, words in whole.items() if key and words}


def _plain(words: str) -> str:
    """Words that fit in a line of a listing."""
    # Nearly all do as they are, and of some thousands a look it is felt whether that is asked in C.
    plain = words if words.isprintable() else _NOT_PLAIN.sub(" ", words)
    return plain.strip()[:MOST_WORDS]


_NOT_PLAIN = re.compile(r"[\x00-\x1f\x7f\ud800-\udfff]+")


def changes(was: Rows, now: Rows) -> list[tuple[str, str, str]]:
    """The rows that are other: the key, what was there and what is, of which one may be nothing."""
    return [(key, was.get(key, ""), now.get(key, "")) for key in sorted(was.keys() | now.keys()) if was.get(key) != now.get(key)]  # fmt: skip


def undone(now: Rows, later: Iterable[tuple[str, str, str]]) -> Rows:
    """The rows as they were before changes, of which the newest come first.

    >>> undone({"a": "2"}, [("a", "1", "2"), ("b", "x", "")])
    {'a': '1', 'b': 'x'}
    """
    found = dict(now)
    for key, was, _ in later:
        if was:
            found[key] = was
        else:
            found.pop(key, None)
    return dict(sorted(found.items()))


def _devices(text: str) -> Iterator[tuple[str, str]]:
    # Whoever reads devices on the way of a flow takes what there is; here what is no list is no table, and not an empty one.
    if not isinstance(json.loads(text), list):
        raise ValueError("no list of devices")
    for one in devices(text).values():
        parts = ["up" if one.up else "down", f"MTU {one.mtu}", one.kind]
        parts += [f"VLAN {one.vlan}" if one.vlan is not None else "", f"VNI {one.vni}" if one.vni is not None else ""]
        parts += [f"table {one.table}" if one.table is not None else "", f"in {one.master}" if one.master else ""]
        parts += sorted(map(str, one.addresses))
        yield one.name, ", ".join(filter(None, [*parts, one.mac]))


def _vlans(text: str) -> Iterator[tuple[str, str]]:
    for one in json.loads(text):
        parts = []
        for each in one.get("vlans", []):
            span = f"{each['vlan']}-{each['vlanEnd']}" if "vlanEnd" in each else str(each["vlan"])
            parts.append(f"{span} untagged" if "Egress Untagged" in each.get("flags", []) else span)
        yield one["ifname"], ", ".join(parts)


def _macs(text: str) -> Iterator[tuple[str, str]]:
    """bridge(8) prints a MAC twice where a tunnel has it: in the bridge, and behind which tunnel end."""
    for found in _some(list(map(_MAC.match, text.splitlines()))):
        mac, first, device, rest = found.groups()
        if " permanent" in rest or int(first, 16) & 1:
            continue
        vlan, end = _VLAN.search(rest), _END.search(rest)
        if end:
            words = f"behind {end[2]}" if end[1] == "dst" else f"behind group {end[2]}"
            yield f"{mac} {device}", words
        elif " self" not in rest or vlan:
            way = "through" if " extern_learn" in rest else "on"
            yield f"{mac} VLAN {vlan[1] if vlan else 'none'}", f"{way} {device}"


_MAC = re.compile(r"(([\da-f]{2}):[\da-f:]{14}) dev (\S+)(.*)")
_VLAN, _END = re.compile(r" vlan (\d+)"), re.compile(r" (dst|nhid) (\S+)")
_NOT_FORWARDED = frozenset(("local", "broadcast", "multicast", "anycast"))
_OF_A_LINK = ("fe80::", "ff00::")


def _routes(text: str) -> Iterator[tuple[str, str]]:
    """Three listings of iproute2, each a line: the devices of VRFs, and after a line with its version the routes of each family."""
    parts = re.split(r"^([46])$", text, flags=re.MULTILINE)
    if parts[1::2] != ["4", "6"]:
        raise ValueError("cut off")
    vrfs = {str(one["linkinfo"]["info_data"]["table"]): str(one["ifname"]) for one in _listed(parts[0]) if one}
    for version, part in zip(parts[1::2], parts[2::2], strict=True):
        for one in filter(None, _listed(part)):
            kind, table, to = str(one.get("type", "unicast")), str(one.get("table", "main")), str(one["dst"])
            if kind in _NOT_FORWARDED or to.startswith(_OF_A_LINK):
                continue
            to = {"4": "0.0.0.0/0", "6": "::/0"}[version] if to == "default" else to
            hops = one["nexthops"] if isinstance(one.get("nexthops"), list) else [one]
            ways = sorted({words for words in map(_hop, hops) if words})
            where = "" if table == "main" else f"{vrfs.get(table, f'table {table}')} "
            yield f"{where}{to}", ", ".join(([] if kind == "unicast" else [kind]) + ways)


def _listed(text: str) -> list[Any]:
    found = json.loads(text) if text.strip() else []
    if not isinstance(found, list):
        raise ValueError("no list")
    return found


def _hop(one: Mapping[str, Any]) -> str:
    if not one.get("dev"):
        return ""
    via = one.get("gateway") or (one["via"].get("host") if isinstance(one.get("via"), dict) else "")
    flags = one.get("flags")
    down = " (down)" if flags and {"dead", "linkdown"} & set(flags) else ""
    return f"{one['dev']} by {via}{down}" if via else f"{one['dev']}{down}"


def _neighbours(text: str) -> Iterator[tuple[str, str]]:
    if not isinstance(json.loads(text)["lldp"], dict | list):
        raise ValueError("no answer of lldpcli(8)")
    try:
        heard = read_heard(text.encode(), "here").rows
    except Refused as refused:
        if refused.faults[0].code == "neighbours.empty":
            return
        raise
    for one in heard:
        yield one.at.name, one.far.text


def _sessions(text: str) -> Iterator[tuple[str, str]]:
    for vrf, peers in json.loads(text[text.index("{") :]).items():
        for peer, one in peers.items():
            if isinstance(one, dict) and "bgpState" in one:
                families = ", ".join(sorted(one.get("addressFamilyInfo") or {}))
                words = f"{one['bgpState']}, AS {one.get('localAs')} with AS {one.get('remoteAs')}"
                yield f"{vrf} {peer}", f"{words}{f', {families}' if families else ''}"


def _vnis(text: str) -> Iterator[tuple[str, str]]:
    for number, one in json.loads(text[text.index("{") :]).items():
        ends = one.get("numRemoteVteps")
        far = f", {ends} tunnel ends" if isinstance(ends, int) else ""
        yield number, f"{one.get('type')} of {one.get('tenantVrf', 'default')}{far}, {one.get('vxlanIf', 'no device')}"


def _told(text: str) -> Iterator[tuple[str, str]]:
    for found in _some([re.match(r"([^\t]+)\t(.*)", line) for line in text.splitlines()]):
        yield found[1], found[2]


def _some(lines: Iterable[re.Match[str] | None]) -> list[re.Match[str]]:
    """The lines of a listing that can be read. Where none can, it is none: whoever printed that has told something else, and not that the table is empty."""
    if not (found := [line for line in lines if line]):
        raise ValueError("no line of it")
    return found


_ROUTES = "ip -j -d link show type vrf; echo 4; ip -j -4 route show table all; echo 6; ip -j -6 route show table all"
KINDS: Mapping[str, Kind] = {
    "devices": Kind("Devices and addresses", ("ip", "-j", "-d", "address"), _devices),
    "vlans": Kind("VLANs of ports", ("bridge", "-j", "vlan", "show"), _vlans),
    "neighbours": Kind("Neighbours by LLDP", LLDP, _neighbours, steady=False),
    "sessions": Kind("BGP sessions", ("vtysh", "-c", "show bgp vrf all neighbors json"), _sessions, steady=False),
    "routes": Kind("Routes", ("sh", "-c", _ROUTES), _routes),
    "vnis": Kind("VNIs", ("vtysh", "-c", "show evpn vni json"), _vnis, steady=False),
    "macs": Kind("MACs", ("bridge", "fdb", "show"), _macs),
    "hardware": Kind("Hardware", ("sh", "-c", _HARDWARE), _told),
    "software": Kind("Software", ("sh", "-c", _SOFTWARE), _told),
}
"""What is kept of a switch at each look, in the order in which it is shown."""
