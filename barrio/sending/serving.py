"""A repository over HTTP as git speaks it (gitprotocol-http), by git's own programs; pushes are asked about before they are taken."""

from __future__ import annotations

import json
import os
import socket
import subprocess
import sys
import tempfile
import threading
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from barrio.sending.git import BARE
from barrio.sending.webhook import NotTaken

Pushed = Mapping[str, Any]
"""What is pushed to one branch, as `hook` says it."""
Answer = tuple[bool, str]
"""Whether a push is taken, and words for who pushed."""
PATIENCE = 120


def advertise(folder: Path, service: str) -> bytes:
    """What a repository has, for a client that begins."""
    line = f"# service={service}\n".encode()
    return b"%04x%s0000" % (len(line) + 4, line) + _run(folder, service, b"", "--advertise-refs")


def upload(folder: Path, asked: bytes) -> bytes:
    """Answer a fetch."""
    return _run(folder, "git-upload-pack", asked)


def receive(folder: Path, pushed: bytes, ask: Callable[[list[Pushed]], Answer]) -> bytes:
    """Take a push, once `ask` takes what is in it."""
    hook = folder / "hooks/pre-receive"
    wanted = f'#!/bin/sh\nexec "{sys.executable}" -E -m barrio.sending.hook\n'
    if not hook.exists() or hook.read_text() != wanted:
        hook.parent.mkdir(exist_ok=True)
        hook.write_text(wanted)
        hook.chmod(0o755)
    with tempfile.TemporaryDirectory(prefix="barrio-push-") as place, socket.socket(socket.AF_UNIX) as line:
        at = os.path.join(place, "ask")  # noqa: PTH118 (a socket's address is text)
        line.bind(at)
        line.listen(1)
        line.settimeout(PATIENCE)
        waiting = threading.Thread(target=_answer, args=(line, ask), daemon=True)
        waiting.start()
        try:
            return _run(folder, "git-receive-pack", pushed, more={"BARRIO_ASK": at})
        finally:
            line.close()


def _answer(line: socket.socket, ask: Callable[[list[Pushed]], Answer]) -> None:
    try:
        connection, _ = line.accept()
    except OSError:
        return
    with connection, connection.makefile("rw") as said:
        taken, words = ask(json.loads(said.readline()))
        said.write(json.dumps({"taken": taken, "words": words}) + "\n")
        said.flush()


def _run(folder: Path, service: str, given: bytes, *words: str, more: Mapping[str, str] | None = None) -> bytes:
    command = ["git", service.removeprefix("git-"), "--stateless-rpc", *words, str(folder)]
    try:
        done = subprocess.run(
            command, input=given, capture_output=True, timeout=PATIENCE, check=False, env={**BARE, **(more or {})}
        )
    except (subprocess.TimeoutExpired, FileNotFoundError) as error:
        raise NotTaken("git did not answer.") from error
    return done.stdout
