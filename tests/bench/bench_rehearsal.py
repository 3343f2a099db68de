"""A lab of 128 switches on this machine's own kernel, until all its sessions are up. Printed by `make bench`.

The baseline starts the same daemons without files, one after the other in as many namespaces as fit into a tenth of the fabric, told for all of it.
"""

from __future__ import annotations

import time
from pathlib import Path

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.rehearse.slices import Wish, choose
from barrio.rehearsal.asking.claims import Asking, answer
from barrio.rehearsal.asking.every import BY_ID
from barrio.rehearsal.room import Here
from barrio.rehearsal.run import Rehearsal, booted

BRIEF = """
fabric: wide
pods: p1..p4
super_spines: {per_plane: 1, racks: c0, model: cantera-c32}
spines: {count: 4, racks: s0, model: cantera-c64}
racks: [{racks: r01..r27, leaves: 1, model: cantera-l48}]
"""
BARE = """
for at in $(seq 1 "$1"); do
	ip netns add "bare$at"
	mkdir -p "/run/bare$at" && chown frr:frr "/run/bare$at"
	for daemon in zebra staticd bfdd bgpd; do
		ip netns exec "bare$at" "/usr/lib/frr/$daemon" -d -u frr -g frr --vty_socket "/run/bare$at" -z "/run/bare$at/zserv" -i "/run/bare$at/$daemon.pid" -P 0
	done
done
"""


def free() -> int:
    """Memory that can be had, in MiB."""
    line = next(line for line in Path("/proc/meminfo").read_text().splitlines() if line.startswith("MemAvailable"))
    return int(line.split()[1]) // 1024


def whole(compiled: Compiled) -> tuple[float, float, int]:
    """Seconds until all switches run, and until all sessions are up; memory that they take together, in MiB."""
    before, began = free(), time.perf_counter()
    found = Rehearsal(str(compiled.brief.fabric), choose(compiled, Wish(whole=True)))
    with booted(compiled, found, "here") as asking:
        up = time.perf_counter() - began
        came = answer(Asking(asking.lab, asking.slice), BY_ID["sessions"])
        assert came.state == "yes", [claim.found for claim in came.claims if not claim.holds][:3]
        return up, time.perf_counter() - began, before - free()


def bare(count: int) -> float:
    """Seconds to start the daemons of so many switches without files."""
    ground = Here()
    try:
        began = time.perf_counter()
        done = ground.run("sh", "-c", BARE, "sh", str(count), timeout=300)
        assert done.code == 0, done.err
        return time.perf_counter() - began
    finally:
        ground.close()


def main() -> None:
    compiled = compile(read(BRIEF).brief)
    for key in compiled.models:
        compiled.files(key)
    count = len(compiled.staged)
    plain = bare(count // 8) * 8
    up, stands, memory = whole(compiled)
    print(
        f"a lab of {count} switches by namespaces: {up:.0f} s until all run, {stands:.0f} s until all sessions are up ({stands / plain:.1f} × bare daemons, {plain:.0f} s)"
    )
    print(
        f"  {stands / count * 1000:.0f} ms and {memory / count:.0f} MiB a switch; {free() // max(1, memory // count):,} more would fit into the memory that is left"
    )


if __name__ == "__main__":
    main()
