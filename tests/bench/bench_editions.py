"""Ripple, sealing and comparing at 32x1024. Printed by `make bench`.

The baseline of a ripple compares the same files with difflib, one pair of changed texts after the other; that of sealing writes the same texts, each
once, to a folder and syncs it.
"""

from __future__ import annotations

import difflib
import os
import tempfile
import time
from collections.abc import Callable
from hashlib import sha256
from pathlib import Path
from typing import Any

from barrio.app import drafts, editions, reviews, ripples, sides
from barrio.app.desk import Actor, Desk
from barrio.app.house import House
from barrio.core.brief.document import apply
from barrio.dev.cluster import Cluster
from barrio.jobs.queue import bring_up
from barrio.store.database import bring_up_to_date, connect
from tests.bench.bench_compile import BRIEF, SIZES


def timed(action: Callable[[], Any]) -> tuple[float, Any]:
    start = time.perf_counter()
    result = action()
    return time.perf_counter() - start, result


def edit(desk: Desk, path: str, value: object) -> float:
    """Save one changed word; the seconds that saving takes."""
    seen = drafts.version(desk, "pelican")
    return timed(lambda: drafts.save(desk, "pelican", seen, lambda text: apply(text, [(path, value)]), "a word"))[0]


def plain(before: dict[str, bytes], after: dict[str, bytes], most: int) -> float:
    """Seconds for difflib over as many changed files, told for all of them."""
    pairs = [(before[path], after[path]) for path in before if after.get(path, before[path]) != before[path]]
    taken, _ = timed(
        lambda: [
            list(difflib.unified_diff(one.decode().splitlines(), other.decode().splitlines(), n=0))
            for one, other in pairs[:most]
        ]
    )
    return taken * len(pairs) / max(1, min(most, len(pairs)))


def written(files: dict[str, bytes]) -> float:
    """Seconds to write each distinct text once, and to have the disk keep them."""
    texts = {sha256(content).digest(): content for content in files.values()}
    with tempfile.TemporaryDirectory(dir="/var/tmp") as folder:

        def write() -> None:
            for digest, content in texts.items():
                Path(folder, digest.hex()).write_bytes(content)
            os.sync()

        return timed(write)[0]


def main() -> None:
    spines, racks, leaf = SIZES["32x1024"]
    with tempfile.TemporaryDirectory(dir="/srv" if os.access("/srv", os.W_OK) else None) as folder:
        Path(folder).chmod(0o755)
        cluster = Cluster(Path(folder) / "postgres")
        cluster.start()
        try:
            pool = connect(cluster.conninfo)
            bring_up_to_date(pool)
            bring_up(pool)
            measure(Desk(House(pool), Actor("Ines")), BRIEF.format(spines=spines, racks=racks, leaf=leaf))
            pool.close()
        finally:
            cluster.stop()


def measure(desk: Desk, brief: str) -> None:
    drafts.create(desk, brief)
    reviews.set_rule(desk, "pelican", 0, [])
    whole = sides.side(desk, "pelican", "draft")
    distinct = sum(len(one) for one in {sha256(one).digest(): one for one in whole.values()}.values())
    sealing, _ = timed(lambda: editions.seal(desk, "pelican", 1, "as cabled"))
    base = written(whole)
    with desk.house.connections.connection() as connection:
        row = connection.execute(
            "select pg_total_relation_size('texts'), (select sum(length(packed)) from texts)"
        ).fetchone()
    assert row is not None
    print(
        f"sealing 32x1024: {sealing:.1f} s, {sealing / base:.1f}x a plain folder; {distinct / 1e6:.1f} MB of distinct text kept in {row[0] / 1e6:.1f} MB ({row[0] / distinct:.2f}x)"
    )
    ripples.of(desk, "pelican")
    for words, path, value in (
        ("a word of one rack", "rungs", {"rack r0007": {"overlay.storm": 100}}),
        ("a word of all services", "services.ntp", ["10.90.0.22"]),
        ("a word on every switch", "underlay.mtu", 9100),
        ("a word that restarts every session", "underlay.asn", "per-pair"),
    ):  # fmt: skip
        before = sides.side(desk, "pelican", "edition 1") if "every" in words else {}
        saving = edit(desk, path, value)
        quick, _ = timed(lambda: ripples.sums(desk, "pelican"))
        full, found = timed(lambda: ripples.of(desk, "pelican"))
        line = f"ripple of {words}: saved in {saving * 1000:.0f} ms, sums {quick * 1000:.0f} ms, all {full * 1000:.0f} ms ({len(found.ripple.switches)} switches, {sum(found.ripple.lines):,} lines)"
        if before:
            line += f", {full / plain(before, sides.side(desk, 'pelican', 'draft'), 200):.2f}x difflib"
        print(line)
        if "session" not in words:
            drafts.undo(desk, "pelican", drafts.version(desk, "pelican"))
    seen = drafts.version(desk, "pelican")
    second, _ = timed(lambda: editions.seal(desk, "pelican", seen, "other numbers"))
    comparing, parts = timed(lambda: sides.compare(desk, "pelican", "edition 1", "edition 2"))
    edit(desk, "services.ntp", ["10.90.0.23"])
    with_draft, _ = timed(lambda: sides.compare(desk, "pelican", "edition 2", "draft"))
    print(
        f"sealing it again: {second:.1f} s; comparing the two editions: {comparing:.2f} s, one with the draft: {with_draft:.2f} s ({len(parts.files):,} kinds of change)"
    )


if __name__ == "__main__":
    main()
