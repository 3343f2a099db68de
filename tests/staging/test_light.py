"""Switches without anything on them are let in and staged, by the real calls: light ones, whose agent is the real one and whose hands are empty."""

from __future__ import annotations

import base64
import gzip
import hashlib
import json
import random
import re
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

import pytest

from barrio.app import drafts, draining, editions, officesecrets, rollcall, stagings
from barrio.core import Refused
from barrio.core.staging import steps
from barrio.core.staging.boxes import box
from barrio.staging.agent import ASK, FILES, Server, Wrong
from barrio.staging.faults import MOMENTS
from barrio.staging.simulate import LightKey
from barrio.store import stagings as stored
from barrio.store.errors import Missing
from tests.processes import until
from tests.staging.conftest import NAMES, TERN, Hall, number


def test_from_bare_to_handed_over_in_waves_and_a_second_run_changes_nothing(hall: Hall) -> None:
    hall.bind()
    for name in NAMES:
        hall.light(name)
    hall.admit(*NAMES)
    stagings.begin(hall.desk, "tern", stagings.Wanted(at_once=4))
    hall.done()
    assert all(hall.has(name) for name in NAMES)
    found = hall.told()
    assert {(one.step, one.state) for one in found.switches} == {("handed over", "done")}
    waves = {one.wave for one in found.switches}
    assert len(waves) >= 2, "not all in one go"
    lines = stagings.lines(hall.desk, "tern", found.staging.id, "leaf-t01")
    steps = list(dict.fromkeys(one.step for one in lines))
    assert steps == ["admitted", "software", "first boot", "all files", "checked", "saved", "handed over"]
    assert any(one.command.startswith("vtysh --dryrun") and one.code == 0 for one in lines), "what ran is on record"
    stagings.begin(hall.desk, "tern", stagings.Wanted())
    hall.done()
    again = hall.told()
    assert again.staging.id != found.staging.id
    words = [one.words for one in stagings.lines(hall.desk, "tern", again.staging.id, "leaf-t01")]
    assert "nothing is other than it has" in words


