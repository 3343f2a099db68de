#!/usr/bin/python3
"""The agent of a switch: it knocks at Barrio, and does what it is told once somebody has let it in.

One file, the standard library and Debian's openssl, so that it runs on a switch with nothing on it. Its words are a file (`/etc/barrio-agent.json`):
`{"server": "https://barrio.example", "trust": "/etc/barrio-agent.pem", "place": "/var/lib/barrio-agent", "root": "/"}`, and what it is:
`"serial"`, `"mac"`, `"model"`, `"airflow"`, `"ports"`, `"software"`, where the machine does not say so itself. Without `"server"` it takes the one
that DHCP named (option 143, RFC 8572), as `dhclient` keeps it.

It makes its own key at its first start, which never leaves it, and signs every request with it and a number that only grows. Each request tells the
outcome of the last task and is answered by the next one; what it is at stands in its journal, so that it goes on where it was after its power was cut.
New files are fetched by their digests and written beside the old ones, read by the programs that they are for, and put in place as a whole. Unless
Barrio is reached again from the new files within the time set, the old ones come back by themselves.
"""

from __future__ import annotations

import base64
import contextlib
import gzip
import hashlib
import http.client
import json
import os
import re
import shutil
import socket
import ssl
import subprocess
import sys
import time
import urllib.parse
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import Any

ASK, FILES, IMAGES = "/boot/v1/ask", "/boot/v1/files", "/boot/v1/images"
AT_ONCE = 64
"""Files that are fetched by one request."""
MOST_OUTPUT, MOST_TEXT = 20_000, 150_000
PACKED, MOST_SENT = 20_000, 900_000
"""Bytes of a report above which it is packed (gzip, RFC 1952), and those that one may have."""
BETWEEN, TRIES = 2.0, 4
"""Seconds until it tries again to reach Barrio, and how often it tries to fetch files."""
ASKS_AGAIN = 10
"""After so many times of waiting for DHCP it is asked anew."""
APPLIES = 300
"""Seconds that programs may take to read new files, before the old ones come back."""
INSTALLS = 1500
"""Seconds that software may take to be installed."""
REBOOT = Path("/run/reboot-required")
"""What Debian's packages leave where the machine has to start anew."""
PIECE = 1 << 20
REACH, ANSWER = 10.0, 60.0
"""Seconds within which a connection stands, and an answer comes."""


class Wrong(Exception):
    """A task could not be done; the words say why."""


class TooLong(OSError):
    """More than Barrio takes at once."""


class Key:
    """An Ed25519 key (RFC 8032), made here by openssl."""

    def __init__(self, place: Path) -> None:
        self.path = place / "key.pem"
        if not self.path.exists():
            made = place / "key.new"
            made.touch(mode=0o600)
            _run_or_fail("openssl", "genpkey", "-algorithm", "ed25519", "-out", str(made))
            _keep(made)
            made.replace(self.path)
        self.public = _run_or_fail("openssl", "pkey", "-in", str(self.path), "-pubout", "-outform", "DER")[-32:]

    def sign(self, message: bytes) -> bytes:
        beside = self.path.with_name("to-sign")
        beside.write_bytes(message)
        return _run_or_fail("openssl", "pkeyutl", "-sign", "-rawin", "-inkey", str(self.path), "-in", str(beside))


def _run_or_fail(*argv: str) -> bytes:
    done = subprocess.run(argv, capture_output=True, check=False)
    if done.returncode:
        raise Wrong(f"{argv[0]} failed: {done.stderr.decode(errors='replace').strip()[-300:]}")
    return done.stdout


def _keep(path: Path) -> None:
    """Have a file outlast a power cut."""
    with path.open("rb") as file:
        os.fsync(file.fileno())


def put(path: Path, content: bytes, mode: int = 0o644) -> None:
    """A file in place as a whole, or not at all, whenever the power goes."""
    path.parent.mkdir(parents=True, exist_ok=True)
    beside = path.with_name(f".{path.name}.new")
    beside.write_bytes(content)
    beside.chmod(mode)
    _keep(beside)
    beside.replace(path)


