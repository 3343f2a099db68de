"""A thousand light switches at once, by the real calls over TLS, against two server processes on one database. Printed by `make bench`.

The baseline is as many bare requests of the same kind: one signed question each that is answered with “wait”.
"""

from __future__ import annotations

import ipaddress
import os
import re
import subprocess
import sys
import tempfile
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import IO

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from barrio.app import drafts, editions, reviews, rollcall, stagings
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.core.exchange.sheet import read_sheet
from barrio.dev.cluster import Cluster
from barrio.staging.simulate import Light, run_all
from tests.database import Databases

COUNT = int(os.environ.get("SWITCHES", "1000"))
PODS = max(2, min(32, COUNT // 31))
BRIEF = f"""
fabric: wide
pods: p01..p{PODS:02d}
super_spines: {{per_plane: 1, racks: c0, model: cantera-c32}}
spines: {{count: 4, racks: s0, model: cantera-c64}}
racks: [{{racks: r01..r27, leaves: 1, model: cantera-l48}}]
"""


def certificate(folder: Path) -> tuple[Path, Path]:
    """A certificate for this machine's loopback, and its key."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "bench")])
    now = datetime.now(UTC)
    made = (
        x509.CertificateBuilder(name, name, key.public_key(), x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=1))
        .add_extension(x509.SubjectAlternativeName([x509.IPAddress(ipaddress.ip_address("127.0.0.1"))]), critical=False)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .sign(key, hashes.SHA256())
    )
    paths = folder / "tls.pem", folder / "tls.key"
    paths[0].write_bytes(made.public_bytes(serialization.Encoding.PEM))
    paths[1].write_bytes(
        key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
    )
    return paths


def serve(conninfo: str, folder: Path, tls: tuple[Path, Path]) -> tuple[subprocess.Popen[str], str]:
    """A server process on the database; its address."""
    told = {
        "BARRIO_DATABASE": conninfo, "BARRIO_TLS_CERTIFICATE": str(tls[0]), "BARRIO_TLS_KEY": str(tls[1]),
        "BARRIO_KEY_FILE": str(folder / "key"), "BARRIO_WORKER": "false",
    }  # fmt: skip
    words = [
        sys.executable,
        "-m",
        "barrio.cli.main",
        "serve",
        "--port",
        "0",
        "--data",
        str(folder / f"data-{time.monotonic_ns()}"),
    ]
    process = subprocess.Popen(
        words, env={**os.environ, **told}, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    )
    assert process.stdout is not None
    for line in process.stdout:
        found = re.search(r"Barrio is at (https://\S+)", line)
        if found:
            # What it says of slow requests has to go somewhere, or it waits for whoever reads it.
            threading.Thread(target=_hear, args=(process.stdout,), daemon=True).start()
            return process, found[1]
    raise AssertionError("the server did not start")


def _hear(said: IO[str]) -> None:
    for line in said:
        if "broke" in line:
            print(line, end="")


def resident(process: subprocess.Popen[str]) -> int:
    """Memory that a process has, in MiB."""
    line = next(
        line for line in Path(f"/proc/{process.pid}/status").read_text().splitlines() if line.startswith("VmRSS")
    )
    return int(line.split()[1]) // 1024


def main() -> None:
    print("Staging")
    with tempfile.TemporaryDirectory(prefix="barrio-bench-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        cluster = Cluster(folder / "pg")
        cluster.start()
        databases = Databases(cluster)
        pool = databases.fresh(BRIEF)
        desk = Desk(House(pool))
        reviews.set_rule(desk, "wide", 0, [])
        editions.seal(desk, "wide", drafts.version(desk, "wide"), "as cabled")
        names = [str(one.switch.name) for one in rollcall.roll(desk, "wide")]
        rollcall.take(
            desk, "wide", read_sheet(("serial,switch\n" + "".join(f"L-{one},{one}\n" for one in names)).encode())
        )
        conninfo = pool.conninfo() if callable(pool.conninfo) else pool.conninfo
        tls = certificate(folder)
        servers = [serve(conninfo, folder, tls) for _ in range(2)]
        lights = [
            Light(servers[at % 2][1], folder / "lights" / one, {"serial": f"L-{one}"}, trust=str(tls[0]))
            for at, one in enumerate(names)
        ]
        began = time.perf_counter()
        with ThreadPoolExecutor(64) as threads:
            list(threads.map(lambda one: one.start().turn(), lights))
        plain = time.perf_counter() - began
        for one in rollcall.knocking(desk, "wide"):
            assert one.expected is not None
            rollcall.admit(desk, "wide", one.knock.key, one.expected.name)
        stagings.begin(desk, "wide", stagings.Wanted(at_once=1000))
        stop = threading.Event()
        running = threading.Thread(target=run_all, args=(lights, stop, len(lights), 0.5), daemon=True)
        began = time.perf_counter()
        running.start()
        while stagings.told(desk, "wide").staging.state == "runs":
            time.sleep(0.5)
        took = time.perf_counter() - began
        told = stagings.told(desk, "wide")
        through = sum(one.step == "handed over" for one in told.switches)
        stop.set()
        memory = [resident(process) for process, _ in servers]
        for process, _ in servers:
            process.terminate()
            process.wait()
        pool.close()
        cluster.stop()
        print(
            f"  {through} of {len(names)} light switches handed over in {took:.0f} s ({told.staging.state}; {took / plain:.1f} × a signed question each, "
            f"{plain:.0f} s); the servers take {memory[0]} and {memory[1]} MiB"
        )


if __name__ == "__main__":
    main()
