"""Asking a process that renders, and ending it when it does not answer."""

from __future__ import annotations

import json
import os
import pickle
import select
import struct
import subprocess
import sys
import time
from pathlib import Path
from threading import BoundedSemaphore, Lock
from typing import Any

from barrio.contained.limits import MOST_AT_ONCE, MOST_OUTPUT, MOST_SECONDS
from barrio.core.errors import refuse
from barrio.core.model.switch import SwitchModel
from barrio.core.render.target import Target
from barrio.core.render.traced import Condition, Span, TracedLine

_SIZE = struct.Struct("<I")
_MOST_ANSWER = 64 * MOST_OUTPUT
_ROOT = Path(__file__).parents[2]


class _Gone(Exception):
    """The process ended, having been asked for more than it may take."""


class _Late(_Gone):
    """The process did not answer in time."""


class _Child:
    """One process, and the templates that it knows."""

    def __init__(self) -> None:
        self.knows = ""
        self._process = subprocess.Popen(
            [sys.executable, "-s", "-m", "barrio.contained.child"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
            cwd=_ROOT, env={"LANG": "C.UTF-8", "PYTHONPATH": str(_ROOT)}, start_new_session=True,
        )  # fmt: skip

    @property
    def lives(self) -> bool:
        return self._process.poll() is None

    def ask(self, question: bytes, seconds: float) -> Any:
        """The answer to a question. Raises `_Gone`."""
        until = time.monotonic() + seconds
        assert self._process.stdin and self._process.stdout
        try:
            self._process.stdin.write(_SIZE.pack(len(question)) + question)
            self._process.stdin.flush()
        except OSError:
            raise _Gone from None
        size = _SIZE.unpack(self._read(_SIZE.size, until))[0]
        if size > _MOST_ANSWER:
            raise _Gone
        return json.loads(self._read(size, until))

    def _read(self, size: int, until: float) -> bytes:
        assert self._process.stdout
        handle = self._process.stdout.fileno()
        data = bytearray()
        while len(data) < size:
            if not select.select([handle], [], [], max(0.0, until - time.monotonic()))[0]:
                raise _Late
            part = os.read(handle, min(1 << 20, size - len(data)))
            if not part:
                raise _Gone
            data += part
        return bytes(data)

    def end(self) -> None:
        self._process.kill()
        self._process.wait()
        for pipe in (self._process.stdin, self._process.stdout):
            if pipe:
                pipe.close()


class Apart:
    """Renders in processes of their own: `most` at once, while others wait, of which `spare` are kept for those who ask next.

    One whose template comes to no end is ended, and nobody else waits for it.
    """

    def __init__(self, seconds: float = MOST_SECONDS, spare: int = 2, most: int = MOST_AT_ONCE) -> None:
        self._seconds, self._spare = seconds, spare
        self._room = BoundedSemaphore(most)
        self._idle: list[_Child] = []
        self._lock = Lock()

    def render(self, switch: SwitchModel, target: Target) -> dict[str, str]:
        """Every file of a switch, by path. Raises `Refused` (`template.*`) with the template and its line."""
        answer = self._ask("render", target, switch, "")
        files: dict[str, str] = answer["files"]
        return files

    def trace(self, switch: SwitchModel, path: str, target: Target) -> tuple[TracedLine, ...]:
        """One file with where each line comes from. Raises `KeyError` when the switch has no such file, `Refused` (`template.*`)."""
        answer = self._ask("trace", target, switch, path)
        return tuple(
            TracedLine(
                one["text"], one["template"], one["template_line"], tuple(Span(**span) for span in one["spans"]),
                tuple(Condition(held["kind"], held["source"], held["template"], held["line"], tuple(held["paths"])) for held in one["conditions"]),
            )
            for one in answer["lines"]
        )  # fmt: skip

    def close(self) -> None:
        """End every process that is kept."""
        with self._lock:
            idle, self._idle = self._idle, []
        for child in idle:
            child.end()

    def _ask(self, work: str, target: Target, switch: SwitchModel, path: str) -> dict[str, Any]:
        if not self._room.acquire(timeout=10 * self._seconds):
            raise refuse(
                "template.busy",
                "Too many templates are being rendered. Try again in a moment.",
                f"targets/{target.name}",
            )
        try:
            return self._answered(work, target, switch, path)
        finally:
            self._room.release()

    def _answered(self, work: str, target: Target, switch: SwitchModel, path: str) -> dict[str, Any]:
        child = self._take(target.templates.digest)
        known = child.knows == target.templates.digest
        question = pickle.dumps((work, target.templates.digest if known else _bare(target), switch, path))
        first, child.knows = not child.knows, target.templates.digest
        try:
            answer = child.ask(question, self._seconds + (5 if first else 0))
        except _Gone as error:
            child.end()
            what = (
                f"did not come to an end within {self._seconds:g} s"
                if isinstance(error, _Late)
                else "took more than it may"
            )
            words = f"A template of {target.name} {what} (for {switch.name}); it was ended."
            raise refuse(
                "template.endless" if isinstance(error, _Late) else "template.ended", words, f"targets/{target.name}"
            ) from None
        except BaseException:
            child.end()
            raise
        if "fault" not in answer:
            self._give(child)
            return dict(answer)
        code, words, template, line = answer["fault"]
        child.end() if code == "memory" else self._give(child)
        if code == "file":
            raise KeyError(path)
        where = f"{template}, line {line}" if line else template or "a template"
        raise refuse(
            f"template.{code}",
            f"{where} of {target.name} {words} (for {switch.name}).",
            f"targets/{target.name}/{template}",
            line,
        )

    def _take(self, digest: str) -> _Child:
        with self._lock:
            self._idle = [child for child in self._idle if child.lives]
            fitting = next((child for child in self._idle if child.knows == digest), None) or next(
                iter(self._idle), None
            )
            if fitting is not None:
                self._idle.remove(fitting)
                return fitting
        return _Child()

    def _give(self, child: _Child) -> None:
        with self._lock:
            if len(self._idle) < self._spare:
                self._idle.append(child)
                return
        child.end()


def _bare(target: Target) -> Target:
    """The target as far as a process that renders has to know it."""
    return Target(target.name, target.templates, target.files)


APART = Apart()
"""The one of this process."""