class _Line(http.client.HTTPConnection):
    """A connection by one device (a VRF's, where management has one), to where a name led last when nobody can be asked for it."""

    def __init__(self, host: str, port: int | None, context: ssl.SSLContext | None, device: str, known: Path) -> None:
        super().__init__(host, port or (443 if context else 80), timeout=REACH)
        self._tls, self._device, self._known = context, device, known

    def connect(self) -> None:
        try:
            found = sorted({one[4][0] for one in socket.getaddrinfo(self.host, self.port, type=socket.SOCK_STREAM)})
        except OSError:
            found = [self._known.read_text()] if self._known.exists() else []
        failed: OSError = OSError(f"{self.host} is no name that is known here")
        for address in found:
            line = socket.socket(socket.AF_INET6 if ":" in str(address) else socket.AF_INET)
            line.settimeout(REACH)
            try:
                if self._device and Path("/sys/class/net", self._device).exists():
                    line.setsockopt(socket.SOL_SOCKET, socket.SO_BINDTODEVICE, self._device.encode())
                line.connect((address, self.port))
                self.sock = self._tls.wrap_socket(line, server_hostname=self.host) if self._tls else line
                self.sock.settimeout(ANSWER)
            except OSError as error:
                line.close()
                failed = error
                continue
            put(self._known, str(address).encode())
            return
        raise failed


_GZIP = b"\x1f\x8b"


def packed(said: Mapping[str, Any]) -> bytes:
    """What is told as it is sent: packed where it is long, and without its longest answers where it is too long all the same."""
    while True:
        body = json.dumps(said).encode()
        body = gzip.compress(body, 5) if len(body) > PACKED else body
        longest: dict[str, Any] = max(
            (said.get("report") or {}).get("ran", []), key=lambda one: len(one["output"]), default={}
        )
        if len(body) <= MOST_SENT or not longest.get("output"):
            return body
        longest.update(output="", cut=True)


