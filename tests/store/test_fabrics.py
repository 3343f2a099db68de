"""Drafts and the ledger in a real PostgreSQL."""

from __future__ import annotations

import json
import os
import random
import signal
import subprocess
import sys
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from hashlib import sha256

import psycopg
import pytest

from barrio.app import drafts, editions, kept, poolchanges, pools
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.poolchanges import NewPool
from barrio.core import Compiled, Refused
from barrio.core.brief.document import set_value
from barrio.store import entries
from barrio.store.database import Connections
from barrio.store.errors import Missing, Stale
from barrio.store.occupancy import Occupancy
from tests.conftest import EVERYTHING, EXAMPLES

MARLIN, PELICAN, TERN = (path.read_text() for path in EXAMPLES)
SMALL = "fabric: small\nspines: {count: 2}\nracks:\n  - racks: r01..r03\n"


def audit(connections: Connections) -> None:
    """No overlap, no orphan, nothing lost: asked of the tables themselves, past every index."""
    with connections.connection() as connection:
        connection.execute("set enable_indexscan = off; set enable_bitmapscan = off")
        overlap = connection.execute(
            "select a.prefix, b.prefix from entries a join entries b "
            "on a.id < b.id and a.scope = b.scope and a.prefix && b.prefix limit 1"
        ).fetchone()
    assert overlap is None
    assert pools.audit(Desk(House(connections))) == []


def numbers(connections: Connections, fabric: str, state: str = "held") -> dict[tuple[str, str], str]:
    with connections.connection() as connection:
        rows = connection.execute(
            "select use, key, coalesce(prefix::text, number::text) from entries where fabric = %s and state = %s",
            [fabric, state],
        )
        return {(use, key): number for use, key, number in rows}


def edit(path: str, value: object):
    return lambda text: set_value(text, path, value)


def test_postgresql_holds_number_for_number_what_the_compile_drew(desk: Desk, connections: Connections) -> None:
    draft = drafts.create(desk, MARLIN).draft
    compiled = drafts.load(desk, draft.name).compiled
    stored = numbers(connections, "marlin")
    assert len(stored) == sum(map(len, compiled.allocation.numbers.values()))
    assert stored["loopback.v4", "spine/1"] == compiled.models["spine/1"].loopback_v4
    assert stored["asn", "leaf/r07/b"] == str(compiled.models["leaf/r07/b"].asn)
    assert drafts.load(Desk(House(connections)), draft.name).compiled.models == compiled.models
    audit(connections)


def test_two_fabrics_draw_from_shared_pools_without_a_collision(desk: Desk, connections: Connections) -> None:
    drafts.create(desk, MARLIN)
    drafts.create(desk, TERN)
    marlin, tern = numbers(connections, "marlin"), numbers(connections, "tern")
    for use in ("loopback.v4", "vtep.v4", "asn", "vni"):
        assert not {n for (u, _), n in marlin.items() if u == use} & {n for (u, _), n in tern.items() if u == use}
    audit(connections)


def test_the_schema_itself_refuses_an_overlap(desk: Desk, connections: Connections) -> None:
    drafts.create(desk, MARLIN)
    insert = "insert into entries (use, key, fabric, pool, space, prefix, number, state) values ('x', 'y', 'marlin', 'p', %s, %s, %s, 'held')"
    for space, prefix, number in (("v4", "10.61.0.0/24", None), ("asn", None, 4200065000)):
        with (
            pytest.raises((psycopg.errors.ExclusionViolation, psycopg.errors.UniqueViolation)),
            connections.connection() as connection,
        ):
            entries.open_change(connection, entries.Act("by hand"))
            connection.execute(insert, [space, prefix, number])


def test_undo_and_redo_bring_back_every_number(desk: Desk, connections: Connections) -> None:
    first = drafts.create(desk, MARLIN).draft
    before = numbers(connections, "marlin")
    second = drafts.save(desk, "marlin", first.version, edit("racks[1]", None), "no border").draft
    without = numbers(connections, "marlin")
    assert len(without) < len(before) and without.items() <= before.items()
    drafts.create(desk, TERN)
    third = drafts.undo(desk, "marlin", second.version).draft
    assert numbers(connections, "marlin") == before and third.redo == "no border"
    fourth = drafts.redo(desk, "marlin", third.version).draft
    assert numbers(connections, "marlin") == without
    assert [revision.note for revision in drafts.history(desk, "marlin")] == ["no border", "made"]
    with pytest.raises(Refused, match="nothing to redo"):
        drafts.redo(desk, "marlin", fourth.version)
    audit(connections)


