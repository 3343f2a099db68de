"""Editions as commits of a real git repository, by the `git` program. The same editions make the same commits on every machine.

A repository holds one fabric: branch `main`, a commit for each edition, and a tag `edition-N` on it. It can be made anew from the editions at
any time, so it holds nothing that nobody else has.
"""

from __future__ import annotations

import os
import re
import subprocess
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from barrio.sending.webhook import NotTaken

PATIENCE = 120
"""Seconds after which a remote that does not answer is let go."""
BARE = {
    "PATH": "/usr/local/bin:/usr/bin:/bin", "LANG": "C.UTF-8", "GIT_CONFIG_NOSYSTEM": "1", "GIT_CONFIG_GLOBAL": "/dev/null", "GIT_TERMINAL_PROMPT": "0",
    "GIT_SSH_COMMAND": "ssh -o BatchMode=yes -o ConnectTimeout=15",
}  # fmt: skip


@dataclass(frozen=True)
class Commit:
    """An edition as a commit. `trailers` stand at the end of its message."""

    number: int
    title: str
    why: str
    author: str
    at: datetime
    trailers: tuple[tuple[str, str], ...]
    files: Mapping[str, bytes]


def git(folder: Path, *words: str, given: bytes | None = None, timeout: float | None = None) -> bytes:
    """What git prints. Raises `NotTaken` with what it says when it fails, or takes too long."""
    try:
        done = subprocess.run(
            ["git", "-C", str(folder), *words], input=given, capture_output=True, timeout=timeout or PATIENCE, check=False,
            env={**BARE, "HOME": os.environ.get("HOME", "/")},
        )  # fmt: skip
    except subprocess.TimeoutExpired as error:
        raise NotTaken(f"git {words[0]} took more than {timeout or PATIENCE:.0f} s; it is tried again.") from error
    except FileNotFoundError as error:
        raise NotTaken("There is no git on this machine. Install Debian's package git.") from error
    if done.returncode:
        raise NotTaken(f"git {words[0]}: {done.stderr.decode(errors='replace').strip()[-400:]}")
    return done.stdout


def repository(folder: Path) -> Path:
    """The bare repository in a folder, made when it is not there."""
    if not (folder / "HEAD").exists():
        folder.mkdir(parents=True, exist_ok=True)
        git(folder, "init", "--bare", "--quiet", "--initial-branch=main", str(folder))
        git(folder, "config", "receive.denyDeletes", "true")
        git(folder, "config", "http.receivepack", "true")
    return folder


def there(folder: Path) -> int:
    """The number of the newest edition that a repository has; 0 for none."""
    tags = git(folder, "tag", "--list", "edition-*").decode().split()
    return max((int(tag.removeprefix("edition-")) for tag in tags), default=0)


def add(folder: Path, commits: Iterable[Commit]) -> None:
    """Add editions to a repository, in their order."""
    for commit in commits:
        git(folder, "fast-import", "--quiet", "--force", "--done", given=b"".join(_stream(commit)))


def forget_draft(folder: Path) -> None:
    """Take the branch away that pushed drafts are on: an edition came after it."""
    if git(folder, "for-each-ref", "refs/heads/draft"):
        git(folder, "update-ref", "-d", "refs/heads/draft")


def _stream(commit: Commit) -> Iterable[bytes]:
    """An edition as `git fast-import` reads it."""
    when = f"{int(commit.at.astimezone(UTC).timestamp())} +0000".encode()
    name = re.sub(r"[<>\n]", "", commit.author) or "Barrio"
    mail = re.sub(r"[^a-z0-9.]+", ".", name.lower()).strip(".") or "barrio"
    who = f"{name} <{mail}@barrio.invalid> ".encode() + when
    trailers = "".join(f"{key}: {' '.join(value.split())}\n" for key, value in commit.trailers)
    message = f"{commit.title}\n\n{commit.why.strip()}{chr(10) * 2 if commit.why.strip() else ''}{trailers}".encode()
    yield b"commit refs/heads/main\nauthor " + who + b"\ncommitter Barrio <barrio@barrio.invalid> " + when
    yield b"\ndata %d\n" % len(message) + message + b"\n"
    if commit.number > 1:
        yield b"from refs/tags/edition-%d\n" % (commit.number - 1)
    yield b"deleteall\n"
    for path, content in sorted(commit.files.items()):
        yield b"M 100644 inline " + path.encode() + b"\ndata %d\n" % len(content) + content + b"\n"
    yield b"\nreset refs/tags/edition-%d\nfrom refs/heads/main\n\ndone\n" % commit.number


def push(folder: Path, remote: str, fabric: str) -> None:
    """Push all editions to a remote (a path, or an address of SSH), as branch `fabric` and tags `fabric/N`. Raises `NotTaken`."""
    refs = [f"refs/heads/main:refs/heads/{fabric}", f"refs/tags/edition-*:refs/tags/{fabric}/edition-*"]
    try:
        git(folder, "push", "--quiet", remote, *refs)
    except NotTaken as error:
        words = str(error)
        if "rejected" in words or "non-fast-forward" in words:
            raise NotTaken(
                f"{remote} has commits on branch {fabric} that are no editions, so nothing was pushed. Move that branch aside there; Barrio never overwrites it. ({words[-160:]})"
            ) from error
        raise
