"""Switches with nothing on them but Debian and the agent are staged by the programs that a switch runs, on a whole kernel."""

from __future__ import annotations

import json
from collections.abc import Collection, Iterator, Mapping
from contextlib import contextmanager

import pytest

from barrio.app import arriving, draining, holding, rollcall, stagings, watching
from barrio.core.staging.boxes import box
from barrio.core.staging.floor import floor
from barrio.core.staging.ways import ways
from barrio.staging import hall as halls
from barrio.store.boxes import knocks
from tests.processes import until
from tests.staging.conftest import NAMES, Hall
from tests.staging.test_software import bring, made

RESTS = 3
"""Seconds between two looks at what takes minutes: the switches need the processors."""


@contextmanager
def bare(hall: Hall, faults: Mapping[str, Collection[str]] | None = None) -> Iterator[halls.Hall]:
    """Tern's hall, switched on: each lets itself in whose serial is bound and who is plugged in where the plan has it."""
    with hall.desk.reading() as tx:
        compiled = rollcall.newest(tx, "tern")
    with halls.Hall(floor(compiled), hall.address, faults) as whole:
        arriving.say(hall.desk, "tern", ways(whole.address, "serial and place", ""))
        for one in whole.switches.values():
            rollcall.bind(hall.desk, "tern", one.bare.name, box(one.serial, one.mac))
        whole.serve(arriving.dhcp_of(hall.desk, "tern", "kea4", "br0").text)
        whole.boot()
        yield whole


def sessions(whole: halls.Hall, name: str) -> dict[str, int]:
    """The sessions of a switch that stand, with the second since when."""
    said = json.loads(whole.switches[name].ask("vtysh", "-c", "show bgp neighbors json").out)
    return {
        name: one["bgpTimerUpEstablishedEpoch"] for name, one in said.items() if one.get("bgpState") == "Established"
    }


def heard(hall: Hall) -> set[str | None]:
    """The serial numbers of those that knocked."""
    with hall.desk.reading() as tx:
        return {one.box.serial for one in knocks(tx.connection)}


def plug(whole: halls.Hall, leaf: str, port: str, address: str) -> None:
    """A host at a port of a leaf, in a namespace of its own."""
    one, device = whole.switches[leaf], f"s{list(whole.switches).index(leaf)}{port}"
    aside = f"aside{whole.grounds.index(one.ground)}"
    for words in (
        f"ip netns add host-{leaf}", f"ip -n {aside} link set {device} netns host-{leaf}",
        f"ip -n host-{leaf} address add {address} dev {device}", f"ip -n host-{leaf} link set {device} up",
    ):  # fmt: skip
        done = one.ground.run(*words.split())
        assert done.code == 0, (words, done.err)


def pings(whole: halls.Hall, leaf: str, address: str) -> bool:
    """Whether the host at a leaf is answered by an address."""
    words = f"ip netns exec host-{leaf} ping -c 2 -W 1 {address}"
    return whole.switches[leaf].ground.run(*words.split()).code == 0


@pytest.fixture
def patient(hall: Hall, monkeypatch: pytest.MonkeyPatch) -> Hall:
    for name, seconds in (("SETTLES", 900), ("SOON", 1), ("LATER", 1), ("SELDOM", 2)):
        monkeypatch.setattr(f"barrio.app.turns.{name}", seconds)
    monkeypatch.setattr("barrio.app.watching.EVERY", 30)
    return hall


@pytest.mark.long
def test_from_bare_to_handed_over_by_dhcp_and_the_programs_of_a_switch(patient: Hall) -> None:
    hall = patient
    with bare(hall) as whole:
        stagings.begin(hall.desk, "tern", stagings.Wanted(at_once=6, confirm_seconds=300))
        ended(hall, 1500)
        hall.done()
        for name in NAMES:
            there = whole.switches[name]
            assert all(there.file(path) == text for path, text in hall.wanted(name).items())
        # Beside other work on few processors BFD may lose a session for a moment.
        until(
            lambda: all(len(sessions(whole, name)) == (4 if name.startswith("spine") else 2) for name in NAMES),
            120,
            RESTS,
        )
        with hall.desk.reading() as tx:
            models = {str(one.name): one for one in rollcall.newest(tx, "tern").models.values()}
        here, far = (str(models[name].loopback_v4).split("/")[0] for name in ("leaf-t01", "leaf-t04"))
        assert whole.switches["leaf-t01"].ask("ping", "-c", "3", "-i", "0.2", "-I", str(here), str(far)).code == 0
        # Hosts at two leaves are on one segment, and reach each other and their gateway.
        for leaf, address in (("leaf-t01", "10.72.10.11"), ("leaf-t04", "10.72.10.14")):
            plug(whole, leaf, "h1", f"{address}/24")
        until(lambda: pings(whole, "leaf-t01", "10.72.10.14"), 30)
        assert pings(whole, "leaf-t04", "10.72.10.11") and pings(whole, "leaf-t01", "10.72.10.1")
        # Again, and nothing is touched: no program reads anything anew.
        stagings.begin(hall.desk, "tern", stagings.Wanted(at_once=6))
        ended(hall, 900)
        hall.done()
        number = hall.told().staging.id
        for name in NAMES:
            lines = [one for one in stagings.lines(hall.desk, "tern", number, name) if one.step == "all files"]
            assert "nothing is other than it has" in [one.words for one in lines]
            assert not any(one.command for one in lines)
        _looked_at(hall, whole, far)


