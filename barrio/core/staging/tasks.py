"""What a switch is told to do in each step, as its agent reads it, and what of its answers is as planned."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from barrio.core import Compiled
from barrio.core.model.switch import SwitchModel

MANAGEMENT = "mgmt"
"""The device by which a switch reaches Barrio once all its files are in place: that of its management table."""
CHECKS: Mapping[str, tuple[str, ...]] = {
    "etc/frr/frr.conf": ("vtysh", "--dryrun", "--inputfile"),
    "etc/nftables.conf": ("nft", "--check", "--file"),
    "etc/ssh/sshd_config": (
        "unshare", "--net", "sh", "-c", f'ip link add {MANAGEMENT} type vrf table 1001 && exec sshd -t -f "$0"',
    ),
}  # fmt: skip
"""What reads a file before it is put in place: a program and its words, before the file's own path. sshd looks for the table that it is to listen in,
which a switch with nothing on it has not."""
_ANEW = "etc/frr/daemons"
"""When other daemons are to run, FRRouting starts afresh and reads all of its files."""
_APPLIES: tuple[tuple[tuple[str, ...], tuple[str, ...]], ...] = (
    (("etc/sysusers.d/fabric.conf",), ("systemd-sysusers",)),
    (("etc/tmpfiles.d/clock.conf", "etc/tmpfiles.d/fabric.conf"), ("systemd-tmpfiles", "--create")),
    (("etc/hostname",), ("hostname", "--file", "/etc/hostname")),
    (("etc/sysctl.d/90-fabric.conf",), ("sysctl", "--quiet", "--load=/etc/sysctl.d/90-fabric.conf")),
    (("etc/network/interfaces",), ("ifreload", "--all")),
    (("etc/nftables.conf",), ("nft", "--file", "/etc/nftables.conf")),
    ((_ANEW,), ("systemctl", "restart", "frr")),
    (("etc/frr/frr.conf",), ("/usr/lib/frr/frr-reload.py", "--reload", "/etc/frr/frr.conf")),
    (("etc/lldpd.d/fabric.conf",), ("systemctl", "restart", "lldpd")),
    (("etc/chrony/chrony.conf",), ("systemctl", "restart", "chrony")),
    (("etc/ssh/sshd_config", "etc/issue.net"), ("systemctl", "reload", "ssh")),
    (("etc/rsyslog.d/40-fabric.conf",), ("systemctl", "restart", "rsyslog")),
)
"""What reads files anew once they are in place, in this order: which files, and the command."""
ASKED_FOR = frozenset(
    (
        "etc/frr/vtysh.conf",
        "etc/hosts",
        "etc/resolv.conf",
        "etc/sudoers.d/fabric",
        "etc/ssh/authorized_keys/",
        "usr/local/sbin/fabric-guard",
    )
)
"""What is read each time that somebody needs it, so that nothing has to be told: files, and folders of such."""


def applies(files: Iterable[str]) -> list[dict[str, list[str]]]:
    """What has a switch's files read anew, in this order: each a command, and the files `when` one of which changed. Its own units are enabled."""
    units = sorted(path for path in files if path.startswith("etc/systemd/"))
    services = [path for path in units if path.endswith(".service")]
    found = [*_APPLIES, *([(tuple(units), ("systemctl", "daemon-reload"))] if units else [])]
    found += [((path,), ("systemctl", "enable", "--now", path.rpartition("/")[2])) for path in services]
    return [
        {"when": list(when), "argv": list(argv), "unless": [_ANEW] if when == ("etc/frr/frr.conf",) else []}
        for when, argv in found
    ]


LLDP = ("lldpcli", "-f", "json0", "show", "neighbors")
SESSIONS = ("vtysh", "-c", "show bgp vrf all neighbors json")
SAVE = ("sync",)


def look() -> list[list[str]]:
    """The commands by which a switch is checked, in this order."""
    return [list(LLDP), list(SESSIONS)]


def faults(
    compiled: Compiled, model: SwitchModel, ran: Iterable[Mapping[str, Any]], there: Iterable[str]
) -> Iterator[str]:
    """What of a switch's answers is not as planned; only about switches that are `there` already, by name. A command that could not be run says nothing."""
    said = {str(one.get("command", "")): one for one in ran}
    names = set(there)
    lldp, sessions = said.get(" ".join(LLDP)), said.get(" ".join(SESSIONS))
    if lldp and not lldp.get("code") and lldp.get("output"):
        yield from _cables(compiled, model, str(lldp["output"]), names)
    if sessions and not sessions.get("code") and sessions.get("output"):
        yield from _sessions(model, str(sessions["output"]), names)


def _cables(compiled: Compiled, model: SwitchModel, said: str, there: set[str]) -> Iterator[str]:
    heard: dict[str, tuple[str, str]] = {}
    for part in json.loads(said).get("lldp", []):
        for one in part.get("interface", []):
            names = [each["value"] for chassis in one.get("chassis", []) for each in chassis.get("name", [])]
            ports = [each["value"] for port in one.get("port", []) for each in port.get("id", [])]
            heard[one["name"]] = (names[0] if names else "", ports[0] if ports else "")
    for port in model.fabric_ports:
        if port.peer not in there or port.shut:
            continue
        found, wanted = heard.get(str(port.label)), (str(port.peer), str(port.peer_port))
        if found is None:
            yield f"{port.label} hears nobody; the plan says {wanted[0]} {wanted[1]}. Look at the cable"
        elif found != wanted:
            yield f"{port.label} hears {found[0]} {found[1]}; the plan says {wanted[0]} {wanted[1]}. Move one plug"


def _sessions(model: SwitchModel, said: str, there: set[str]) -> Iterator[str]:
    begins = re.search(r"\{", said)
    told = json.JSONDecoder().raw_decode(said, begins.start())[0] if begins else {}
    common = told.get("default", {})
    for port in model.fabric_ports if model.common.ebgp else ():
        if port.peer not in there or port.shut:
            continue
        one = common.get(str(port.neighbor), {})
        if one.get("bgpState") != "Established":
            yield f"its session with {port.peer} is {one.get('bgpState', 'not there')}"
        elif one.get("remoteAs") != port.peer_asn:
            yield f"{port.peer} speaks with AS {one.get('remoteAs')}; AS {port.peer_asn} is planned"
