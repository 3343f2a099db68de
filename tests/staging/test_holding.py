"""What switches hold is kept at each look: as it is, as it was at a moment, what changed, and where a MAC or a number stands."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta

import pytest

from barrio.app import changing, holding, watching
from barrio.core import Refused
from barrio.core.observe.rows import KINDS
from barrio.store.errors import Missing
from tests.cli import barrio
from tests.processes import until
from tests.staging.conftest import Hall

MACS, SESSIONS = KINDS["macs"].command, KINDS["sessions"].command
HERE = "02:00:5e:00:01:01 dev p1 vlan 110 master br0\n"
MOVED = HERE.replace("p1", "p2")


def says(hall: Hall, name: str, kind: str, text: str) -> None:
    """Have a switch print something, and wait until it was looked at."""
    hall.lights[name].answers[KINDS[kind].command] = text
    until(lambda: seen(hall, name, kind) == text, 20)


def seen(hall: Hall, name: str, kind: str) -> str:
    """What is kept of a table of MACs, as it was printed."""
    try:
        found = holding.at(hall.desk, "tern", name, kind, None, "", 100)
    except Missing:
        return ""
    return "".join(
        f"{key.split()[0]} dev {words.removeprefix('on ')} vlan 110 master br0\n" for key, words in found.rows.items()
    )


def test_a_mac_is_found_where_it_is_and_where_it_was(staged: Hall) -> None:
    hall = staged
    says(hall, "leaf-t01", "macs", HERE)
    before = datetime.now(UTC)
    says(hall, "leaf-t01", "macs", MOVED)
    says(hall, "leaf-t02", "macs", HERE.replace("01:01", "01:02"))
    there, past = holding.find(hall.desk, "tern", "0200.5E00.0101")
    assert [(one.switch, one.key, one.words) for one in there] == [("leaf-t01", "02:00:5e:00:01:01 VLAN 110", "on p2")]
    assert [(one.was, one.now) for one in past] == [("on p1", "on p2")] and there[0].since == past[0].at > before
    held = holding.at(hall.desk, "tern", "leaf-t01", "macs", before, "", 100)
    assert held.rows == {"02:00:5e:00:01:01 VLAN 110": "on p1"}
    hall.lights["leaf-t01"].answers[KINDS["hardware"].command] = "product_serial\t02005e000101\n"
    # What looks like a MAC may be a serial number.
    until(lambda: {one.kind for one in holding.find(hall.desk, "tern", "02005E000101")[0]} == {"macs", "hardware"}, 20)
    with pytest.raises(Missing, match="told this first on"):
        holding.at(hall.desk, "tern", "leaf-t01", "macs", before - timedelta(days=1), "", 100)
    with pytest.raises(Missing, match="nothing of that kind"):
        holding.at(hall.desk, "tern", "leaf-t01", "moods", None, "", 100)
    with pytest.raises(Refused, match="two characters"):
        holding.find(hall.desk, "tern", " x ")
    [changed] = changing.between(hall.desk, "tern", before, datetime.now(UTC))
    assert changed.switch == "leaf-t01" and not changed.lines
    assert changed.tables == {"macs": (("02:00:5e:00:01:01 VLAN 110", "on p1", "on p2"),)}
    says(hall, "leaf-t01", "macs", HERE)
    assert changing.between(hall.desk, "tern", before, datetime.now(UTC)) == [], "what came and went again is none"
    url = hall.address
    assert "leaf-t01  MACs" in barrio("drift", "find", "tern", "02005e000101", "--at", url)
    assert "on p2 → on p1" in barrio("drift", "find", "tern", "02005e000101", "--at", url)
    assert "02:00:5e:00:01:01 VLAN 110  on p1" in barrio("drift", "tables", "tern", "leaf-t01", "macs", "--at", url)
    told = barrio("drift", "tables", "tern", "leaf-t01", "macs", "--when", before.isoformat(), "--at", url)
    assert "VLAN 110  on p1" in told
    assert "MACs" in barrio("drift", "tables", "tern", "leaf-t01", "--at", url)
    assert "nowhere" in barrio("drift", "find", "tern", "02005e00ffff", "--at", url, code=1)


def test_what_prints_the_same_is_neither_sent_again_nor_kept_twice(staged: Hall) -> None:
    hall = staged
    says(hall, "leaf-t01", "macs", HERE)
    with hall.desk.reading() as tx:
        key = next(one.snapshot.switch for one in watching.drift(hall.desk, "tern") if one.switch == "leaf-t01")
        known = holding.known(tx, "tern", key)
    assert set(known) == {MACS}
    reports = hall.lights["leaf-t01"].folder / "journal.json"
    until(lambda: '"same": true' in reports.read_text(), 20)
    [table] = holding.every(hall.desk, "tern", "leaf-t01")
    assert (table.kind, table.count, table.times, table.changed) == ("macs", 1, 0, None)


def test_fifty_thousand_macs_and_the_sessions_of_a_large_spine_are_told_whole(staged: Hall) -> None:
    hall = staged
    macs = "".join(f"02:00:5e:{one >> 16:02x}:{one >> 8 & 255:02x}:{one & 255:02x} dev p1 vlan 110 master br0\n" for one in range(50_000))  # fmt: skip
    peer = {"bgpState": "Established", "localAs": 65010, "remoteAs": 65001, "words": "x" * 5000}
    answers = hall.lights["leaf-t03"].answers
    answers[SESSIONS] = json.dumps({"default": {f"u{one}": peer for one in range(300)}})
    answers[MACS] = macs
    until(lambda: {one.kind: one.count for one in holding.every(hall.desk, "tern", "leaf-t03")} == {"macs": 50_000, "sessions": 300}, 60)  # fmt: skip


def test_a_clock_that_is_out_of_step_is_told_and_blames_nobody_for_another_hour(
    staged: Hall, monkeypatch: pytest.MonkeyPatch
) -> None:
    hall = staged

    class Ahead(datetime):
        @classmethod
        def fromtimestamp(cls, stamp: float, zone: object = None) -> datetime:  # type: ignore[override]
            return datetime.fromtimestamp(stamp, UTC) + timedelta(hours=3)

    until(lambda: len(watching.drift(hall.desk, "tern")) == 6, 20)
    at = datetime.now(UTC).replace(microsecond=0)
    log = f"ines pts/0 10.90.7.4 {(at + timedelta(hours=3)).isoformat()}   still logged in\n"
    hall.lights["leaf-t01"].answers["last -w --time-format iso -n 60"] = log
    monkeypatch.setattr("barrio.app.watching.datetime", Ahead)
    until(lambda: not all(one.true for one in watching.drift(hall.desk, "tern")), 20)
    until(lambda: "leaf-t01" in {one.switch for one in watching.drift(hall.desk, "tern") if not one.true}, 20)
    [one] = [one for one in watching.drift(hall.desk, "tern") if one.switch == "leaf-t01"]
    assert one.snapshot.state == ["its clock is more than an hour ahead of that of Barrio"]
    [person] = one.snapshot.signed_in
    assert person["who"] == "ines" and abs(datetime.fromisoformat(person["at"]) - at) < timedelta(minutes=1)
