"""Switches are drained before they are touched: told to, not called drained before every neighbour goes another way, and never where others are cut off."""

from __future__ import annotations

import json

import pytest

from barrio.app import draining, rollcall, turns
from barrio.core import Refused, compile
from barrio.core.brief.document import read
from barrio.core.staging import drain
from barrio.core.staging.errands import plugs_of
from barrio.places import EXAMPLES
from barrio.store import stagings as stored
from tests.cli import barrio
from tests.processes import until
from tests.staging.conftest import TERN, Hall

ROUTE_4, ROUTE_6 = drain.ROUTES
MARLIN, PELICAN = ((EXAMPLES / f"{name}.yaml").read_text() for name in ("marlin", "pelican"))


def said(hall: Hall, name: str) -> tuple[str, str]:
    return next(((one.state, one.words) for one in draining.every(hall.desk, "tern") if one.name == name), ("", ""))


def goes_by(hall: Hall, name: str, port: str, prefix: str) -> None:
    """Have a light switch answer that it goes to a prefix by a port."""
    route = {"dst": prefix, "protocol": "bgp", "nexthops": [{"dev": port}]}
    hall.lights[name].answers[" ".join(ROUTE_4)] = json.dumps([route])


def test_what_goes_with_a_switch_is_told_before() -> None:
    compiled = compile(read(MARLIN).brief)
    names = {str(one.name): one.key for one in compiled.staged}
    leaf = drain.cost(compiled, names["leaf-r01a"])
    pair = {str(host.host) for host in compiled.attachments.at[names["leaf-r01a"]].values()}
    assert set(leaf.dark) | set(leaf.other_way) == pair and leaf.other_way
    assert all(any(key != names["leaf-r01a"] for key, _ in compiled.attachments.hosts[one].ports) for one in leaf.other_way)  # fmt: skip
    spine = drain.cost(compiled, names["spine-1"])
    assert spine.dark == () and spine.cut_off == () and all((keeps, of) == (6, 8) for _, keeps, of in spine.keeps)
    spines = [key for key, one in compiled.structure.by_key.items() if one.tier == "spine"]
    all_but_one = drain.cost(compiled, spines[0], spines[1:])
    assert set(all_but_one.cut_off) and all(keeps == 0 for _, keeps, _ in all_but_one.keeps)


@pytest.mark.parametrize("underlay", ["ebgp", "ospf", "isis"])
def test_each_underlay_is_told_in_its_own_words_and_told_again_to_carry(underlay: str) -> None:
    more = "" if underlay == "ebgp" else f"{underlay}"
    text = (
        PELICAN if not more else TERN.replace("  asn: per-leaf\n", f"  protocol: {more}\noverlay: {{protocol: ibgp}}\n")
    )
    model = next(iter(compile(read(text).brief).models.values()))
    on, off = (["\n".join(argv[2:]) for argv in drain.order(model, drains)] for drains in (True, False))
    words = {"ospf": "max-metric router-lsa administrative", "isis": "set-overload-bit"}
    assert any("bgp graceful-shutdown" in one for one in on)
    assert sum(words.get(underlay, "") in one for one in on) == (1 if more else len(on))
    assert [one.replace("no ", "") for one in off] == on and all("no " in one for one in off)


def test_a_neighbour_passes_by_a_switch_where_it_goes_by_its_port_to_what_is_not_its_own() -> None:
    compiled = compile(read(TERN).brief)
    names = {str(one.name): one.key for one in compiled.staged}
    spine, leaf = compiled.models[names["spine-1"]], names["leaf-t01"]
    own = str(spine.loopback_v4).split("/")[0]
    routes = [
        {"dst": own, "protocol": "bgp", "dev": "u1"},
        {"dst": "10.1.0.0/24", "protocol": "kernel", "dev": "u1"},
        {"dst": "10.2.0.0/24", "protocol": "bgp", "dev": "u2"},
        {"dst": "10.3.0.0/24", "protocol": "bgp", "nexthops": [{"dev": "u2"}, {"dev": "u1"}]},
        {"dst": "10.4.0.0/24", "protocol": "bgp", "dev": "u1"},
    ]
    passing = drain.passing(compiled, names["spine-1"], leaf, {ROUTE_4: json.dumps(routes), ROUTE_6: ""})
    assert passing == ["10.3.0.0/24", "10.4.0.0/24"]
    for nothing in ("nothing", "{}", "[1]", '[{"dst": "10.9.0.0/24", "protocol": "bgp", "nexthops": 1}]'):
        with pytest.raises(ValueError, match=r"Expecting value|no list of objects"):
            drain.passing(compiled, names["spine-1"], leaf, {ROUTE_4: nothing})


def test_a_switch_is_drained_once_every_neighbour_goes_another_way_and_carries_again(staged: Hall) -> None:
    hall = staged
    goes_by(hall, "leaf-t03", "u1", "10.60.0.9")
    draining.begin(hall.desk, "tern", "spine-1", "new fans")
    until(lambda: said(hall, "spine-1")[0] == "asked", 20)
    asked = lambda: next(iter(draining.every(hall.desk, "tern"))).seen  # noqa: E731
    until(lambda: len(asked()) == 4, 20)
    assert sorted(asked().values()) == ["", "", "", "10.60.0.9"] and said(hall, "spine-1")[0] == "asked"
    hall.lights["leaf-t03"].answers.clear()
    until(lambda: said(hall, "spine-1")[0] == "drained", 20)
    assert "4 neighbours say so" in said(hall, "spine-1")[1]
    ran = [one for one in hall.lights["spine-1"].ran if "graceful-shutdown" in one]
    assert ran == ["vtysh -c configure terminal -c bgp graceful-shutdown"], "told once"
    draining.back(hall.desk, "tern", "spine-1")
    until(lambda: said(hall, "spine-1") == ("", ""), 20)
    until(lambda: any("no bgp graceful-shutdown" in one for one in hall.lights["spine-1"].ran), 20)