def test_what_a_target_puts_on_before_the_first_boot_comes_first_and_the_rest_after_it(
    hall: Hall, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("barrio.app.turns._first", lambda compiled, switch: {"etc/hosts", "etc/hostname"})
    hall.bind()
    hall.light("spine-1")
    hall.admit("spine-1")
    for _ in range(2):
        stagings.begin(hall.desk, "tern", stagings.Wanted(switches=("spine-1",)))
        hall.done()
        assert hall.has("spine-1"), "the second time nothing is taken away for being no part of the first boot"
    lines = stagings.lines(hall.desk, "tern", 1, "spine-1")
    first = next(one.words for one in lines if one.step == "first boot")
    assert re.fullmatch("[12] files are there, read by their programs", first)


def test_nothing_is_given_to_who_was_not_let_in_and_who_is_refused_stays_so(hall: Hall) -> None:
    hall.bind()
    stranger = hall.light("leaf-t01", serial="X-9")
    until(lambda: bool(hall.knocking()), 20)
    [knocking] = hall.knocking()
    assert knocking.expected is None and knocking.knock.state == "waits"
    with pytest.raises(Refused, match="leaf-t01 is expected as T-LEAF-T01, and this is X-9"):
        rollcall.admit(hall.desk, "tern", knocking.knock.key, "leaf-t01")
    with pytest.raises(Refused, match="Say why"):
        rollcall.turn_away(hall.desk, "tern", knocking.knock.key, " ")
    rollcall.turn_away(hall.desk, "tern", knocking.knock.key, "nobody ordered it")
    with pytest.raises(Refused, match="was refused, and stays so: nobody ordered it"):
        rollcall.admit(hall.desk, "tern", knocking.knock.key, "leaf-t01")
    stagings.begin(hall.desk, "tern", stagings.Wanted())
    time.sleep(0.5)
    assert not (stranger.folder / "root").exists() and hall.at("leaf-t01")[0] == "expected"


@pytest.mark.parametrize(
    ("fault", "step", "words"),
    [
        ("wrong model", "software", "it says it is a a model that nobody planned"),
        ("wrong airflow", "software", "its air goes sideways"),
        ("parser", "all files", "vtysh does not take etc/frr/frr.conf"),
        ("download", "all files", "a file came otherwise than it was sent"),
        ("crossed", "checked", "u1 hears somebody-else p1"),
    ],
)
def test_an_ordered_fault_stops_where_it_is_says_what_and_going_on_brings_it_to_the_end(
    hall: Hall, fault: str, step: str, words: str
) -> None:
    hall.bind()
    one = hall.light("leaf-t01", fault)
    for name in NAMES:
        if name != "leaf-t01":
            hall.light(name)
    hall.admit(*NAMES)
    stagings.begin(hall.desk, "tern", stagings.Wanted(at_once=6))
    assert words in hall.failed("leaf-t01") and hall.at("leaf-t01")[0] == step
    told = hall.told()
    assert told.staging.state == "paused" and "nothing more begins" in told.staging.words
    beside = [
        each
        for each in told.switches
        if each.wave == next(e.wave for e in told.switches if e.name == "leaf-t01") and each.name != "leaf-t01"
    ]
    if step == "all files":
        assert one.file("etc/frr/frr.conf") is None, "nothing of it was put in place"
        assert all(each.step != "handed over" for each in beside), "nor of those that go with it"
    with pytest.raises(Refused, match="Switches failed that nobody tried again"):
        stagings.go_on(hall.desk, "tern")
    one.faults.clear()
    hall.stop.set()
    for thread in hall.threads:
        thread.join(20)
    hall.stop = threading.Event()
    for name in NAMES:
        hall.light(name)
    stagings.again(hall.desk, "tern", "leaf-t01")
    hall.done()
    assert all(hall.has(name) for name in NAMES)


def test_a_lock_out_goes_back_by_itself_and_says_so(hall: Hall) -> None:
    hall.bind()
    one = hall.light("spine-1", "lock-out")
    put = one.folder / "root" / "etc/frr/frr.conf"
    put.parent.mkdir(parents=True)
    put.write_text("as it was\n")
    hall.admit("spine-1")
    stagings.begin(hall.desk, "tern", stagings.Wanted(switches=("spine-1",), confirm_seconds=1))
    assert "Barrio was not reached from the new files in time, so the old files are back" in hall.failed("spine-1")
    assert put.read_text() == "as it was\n" and one.file("etc/network/interfaces") is None


def test_when_one_of_a_wave_does_not_take_its_files_all_of_it_go_back_and_then_go_on_together(hall: Hall) -> None:
    hall.bind()
    for name in NAMES:
        hall.light(name, *(["apply"] if name == "leaf-t02" else []))
        was = hall.lights[name].folder / "root/etc/hosts"
        was.parent.mkdir(parents=True)
        was.write_text("as it was\n")
    hall.admit(*NAMES)
    stagings.begin(hall.desk, "tern", stagings.Wanted(at_once=6))
    assert "“ifreload --all” says error:; the old files are back" in hall.failed("leaf-t02")
    wave = {one.wave for one in hall.told().switches if one.name == "leaf-t02"}
    beside = [one.name for one in hall.told().switches if {one.wave} == wave]
    assert len(beside) > 1
    until(lambda: all(hall.lights[name].file("etc/hosts") == b"as it was\n" for name in beside), 20)
    assert all(hall.lights[name].file("etc/frr/frr.conf") is None for name in beside), "not one is left on its own"
    hall.lights["leaf-t02"].faults.clear()
    stagings.again(hall.desk, "tern", "leaf-t02")
    hall.done()
    assert all(hall.has(name) for name in NAMES)


def test_a_staging_is_ended_and_all_that_it_changed_is_put_back(hall: Hall) -> None:
    hall.bind()
    for name in NAMES:
        hall.light(name, moments=("half back",) if name == "spine-1" else ())
        was = hall.lights[name].folder / "root/etc/hosts"
        was.parent.mkdir(parents=True)
        was.write_text("as it was\n")
    first = [name for name in NAMES if name != "leaf-t04"]
    hall.admit(*first)
    stagings.begin(hall.desk, "tern", stagings.Wanted(at_once=1))
    until(lambda: sum(one.step == "handed over" for one in hall.told().switches) == 5, 60)
    stagings.put_back(hall.desk, "tern")
    until(lambda: hall.told().staging.ended_at is not None, 60)
    assert (hall.told().staging.state, hall.told().staging.words) == ("left", "the old files are back")
    assert hall.at("leaf-t04")[1:] == ("skipped", "nothing of it was changed")
    for name in first:
        assert hall.lights[name].file("etc/hosts") == b"as it was\n"
        assert hall.lights[name].file("etc/frr/frr.conf") is None and hall.at(name)[2] == "has its old files again"
    assert hall.lights["spine-1"].times == 1, "its power went while it went back"
    stagings.begin(hall.desk, "tern", stagings.Wanted(switches=("spine-1",)))
    hall.done()
    assert hall.has("spine-1"), "and what was put back can be staged again"


def test_one_that_was_given_up_and_comes_after_all_goes_back_as_its_wave_did(hall: Hall) -> None:
    """It put its files in place, and its power went before it could say so, for longer than anybody waited."""
    hall.bind()
    late = hall.light("leaf-t01", moments=("committed",), away=3)
    hall.admit("leaf-t01")
    stagings.begin(hall.desk, "tern", stagings.Wanted(switches=("leaf-t01",)))
    until(lambda: late.times == 1, 20)
    with hall.desk.reading() as tx:
        one = stored.under_way(tx.connection, "tern")
        assert one is not None
        [mine] = stored.switches(tx.connection, one.id)
    hall.desk.writing(lambda tx: stagings.fail(tx, one, mine, "is not heard of"))
    assert late.file("etc/frr/frr.conf") is not None
    until(lambda: late.file("etc/frr/frr.conf") is None, 20)
    assert hall.failed("leaf-t01") == "is not heard of"


def test_power_lost_at_any_moment_leaves_nothing_half_and_nothing_twice(hall: Hall) -> None:
    hall.bind()
    chance = random.Random(17)
    for name in NAMES:
        hall.light(name, moments=tuple(chance.sample(MOMENTS, 4)))
    hall.admit(*NAMES)
    stagings.begin(hall.desk, "tern", stagings.Wanted(at_once=6))
    hall.done()
    assert all(hall.has(name) for name in NAMES)
    assert sum(one.times for one in hall.lights.values()) >= 12, "their power went"


def test_skipping_says_why_and_the_others_of_a_wave_go_on(hall: Hall) -> None:
    hall.bind()
    for name in NAMES:
        if name != "leaf-t03":
            hall.light(name)
    hall.admit(*(name for name in NAMES if name != "leaf-t03"))
    stagings.begin(hall.desk, "tern", stagings.Wanted(at_once=6))
    until(lambda: sum("waits until all of its wave are" in one.words for one in hall.told().switches) == 5, 60)
    assert not any(hall.has(name) for name in NAMES if name != "leaf-t03"), "the network is never left half changed"
    with pytest.raises(Refused, match="Say why"):
        stagings.skip(hall.desk, "tern", "leaf-t03", "")
    stagings.skip(hall.desk, "tern", "leaf-t03", "its box is on its way")
    hall.done()
    assert "5 switches were handed over, 1 were skipped" in hall.told().staging.words
    with pytest.raises(Missing, match="No staging of tern is under way"):
        stagings.pause(hall.desk, "tern")


def test_a_box_is_replaced_by_another_and_the_old_one_never_comes_back(hall: Hall) -> None:
    hall.bind()
    old = hall.light("leaf-t02")
    hall.admit("leaf-t02")
    draining.take_out(hall.desk, "tern", "leaf-t02", "its fans died", even_so=True)
    until(lambda: any(one.knock.state == "refused" for one in hall.knocking()), 20)
    with pytest.raises(Refused, match="was taken out; let it in again first"):
        rollcall.bind(hall.desk, "tern", "leaf-t03", box("T-leaf-t02"))
    rollcall.bind(hall.desk, "tern", "leaf-t02", box("T-new"))
    hall.light("leaf-t02", serial="T-new")
    until(lambda: any(one.knock.serial == "T-NEW" for one in hall.knocking()), 20)
    [new] = [one for one in hall.knocking() if one.knock.serial == "T-NEW"]
    rollcall.admit(hall.desk, "tern", new.knock.key, "leaf-t02")
    stagings.begin(hall.desk, "tern", stagings.Wanted(switches=("leaf-t02",)))
    hall.done()
    assert hall.has("leaf-t02") and old.file("etc/frr/frr.conf") is None


def request(hall: Hall, method: str, path: str, body: bytes, key: Any, counter: int, by: Any = None) -> int:
    """The status of a request that is signed by hand; `by` signs in the key's name."""
    message = b"\n".join(
        (method.encode(), path.encode(), str(counter).encode(), hashlib.sha256(body).hexdigest().encode())
    )
    head = {
        "Barrio-Key": base64.b64encode(key.public).decode(), "Barrio-Counter": str(counter),
        "Barrio-Signature": base64.b64encode((by or key).sign(message)).decode(),
        "Content-Encoding": "gzip" if body.startswith(b"\x1f\x8b") else "identity",
    }  # fmt: skip
    try:
        with urllib.request.urlopen(
            urllib.request.Request(hall.address + path, body or None, head, method=method)
        ) as answer:
            return int(answer.status)
    except urllib.error.HTTPError as error:
        return int(error.code)


def wanted(*digests: str) -> bytes:
    return json.dumps(digests).encode()


def test_another_s_key_a_request_again_and_a_file_of_another_give_nothing(hall: Hall, tmp_path: Path) -> None:
    hall.bind()
    mine, other = (LightKey(place) for place in (tmp_path / "mine", tmp_path / "other") if place.mkdir() is None)
    body = json.dumps({"serial": "T-leaf-t01"}).encode()
    assert request(hall, "POST", ASK, body, mine, 10) == 200
    assert request(hall, "POST", ASK, body, mine, 10) == 401, "the same request again"
    assert request(hall, "POST", ASK, body, mine, 9) == 401, "an older one"
    assert request(hall, "POST", ASK, body, mine, 11, by=other) == 401, "signed by another"
    assert request(hall, "POST", ASK, body, mine, 11) == 200
    rollcall.admit(hall.desk, "tern", mine.public, "leaf-t01")
    stagings.begin(hall.desk, "tern", stagings.Wanted(switches=("leaf-t01",)))
    guessed = json.dumps({"serial": "T-leaf-t01"}).encode()
    assert request(hall, "POST", ASK, guessed, other, 1) == 200
    assert [one.knock.state for one in hall.knocking()] == ["waits"], "a serial that is guessed is one more who knocks"
    digest = hashlib.sha256(hall.wanted("leaf-t01")["etc/frr/frr.conf"].encode()).hexdigest()
    theirs = hashlib.sha256(hall.wanted("leaf-t02")["etc/frr/frr.conf"].encode()).hexdigest()
    assert request(hall, "POST", FILES, wanted(digest), other, 2) == 401, "who was not let in has no file"
    assert request(hall, "POST", FILES, wanted(digest, theirs), mine, 12) == 401, "nor has anybody another's"
    assert request(hall, "POST", FILES, wanted(digest), mine, 13) == 200
    assert request(hall, "POST", ASK, b"[1]", mine, 14) == 422 and request(hall, "POST", ASK, b"{", mine, 15) == 422
    changed = json.dumps({"serial": "T-leaf-t02"}).encode()
    assert request(hall, "POST", ASK, changed, mine, 16) == 200
    assert any(one.knock.state == "refused" and "says now that it is" in one.knock.why for one in hall.knocking()), (
        "who changes what it is is out"
    )


def test_a_box_that_was_mistyped_waits_again_and_one_that_was_mended_may_knock_again(hall: Hall) -> None:
    hall.bind()
    hall.light("leaf-t01")
    hall.light("leaf-t02")
    hall.admit("leaf-t01", "leaf-t02")
    rollcall.loosen(hall.desk, "tern", "leaf-t01")
    draining.take_out(hall.desk, "tern", "leaf-t02", "its fans died", even_so=True)
    states = {one.knock.serial: one.knock.state for one in hall.knocking()}
    assert states == {number("leaf-t01"): "waits", number("leaf-t02"): "refused"}
    rollcall.let_back(hall.desk, "tern", box(number("leaf-t02")))
    for name in ("leaf-t01", "leaf-t02"):
        rollcall.bind(hall.desk, "tern", name, box(number(name)))
    hall.admit("leaf-t01", "leaf-t02")
    assert hall.knocking() == []


@pytest.mark.parametrize(
    "said",
    [
        {"serial": "T-1", "model": "a\0b", "neighbours": [{"switch": "\ud800", "port": 7}, 3] * 1000, "ports": 10**40},
        {"serial": "T-1", "neighbours": "x" * 200_000, "software": {"a": "\0"}},
        {"serial": "T-LEAF-T01", "report": {"task": "1", "ran": 7}},
        {
            "serial": "T-LEAF-T01",
            "report": {
                "ok": False,
                "words": "\0\ud800",
                "ran": [{"command": "\0", "code": 10**30, "output": "\ud800"}],
            },
        },
    ],
)
def test_nonsense_that_is_signed_breaks_nothing(hall: Hall, tmp_path: Path, said: dict[str, Any]) -> None:
    hall.bind()
    (tmp_path / "mine").mkdir()
    mine = LightKey(tmp_path / "mine")
    assert request(hall, "POST", ASK, json.dumps({"serial": said["serial"]}).encode(), mine, 1) == 200
    assert request(hall, "POST", ASK, b"{}", mine, 1 << 63) == 401
    if said["serial"] == number("leaf-t01"):
        rollcall.admit(hall.desk, "tern", mine.public, "leaf-t01")
        stagings.begin(hall.desk, "tern", stagings.Wanted(switches=("leaf-t01",)))
        assert request(hall, "POST", ASK, json.dumps({"serial": said["serial"]}).encode(), mine, 2) == 200
        task = f"{hall.told().staging.id}/{hall.told().switches[0].switch}/all files/prepare/0"
        said = {**said, "report": {"task": task, **said["report"]}}
    assert request(hall, "POST", ASK, json.dumps(said).encode(), mine, 3) == 200
    assert all(len(json.dumps(one.knock.said)) < 200_000 for one in hall.knocking())


def test_what_is_packed_is_read_as_far_as_its_sender_may_tell_it(hall: Hall, tmp_path: Path) -> None:
    hall.bind()
    (tmp_path / "mine").mkdir()
    mine = LightKey(tmp_path / "mine")
    little = {"serial": "T-LEAF-T01", "neighbours": [{"switch": f"leaf-{one}", "port": "u1"} for one in range(600)]}
    long = {**little, "report": {"task": "1", "ran": ["x" * 400_000]}}

    def says(said: dict[str, Any], counter: int, cut: int = 0) -> int:
        body = gzip.compress(json.dumps(said).encode())
        return request(hall, "POST", ASK, body[: len(body) - cut], mine, counter)

    assert says(little, 1) == 200, "who knocks may have many neighbours"
    assert says(long, 2) == 413, "and no more"
    rollcall.admit(hall.desk, "tern", mine.public, "leaf-t01")
    assert says(long, 3) == 200
    assert says({"serial": "x" * (30 << 20)}, 4) == 413, "little that unpacks to much is not unpacked"
    assert says(long, 5, cut=9) == 413 and request(hall, "POST", ASK, b"\x1f\x8bno", mine, 6) == 413


def test_an_agent_takes_nothing_over_an_open_wire(tmp_path: Path) -> None:
    with pytest.raises(Wrong, match="is not https"):
        Server("http://barrio.example", LightKey(tmp_path), tmp_path)


def test_a_switch_that_never_says_another_word_fails_when_its_time_is_up(
    hall: Hall, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Whoever sweeps takes a staging further, though no switch asks any more."""
    monkeypatch.setitem(steps.SECONDS, "software", 1)  # type: ignore[arg-type]
    monkeypatch.setitem(steps.SECONDS, "all files", 1)  # type: ignore[arg-type]
    hall.bind()
    one = hall.light("leaf-t01", "silent")
    hall.admit("leaf-t01")
    stagings.begin(hall.desk, "tern", stagings.Wanted(switches=("leaf-t01",)))
    until(lambda: stagings.advance_all(hall.desk.house) or hall.at("leaf-t01")[1] == "failed", 20)
    assert "took longer than" in hall.at("leaf-t01")[2] and one.file("etc/frr/frr.conf") is None
    assert hall.told().staging.state == "paused"


def test_what_cannot_be_staged_says_why(hall: Hall) -> None:
    with pytest.raises(Refused, match="has no switch leaf-t99"):
        stagings.begin(hall.desk, "tern", stagings.Wanted(switches=("leaf-t99",)))
    stagings.begin(hall.desk, "tern", stagings.Wanted())
    with pytest.raises(Refused, match="is under way"):
        stagings.begin(hall.desk, "tern", stagings.Wanted())
    stagings.leave(hall.desk, "tern")
    assert hall.told().staging.state == "left"
    with pytest.raises(Missing, match="Nothing is bound to leaf-t01"):
        rollcall.loosen(hall.desk, "tern", "leaf-t01")


def test_a_secret_reaches_the_switch_and_stands_in_no_edition_and_no_log(hall: Hall) -> None:
    """An edition says a secret by its name; what is sent has it in its place, and is checked as it was sent."""
    text = f"{TERN}\nadditions:\n  rsyslog:\n    - '# token <secret:quay>'\n"
    drafts.save(hall.desk, "tern", drafts.version(hall.desk, "tern"), lambda was: text, "a token")
    editions.seal(hall.desk, "tern", drafts.version(hall.desk, "tern"), "with a token")
    hall.bind()
    one = hall.light("leaf-t01")
    hall.admit("leaf-t01")
    stagings.begin(hall.desk, "tern", stagings.Wanted(switches=("leaf-t01",)))
    assert "The secret quay was never set" in hall.failed("leaf-t01")
    officesecrets.put(hall.desk, "quay", "tide and moon")
    stagings.again(hall.desk, "tern", "leaf-t01")
    hall.done()
    said = (one.file("etc/rsyslog.d/40-fabric.conf") or b"").decode()
    assert "# token tide and moon" in said
    assert "# token <secret:quay>" in hall.wanted("leaf-t01")["etc/rsyslog.d/40-fabric.conf"]
    log = stagings.lines(hall.desk, "tern", hall.told().staging.id, "leaf-t01")
    assert not any("tide" in line.words + line.command + line.output for line in log)
