"""What runs against what was meant, at 1,000 switches, and adopting 32×128. Printed by `make bench`.

The baseline of drift holds the same two texts of each switch against each other with difflib; that of adopting parses every interfaces file into words.
"""

from __future__ import annotations

import base64
import difflib
import json
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from hashlib import sha256
from pathlib import Path
from typing import Any

from barrio.app import changing, drafts, editions, holding, reviews, watching
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.transaction import Transaction
from barrio.core import Compiled, compile
from barrio.core.adopt.adopting import adopt
from barrio.core.adopt.running import INTERFACES, Running
from barrio.core.brief.model import Brief
from barrio.core.observe.rows import KINDS
from barrio.dev.cluster import Cluster
from barrio.store.boxes import Knock
from barrio.store.entries import Act
from tests.database import Databases

FRR = "etc/frr/frr.conf"
SAME = -1
"""In place of a number of MACs that moved: all prints the same as before."""
WIDE = """fabric: wide
spines: {count: 8, model: lonja-k1152}
racks: [{racks: r001..r496, leaves: 2, model: lonja-t64}]
vrfs: {tides: {}}
segments: {tide-grid: {vrf: tides, v4: auto}}
"""


def timed(action: Callable[[], Any]) -> tuple[float, Any]:
    start = time.perf_counter()
    result = action()
    return time.perf_counter() - start, result


def handed_over(desk: Desk, compiled: Compiled) -> None:
    """Every switch as it stands after a staging of edition 1, without the staging."""

    def work(tx: Transaction) -> None:
        tx.act(Act("a bench", topic="staging"))
        tx.connection.execute(
            "insert into stagings (fabric, edition, at_once, stop_after, confirm_seconds, author, state, ended_at) values ('wide', 1, 8, 1, 60, '', 'done', now())"
        )
        with tx.connection.cursor() as cursor:
            cursor.executemany(
                "insert into staged (staging, switch, name, rack, place, wave, step, state, began_at) values (1, %s, %s, %s, %s, 1, 'handed over', 'done', now())",
                [(one.key, str(one.name), str(one.rack), place) for place, one in enumerate(compiled.staged)],
            )

    desk.writing(work)


def knock_of(key: str) -> Knock:
    now = datetime.now(UTC)
    return Knock(b"", "", "", {}, "", "admitted", "wide", key, "", "", 0, now, now, now)


def looked(desk: Desk, compiled: Compiled, change: Callable[[str], str]) -> list[float]:
    """Every switch tells what it runs, through the real call; the seconds that each took."""
    taken: list[float] = []
    for one in compiled.staged:
        files = compiled.files(one.key)
        running = {path: change(text) if path == FRR else text for path, text in files.items()}
        digests = {path: sha256(text.encode()).hexdigest() for path, text in running.items()}
        texts = {
            path: base64.b64encode(text.encode()).decode() for path, text in running.items() if text != files[path]
        }
        said = {"report": {"task": "seen/1", "ok": True, "files": digests, "texts": texts, "ran": []}}

        knock = knock_of(one.key)

        def tell(knock: Knock = knock, said: dict[str, Any] = said) -> None:
            def work(tx: Transaction) -> None:
                tx.act(Act("a bench", topic="staging"))
                watching.turn(tx, desk.house.keys, knock, said)

            desk.writing(work)

        taken.append(timed(tell)[0])
    return taken


