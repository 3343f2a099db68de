"""What a drill makes of what happened: which flows it runs, what it foretells of each, and what counts as other than foretold. No lab runs here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import pytest

from barrio.core import Stock, compile
from barrio.core.brief.document import apply as edited
from barrio.core.brief.document import read
from barrio.core.catalogue.made import MADE
from barrio.core.compare.ripple import ripple
from barrio.core.ledger.wanted import Holdings
from barrio.core.rehearse.losses import Loss, chosen
from barrio.rehearsal import changing
from barrio.rehearsal.applying import Standing
from barrio.rehearsal.drilling import AGAIN, SLACK, STARTS, WaveDone, _faults, _foretold, _hops, flow_of, pairs_for
from barrio.rehearsal.flowing import Flowed
from barrio.rehearsal.ground import Done, NoLab
from barrio.rehearsal.taking import Taking, taking
from tests.rehearsal.test_rehearse import BRIEF, fabric
from tests.rehearsal.told import Told, right
from tests.rehearsal.whole import SMALL_LEAF


@pytest.fixture(scope="module")
def told() -> Told:
    return right(fabric())


def loss(told: Told, name: str) -> Loss:
    return chosen(told.compiled, list(told.lab.nodes), [name])[0]


def pair(told: Told, one: str, other: str) -> Any:
    by_name = {station.name: station for station in told.stations}
    return by_name[one], by_name[other]


ACROSS = ("one in tide-grid", "two in tide-grid")
BESIDE = ("two in tide-grid", "dish in sweep")


def test_flows_are_between_hosts_that_reach_each_other_those_that_are_touched_first(told: Told) -> None:
    found = pairs_for(told, {"leaf-q2"})
    assert 6 <= len(found) <= 12 and len(set(found)) == len(found)
    assert all("leaf-q2" in (*one.leaves, *other.leaves) for one, other in found[:4])
    assert all(
        one.host != other.host and not one.silent and "hermit" not in (one.host, other.host) for one, other in found
    )
    assert {one.segment == other.segment for one, other in found} == {True, False}


@pytest.mark.parametrize(
    ("name", "hosts", "most"),
    [
        ("spine-1", ACROSS, 0.9 + SLACK),
        ("spine-1:p1", ACROSS, 0.9 + SLACK),
        ("spine-1:p1:lossy", ACROSS, 0.0),
        ("leaf-q2", ACROSS, 5 + AGAIN),
        ("leaf-q2", BESIDE, 5 + AGAIN),
        ("leaf-q2:bgpd", ACROSS, 5 + AGAIN + STARTS),
        ("leaf-q2:restart", ACROSS, 5 + AGAIN + STARTS),
        ("spine-1:bgpd", ACROSS, 0.9 + SLACK),
    ],
)
def test_a_silence_may_last_as_long_as_it_takes_to_notice_or_until_it_is_back(
    told: Told, name: str, hosts: Any, most: float
) -> None:
    assert _foretold(told, loss(told, name), pair(told, *hosts), 5.0) == pytest.approx(most)


def test_what_stays_in_one_segment_of_one_leaf_hears_no_spine_go(told: Told) -> None:
    one, _ = pair(told, *ACROSS)
    beside = replace(one, host="beside")
    assert _foretold(told, loss(told, "spine-1"), (one, beside), 5.0) == 0.0


def flow(told: Told, *silences: tuple[float, float, int], most: float = 1.9, sent: int = 6000, doubled: int = 0) -> Any:
    said = {
        "sent": sent,
        "received": sent - sum(one[2] for one in silences),
        "doubled": doubled,
        "silences": silences,
        "heard": [],
    }
    return flow_of(pair(told, *ACROSS), said, 1.9, 7.0, most)


def test_only_silences_that_begin_while_it_is_away_count_against_what_was_foretold(told: Told) -> None:
    found = flow(told, (0.5, 1.8, 100), (2.0, 3.5, 700), (7.5, 9.0, 800))
    assert (found.longest, found.back, found.lost) == (1.5, 800, 1600)
    assert list(_faults(loss(told, "spine-1"), [found], [])) == []
    late = flow(told, (2.0, 4.5, 2500))
    assert list(_faults(loss(told, "spine-1"), [late], [])) == [
        "one in tide-grid → two in tide-grid heard nothing for 2.50 s; 1.9 s at most were foretold"
    ]


def test_packets_twice_paths_other_than_foretold_and_many_lost_where_few_were_are_faults(told: Told) -> None:
    spine, lossy = loss(told, "spine-1"), loss(told, "spine-1:p1:lossy")
    assert "had 90 packets twice" in next(_faults(spine, [flow(told, doubled=90)], []))
    assert list(_faults(lossy, [flow(told, (2.0, 6.0, 200))], [])) == [], "a long silence of one in a hundred is none"
    assert "lost 400 of 6,000 packets, where 1 %" in next(_faults(lossy, [flow(told, (2.0, 6.0, 400))], []))
    hops = _hops(
        '[{"dst": "10.0.0.1", "nexthops": [{}, {}]}, {"dst": "10.0.0.2/32", "gateway": "x"}, {"dst": "10.0.0.3", "type": "blackhole"}]'
    )
    assert hops == {"10.0.0.1": 2, "10.0.0.2": 1} and _hops("") == {}


def said(commands: Mapping[Any, str]) -> str:
    """The commands of whichever ground they are for."""
    return " ".join(commands.values())


def test_what_is_taken_away_is_brought_back(told: Told) -> None:
    link = taking(told, loss(told, "spine-1:p1"))
    assert "link set p1 down" in said(link.away) and "link set p1 up" in said(link.back)
    assert link.brings == Taking().brings and list(link.away) == [told.lab.node("spine-1").ground], (
        "where the switch is"
    )
    one_way = taking(told, loss(told, "spine-1:p1:one-way"))
    assert "netem loss 100%" in said(one_way.away) and "qdisc del dev p1" in said(one_way.back)
    whole = taking(told, loss(told, "leaf-q2"))
    for port in ("u1", "u2", "h1", "h2"):
        assert f"link set {port} down" in said(whole.away) and f"link set {port} up" in said(whole.back)
    assert "h6" not in said(whole.away), "where nobody hangs there is nothing to take"
    did: list[str] = []
    node = told.lab.node("leaf-q2")
    node.kill, node.revive = did.append, did.append  # type: ignore[method-assign]
    killed = taking(told, loss(told, "leaf-q2:bgpd"))
    killed.takes()
    killed.brings()
    assert did == ["bgpd", "bgpd"] and not killed.away


def turned(*edits: tuple[str, object]) -> changing._Change:
    before = fabric()
    after = compile(
        read(edited(BRIEF, list(edits))).brief,
        Stock(before.pools, Holdings(held=before.allocation.numbers)),
        MADE.with_models([SMALL_LEAF]),  # type: ignore[arg-type]
    )
    asking = right(before)
    return changing._Change(asking, before, after, ripple(before, after))


WAVES = (WaveDone(1, ("spine-1",), 2.0, 8.0, True), WaveDone(2, ("leaf-q2",), 8.0, 20.0, True))


def test_who_is_not_to_notice_may_lose_nothing_and_whose_leaf_is_changed_may_for_its_wave() -> None:
    quiet = turned(("underlay.timers", {"keepalive": 2, "hold": 6}))
    assert changing._most(quiet, pair(quiet.asking, *ACROSS), WAVES) == 0.0  # type: ignore[arg-type]
    moved = turned(("underlay.addressing", "unnumbered"))
    assert changing._most(moved, pair(moved.asking, *ACROSS), WAVES) == 12 + AGAIN  # type: ignore[arg-type]


def test_sessions_and_devices_that_go_without_a_word_are_told_and_those_that_were_said_are_not() -> None:
    quiet = turned(("underlay.timers", {"keepalive": 2, "hold": 6}))
    session = next(iter(changing.sessions_of(quiet.after.models["leaf/q2/a"]).every))
    was = {"leaf/q2/a": Standing({}, {"u1": 1, "h1": 1}, {"u1": 3, "h1": 4})}
    now = {"leaf/q2/a": Standing({}, {"u1": 2, "h1": 1}, {"u1": 3, "h1": 9})}
    found = list(changing._unsaid(quiet, {session}, was, now))
    assert found == [
        f"the session {session} restarted, which was not said", "h1 of leaf-q2 went down or was made anew, which was not said",
        "u1 of leaf-q2 went down or was made anew, which was not said",
    ]  # fmt: skip
    swapped = turned(("models", {"spine/1": "cantera-c64"}))
    assert [words for words in changing._unsaid(swapped, set(), was, now) if words.startswith("u1")] == [], (
        "its spine is another machine"
    )
    quiet.moved["leaf-q2"] = ["h1", "u1"]
    assert list(changing._unsaid(quiet, set(), was, now)) == [], "a hand was on them"


def test_a_switch_that_does_not_take_its_files_is_told_and_the_change_goes_on(monkeypatch: pytest.MonkeyPatch) -> None:
    one = turned(("underlay.timers", {"keepalive": 2, "hold": 6}))

    def refuses(*words: object) -> None:
        raise NoLab("leaf-q2: frr-reload did not take frr.conf whole")

    monkeypatch.setattr(changing, "apply", refuses)
    assert one._put(one.what.by_key["leaf/q2/a"]) == "leaf-q2: frr-reload did not take frr.conf whole"
    monkeypatch.setattr(changing, "apply", lambda *words: None)
    assert one._put(one.what.by_key["leaf/q2/a"]) == ""


def test_a_change_can_be_left_while_it_waits_for_sessions() -> None:
    one = turned(("underlay.timers", {"keepalive": 2, "hold": 6}))

    class Left(Exception):
        pass

    def leave() -> None:
        raise Left

    one.asking.leave = leave
    with pytest.raises(Left):
        one.missing()


def test_a_change_tells_the_rate_that_its_flows_had() -> None:
    one = turned(("underlay.timers", {"keepalive": 2, "hold": 6}))
    one.asking.lab.ground.rate = 500
    one.asking.lab.ground.run = lambda *words, **more: Done(0, "", "")  # type: ignore[method-assign]
    told = changing._told(one, Flowed((), one.began, 0), [], {})
    assert told.rate == changing._rate(one.asking) == 250