class Server:
    """Barrio, as a switch reaches it."""

    device = ""
    """By which it is reached, once there is such a one."""

    def __init__(self, address: str, key: Any, place: Path, trust: str = "") -> None:
        if not address.startswith("https://") and not address.startswith(("http://127.0.0.1", "http://[::1]")):
            raise Wrong(f"{address} is not https; a switch takes nothing that could have been changed on the way.")
        self.address, self.key, self._counter, self._known = (
            address.rstrip("/"),
            key,
            place / "counter",
            place / "address",
        )
        self._context = ssl.create_default_context(cafile=trust or None) if address.startswith("https://") else None
        self._line: http.client.HTTPConnection | None = None

    def ask(self, said: Mapping[str, Any]) -> dict[str, Any]:
        """Tell how things are, and be told what to do. Raises `OSError` when Barrio is not reached."""
        answer: dict[str, Any] = json.loads(self._send("POST", ASK, packed(said)))
        return answer

    def files(self, digests: Iterable[str]) -> dict[str, bytes]:
        """Files by their SHA-256. Raises `Wrong` for one that came otherwise, and `OSError` as `ask`."""
        wanted = sorted(set(digests))
        came = json.loads(self._send("POST", FILES, json.dumps(wanted).encode()))
        found = {digest: base64.b64decode(came.get(digest, "")) for digest in wanted}
        for digest, content in found.items():
            if hashlib.sha256(content).hexdigest() != digest:
                raise Wrong(f"a file came otherwise than it was sent: its digest is not {digest[:12]}…")
        return found

    def image(self, digest: str, place: Path) -> None:
        """Software by its SHA-256, from where it was left. Raises `Wrong` when it came otherwise, and `OSError` as `ask`."""
        there = place.stat().st_size if place.is_file() else 0
        line = self._connect()
        try:
            line.request("GET", f"{IMAGES}/{digest}", headers={"Range": f"bytes={there}-"})
            answer = line.getresponse()
            if answer.status not in (206, 416):
                raise OSError(f"it answered {answer.status}: {answer.read(200).decode(errors='replace')}")
            with place.open("ab") as file:
                while answer.status == 206 and (part := answer.read(PIECE)):
                    file.write(part)
        except http.client.HTTPException as error:
            raise ConnectionError(str(error) or type(error).__name__) from error
        finally:
            line.close()
        with place.open("rb") as file:
            found = hashlib.file_digest(file, "sha256").hexdigest()
        if found != digest:
            place.unlink()
            raise Wrong(f"the software came otherwise than it was sent: its digest is not {digest[:12]}…")

    def _send(self, method: str, path: str, body: bytes) -> bytes:
        kept = self._line is not None
        try:
            return self._sent(method, path, body)
        except ConnectionError:
            # A connection that was kept may have ended meanwhile; then once more, by a new one.
            if not kept:
                raise
            return self._sent(method, path, body)

    def _sent(self, method: str, path: str, body: bytes) -> bytes:
        counter = self._next()
        message = b"\n".join(
            (method.encode(), path.encode(), str(counter).encode(), hashlib.sha256(body).hexdigest().encode())
        )
        head = {
            "Barrio-Key": base64.b64encode(self.key.public).decode(), "Barrio-Counter": str(counter),
            "Barrio-Signature": base64.b64encode(self.key.sign(message)).decode(), "Content-Type": "application/json",
        } | ({"Content-Encoding": "gzip"} if body.startswith(_GZIP) else {})  # fmt: skip
        if self._line is None:
            self._line = self._connect()
        try:
            self._line.request(method, path, body or None, head)
            answer = self._line.getresponse()
            content = answer.read()
        except (OSError, http.client.HTTPException) as error:
            self.hang_up()
            raise ConnectionError(str(error) or type(error).__name__) from error
        if answer.status != 200:
            raise (TooLong if answer.status == 413 else OSError)(
                f"it answered {answer.status}: {content[:200].decode(errors='replace')}"
            )
        return content

    def _connect(self) -> http.client.HTTPConnection:
        where = urllib.parse.urlsplit(self.address)
        return _Line(where.hostname or "", where.port, self._context, self.device, self._known)

    def hang_up(self) -> None:
        """Let the connection go, so that the next request shows whether Barrio is reached as things are now."""
        if self._line is not None:
            self._line.close()
            self._line = None

    def _next(self) -> int:
        """A number above all before, whatever becomes of the clock."""
        last = int(self._counter.read_text()) if self._counter.exists() else 0
        number = max(time.time_ns() // 1000, last + 1)
        put(self._counter, str(number).encode())
        return number


Ran = dict[str, Any]


class Hands:
    """What runs commands on the switch. A light one, which is none, runs nothing."""

    def __init__(self, light: bool = False) -> None:
        self.light = light

    def run(self, argv: Iterable[str], seconds: float = 300, most: int = MOST_OUTPUT) -> Ran:
        words = list(argv)
        if self.light:
            return {"command": " ".join(words), "code": 0, "output": ""}
        began = time.monotonic()
        try:
            done = subprocess.run(words, stdin=subprocess.DEVNULL, capture_output=True, timeout=seconds, check=False)
            code, said = done.returncode, (done.stdout + done.stderr).decode(errors="replace")
        except (OSError, subprocess.TimeoutExpired) as error:
            code, said = 127, str(error)
        took = round(time.monotonic() - began, 1)
        cut = {"cut": True} if len(said) > most else {}
        return {"command": " ".join(words), "code": code, "output": said[-most:], "seconds": took, **cut}

    def hears(self) -> list[dict[str, str]]:
        """Whom it hears on its ports by LLDP (IEEE 802.1AB), where something listens."""
        said = self.run(["lldpcli", "-f", "json0", "show", "neighbors"], 10)
        found: list[dict[str, str]] = []
        with contextlib.suppress(ValueError, KeyError, IndexError, TypeError):
            for one in json.loads(said["output"] or "{}")["lldp"][0]["interface"]:
                port, called = one["port"][0], one["chassis"][0]["name"][0]["value"]
                # A port that is known by its MAC address is described by its name.
                words = port["descr"] if port["id"][0]["type"] == "mac" and "descr" in port else port["id"]
                found.append({"own": one["name"], "switch": called, "port": words[0]["value"]})
        return found


class Agent:
    """`about` is what it says of itself. `cut` is called between the moments of a task, where a power cut would show."""

    def __init__(
        self, server: Server, place: Path, root: Path, about: Mapping[str, Any], hands: Hands, cut: Callable[[str], None] = lambda where: None,
    ) -> None:  # fmt: skip
        self.server, self.place, self.root = server, place, root
        self.about, self.hands, self.cut = dict(about), hands, cut
        self.journal: dict[str, Any] = {}
        kept = place / "journal.json"
        if kept.exists():
            self.journal = json.loads(kept.read_text())
        self.server.device = str(self.journal.get("device", ""))

    def note(self, **words: Any) -> None:
        """Keep what it is at, so that it goes on there."""
        self.journal = {**self.journal, **words}
        put(self.place / "journal.json", json.dumps(self.journal).encode())

    def turn(self) -> float:
        """One task: told, done, noted. How many seconds to wait until the next."""
        if self.journal.get("deadline") and time.time() > self.journal["deadline"]:
            self._go_back("Barrio was not reached from the new files in time")
        report = self.journal.get("report")
        try:
            stands = self.journal.get("committed")
            task = self.server.ask({**self._about(), "report": report, "stands": stands, "now": time.time()})
        except TooLong as error:
            self.note(report={"task": (report or {}).get("task"), "ok": False, "words": str(error), "ran": []})
            return BETWEEN
        except (OSError, ValueError) as error:
            print(f"Barrio is not reached: {error}", file=sys.stderr)
            return BETWEEN
        # An answer is proof that it is reached: what was put in place stays.
        self.note(report=None, deadline=None, known=task.get("known", True))
        if task["do"] == "wait":
            return float(task["seconds"])
        self.note(report=self._done(task))
        if self.journal["report"].get("reboot"):
            self.hands.run(["systemctl", "reboot"])
            return BETWEEN
        return 0.0

    def _about(self) -> dict[str, Any]:
        """What it says of itself; until it is let in also whom it hears, so that people see where it is plugged in."""
        kept = self.place / "software"
        about = {**self.about, "software": kept.read_text()} if kept.is_file() else self.about
        return about if self.journal.get("known") else {**about, "neighbours": self.hands.hears()}

    def _done(self, task: Mapping[str, Any]) -> dict[str, Any]:
        ran: list[Ran] = []
        try:
            more = self._do(task, ran)
        except (Wrong, OSError) as error:
            return {"task": task["id"], "ok": False, "words": str(error), "ran": ran}
        return {"task": task["id"], "ok": True, "words": "", "ran": ran, **more}

    def _do(self, task: Mapping[str, Any], ran: list[Ran]) -> dict[str, Any]:
        do = task["do"]
        if do == "software":
            return self._software(task, ran)
        if do == "prepare":
            return self._prepare(task, ran)
        if do == "commit":
            return self._commit(task, ran)
        if do == "back":
            if self.journal.get("set") == task["set"]:
                self._restore(ran)
            return {}
        if do == "look":
            ran += [self._asked(argv, task) for argv in task["commands"]]
            found = {path: self._digest(path) for path in task["files"]}
            return {"files": found, "texts": self._texts(task.get("meant", {}), found)}
        if do == "run":
            for argv in task["commands"]:
                ran.append(self.hands.run(argv))
                if ran[-1]["code"]:
                    raise Wrong(f"“{ran[-1]['command']}” ended with {ran[-1]['code']}")
            return {}
        raise Wrong(f"this agent does not know how to {do}; give it a newer one")

    def _asked(self, argv: Iterable[str], task: Mapping[str, Any]) -> Ran:
        """What a command tells; nothing where that is what Barrio knows already."""
        one = self.hands.run(argv, most=task.get("most", MOST_OUTPUT))
        digest = hashlib.sha256(one["output"].encode()).hexdigest()
        return {**one, "output": "", "same": True} if task.get("known", {}).get(one["command"]) == digest else one

    def _texts(self, meant: Mapping[str, str], found: Mapping[str, str]) -> dict[str, str]:
        """The files that are other than was meant, by the digests of these; no more than goes into one report."""
        texts: dict[str, str] = {}
        left = MOST_TEXT
        for path, digest in meant.items():
            if found.get(path) and found[path] != digest:
                content = (self.root / path).read_bytes()
                left -= len(content)
                if left >= 0:
                    texts[path] = base64.b64encode(content).decode()
        return texts

    def _software(self, task: Mapping[str, Any], ran: list[Ran]) -> dict[str, Any]:
        """Fetch software and install it, as its own `install` does; start anew where that asks for it. Done twice it does no harm: its packages are there."""
        packed, place = self.place / "software.tar", self.place / "installing"
        for tries in range(TRIES):
            try:
                self.server.image(task["sha256"], packed)
                break
            except OSError:
                if tries == TRIES - 1:
                    raise
                time.sleep(BETWEEN)
        self.cut("software fetched")
        shutil.rmtree(place, ignore_errors=True)
        place.mkdir()
        install = ["sh", "-c", 'cd "$0" && exec sh ./install', str(place)]
        for argv in (["tar", "--extract", "--file", str(packed), "--directory", str(place)], install):
            ran.append(self.hands.run(argv, INSTALLS))
            if ran[-1]["code"]:
                raise Wrong(
                    f"software {task['version']} was not installed: “{ran[-1]['command'][:40]}” ended with {ran[-1]['code']}"
                )
        self.cut("software installed")
        put(self.place / "software", task["version"].encode())
        shutil.rmtree(place, ignore_errors=True)
        packed.unlink()
        return {"reboot": not self.hands.light and REBOOT.exists()}

    def _digest(self, path: str) -> str:
        place = self.root / path
        return hashlib.sha256(place.read_bytes()).hexdigest() if place.is_file() else ""

    def _prepare(self, task: Mapping[str, Any], ran: list[Ran]) -> dict[str, Any]:
        """Fetch what is other, and have the programs read it. Nothing of the switch changes."""
        beside = self.place / "next"
        other = [one for one in task["files"] if self._digest(one["path"]) != one["sha256"]]
        lacking: list[Mapping[str, Any]] = []
        for one in other:
            _inside(one["path"])
            new = beside / one["path"]
            if not new.is_file() or hashlib.sha256(new.read_bytes()).hexdigest() != one["sha256"]:
                lacking.append(one)
        for at in range(0, len(lacking), AT_ONCE):
            part = lacking[at : at + AT_ONCE]
            came = self._fetched([one["sha256"] for one in part])
            for one in part:
                put(beside / one["path"], came[one["sha256"]], int(one.get("mode", "644"), 8))
            self.cut("fetched")
        wanted = {one["path"] for one in task["files"]}
        mine = set(self.journal.get("mine", []))
        # What is put on before the first boot is only a part; the rest stays as it is.
        wanted |= mine if task.get("partly") else set()
        gone = sorted(path for path in mine - wanted if self._digest(path))
        for path, check in task.get("checks", {}).items():
            if path in {one["path"] for one in other}:
                ran.append(self.hands.run([*check["argv"], str(beside / path)]))
                if ran[-1]["code"]:
                    raise Wrong(f"{check['by']} does not take {path}")
        self.note(prepared=[one["path"] for one in other], gone=gone, wanted=sorted(wanted))
        self.cut("prepared")
        return {"changes": len(other) + len(gone)}

    def _fetched(self, digests: list[str]) -> dict[str, bytes]:
        """Files, tried again when the line breaks on the way."""
        for _ in range(TRIES - 1):
            try:
                return self.server.files(digests)
            except OSError as error:
                print(f"files did not come whole: {error}", file=sys.stderr)
                time.sleep(BETWEEN)
        return self.server.files(digests)

    def _commit(self, task: Mapping[str, Any], ran: list[Ran]) -> dict[str, Any]:
        """Put what was prepared in place, and have the programs read it. A second time it only goes on."""
        changed = [*self.journal.get("prepared", []), *self.journal.get("gone", [])]
        if self.journal.get("set") != task["set"]:
            # What one staging changes can be put back as a whole, also once it was confirmed.
            shutil.rmtree(self.place / "old", ignore_errors=True)
            was, by = self.journal.get("mine", []), self.journal.get("device", "")
            self.note(set=task["set"], touched=[], was=was, by=by)
        new = [path for path in changed if path not in self.journal["touched"]]
        self._save_old(new)
        touched = [*self.journal["touched"], *new]
        deadline = time.time() + task["seconds"] + APPLIES
        self.server.device = task.get("device", "")
        self.note(
            touched=touched, committed=task["id"], deadline=deadline, applies=task["applies"], device=self.server.device
        )
        self.cut("committing")
        for path in self.journal.get("prepared", []):
            new = self.place / "next" / path
            if new.is_file():
                put(self.root / path, new.read_bytes(), new.stat().st_mode & 0o777)
                self.cut("half in place")
        for path in self.journal.get("gone", []):
            (self.root / path).unlink(missing_ok=True)
        self.cut("in place")
        wrong = self._read_anew(changed, task["applies"], ran)
        self.server.hang_up()
        if wrong:
            self._restore(ran)
            raise Wrong(f"{wrong}; the old files are back")
        # The time to reach Barrio in begins once the programs have read everything.
        self.note(mine=self.journal.get("wanted", []), deadline=time.time() + task["seconds"])
        self.cut("committed")
        return {}

    def _read_anew(self, changed: Iterable[str], applies: Iterable[Mapping[str, Any]], ran: list[Ran]) -> str:
        """Have the programs read what changed; what the first that does not take it says."""
        for one in _to_run(applies, set(changed)):
            ran.append(self.hands.run(one["argv"]))
            if one.get("wrong") and one["wrong"] in ran[-1]["output"]:
                return f"“{ran[-1]['command']}” says {one['wrong']}"
            if ran[-1]["code"]:
                return f"“{ran[-1]['command']}” ended with {ran[-1]['code']}"
        return ""

    def _save_old(self, paths: Iterable[str]) -> None:
        for path in paths:
            was, kept = self.root / path, self.place / "old" / path
            kept.unlink(missing_ok=True)
            if was.is_file():
                put(kept, was.read_bytes(), was.stat().st_mode & 0o777)

    def _go_back(self, why: str) -> None:
        """The old files again, by its own doing, and what it says of it."""
        task, ran = self.journal.get("committed"), list[Ran]()
        self._restore(ran)
        self.note(report={"task": task, "ok": False, "words": f"{why}, so the old files are back", "ran": ran})

    def _restore(self, ran: list[Ran]) -> None:
        """The old files again, and their programs told."""
        touched = self.journal.get("touched", [])
        for path in touched:
            kept = self.place / "old" / path
            if kept.is_file():
                put(self.root / path, kept.read_bytes(), kept.stat().st_mode & 0o777)
            else:
                (self.root / path).unlink(missing_ok=True)
            self.cut("half back")
        there = {path for path in touched if (self.root / path).exists()}
        ran += [self.hands.run(one["argv"]) for one in _to_run(self.journal.get("applies", []), there)]
        # With the old files Barrio is reached in the old way.
        self.server.device = self.journal.get("by", "")
        self.server.hang_up()
        was = self.journal.get("was", [])
        self.note(deadline=None, committed=None, set=None, touched=[], mine=was, device=self.server.device)


def _to_run(applies: Iterable[Mapping[str, Any]], changed: set[str]) -> list[Mapping[str, Any]]:
    """What has to be run for the files that changed, in its order."""
    return [one for one in applies if changed & set(one["when"]) and not changed & set(one.get("unless", ()))]


def _inside(path: str) -> None:
    if path.startswith("/") or ".." in Path(path).parts:
        raise Wrong(f"{path} is not below the switch's root")


def itself() -> dict[str, Any]:
    """What this machine says of itself (SMBIOS, as Linux shows it)."""
    said: dict[str, Any] = {}
    for name, path in (("serial", "product_serial"), ("model", "product_name")):
        with contextlib.suppress(OSError):
            said[name] = Path("/sys/class/dmi/id", path).read_text().strip()
    with contextlib.suppress(OSError, IndexError):
        first = sorted(one for one in Path("/sys/class/net").iterdir() if (one / "device").exists())[0]
        said["mac"] = (first / "address").read_text().strip()
    return said


LEASES = Path("/var/lib/dhcp")


def named_by_dhcp(leases: Path = LEASES) -> str:
    """The address of Barrio that a DHCP server told (option 143: each a length of two octets and a URI; RFC 8572, section 8.1). Empty while none did."""
    for path in sorted(leases.glob("*.leases"), key=lambda one: one.stat().st_mtime, reverse=True):
        for said in reversed(re.findall(r"option (?:unknown-143|sztp-redirect) ([0-9a-f:]+);", path.read_text())):
            told = bytes(int(one, 16) for one in said.split(":"))
            uri = told[2 : 2 + int.from_bytes(told[:2], "big")].decode(errors="replace")
            if uri.startswith("https://"):
                return uri
    return ""


def awaited(said: Mapping[str, Any], hands: Hands) -> str:
    """The address of Barrio by the words here, or once DHCP has told one."""
    tries = 0
    while not (address := str(said.get("server") or named_by_dhcp())):
        print("no server is told, neither by the words here nor by DHCP", file=sys.stderr)
        time.sleep(BETWEEN)
        tries += 1
        if tries % ASKS_AGAIN == 0:
            # ifupdown2 ends a DHCP client that nobody answered, so it is started again.
            hands.run(["ifreload", "--all"])
    return address


def main(words: str = "/etc/barrio-agent.json") -> None:
    said = json.loads(Path(words).read_text())
    place = Path(said.get("place", "/var/lib/barrio-agent"))
    place.mkdir(parents=True, exist_ok=True, mode=0o700)
    about = {
        **itself(),
        **{
            name: said[name]
            for name in ("serial", "mac", "model", "airflow", "ports", "software", "word")
            if name in said
        },
    }
    hands = Hands(bool(said.get("light")))
    server = Server(awaited(said, hands), Key(place), place, said.get("trust", ""))
    agent = Agent(server, place, Path(said.get("root", "/")), about, hands)
    while True:
        time.sleep(agent.turn())


if __name__ == "__main__":
    main(*sys.argv[1:2])
