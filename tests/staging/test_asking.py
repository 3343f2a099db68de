"""Switches asked by hand: only what looks, only what is on the list, on record, and those that answer alike together; and who was signed in when something changed."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest

from barrio.app import asking, watching
from barrio.core import Refused
from barrio.core.observe.commands import SHIPPED, argv_of
from barrio.core.observe.signed import LAST, between, signed_in
from barrio.store.errors import Missing
from tests.cli import barrio
from tests.processes import until
from tests.staging.conftest import NAMES, Hall
from tests.staging.test_drift import FRR, of, put

SUMMARY = "vtysh -c show bgp summary"


def test_only_commands_that_look_can_be_asked() -> None:
    assert all(argv_of(one.command) for one in SHIPPED)
    assert argv_of("ip  -br address") == ["ip", "-br", "address"]
    for wrong in (
        "reboot", "ip link set u1 down", "ip link show; reboot", "show version | tee x", "vtysh -c conf", "nft flush ruleset", "journalctl -f",
        "bridge vlan add dev h1 vid 2", "show $(reboot)", "ip route add default via 10.0.0.1", "ethtool -s u1 speed 10", "cat /etc/shadow", "",
    ):  # fmt: skip
        with pytest.raises(Refused, match="no command that only looks"):
            argv_of(wrong)


def test_those_that_answer_alike_stand_together_and_the_silent_are_named(
    staged: Hall, monkeypatch: pytest.MonkeyPatch
) -> None:
    hall = staged
    for name, light in hall.lights.items():
        light.answers[SUMMARY] = "4 sessions\n" if name.startswith("spine") else "2 sessions, password 8 hunter2"
    number = asking.ask(hall.desk, "tern", "show  bgp summary", [])
    until(lambda: not asking.found(hall.desk, "tern", number)[0].waits, 30)
    asked, found = asking.found(hall.desk, "tern", number)
    assert asked.command == "show bgp summary" and len(found) == 2
    assert found[0].switches == tuple(sorted(name for name in NAMES if name.startswith("leaf")))
    assert found[0].answer == "2 sessions, password 8 <not kept>", "no secret is kept of an answer either"
    assert found[1].answer == "4 sessions"
    with pytest.raises(Refused, match="not on the list"):
        asking.ask(hall.desk, "tern", "show memory", [])
    with pytest.raises(Refused, match="cannot be asked"):
        asking.ask(hall.desk, "tern", "uptime", ["leaf-t99"])
    with pytest.raises(Missing):
        asking.found(hall.desk, "tern", number + 99)
    monkeypatch.setattr("barrio.app.asking.SECONDS", 0)
    number = asking.ask(hall.desk, "tern", "uptime", ["leaf-t01"])
    assert asking.found(hall.desk, "tern", number)[1] == [asking.Alike(("leaf-t01",), None, None)]
    asking.keep_command(hall.desk, "show memory", "how much the daemons use")
    with pytest.raises(Refused, match="only looks"):
        asking.keep_command(hall.desk, "reboot", "")
    assert ("show memory", True) in [(one.command, own) for one, own in asking.commands(hall.desk)]
    asking.drop_command(hall.desk, "show memory")
    with pytest.raises(Missing):
        asking.drop_command(hall.desk, "show memory")


def test_it_is_asked_on_the_command_line(staged: Hall) -> None:
    hall = staged
    at = ("--at", hall.address)
    assert "show bgp summary" in barrio("ask", "tern", *at)
    for light in hall.lights.values():
        light.answers["uptime"] = "up 3 days"
    said = barrio("ask", "tern", "uptime", "--switch", "leaf-t01", "--switch", "leaf-t02", *at)
    assert "leaf-t01, leaf-t02:" in said and "up 3 days" in said
    assert "not on the list" in barrio("ask", "tern", "reboot", *at, code=2)


LOG = """ines     pts/0        10.90.7.4        {at}   still logged in
teo      pts/1        10.90.7.5        2026-01-02T08:00:00+00:00 - 2026-01-02T08:30:00+00:00  (00:30)
reboot   system boot  6.1.0-27-amd64   2026-01-01T00:00:00+00:00   still running

wtmp begins 2026-01-01T00:00:00+00:00
"""


def test_who_was_signed_in_is_told_where_something_changed(staged: Hall) -> None:
    hall = staged
    until(lambda: len(watching.drift(hall.desk, "tern")) == len(NAMES), 20)
    text = LOG.format(at=datetime.now(UTC).isoformat(timespec="seconds"))
    assert [one.who for one in signed_in(text)] == ["ines", "teo"]
    now = datetime.now(UTC)
    assert [one.who for one in between(signed_in(text), now - timedelta(hours=1), now)] == ["ines"]
    hall.lights["leaf-t02"].answers[" ".join(LAST)] = text
    put(hall, "leaf-t02", FRR, lambda text: f"{text}ip route 192.0.2.0/24 blackhole\n")
    until(lambda: not of(hall, "leaf-t02").true, 20)
    (person,) = of(hall, "leaf-t02").snapshot.signed_in
    assert (person["who"], person["source"], person["until"]) == ("ines", "10.90.7.4", "")
