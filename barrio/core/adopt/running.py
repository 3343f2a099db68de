"""One switch as it runs: its files and what it told of itself, read leniently, since others may have written them."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from barrio.core.cabling.heard import Heard
from barrio.core.exchange.tiers import natural
from barrio.core.observe.saved import is_cut_off
from barrio.core.targets.linux_frr.readback.read import Device, Interface, Router, SwitchText, read_switch

FRR, INTERFACES = "etc/frr/frr.conf", "etc/network/interfaces"


@dataclass(frozen=True, slots=True)
class Running:
    """What is at hand of a switch: `files` by path, whom it hears by LLDP, the `ports` of its front with their speed in Gbit/s (None where nobody said),
    and `words`, what it says of its hardware (IEEE 802.1AB, 8.5.7). `unreadable` are files that are there and whoever looked may not read; `tables` is what
    commands printed of what it holds beside its files, by the kind of table."""

    name: str
    files: Mapping[str, str]
    heard: tuple[Heard, ...] = ()
    ports: Mapping[str, int | None] = field(default_factory=dict)
    words: str = ""
    unreadable: frozenset[str] = frozenset()
    tables: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Known:
    """A switch that was read. What is asked of it often is worked out once."""

    running: Running
    text: SwitchText

    @property
    def name(self) -> str:
        return self.running.name

    @property
    def devices(self) -> Mapping[str, Device]:
        return self.text.devices

    @property
    def underlay(self) -> Router | None:
        return self.text.underlay

    def file(self, path: str) -> str:
        return self.running.files.get(path, "")

    @cached_property
    def tunnels(self) -> list[Device]:
        """The VXLAN devices, in their order."""
        return [one for one in self.devices.values() if one.kind == "tunnel"]

    @cached_property
    def vtep(self) -> str:
        """The address that its tunnels come from, or would: a further loopback beside the router id. Nothing where there is none."""
        own = self.underlay.value("bgp router-id") if self.underlay else ""
        further = [str(one.ip) for one in self.loopbacks if one.version == 4 and str(one.ip) != own] if own else []
        return next((one.one("vxlan-local-tunnelip") for one in self.tunnels), further[0] if further else "")

    @cached_property
    def loopbacks(self) -> list[Interface]:
        lo = self.devices.get("lo")
        return [one for one in lo.addresses if not one.ip.is_loopback] if lo else []

    @cached_property
    def management(self) -> Device | None:
        """The out-of-band port: it leads to a gateway, in a table of its own."""
        there = [one for one in self.devices.values() if one.one("gateway") and one.addresses]
        return next((one for one in there if one.one("vrf")), there[0] if there else None)

    @property
    def unread(self) -> bool:
        """Whether it is known by what others say of it alone."""
        return not self.running.files

    def why_shut(self, port: str) -> str | None:
        """The reason that stands by a port that is shut, empty where none does; None where it is not shut."""
        device = self.devices.get(port)
        if device is None or "link-down" not in device.said:
            return None
        return re.sub(r"^(out of service|planned later): ", "", self.remark(port))

    def remark(self, port: str) -> str:
        """The first remark in the words of a port, empty where none stands there."""
        found = re.search(
            rf"^iface {re.escape(port)}\n(?:[ \t]+.*\n)*?[ \t]+# (.*)\n", self.file(INTERFACES), re.MULTILINE
        )
        return found[1] if found else ""

    @cached_property
    def description(self) -> str:
        """What it says of itself to its neighbours."""
        found = re.search(
            r'^configure system description "?(.*?)"?$', self.file("etc/lldpd.d/fabric.conf"), re.MULTILINE
        )
        return found[1] if found else self.running.words


def unread(name: str) -> Known:
    """A switch that only others tell of."""
    return Known(Running(name, {}), SwitchText(name, {}, {}, {}, {}, {}, [], {}))


def know(running: Running) -> Known:
    """A switch, read. Raises `ValueError` where its files are cut off or of another language."""
    files = dict(running.files)
    for path in (FRR, INTERFACES):
        if path not in files:
            raise ValueError(f"{path} is not at hand")
    files[FRR] = _routing(files[FRR])
    files[INTERFACES] = stanzas(files[INTERFACES])
    try:
        return Known(running, read_switch(running.name, files))
    except (KeyError, IndexError) as error:
        raise ValueError(f"its files cannot be read ({error})") from None


def _routing(text: str) -> str:
    """What a shell prints as the running configuration, without what it says around it."""
    lines = [line.rstrip() for line in text.split("\n")]
    lines = [line for line in lines if line not in ("Building configuration...", "Current configuration:")]
    kept = "\n".join(lines)
    if is_cut_off(kept):
        raise ValueError("frr.conf is cut off")
    return kept


def stanzas(text: str) -> str:
    """An interfaces file with one stanza for each device, and each brought up just before it, as ifupdown2 understands them together; in the order of
    their names, since any other says nothing."""
    said: dict[str, list[str]] = {}
    current: list[str] | None = None
    for number, raw in enumerate(text.replace("\\\n", " ").split("\n"), 1):
        words = raw.split()
        if (
            not words
            or words[0].startswith("#")
            or words[0] in ("auto", "source", "source-directory")
            or words[0].startswith("allow-")
        ):
            continue
        if words[0] == "iface":
            if len(words) < 2:
                raise ValueError(f"interfaces, line {number}: no device is named")
            current = said.setdefault(words[1], [])
        elif current is None:
            raise ValueError(f"interfaces, line {number}: “{raw.strip()}” begins nothing")
        else:
            current.append(" ".join(words))
    return "\n".join(
        line
        for name, lines in sorted(said.items(), key=lambda one: natural(one[0]))
        for line in (f"auto {name}", f"iface {name}", *(f"    {one}" for one in lines), "")
    )


def clean(name: str) -> str:
    """A host name as the brief takes it: lower-case letters, digits and hyphens, a letter first."""
    said = re.sub(r"[^a-z0-9-]+", "-", name.lower()).strip("-")
    return said if re.match(r"[a-z]", said) else f"sw-{said}"
