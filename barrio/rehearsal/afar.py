"""A ground that another machine lends: its verbs and its frames over one connection, which both ends have proved their keys on (TLS 1.3, RFC 8446).

`serve` is the lender's side, `Afar` the borrower's. What goes over the connection are letters: four bytes of length, one of kind, and a body. A
question is JSON (`{"id": 1, "do": "run", ...}`) as in `inside.py`, with `write`, `lay` beside its verbs; an answer bears the same id. A frame is as
`relay.py` has it. When the connection ends, however it comes to that, the ground ends.
"""

from __future__ import annotations

import contextlib
import json
import select
import socket
import ssl
import struct
import threading
from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from barrio.rehearsal.ground import Answers, Ground, NoGround, NoLab

HEAD = struct.Struct("!IB")
HELLO, QUESTION, ANSWER, FRAME = range(4)
MOST = 1 << 26
"""Bytes of a letter."""
SIDE_BY_SIDE = 16


class Letters:
    """Letters over a connection. Read by one thread, written by any."""

    def __init__(self, line: socket.socket) -> None:
        self._line = line
        line.setblocking(False)
        # What TLS keeps of a connection is for one thread at a time.
        self._at_it, self._writing = threading.Lock(), threading.Lock()
        self._pending = bytearray()

    def send(self, kind: int, body: bytes) -> None:
        """Raises `OSError` when the connection is gone."""
        data = memoryview(HEAD.pack(len(body), kind) + body)
        with self._writing:
            while data:
                try:
                    with self._at_it:
                        data = data[self._line.send(data) :]
                except (ssl.SSLWantWriteError, BlockingIOError):
                    select.select([], [self._line], [], 1)
                except ssl.SSLWantReadError:
                    select.select([self._line], [], [], 0.05)

    def read(self) -> Iterator[tuple[int, bytes]]:
        """Every letter that comes, until the connection ends."""
        with contextlib.suppress(OSError, ValueError):
            while True:
                while len(self._pending) >= HEAD.size:
                    length, kind = HEAD.unpack_from(self._pending)
                    if length > MOST:
                        return
                    if len(self._pending) < HEAD.size + length:
                        break
                    body = bytes(self._pending[HEAD.size : HEAD.size + length])
                    del self._pending[: HEAD.size + length]
                    yield kind, body
                data = self._receive()
                if not data:
                    return
                self._pending += data

    def _receive(self) -> bytes:
        while True:
            try:
                with self._at_it:
                    return self._line.recv(1 << 16)
            except (ssl.SSLWantReadError, BlockingIOError):
                select.select([self._line], [], [], 1)
            except ssl.SSLWantWriteError:
                select.select([], [self._line], [], 0.05)

    def close(self) -> None:
        with contextlib.suppress(OSError):
            self._line.shutdown(socket.SHUT_RDWR)
        self._line.close()


class Afar(Ground):
    """A ground at the other end of a connection. Raises `NoGround` when nobody answers there."""

    def __init__(self, line: socket.socket, where: str) -> None:
        self._letters = Letters(line)
        self._answers = Answers()
        self._where = where
        threading.Thread(target=self._listen, daemon=True).start()
        hello = self._answers.wait(0, 120, self._lacking)
        self.called, self.at_once, self.rate = hello["called"], hello["at_once"], hello["rate"]
        self.folder, self.run_folder = Path(hello["folder"]), Path(hello["run_folder"])

    def write(self, path: Path, text: str) -> None:
        if self._ask("write", 60, path=str(path), text=text)["rc"]:
            raise NoGround(f"{path.name} could not be written on {self._where}.")

    def lay(self, cords: Sequence[Mapping[str, object]]) -> None:
        said = self._ask("lay", 60, cords=list(cords))
        if said["rc"]:
            raise NoGround(f"{self._where}: {said['err']}")

    def carry(self, frame: bytes) -> None:
        with contextlib.suppress(OSError):
            self._letters.send(FRAME, frame)

    def close(self) -> None:
        self._letters.close()

    def _listen(self) -> None:
        for kind, body in self._letters.read():
            if kind == FRAME:
                self.hears(body)
                continue
            said = json.loads(body)
            self._answers.put(0 if kind == HELLO else said["id"], said)
        self._answers.end()

    def _lacking(self, why: str) -> NoGround:
        return NoGround(f"The machine {self._where}, which lent a part of the lab, {why}.")

    def _ask(self, do: str, seconds: float, **words: Any) -> Any:
        number = self._answers.number()
        with contextlib.suppress(OSError):
            self._letters.send(QUESTION, json.dumps({"id": number, "do": do, "seconds": seconds, **words}).encode())
        said = self._answers.wait(number, seconds + 10, self._lacking)
        if said.get("gone"):
            raise NoGround(f"On the machine {self._where}: {said['err']}")
        return said


def serve(line: socket.socket, ground: Ground) -> None:
    """Lend a ground over a connection, until that ends; the ground ends with it."""
    letters = Letters(line)
    hello = {
        "called": ground.called, "at_once": ground.at_once, "rate": ground.rate, "folder": str(ground.folder),
        "run_folder": str(ground.run_folder),
    }  # fmt: skip

    def frame(body: bytes) -> None:
        with contextlib.suppress(OSError):
            letters.send(FRAME, body)

    def answer(asked: dict[str, Any]) -> None:
        with contextlib.suppress(OSError):
            letters.send(ANSWER, json.dumps({"id": asked["id"], **_done(ground, asked)}).encode())

    ground.hears = frame
    try:
        with contextlib.suppress(OSError), ThreadPoolExecutor(SIDE_BY_SIDE) as pool:
            letters.send(HELLO, json.dumps(hello).encode())
            for kind, body in letters.read():
                if kind == FRAME:
                    ground.carry(body)
                elif kind == QUESTION:
                    pool.submit(answer, json.loads(body))
            ground.close()
    finally:
        letters.close()
        ground.close()


def _done(ground: Ground, asked: dict[str, Any]) -> dict[str, Any]:
    words = {name: value for name, value in asked.items() if name not in ("id", "do", "seconds")}
    try:
        if asked["do"] == "write":
            place = Path(words["path"])
            if not place.is_relative_to(ground.folder) or ".." in place.parts:
                return {"rc": 1, "out": "", "err": "not in the lab's folder"}
            ground.write(place, words["text"])
        elif asked["do"] == "lay":
            ground.lay(words["cords"])
        else:
            said: dict[str, Any] = ground._ask(asked["do"], asked["seconds"], **words)
            return {name: value for name, value in said.items() if name != "id"}
    except NoLab as error:
        return {"rc": 1, "out": "", "err": str(error), "gone": isinstance(error, NoGround)}
    except OSError as error:
        return {"rc": 1, "out": "", "err": f"{type(error).__name__}: {error}"}
    return {"rc": 0, "out": "", "err": ""}
