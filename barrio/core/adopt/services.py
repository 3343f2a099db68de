"""What each switch says of its services, read from their own files: the value of every setting of the Ladder that they print."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from barrio.core.adopt.running import FRR, Known

_NFT = "etc/nftables.conf"


def settings_of(one: Known) -> dict[str, Any]:
    """The settings of a switch that its files say, by their names; those whose files could not be read are left out."""
    return {
        name: ask(one)
        for name, (path, ask) in ASKED.items()
        if not any(unread.startswith(path) for unread in one.running.unreadable)
    }


def _lines(path: str, pattern: str) -> tuple[str, Callable[[Known], list[str]]]:
    """All that a pattern finds in a file."""
    seeks = re.compile(pattern, re.MULTILINE)
    return path, lambda one: list(dict.fromkeys(seeks.findall(one.file(path))))


def _first(path: str, pattern: str, read: Callable[[str], Any], default: Any) -> tuple[str, Callable[[Known], Any]]:
    """What a pattern finds first in a file; a default where it finds nothing."""
    seeks = re.compile(pattern, re.MULTILINE)

    def ask(one: Known) -> Any:
        found = seeks.search(one.file(path))
        return read(found[1]) if found else default

    return path, ask


_LOGS = "etc/rsyslog"


def _log(one: Known) -> str:
    return "\n".join(text for path, text in one.running.files.items() if path.startswith(_LOGS))


def _log_servers(one: Known) -> list[str]:
    """Servers in the words of rsyslog, the new (`target=`) and the old (`@@host:514`)."""
    text = _log(one)
    old = re.findall(r"@{1,2}([\w.:-]+?)(?::\d+)?$", text, re.MULTILINE)
    return list(dict.fromkeys(re.findall(r'target="([^"]+)"', text) + old))


def _log_word(word: str, read: Callable[[str], Any], default: Any) -> tuple[str, Callable[[Known], Any]]:
    def ask(one: Known) -> Any:
        found = re.search(rf'{word}="([^"]+)"', _log(one))
        return read(found[1]) if found else default

    return _LOGS, ask


def _users(one: Known) -> dict[str, Any]:
    """Accounts and their keys: who may become root, until when, in which further groups."""
    where = "etc/ssh/authorized_keys/"
    keys_of = {path.removeprefix(where): text for path, text in one.running.files.items() if path.startswith(where)}
    groups: dict[str, list[str]] = {}
    for name, group in re.findall(r"^m (\S+) (\S+)", one.file("etc/sysusers.d/fabric.conf"), re.MULTILINE):
        groups.setdefault(name, []).append(group)
    found: dict[str, Any] = {}
    for name, text in keys_of.items():
        said: dict[str, Any] = {}
        if "sudo" not in groups.get(name, ["sudo"]):
            said["role"] = "operator"
        ends = re.findall(r'expiry-time="(\d{4})(\d\d)(\d\d)', text)
        if ends:
            said["until"] = "-".join(ends[0])
        said["keys"] = re.findall(r"((?:ssh|ecdsa|sk)-\S+ [A-Za-z0-9+/=]{20,}.*)$", text, re.MULTILINE)
        more = [group for group in groups.get(name, []) if group not in ("sudo", "frrvty", "adm")]
        if more:
            said["groups"] = more
        if said["keys"]:
            found[name] = said
    return found


def _snmp(one: Known) -> dict[str, Any] | None:
    users = re.findall(r"^rouser (?:-s usm )?(\S+)", one.file("etc/snmp/snmpd.conf"), re.MULTILINE)
    if not users:
        return None
    sources = re.findall(r"ip6? saddr (\S+) udp dport 161 ", one.file(_NFT))
    return {"users": list(dict.fromkeys(users))} | ({"sources": sources} if sources else {})


def _storm(one: Known) -> int:
    """Frames for all that a host port takes a second; a leaf without the rule takes as many as come."""
    found = re.search(r"update @storm \{ iifname limit rate over (\d+)/second", one.file(_NFT))
    return int(found[1]) if found else 0


ASKED: Mapping[str, tuple[str, Callable[[Known], Any]]] = {
    "services.ntp": _lines("etc/chrony/chrony.conf", r"^(?:server|pool|peer) (\S+)"),
    "services.dns": _lines("etc/resolv.conf", r"^nameserver (\S+)"),
    "services.syslog": (_LOGS, _log_servers),
    "services.syslog_over": _log_word("protocol", str, "udp"),
    "services.syslog_port": _log_word("port", int, 514),
    "services.syslog_facility": _first(FRR, r"^log facility (\S+)", str, "daemon"),
    "services.lldp_interval": _first("etc/lldpd.d/fabric.conf", r"^configure lldp tx-interval (\d+)", int, 10),
    "services.ssh_ciphers": _first("etc/ssh/sshd_config", r"^Ciphers (\S+)", lambda said: said.split(","), []),
    "services.time_zone": _first("etc/tmpfiles.d/clock.conf", r"zoneinfo/(\S+)", str, None),
    "services.watchdog": _first("etc/systemd/system.conf.d/fabric.conf", r"^RuntimeWatchdogSec=(\d+)", int, 0),
    "services.users": ("etc/ssh/authorized_keys", _users),
    "services.sign_in_from": _lines(_NFT, r"ip6? saddr (\S+) tcp dport 22 "),
    "services.banner": _first("etc/issue.net", r"^(.+)$", str, ""),
    "services.snmp": ("etc/snmp", _snmp),
    "overlay.storm": (_NFT, _storm),
}
"""How each setting is told, and in which files."""
OF_LEAVES = frozenset({"overlay.storm"})
"""Settings that only switches with hosts print."""


def domain_of(one: Known) -> str | None:
    """The domain that a switch is in."""
    found = re.search(r"^(?:search|domain) (\S+)", one.file("etc/resolv.conf"), re.MULTILINE)
    told = re.search(rf" {re.escape(one.name)}\.(\S+)", one.file("etc/hosts"))
    return told[1] if told else found[1] if found else None