def _looked_at(hall: Hall, whole: halls.Hall, far: str) -> None:
    """Each is looked at, all is as meant, and what it holds is what its kernel and its daemons have."""
    until(lambda: len(watching.drift(hall.desk, "tern")) == len(NAMES), 300, RESTS)
    assert [(one.switch, one.snapshot.state) for one in watching.drift(hall.desk, "tern") if not one.true] == []
    kinds = {one.kind for one in holding.every(hall.desk, "tern", "leaf-t01")}
    assert {"devices", "vlans", "neighbours", "sessions", "routes", "vnis", "macs", "software"} <= kinds

    def held(kind: str, words: str) -> dict[str, str]:
        return dict(holding.at(hall.desk, "tern", "leaf-t01", kind, None, words, 1000).rows)

    assert held("routes", far)[far].count("by") == 2, "by both spines"
    assert all(words.startswith("Established") for words in held("sessions", "default").values())
    assert {"spine-1", "spine-2"} == {words.split(":")[0] for words in held("neighbours", "spine").values()}
    assert held("software", "kernel")["kernel"] and held("devices", "vrf, table")
    device = f"s{list(whole.switches).index('leaf-t01')}h1"
    said = whole.switches["leaf-t01"].ground.run("ip", "-n", "host-leaf-t01", "-j", "link", "show", device).out
    mac = json.loads(said)[0]["address"]
    # It was plugged in after the first look.
    until(lambda: len({one.switch for one in holding.find(hall.desk, "tern", mac)[0]}) == 4, 120, RESTS)
    there, _ = holding.find(hall.desk, "tern", mac)
    assert there[0].switch == "leaf-t01" and there[0].words == "on h1"
    assert "leaf-t04" in {one.switch for one in there if one.words.startswith("behind")}


def ended(hall: Hall, seconds: float) -> None:
    """Wait until a staging is over; where that does not come, say where each switch is."""
    try:
        until(lambda: hall.told().staging.ended_at is not None, seconds, RESTS)
    except AssertionError:
        told = hall.told()
        assert told.staging.ended_at, (told.staging.state, [(one.name, one.step, one.words) for one in told.switches])


@pytest.mark.long
def test_whom_dhcp_does_not_answer_when_its_power_comes_back_has_its_lease_and_goes_on(patient: Hall) -> None:
    with bare(patient) as whole:
        one = whole.switches["leaf-t01"]
        address = f"ip -4 -o address show dev {one.bare.management}".split()
        until(lambda: "SIM-LEAF-T01" in heard(patient), 300, RESTS)
        whole.silence()
        one.ask("systemctl", "reboot")
        until(lambda: not one.ask(*address).out.strip(), 60, 0.5)
        until(lambda: bool(one.ask(*address).out.strip()), 300, RESTS)
        stagings.begin(patient.desk, "tern", stagings.Wanted(switches=("leaf-t01",), confirm_seconds=300))
        until(lambda: patient.at("leaf-t01")[0] in ("software", "first boot", "all files"), 100, RESTS)


def mended(hall: Hall, whole: halls.Hall, name: str) -> None:
    """What was ordered of a switch is taken away, and it is tried again, to the end."""
    whole.switches[name].mend()
    stagings.again(hall.desk, "tern", name)
    ended(hall, 900)
    hall.done()


