"""What a switch is told to do in each step, as its agent reads it, and what of its answers is as planned."""

from __future__ import annotations

import json
import re
import shlex
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

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


def reader(path: str) -> str:
    """The program that reads a file before it is put in place, by its name."""
    argv = CHECKS[path]
    return argv[0] if argv[0] != "unshare" else "sshd"


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
WRONG = "error:"
"""What ifupdown2 prints of a line that it did not take, also where it ends as if all were well."""
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


def applies(files: Iterable[str]) -> list[dict[str, Any]]:
    """What has a switch's files read anew, in this order: each a command, and the files `when` one of which changed. Its own units are enabled."""
    units = sorted(path for path in files if path.startswith("etc/systemd/"))
    services = [path for path in units if path.endswith(".service")]
    found = [*_APPLIES, *([(tuple(units), ("systemctl", "daemon-reload"))] if units else [])]
    found += [((path,), ("systemctl", "enable", "--now", path.rpartition("/")[2])) for path in services]
    return [
        {
            "when": list(when),
            "argv": list(argv),
            "unless": [_ANEW] if when == ("etc/frr/frr.conf",) else [],
            "wrong": WRONG if argv[0] == "ifreload" else "",
        }
        for when, argv in found
    ]


MOST_TOLD = 4_000_000
"""Characters that one command of a look tells: the sessions of a spine with hundreds of leaves."""
LLDP = ("lldpcli", "-f", "json0", "show", "neighbors")
TIME = ("chronyc", "-c", "-n", "sources")
PEOPLE = ("getent", "passwd")
SIGN_IN = ("sshd", "-T")
SAVE = ("sync",)
_FIRST, _LAST = 1000, 60000
"""The numbers of people's accounts (Debian Policy, section 9.2.2)."""
_NOBODY_SIGNS_IN = ("nologin", "false", "sync")


def look(model: SwitchModel) -> list[list[str]]:
    """The commands by which a switch is checked, beside those of questions that a rehearsal asks."""
    ports = " ".join(shlex.quote(str(port.label)) for port in model.fabric_ports if not port.shut)
    optics = f'for port in {ports}; do echo "port $port"; ethtool -m "$port" 2>/dev/null; done; true'
    return [list(LLDP), *([list(TIME)] if model.common.ntp else []), list(PEOPLE), list(SIGN_IN), ["sh", "-c", optics]]


def faults(model: SwitchModel, ran: Iterable[Mapping[str, Any]], there: Iterable[str]) -> Iterator[str]:
    """What of a switch's answers is not as planned; only about switches that are `there` already, by name. A command that answered nothing at all says
    nothing; one that failed is itself a fault, but for light levels, which not every port can tell."""
    said = {str(one.get("command", "")): one for one in ran if not one.get("cut")}

    def answer(*argv: str) -> str:
        one = said.get(" ".join(argv), {})
        return str(one.get("output", "")) if not one.get("code") else ""

    for one in ran:
        if one.get("cut"):
            yield f"“{str(one.get('command'))[:60]}” tells more than is taken at once, so nothing is said of it"
        if one.get("code"):
            words = str(one.get("output", "")).strip().splitlines()
            yield f"“{str(one.get('command'))[:60]}” ended with {one.get('code')}{f': {words[-1][:120]}' if words else ''}"
    if text := answer(*LLDP):
        yield from _cables(model, text, set(there))
    if text := answer(*TIME):
        yield from _time(text)
    if text := answer(*PEOPLE):
        yield from _people(model, text)
    if text := answer(*SIGN_IN):
        yield from _sign_in(text)
    if text := answer(*look(model)[-1]):
        yield from _light(text)


def _cables(model: SwitchModel, said: str, there: set[str]) -> Iterator[str]:
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


def _time(said: str) -> Iterator[str]:
    """chronyc(1) prints a source a line, and a * where the clock follows it."""
    marks = [line.split(",")[1] for line in said.splitlines() if line.count(",") > 2]
    if "*" not in marks:
        yield "its clock follows none of its time servers yet" if marks else "it knows no time server"


def _people(model: SwitchModel, said: str) -> Iterator[str]:
    """The accounts by which somebody could sign in, against those of the plan."""
    planned = {str(user.label) for user in model.common.users}
    there = {line.split(":")[0]: line.split(":") for line in said.splitlines() if line.count(":") == 6}
    for name in sorted(planned - there.keys()):
        yield f"it has no account {name}"
    for name, parts in there.items():
        person = _FIRST <= int(parts[2]) < _LAST and not parts[6].endswith(_NOBODY_SIGNS_IN)
        if person and name not in planned:
            yield f"the account {name} is still there; nobody of the plan has it. Take it away: userdel {name}"


def _sign_in(said: str) -> Iterator[str]:
    """What sshd takes: sshd(8) prints its settings, a line each, in small letters."""
    held = dict(line.split(" ", 1) for line in said.splitlines() if " " in line)
    if held.get("passwordauthentication") != "no":
        yield "sshd takes passwords"


_ALARM = re.compile(r"^\s*((?:laser |rx |rcvr )?[^:]*power[^:]*(?:low|high) alarm)[^:]*:\s*On\s*$", re.IGNORECASE)
_POWER = re.compile(r"^\s*(?:Receiver signal average optical power\s*|Rcvr signal avg optical power[^:]*):.*?(-?[\d.]+|-inf) dBm", re.IGNORECASE)  # fmt: skip


def _light(said: str) -> Iterator[str]:
    """Light levels as ethtool(8) prints them, by the optic's own alarms: a threshold differs from kind to kind, and each knows its own."""
    port, level = "", ""
    for line in said.splitlines():
        if line.startswith("port "):
            port, level = line[5:], ""
        elif found := _POWER.match(line):
            level = f" at {found[1]} dBm"
        elif alarm := _ALARM.match(line):
            yield f"{port}: {' '.join(alarm[1].split()).lower()}{level}. Clean the plug, or look for a bend"
