"""Every file that leaves Barrio, read by the program that it is for: by each program's own check of its syntax, on this machine.

Programs that look for a device or a folder of a switch find them in namespaces that end with the check. Programs that are not
installed here are named, and what they would have read counts as unread.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from barrio.rehearsal.room import BARE

SECONDS = 60
"""How long a program may take over a file."""


@dataclass(frozen=True, slots=True)
class Check:
    """A program's check of one file (or of each in a folder): `command` with the file at the end.

    `silent` when whatever it prints is a complaint; `apart` when it looks for what a switch has and this machine need not have.
    """

    path: str
    command: tuple[str, ...]
    silent: bool = False
    apart: bool = False


MODELS = "/usr/share/yuma/modules/ietf"
SYSTEM = "ietf-system:local-users,authentication,ntp,timezone-name"
"""The features of RFC 7317 that a switch has."""
IETF = tuple(f"{MODELS}/{name}.yang" for name in (
    "iana-if-type@2014-05-08", "ietf-interfaces@2014-05-08", "ietf-ip@2014-06-16", "ietf-routing@2016-11-04",
    "ietf-ipv4-unicast-routing@2016-11-04", "ietf-ipv6-unicast-routing@2016-11-04", "ietf-system@2014-08-06",
))  # fmt: skip

CHECKS = (
    Check("etc/frr/frr.conf", ("vtysh", "--config_dir", "FRR", "-C", "-f"), silent=True),
    Check("etc/network/interfaces", ("ifup", "--all", "--syntax-check", "--interfaces"), silent=True, apart=True),
    Check("etc/network/interfaces", ("ifquery", "--all", "--interfaces"), apart=True),
    Check("etc/ssh/sshd_config", ("sshd", "-t", "-f"), silent=True, apart=True),
    Check("etc/ssh/authorized_keys", ("ssh-keygen", "-l", "-f")),
    Check("etc/nftables.conf", ("nft", "-c", "-f"), silent=True, apart=True),
    Check("etc/chrony/chrony.conf", ("chronyd", "-p", "-f")),
    Check("etc/rsyslog.d", ("rsyslogd", "-N1", "-f")),
    Check("etc/sudoers.d", ("visudo", "-c", "-q", "-f"), silent=True),
    Check("etc/sysusers.d", ("systemd-sysusers", "--dry-run")),
    Check(
        "ietf/config.json",
        ("yanglint", "-p", MODELS, "-F", SYSTEM, "-F", "ietf-routing:router-id", "-t", "config", *IETF),
    ),
    Check("usr/local/sbin", ("python3", "-c", "import ast, sys; ast.parse(open(sys.argv[1]).read())")),
)

_APART = """
mount -t tmpfs tmpfs /run && mkdir /run/network /run/sshd && ip link add mgmt type bridge || exit 90
key=$1
shift
[ ! -f "$key" ] || { mount -t tmpfs tmpfs /etc/ssh && cp "$key" /etc/ssh/ssh_host_ed25519_key; } || exit 90
exec "$@"
"""
"""What a program finds in its namespaces: a folder of its own under /run, the device of management, and a host key that it may read."""


@dataclass(frozen=True, slots=True)
class Complaint:
    """What a program says against a file."""

    path: str
    program: str
    words: str


def _can_be_apart() -> bool:
    """Whether this process may make the namespaces that some programs are run in."""
    return subprocess.run([*_unshare(), "true"], capture_output=True, check=False, env=BARE).returncode == 0


def _unshare() -> list[str]:
    # Whoever is not root is, within a namespace of their own.
    mapped = [] if os.geteuid() == 0 else ["--map-root-user"]
    return ["unshare", *mapped, "--mount", "--net"]


class Parsers:
    """The programs that are here, ready to read; `missing` are those that are not, or may not be run as they have to."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        apart = _can_be_apart()
        self._checks = [
            one for one in CHECKS if shutil.which(one.command[0], path=BARE["PATH"]) and (apart or not one.apart)
        ]
        self.missing = sorted({one.command[0] for one in CHECKS if one not in self._checks})
        self._host_key = folder / "host-key"
        if "sshd" not in self.missing:
            command = ["ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", str(self._host_key)]
            subprocess.run(command, check=True, capture_output=True, env=BARE)

    def reads(self, path: str) -> bool:
        """Whether a program here reads this file."""
        return any(path == one.path or path.startswith(f"{one.path}/") for one in self._checks)

    def complaints(self, files: Mapping[str, str]) -> Iterator[Complaint]:
        """What the programs say against the files of one switch, by path."""
        with tempfile.TemporaryDirectory(dir=self._folder) as name:
            place = Path(name)
            for path, text in files.items():
                (place / path).parent.mkdir(parents=True, exist_ok=True)
                (place / path).write_text(text)
                (place / path).chmod(0o440 if path.startswith("etc/sudoers.d") else 0o644)
            for check in self._checks:
                for path in sorted(files):
                    if path == check.path or path.startswith(f"{check.path}/"):
                        words = self._read(check, place / path)
                        if words:
                            yield Complaint(path, check.command[0], words.replace(f"{place}/", ""))

    def _read(self, check: Check, path: Path) -> str:
        """What a program says against a file; nothing when it takes it."""
        command = [str(path.parent) if word == "FRR" else word for word in check.command]
        if check.apart:
            command = [*_unshare(), "sh", "-c", _APART, "sh", str(self._host_key), *command]
        try:
            done = subprocess.run(
                [*command, str(path)], capture_output=True, text=True, check=False, env=BARE, timeout=SECONDS
            )
        except subprocess.TimeoutExpired:
            return f"it did not end within {SECONDS} s"
        said = (done.stdout + done.stderr).strip()
        if done.returncode == 0 and not (check.silent and said):
            return ""
        return said or f"it ended with {done.returncode}"


@contextmanager
def parsers() -> Iterator[Parsers]:
    """The programs of this machine, with a folder that goes at the end."""
    with tempfile.TemporaryDirectory(prefix="barrio-parsers-") as folder:
        yield Parsers(Path(folder))
