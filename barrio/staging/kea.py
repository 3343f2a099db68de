"""Running Kea on the management network, and telling it what has changed."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import tempfile
import time
from collections.abc import Callable, Mapping
from pathlib import Path

PROGRAMS: Mapping[str, str] = {"kea4": "kea-dhcp4", "kea6": "kea-dhcp6"}
BETWEEN = 5.0
"""Seconds until it is looked again whether something changed."""


class NoKea(RuntimeError):
    """Kea is not here, does not take what it is told, or ended; the words say which."""


def found(program: str) -> str:
    """Kea's server of a protocol on this machine. Raises `NoKea`."""
    name = PROGRAMS[program]
    path = shutil.which(name, path=f"{os.environ.get('PATH', '')}:/usr/sbin")
    if path is None:
        raise NoKea(f"{name} is not installed here. Install Debian's {name}-server.")
    return path


def surroundings(folder: Path) -> dict[str, str]:
    """What Kea has to be told beside its file, to keep what it keeps in a folder."""
    return {"PATH": "/usr/sbin:/usr/bin", "KEA_PIDFILE_DIR": str(folder), "KEA_LOCKFILE_DIR": "none"}


def check(program: str, text: str) -> None:
    """Have Kea read a configuration. Raises `NoKea` with what it says of one that it does not take."""
    with tempfile.TemporaryDirectory(prefix="barrio-kea-") as folder:
        path = Path(folder) / "kea.conf"
        path.write_text(text)
        done = subprocess.run(
            [found(program), "-t", str(path)],
            capture_output=True,
            text=True,
            env=surroundings(path.parent),
            check=False,
        )
    if done.returncode:
        raise NoKea(f"{PROGRAMS[program]} does not take it: {(done.stderr or done.stdout).strip()[-300:]}")


def run(program: str, text: Callable[[], str], say: Callable[[str], None]) -> None:
    """Run Kea until Ctrl+C, with what `text` gives now and whenever that is other. Raises `NoKea`."""
    now = text()
    check(program, now)
    with tempfile.TemporaryDirectory(prefix="barrio-kea-") as folder:
        path = Path(folder) / "kea.conf"
        path.write_text(own_leases(now, Path(folder)))
        process = subprocess.Popen([found(program), "-c", str(path)], env=surroundings(Path(folder)))
        say(f"{PROGRAMS[program]} runs; Ctrl+C ends it.")
        try:
            while process.poll() is None:
                time.sleep(BETWEEN)
                new = text()
                if new != now:
                    check(program, new)
                    path.write_text(own_leases(new, Path(folder)))
                    process.send_signal(signal.SIGHUP)
                    now = new
                    say("what it is told has changed; it has read it")
            raise NoKea(f"{PROGRAMS[program]} ended with {process.returncode}")
        except KeyboardInterrupt:
            say("ended")
        finally:
            process.terminate()
            process.wait(10)


def own_leases(text: str, folder: Path) -> str:
    """The configuration with its leases in a folder."""
    return text.replace('"type": "memfile",', f'"type": "memfile", "name": "{folder}/leases.csv",', 1)