def truth() -> None:
    with tempfile.TemporaryDirectory(prefix="barrio-bench-") as name:
        Path(name).chmod(0o755)
        cluster = Cluster(Path(name) / "pg")
        cluster.start()
        try:
            databases = Databases(cluster)
            desk = Desk(House(databases.fresh(WIDE)))
            reviews.set_rule(desk, "wide", 0, [])
            opened = drafts.load(desk, "wide")
            editions.seal(desk, "wide", opened.draft.version, "as cabled")
            compiled = opened.compiled
            handed_over(desk, compiled)
            count = len(compiled.staged)
            looked(desk, compiled, lambda text: text)
            print(f"what runs against what was meant, {count:,} switches")
            held(desk, compiled)
            none, _ = timed(lambda: watching.drift(desk, "wide"))
            counted, _ = timed(lambda: watching.counts(desk, "wide"))
            before = datetime.now(UTC)
            seconds = looked(desk, compiled, lambda text: text.replace("timers 3 9", "timers 7 21"))
            every, found = timed(lambda: watching.drift(desk, "wide"))
            assert sum(not one.true for one in found) == count
            pairs = [
                (
                    compiled.files(one.key)[FRR].splitlines(),
                    compiled.files(one.key)[FRR].replace("timers 3 9", "timers 7 21").splitlines(),
                )
                for one in compiled.staged[:100]
            ]
            plain, _ = timed(lambda: [list(difflib.unified_diff(a, b, n=0)) for a, b in pairs])
            since, _ = timed(lambda: changing.between(desk, "wide", before, datetime.now(UTC)))
            leaf = compiled.staged[-1]
            month(desk, leaf.key)
            history, spans = timed(lambda: watching.history(desk, "wide", str(leaf.name)))
        finally:
            cluster.stop()
    base = plain * count / 100
    seconds.sort()
    print(f"  baseline, difflib of the same texts {base:7.2f} s")
    print(f"  drift, when every text changed      {every:7.2f} s  {every / base:5.2f} × baseline")
    print(f"  drift, when none did                {none:7.2f} s; how many are wrong {counted * 1000:.0f} ms")
    print(f"  what changed since a moment         {since:7.2f} s")
    print(
        f"  a switch looked at and kept         {seconds[len(seconds) // 2] * 1000:7.1f} ms, {seconds[-len(seconds) // 100] * 1000:.1f} ms one in a hundred"
    )
    print(f"  a month of a switch that never rests{history * 1000:7.0f} ms for the newest {len(spans)} of 8,640")


def prints(place: int, moved: int) -> dict[str, str]:
    """What a switch prints of its routes (1,000, each by eight ways) and of 2,000 MACs of which some have moved."""
    ways = [{"dev": f"u{one}", "gateway": f"10.61.{place % 200}.{2 * one}", "flags": []} for one in range(1, 9)]
    routes = json.dumps([{"dst": f"10.60.{one // 250}.{one % 250}", "nexthops": ways} for one in range(1000)])
    macs = "".join(
        f"02:00:{place % 256:02x}:00:{one // 256:02x}:{one % 256:02x} dev p{one % 48 + (one < moved)} vlan 110 master br0\n"
        for one in range(2000)
    )
    return {"routes": f"[]\n4\n{routes}\n6\n[]\n", "macs": macs}