def test_an_edit_of_an_old_version_changes_nothing_and_says_what_happened(desk: Desk) -> None:
    first = drafts.create(desk, SMALL).draft
    drafts.save(desk, "small", first.version, edit("spines.count", 3), "3 spines")
    with pytest.raises(Stale, match="3 spines"):
        drafts.save(desk, "small", first.version, edit("spines.count", 4), "4 spines")
    assert drafts.draft(desk, "small").document.brief.spines.count == 3


def test_a_refused_edit_leaves_nothing_behind(desk: Desk, connections: Connections) -> None:
    draft = drafts.create(desk, SMALL).draft
    before = numbers(connections, "small")
    for path, value in (
        ("spines.count", 64),
        ("spines.model", "none"),
        ("fabric", "other"),
        ("racks[0].racks", "r01..r40"),
    ):
        with pytest.raises(Refused):
            drafts.save(desk, "small", draft.version, edit(path, value), "no")
    assert drafts.draft(desk, "small") == draft and numbers(connections, "small") == before
    for text, code in (
        (SMALL, "fabric.twice"),
        (SMALL.replace("small", "other") + "cabling: {prefix: SMALL}", "cabling.prefix"),
    ):
        with pytest.raises(Refused) as refused:
            drafts.create(desk, text)
        assert refused.value.faults[0].code == code
    with pytest.raises(Missing, match="no fabric called other"):
        drafts.draft(desk, "other")
    audit(connections)


def test_what_rests_long_enough_is_free_again(desk: Desk, connections: Connections) -> None:
    draft = drafts.create(desk, SMALL).draft
    draft = drafts.save(desk, "small", draft.version, edit("racks[0].racks", "r01..r02"), "less").draft
    gone = numbers(connections, "small", "resting")["loopback.v4", "leaf/r03/a"]
    draft = drafts.save(desk, "small", draft.version, edit("racks[0].racks", "r01..r02, r09"), "other").draft
    assert gone not in numbers(connections, "small").values()
    with connections.connection() as connection:
        entries.open_change(connection, entries.Act("two days pass"))
        connection.execute("update entries set released_at = now() - interval '2 days' where state = 'resting'")
    drafts.save(desk, "small", draft.version, edit("racks[0].racks", "r01..r02, r09..r10"), "more")
    assert gone in numbers(connections, "small").values()


def test_more_writers_than_connections_all_get_their_turn(desk: Desk, connections: Connections) -> None:
    """Twenty at once on five fabrics, each with nothing at hand: every one saves or is told of the other."""
    names = [f"hall-{letter}" for letter in "abcde"]
    for name in names:
        drafts.create(desk, SMALL.replace("small", name))
    fresh = Desk(House(connections))

    def save(number: int) -> str:
        try:
            drafts.save(fresh, names[number % 5], 1, edit("spines.count", 3 + number % 3), f"by {number}")
        except Stale:
            return "told"
        return "saved"

    with ThreadPoolExecutor(20) as pool:
        outcomes = list(pool.map(save, range(20)))
    assert outcomes.count("saved") == 5 and outcomes.count("told") == 15
    audit(connections)


SECONDS = float(os.environ.get("BARRIO_KILL_AFTER", "3"))
ROUNDS = 10
"""Rounds that each writer does before it is killed."""
"""How long writers run before they are killed; longer for those who want thousands of rounds."""

WRITER = """
import random, sys
from barrio.app import drafts, editions, numbering, reviews
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.core import Compiled, Refused
from barrio.core.brief.document import set_value
from barrio.core.ledger.numbers import parse_number
from barrio.store.database import connect
from barrio.store.errors import Raced, Stale
from barrio.store.pins import Pin
conninfo, name, seed, rounds = sys.argv[1], sys.argv[2], int(sys.argv[3]), int(sys.argv[4])
desk, chance = Desk(House(connect(conninfo))), random.Random(seed)
reviews.set_rule(desk, name, 0, [])
for number in range(rounds):
    draft = drafts.draft(desk, name)
    racks = "r01" + "".join(f", r{n:02d}" for n in sorted(chance.sample(range(2, 12), chance.randint(0, 6))))
    act = chance.choice(["save"] * 6 + ["pin", "renumber", "seal", "discard", "undo"])
    try:
        if act == "save":
            drafts.save(desk, name, draft.version, lambda text: set_value(text, "racks[0].racks", racks), racks)
        elif act == "pin":
            text = f"10.0.0.{chance.randint(1, 90)}"
            pin = Pin(*parse_number("loopback.v4", text), "by hand")
            numbering.pin(desk, name, draft.version, {"loopback.v4": {f"leaf/r{chance.randint(1, 12):02d}/a": pin}})
        elif act == "renumber":
            numbering.renumber(desk, name, draft.version, ["asn"])
        else:
            act_of = {"seal": editions.seal, "discard": editions.discard, "undo": drafts.undo}[act]
            act_of(desk, name, draft.version)
        print("saved", flush=True)
    except (Refused, Stale) as error:
        print("refused", flush=True)
    except Raced as error:
        print("raced", error, flush=True)
"""