@pytest.mark.long
def test_faults_on_real_programs_stop_where_they_are_and_going_on_brings_them_to_the_end(
    patient: Hall, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Spines first; then each leaf with a fault of its own, one after the other."""
    hall = patient
    # What is crossed stays so: that long it may settle.
    monkeypatch.setattr("barrio.app.turns.SETTLES", 60)
    hall.write(lambda text: text.replace("services:\n", "services:\n  software: '12.9'\n"))
    bring(hall, "12.9", made("echo installed > /etc/fabric-software; touch /run/reboot-required"))
    faults = {
        "leaf-t01": ["power"],
        "leaf-t02": ["lock-out"],
        "leaf-t03": ["crossed"],
        "leaf-t04": ["no DHCP", "apply"],
    }
    with bare(hall, faults) as whole:
        arriving.say(hall.desk, "tern", ways(whole.address, "serial", ""))
        stagings.begin(hall.desk, "tern", stagings.Wanted(switches=("spine-1", "spine-2"), confirm_seconds=120))
        ended(hall, 900)

        def begin(name: str, confirm: int = 120) -> None:
            stagings.begin(hall.desk, "tern", stagings.Wanted(switches=(name,), confirm_seconds=confirm))

        begin("leaf-t01")
        ended(hall, 900)
        hall.done()
        gone = whole.switches["leaf-t01"].file("var/lib/barrio-agent/gone")
        assert gone is not None
        assert {"software fetched", "software installed", "fetched", "half in place", "committed"} <= set(
            gone.split("\n")
        )
        assert whole.switches["leaf-t01"].file("etc/fabric-software") == "installed\n"

        begin("leaf-t02", 20)
        until(lambda: hall.at("leaf-t02")[1] == "failed", 300, RESTS)
        assert "Barrio was not reached from the new files in time, so the old files are back" in hall.at("leaf-t02")[2]
        assert whole.switches["leaf-t02"].file("etc/network/interfaces") == whole.switches["leaf-t02"].given()["etc/network/interfaces"]  # fmt: skip
        mended(hall, whole, "leaf-t02")

        begin("leaf-t03")
        until(lambda: hall.at("leaf-t03")[1] == "failed", 400, RESTS)
        assert hall.at("leaf-t03")[0] == "checked" and "Move one plug" in hall.at("leaf-t03")[2]
        mended(hall, whole, "leaf-t03")

        assert hall.at("leaf-t03")[0] == "handed over"
        assert "SIM-LEAF-T04" not in heard(hall), "no DHCP, and no way to knock"
        whole.switches["leaf-t04"].faults.discard("no DHCP")
        whole.serve(arriving.dhcp_of(hall.desk, "tern", "kea4", "br0").text)
        begin("leaf-t04")
        until(lambda: hall.at("leaf-t04")[1] == "failed", 400, RESTS)
        assert "“ifreload --all” says error:; the old files are back" in hall.at("leaf-t04")[2]
        mended(hall, whole, "leaf-t04")
        until(
            lambda: all(len(sessions(whole, name)) == (4 if name.startswith("spine") else 2) for name in NAMES),
            60,
            RESTS,
        )
        _drained(hall, whole)


def ways_out(whole: halls.Hall, name: str, to: str) -> set[str]:
    """The ports by which a switch goes to an address."""
    [route] = json.loads(whole.switches[name].ask("ip", "-j", "route", "show", to).out)
    return {hop["dev"] for hop in [route, *route.get("nexthops", [])] if "dev" in hop}


def _drained(hall: Hall, whole: halls.Hall) -> None:
    """A spine is drained: leaves go to each other by the other one alone, and by both once it carries again."""
    with hall.desk.reading() as tx:
        models = {str(one.name): one for one in rollcall.newest(tx, "tern").models.values()}
    here, far = (str(models[name].loopback_v4).split("/")[0] for name in ("leaf-t01", "leaf-t04"))
    until(lambda: ways_out(whole, "leaf-t01", far) == {"u1", "u2"}, 60)
    draining.begin(hall.desk, "tern", "spine-1", "new fans")
    until(lambda: [one.state for one in draining.every(hall.desk, "tern")] == ["drained"], 120)
    assert ways_out(whole, "leaf-t01", far) == {"u2"} == ways_out(whole, "leaf-t04", here)
    assert whole.switches["leaf-t01"].ask("ping", "-c", "3", "-i", "0.2", "-I", here, far).code == 0
    draining.back(hall.desk, "tern", "spine-1")
    until(lambda: draining.every(hall.desk, "tern") == [], 60)
    until(lambda: ways_out(whole, "leaf-t01", far) == {"u1", "u2"}, 60)
