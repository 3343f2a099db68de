#!/usr/bin/python3
"""What starts the programs of a simulated switch, in place of systemd, which is not in a namespace: at its boot, and when `systemctl` is called.

It stands alone (standard library only). As the first process it boots what the switch has: settings, interfaces, filters, its services. As `systemctl` it
starts, stops and reloads one of them; units that a fabric brings are read for what they start.
"""

from __future__ import annotations

import contextlib
import os
import re
import shlex
import signal
import subprocess
import sys
import time
from pathlib import Path

UNITS = Path("/etc/systemd/system")
ENABLED = UNITS / "multi-user.target.wants"
WANTED = Path("/var/lib/systemd/wanted")
"""The services that somebody has started, and that are started at each boot since; a bare switch begins with few, so that many boot soon."""
BARE = ("lldpd", "ssh", "barrio-agent")
RUNNING = Path("/run/units")
FRR = "/usr/lib/frr/frrinit.sh"
SERVICES = {
    "lldpd": ["/usr/sbin/lldpd", "-d"],
    "frr": [FRR, "start"],
    # The clock is the machine's, and not a simulated switch's to set.
    "chrony": ["/usr/sbin/chronyd", "-n", "-x"],
    "ssh": ["/usr/sbin/sshd", "-D"],
    "rsyslog": ["/usr/sbin/rsyslogd", "-n", "-iNONE"],
    "barrio-agent": ["/usr/bin/python3", "/usr/local/sbin/barrio-agent"],
}
"""What Debian's packages, and the agent's own unit, start, in this order."""
DARK = """
ip -j -d link | python3 -S -E -c 'import json, sys
for one in json.load(sys.stdin):
    made = one.get("linkinfo", {}).get("info_kind", "") not in ("", "veth", "tun")
    if made or "UP" in one["flags"]:
        print("link", "del" if made else "set", one["ifname"], "" if made else "down")' | ip -force -batch -
ip address flush scope global
ip -4 route flush table all
ip -6 route flush table all
nft flush ruleset
"""
"""Leaves a switch dark: its ports are down, and what its files made is gone."""


def quietly(*argv: str) -> int:
    with Path("/var/log/boot.log").open("ab") as log:
        return subprocess.run(argv, stdin=subprocess.DEVNULL, stdout=log, stderr=log, check=False).returncode


def boot() -> None:
    """Start the switch from its files."""
    quietly("sh", "-c", DARK)
    # What programs keep while they run is gone with the power.
    for place in (RUNNING, Path("/run/frr"), Path("/run/network"), Path("/run/chrony"), Path("/run/sshd")):
        for path in place.glob("*"):
            if not path.is_dir():
                path.unlink()
    RUNNING.mkdir(exist_ok=True)
    name = Path("/etc/hostname")
    if name.exists():
        quietly("hostname", "--file", str(name))
    for path in sorted(Path("/etc/sysctl.d").glob("*.conf")):
        quietly("sysctl", "--quiet", f"--load={path}")
    if not Path("/etc/ssh/ssh_host_ed25519_key").exists():
        quietly("ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", "/etc/ssh/ssh_host_ed25519_key")
    for word in ("systemd-sysusers", "systemd-tmpfiles"):
        quietly(word, *(["--create"] if word.endswith("files") else []))
    quietly("ip", "link", "set", "lo", "up")
    quietly("ifreload", "--all")
    if Path("/etc/nftables.conf").exists():
        quietly("nft", "--file", "/etc/nftables.conf")
    mine = [path.name.removesuffix(".service") for path in sorted(ENABLED.glob("*.service"))]
    wanted = {*BARE, *(path.name for path in WANTED.glob("*"))}
    for service in [*(one for one in SERVICES if one in wanted), *mine]:
        start(service)


def words_of(service: str) -> list[str]:
    """What a service starts; nothing where there is no such service."""
    if service in SERVICES:
        return SERVICES[service]
    unit = UNITS / f"{service}.service"
    found = re.search(r"^ExecStart=[-@:+!]*(.*)$", unit.read_text(), re.MULTILINE) if unit.exists() else None
    return shlex.split(found[1]) if found else []


def start(service: str) -> int:
    words = words_of(service)
    if not words:
        print(f"Unit {service}.service not found.", file=sys.stderr)
        return 5
    WANTED.mkdir(parents=True, exist_ok=True)
    (WANTED / service).touch()
    if service == "frr":
        return quietly(*words)
    if running(service):
        return 0
    with Path("/var/log", f"{service}.log").open("ab") as log:
        # It stays when whoever called this ends, the agent included.
        process = subprocess.Popen(words, stdin=subprocess.DEVNULL, stdout=log, stderr=log, start_new_session=True)
    (RUNNING / service).write_text(str(process.pid))
    time.sleep(0.2)
    return process.poll() or 0


def running(service: str) -> int:
    """The process of a service; 0 when it does not run."""
    with contextlib.suppress(OSError, ValueError):
        number = int((RUNNING / service).read_text())
        if Path("/proc", str(number), "stat").read_text().rpartition(")")[2].split()[0] != "Z":
            return number
    return 0


def stop(service: str) -> int:
    if service == "frr":
        return quietly(FRR, "stop")
    number = running(service)
    for tries in range(50 if number else 0):
        with contextlib.suppress(ProcessLookupError):
            os.kill(number, signal.SIGTERM if tries < 40 else signal.SIGKILL)
        if not running(service):
            break
        time.sleep(0.1)
    (RUNNING / service).unlink(missing_ok=True)
    return 0


def reload(service: str) -> int:
    number = running(service)
    if not number:
        return 1
    os.kill(number, signal.SIGHUP)
    return 0


def enable(service: str) -> int:
    if not words_of(service):
        print(f"Unit {service}.service not found.", file=sys.stderr)
        return 1
    ENABLED.mkdir(parents=True, exist_ok=True)
    link = ENABLED / f"{service}.service"
    if service not in SERVICES and not link.is_symlink():
        link.symlink_to(UNITS / link.name)
    return 0


def systemctl(words: list[str]) -> int:
    """A call of systemctl, as far as the agent makes it."""
    verb, *rest = [one for one in words if not one.startswith("-")]
    if verb == "daemon-reload":
        return 0
    if verb == "reboot":
        os.kill(1, signal.SIGUSR1)
        return 0
    code = 0
    for service in (one.removesuffix(".service") for one in rest):
        done = 0
        if verb in ("enable", "disable"):
            done = enable(service)
        if verb in ("stop", "restart"):
            done = stop(service)
        if verb in ("start", "restart") or "--now" in words:
            done = done or start(service)
        if verb == "reload":
            done = reload(service)
        code = code or done
    return code


def first() -> None:
    """Be the first process: boot, take leave of who ends, and boot anew when that is asked for."""
    again = [False]
    signal.signal(signal.SIGUSR1, lambda number, frame: again.__setitem__(0, True))
    while True:
        boot()
        while not again[0]:
            with contextlib.suppress(ChildProcessError):
                os.waitpid(-1, os.WNOHANG)
            time.sleep(0.05)
        again[0] = False
        os.kill(-1, signal.SIGKILL)


if __name__ == "__main__":
    if os.getpid() == 1:
        first()
    sys.exit(systemctl(sys.argv[1:]))