def test_who_is_still_passed_by_in_time_is_kept_and_says_by_whom(staged: Hall, monkeypatch: pytest.MonkeyPatch) -> None:
    hall = staged
    monkeypatch.setattr("barrio.app.draining.SECONDS", 2)
    goes_by(hall, "leaf-t02", "u1", "10.60.0.9")
    draining.begin(hall.desk, "tern", "spine-1", "new fans")
    until(lambda: said(hall, "spine-1")[0] == "kept", 30)
    assert "leaf-t02 still goes by it to 10.60.0.9" in said(hall, "spine-1")[1]


def test_a_neighbour_that_does_not_tell_is_not_taken_to_go_another_way(staged: Hall, monkeypatch: pytest.MonkeyPatch) -> None:  # fmt: skip
    hall = staged
    monkeypatch.setattr("barrio.app.draining.SECONDS", 2)
    hall.lights["leaf-t02"].faults.add("no routes")
    draining.begin(hall.desk, "tern", "spine-1", "new fans")
    until(lambda: said(hall, "spine-1")[0] == "kept", 30)
    assert "leaf-t02 still goes by it to what its answer does not tell" in said(hall, "spine-1")[1]


def test_what_cannot_be_drained_says_why(staged: Hall) -> None:
    hall = staged

    def refused(name: str, why: str = "new fans") -> str:
        with pytest.raises(Refused) as raised:
            draining.begin(hall.desk, "tern", name, why)
        return str(raised.value)

    assert "Say why" in refused("spine-1", " ")
    draining.begin(hall.desk, "tern", "spine-1", "new fans")
    assert "drained already" in refused("spine-1")
    assert "Nobody would reach" in refused("spine-2") and "beside spine-1" in refused("spine-2")
    rollcall.loosen(hall.desk, "tern", "leaf-t04")
    assert "Nobody was let in as leaf-t04" in refused("leaf-t04")


def test_one_that_is_alive_goes_only_when_it_is_drained_or_even_so(staged: Hall) -> None:
    hall = staged
    with pytest.raises(Refused, match=r"it is alive and carries traffic\. Drain it first"):
        draining.take_out(hall.desk, "tern", "leaf-t01", "sold", even_so=False)
    draining.begin(hall.desk, "tern", "leaf-t01", "sold")
    until(lambda: said(hall, "leaf-t01")[0] == "drained", 20)
    draining.take_out(hall.desk, "tern", "leaf-t01", "sold", even_so=False)
    assert draining.every(hall.desk, "tern") == []
    assert {one.switch.name for one in rollcall.roll(hall.desk, "tern") if one.knock is None} == {"leaf-t01"}


def test_pages_say_what_to_do_in_its_order_and_every_plug(staged: Hall) -> None:
    hall = staged

    def page(*words: str, code: int = 0) -> str:
        return barrio("stage", *words, "--at", hall.address, code=code)

    text = page("page", "tern", "leaf-t01", "replace")
    with hall.desk.reading() as tx:
        compiled = rollcall.newest(tx, "tern")
    for port, far, _ in plugs_of(compiled, "leaf/t01/a"):
        assert f"{port} " in text and far in text
    order = ["stage drain", "T-LEAF-T01", "Take the plugs out", "never comes back", "Put the new box", "stage bind", "from", "stage begin"]  # fmt: skip
    places = [text.index(one) for one in order]
    assert places == sorted(places)
    assert "stands where the newest edition has it" in page("page", "tern", "leaf-t01", "move", code=2)
    hall.write(lambda text: f"{text}\nunits: {{leaf/t01/a: 7}}\n")
    moved = page("page", "tern", "leaf-t01", "move")
    assert "put it into rack t01, unit 7" in moved and "undrain tern leaf-t01" in moved
    assert "There is no page for a walk" in page("page", "tern", "leaf-t01", "a walk", code=2)
    assert "keeps 1 of 2 links" in page("drain", "tern", "spine-1")
    assert "told to be drained" in page("drain", "tern", "spine-1", "--why", "new fans")
    until(lambda: "spine-1: drained" in page("drain", "tern"), 20)
    page("undrain", "tern", "spine-1")
    until(lambda: "Nothing is drained" in page("drain", "tern"), 20)


def test_nobody_is_expected_to_go_by_one_that_is_drained(staged: Hall) -> None:
    """Neither by checks of a staging nor by what is watched: otherwise each drained spine would make every leaf look wrong."""
    hall = staged
    draining.begin(hall.desk, "tern", "spine-1", "new fans")
    with hall.desk.reading() as tx:
        one = stored.newest(tx.connection, "tern", 1)[0]
        assert turns._there(tx, one) == {"spine/2", "leaf/t01/a", "leaf/t02/a", "leaf/t03/a", "leaf/t04/a"}
