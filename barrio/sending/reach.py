"""Switches reached by SSH (RFC 4251), to look and change nothing: a read-only account, known host keys, a jump host where one is needed.

Whoever cannot be reached, whose host key is another, or who refuses the account is named; the others are looked at all the same.
"""

from __future__ import annotations

import asyncio
import io
import re
import shlex
import tarfile
from collections.abc import Sequence
from contextlib import AbstractAsyncContextManager, AsyncExitStack
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import asyncssh

from barrio.core.observe.rows import KINDS

PATHS = (
    "etc/hostname", "etc/hosts", "etc/resolv.conf", "etc/issue.net", "etc/nftables.conf", "etc/frr", "etc/network/interfaces", "etc/network/interfaces.d",
    "etc/chrony", "etc/rsyslog.d", "etc/sysctl.d", "etc/lldpd.d", "etc/snmp/snmpd.conf", "etc/ssh/sshd_config", "etc/ssh/authorized_keys",
    "etc/sysusers.d", "etc/sudoers.d", "etc/tmpfiles.d", "etc/systemd/system", "etc/systemd/system.conf.d", "etc/fabric", "usr/local/sbin/fabric-guard",
)  # fmt: skip
"""What is read of a switch, where its account may."""
ASKED = {
    "running-config.txt": "vtysh -c 'show running-config'",
    "lldp.json": "lldpcli -f json show neighbors",
    "links.json": "ip -j link",
    **{f"tables/{name}.txt": shlex.join(kind.argv) for name, kind in KINDS.items() if name != "neighbours"},
}
"""What it is asked beside."""
_DENIED = re.compile(rb"tar: (\S+): (?:Warning: )?Cannot (?:open|stat|read)[^\n]*Permission denied")
AT_ONCE, PATIENCE, MOST = 40, 20.0, 8_000_000
BESIDE = 4
"""Commands that one switch is asked beside each other, over one connection; sshd allows ten as a rule."""


@dataclass(frozen=True, slots=True)
class Way:
    """How switches are reached: by which account, with which key file (those of the agent and the usual ones where none is said), by way of which host,
    and the file of host keys that are known."""

    account: str
    key: Path | None = None
    jump: str = ""
    known_hosts: Path = Path("~/.ssh/known_hosts")
    port: int = 22


@dataclass(slots=True)
class Told:
    """What a switch told: files by path and answers by name; or why it did not, in words. `unreadable` are files that the account may not read."""

    address: str
    files: dict[str, bytes] = field(default_factory=dict)
    answers: dict[str, bytes] = field(default_factory=dict)
    unreadable: tuple[str, ...] = ()
    wrong: str = ""

    @property
    def name(self) -> str:
        """What the switch calls itself, or its address."""
        return self.files.get("etc/hostname", b"").decode(errors="replace").strip() or self.address


def look(addresses: Sequence[str], way: Way) -> list[Told]:
    """Look at switches, many at once; in the order in which they were named."""
    return asyncio.run(_look(addresses, way))


async def _look(addresses: Sequence[str], way: Way) -> list[Told]:
    room = asyncio.Semaphore(AT_ONCE)
    async with AsyncExitStack() as open_until:
        between: asyncssh.SSHClientConnection | None = None
        if way.jump:
            account, _, host = way.jump.rpartition("@")
            name, _, port = host.partition(":")
            try:
                between = await open_until.enter_async_context(
                    _connect(name, int(port or 22), account or way.account, way, None)
                )
            except (OSError, asyncssh.Error, ValueError) as error:
                words = f"by way of {way.jump}: {words_of(error)}"
                return [Told(address, wrong=words) for address in addresses]

        async def one(address: str) -> Told:
            async with room:
                told = Told(address)
                try:
                    await asyncio.wait_for(_ask(told, way, between), PATIENCE * 3)
                except (OSError, asyncssh.Error, TimeoutError, tarfile.TarError, ValueError) as error:
                    told.wrong = words_of(error)
                return told

        return list(await asyncio.gather(*(one(address) for address in addresses)))


def _connect(
    host: str, port: int, account: str, way: Way, between: asyncssh.SSHClientConnection | None
) -> AbstractAsyncContextManager[asyncssh.SSHClientConnection]:
    """A connection by public key alone, to a host whose key is known."""
    options: dict[str, Any] = {"client_keys": [str(way.key.expanduser())]} if way.key else {}
    return asyncssh.connect(
        host, port, username=account, known_hosts=str(way.known_hosts.expanduser()), tunnel=between or (), connect_timeout=PATIENCE,
        login_timeout=PATIENCE, preferred_auth="publickey", config=[], **options,
    )  # fmt: skip


async def _ask(told: Told, way: Way, between: asyncssh.SSHClientConnection | None) -> None:
    async with _connect(told.address, way.port, way.account, way, between) as connection:
        said = await connection.run(
            f"tar -C / -cf - --ignore-failed-read {' '.join(PATHS)}", encoding=None, timeout=PATIENCE
        )
        content = _bytes(said.stdout)
        if len(content) > MOST:
            raise ValueError(f"it has over {MOST // 1_000_000} MB of files; only configuration is looked at")
        told.files = _files(content)
        told.unreadable = tuple(one.decode(errors="replace") for one in _DENIED.findall(_bytes(said.stderr)))
        room = asyncio.Semaphore(BESIDE)

        async def ask(command: str) -> bytes:
            async with room:
                answer = await connection.run(command, encoding=None, timeout=PATIENCE)
                return _bytes(answer.stdout)[:MOST] if answer.exit_status == 0 else b""

        answers = await asyncio.gather(*map(ask, ASKED.values()))
        told.answers = {name: answer for name, answer in zip(ASKED, answers, strict=True) if answer}
    if not told.files:
        raise ValueError("none of its files may be read by this account")


def _bytes(said: bytes | str | None) -> bytes:
    return said.encode() if isinstance(said, str) else said or b""


def _files(content: bytes) -> dict[str, bytes]:
    """The plain files of an archive. Raises `tarfile.TarError` where it is cut off."""
    found: dict[str, bytes] = {}
    with tarfile.open(fileobj=io.BytesIO(content), mode="r:") as packed:
        for member in packed:
            part = packed.extractfile(member) if member.isfile() else None
            if part is not None and ".." not in member.name and not member.name.startswith("/"):
                found[member.name] = part.read()
    return found


def words_of(error: Exception) -> str:
    """Why a switch was not looked at, in words that name the way out."""
    match error:
        case asyncssh.HostKeyNotVerifiable():
            return "its host key is not the one that is known; compare it at its console before you take it into the file of known hosts"
        case asyncssh.PermissionDenied():
            return "it refuses the account or its key"
        case FileNotFoundError():
            return f"there is no {error.filename}, which has the key or the host keys that are known"
        case TimeoutError():
            return f"it did not answer within {PATIENCE:.0f} s"
        case ConnectionRefusedError():
            return "nobody listens there for SSH"
        case tarfile.TarError():
            return "what it sent was cut off"
        case _:
            return str(error) or type(error).__name__