def held(desk: Desk, compiled: Compiled) -> None:
    """What switches hold, told and kept: whole, with a hundred MACs that moved, and as it was; the room of a change; a month of changes, gone back through."""

    def tell(moved: int) -> list[float]:
        taken = []
        for place, one in enumerate(compiled.staged[:200]):
            ran = [
                {"command": KINDS[kind].command, "code": 0, "output": text}
                for kind, text in prints(place, moved).items()
            ]
            for each in ran if moved == SAME else ():
                each |= {"output": "", "same": True}
            taken.append(timed(lambda ran=ran, key=one.key: keep(key, ran))[0])
        return sorted(taken)

    def keep(key: str, ran: list[dict[str, Any]]) -> None:
        def work(tx: Transaction) -> None:
            tx.act(Act("a bench", topic="staging"))
            holding.keep(tx, "wide", key, holding.told(ran))

        desk.writing(work)

    first, moved, same = tell(0), tell(100), tell(SAME)
    leaf = compiled.staged[-1]

    def month(tx: Transaction) -> None:
        tx.act(Act("a bench", topic="staging"))
        holding.keep(tx, "wide", leaf.key, prints(0, 0))
        tx.connection.execute(
            "update running_tables set since = now() - interval '31 days' where switch = %s", [leaf.key]
        )
        with tx.connection.cursor() as cursor:
            cursor.executemany(
                "insert into table_changes (fabric, switch, kind, at, content) values ('wide', %s, 'macs', now() - make_interval(mins => %s), %s)",
                [
                    (
                        leaf.key,
                        5 * place,
                        "\n".join(
                            f"02:00:00:00:{row:02x}:00 VLAN 110\ton p{place % 9}\ton p{(place + 1) % 9}"
                            for row in range(20)
                        ),
                    )
                    for place in range(1, 8640)
                ],
            )

    with desk.house.alone() as connection:
        [(size, count)] = connection.execute(
            "select pg_total_relation_size('table_changes'), count(*) from table_changes"
        ).fetchall()
    desk.writing(month)
    begins = datetime.now(UTC) - timedelta(days=29)
    back, _ = timed(lambda: holding.at(desk, "wide", str(leaf.name), "macs", begins, "", 2000))
    found, _ = timed(lambda: holding.find(desk, "wide", "02:00:07:00:01:07"))
    half = len(first) // 2
    print(
        f"  1,000 routes and 2,000 MACs kept    {first[half] * 1000:7.1f} ms; when 100 MACs moved {moved[half] * 1000:.1f} ms, when all is as before {same[half] * 1000:.1f} ms"
    )
    print(f"  room of 100 MACs that moved         {size / count / 1024:7.1f} KB")
    print(
        f"  a table a month and 8,639 changes ago{back * 1000:6.0f} ms; a MAC looked for in 400 tables {found * 1000:.0f} ms"
    )


def month(desk: Desk, key: str) -> None:
    """A month of looks every five minutes, each of which found something else."""

    def work(tx: Transaction) -> None:
        tx.act(Act("a bench", topic="staging"))
        begins = datetime.now(UTC) - timedelta(days=30)
        with tx.connection.cursor() as cursor:
            cursor.executemany(
                "insert into snapshots (fabric, switch, edition, files, state, from_at, until_at) values ('wide', %s, 1, '{}', %s, %s, %s)",
                [
                    (
                        key,
                        f'["its clock is {place} s late"]',
                        begins + timedelta(minutes=5 * place),
                        begins + timedelta(minutes=5 * place + 4),
                    )
                    for place in range(8640)
                ],
            )

    desk.writing(work)


def adopting() -> None:
    said = {
        "fabric": "large", "spines": {"count": 32, "model": "lonja-k1152"}, "racks": [{"racks": "r01..r64", "leaves": 2, "model": "lonja-t64"}],
        "underlay": {"addressing": "dual"}, "vrfs": {"tides": {}, "buoys": {}},
        "segments": {f"seg-{place}": {"vrf": "tides" if place % 2 else "buoys", "v4": "auto", "v6": "auto"} for place in range(12)},
        "plugs": {"node": {"untagged": "seg-0", "tagged": ["seg-1", "seg-2"]}}, "hosts": {"m-0001..m-3072": {"at": "r01..r64 h1..h48", "plug": "node"}},
    }  # fmt: skip
    compiled = compile(Brief.model_validate(said))
    every = [Running(str(one.name), compiled.files(one.key)) for one in compiled.staged]
    base, _ = timed(lambda: [[line.split() for line in one.files[INTERFACES].split("\n")] for one in every])
    whole, found = timed(lambda: adopt(every, "large"))
    assert not found.left
    print(f"adopting 32×128, {len(found.pins):,} numbers, every file as it runs")
    print(f"  baseline, words of the same files   {base:7.2f} s")
    print(f"  a brief with its evidence           {whole:7.2f} s  {whole / base:5.1f} × baseline")


if __name__ == "__main__":
    truth()
    adopting()