def test_real_processes_killed_in_the_middle_leave_a_whole_ledger(desk: Desk, connections: Connections) -> None:
    """Writers on shared pools, in two scopes, two of them on one fabric; each killed at some moment and followed by another.

    Round after round of saves, pins, renumberings, editions, discards and undos; then nothing overlaps, nothing is
    without a home, every number of every draft is stored, and every change of an entry is on record.
    """
    poolchanges.add_scope(desk, "trial", "")
    for name in ("one", "two", "three"):
        drafts.create(desk, SMALL.replace("small", name))
    poolchanges.create(desk, NewPool("trial-loops", ("10.0.0.0/24",), scope="trial"))
    drafts.create(desk, SMALL.replace("small", "trial") + "numbers: {loopback: trial-loops}\n")
    chance = random.Random(8710)
    rounds: Counter[str] = Counter()
    sealed = 0
    for turn in range(3 if EVERYTHING else 1):
        writers = [
            subprocess.Popen(
                ["nice", sys.executable, "-c", WRITER, connections.conninfo, name, str(turn * 10 + index), "100000"],
                stdout=subprocess.PIPE,
                text=True,
            )
            for index, name in enumerate(("one", "two", "three", "one", "trial"))
        ]
        # Every writer is up and has done some rounds before they are killed, however slow the machine is.
        for writer in writers:
            assert writer.stdout is not None
            rounds.update(writer.stdout.readline().split()[0] for _ in range(ROUNDS))
        time.sleep(SECONDS * chance.random())
        for writer in writers:
            os.kill(writer.pid, signal.SIGKILL)
            out, _ = writer.communicate()
            rounds.update(line.split()[0] for line in out.splitlines())
        audit(connections)
        for name in ("one", "two", "three", "trial"):
            draft = drafts.draft(desk, name)
            # Compiled anew from what is stored, by eyes that saw nothing before.
            compiled = drafts.load(Desk(House(connections)), draft.name).compiled
            assert not compiled.allocation.added, "every number of the draft is stored"
            stored = numbers(connections, name) | {
                at: number for at, number in numbers(connections, name, "live").items() if at in flat(compiled)
            }
            assert stored.keys() == flat(compiled)
            sealed += whole_editions(desk, name)
    assert sealed > 0
    assert rounds["saved"] > 2 * ROUNDS and rounds["refused"] > 0, rounds
    print(f"{rounds.total()} rounds: {dict(rounds)}")
    assert rounds["raced"] == 0, "under the locks nobody loses a race"
    with connections.connection() as connection:
        shared = connection.execute(
            "select count(*) from entries a join entries b on a.prefix = b.prefix and a.scope < b.scope"
        ).fetchone()
    assert shared is not None and shared[0] > 0, "two scopes have the same loopbacks"


def whole_editions(desk: Desk, name: str) -> int:
    """How many editions a fabric has: each is whole, and the newest one's numbers, and no others, are live."""
    found = editions.every(desk, name)
    assert [one.number for one in found] == list(range(len(found), 0, -1)), "each number is an edition's"
    for one in found[:5]:
        files = editions.files(desk, name, one.number)
        said = json.loads(files["manifest.json"])["sha256"]
        assert {path: sha256(content).hexdigest() for path, content in files.items() if path != "manifest.json"} == said
    if found:
        with desk.reading() as tx:
            edition, live = kept.inputs(tx, found[0]), numbers(desk.house.connections, name, "live")
        assert {(use, key) for use, keys in edition.numbers.items() for key in keys} == live.keys()
    return len(found)


def flat(compiled: Compiled) -> set[tuple[str, str]]:
    return {(use, key) for use, entries in compiled.allocation.numbers.items() for key in entries}


def test_holdings_round_trip_through_the_database(desk: Desk, connections: Connections) -> None:
    compiled = drafts.create(desk, MARLIN).compiled
    with connections.connection() as connection:
        book = entries.load(connection, Occupancy(), "marlin").stock
    held = {use: dict(entries) for use, entries in compiled.allocation.numbers.items() if entries}
    assert {use: dict(entries) for use, entries in book.holdings.held.items()} == held
    assert {name: set(pool.ranges) for name, pool in book.pools.items()} == {
        name: set(pool.ranges) for name, pool in compiled.pools.items()
    }
