"""Drift is taken over by the word, the setting, the addition or the number that means it; each way was tried before it is told."""

from __future__ import annotations

import pytest

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.compare.lines import Reader
from barrio.core.compiled import Stock
from barrio.core.ledger.wanted import ByKey, Holdings
from barrio.core.observe.takeover import Way, ways
from tests.conftest import EXAMPLES

DOCUMENT = read(next(path for path in EXAMPLES if path.stem == "marlin").read_text())
KEY = "leaf/r02/b"


@pytest.fixture(scope="module")
def marlin() -> Compiled:
    return compile(DOCUMENT.brief)


def found(marlin: Compiled, path: str, meant: str, runs: str, at: int = 0) -> list[Way]:
    def attempt(text: str, moves: ByKey) -> Compiled:
        stock = Stock(marlin.pools, Holdings(held=marlin.allocation.numbers, moves=moves))
        return compile(read(text).brief, stock, marlin.catalogue, marlin)

    text = marlin.files(KEY)[path]
    assert meant in text
    running = text.replace(meant, runs)
    changes = Reader(marlin.targets[KEY].effects()).changes(path, text, running)
    return ways(DOCUMENT, marlin, KEY, changes[at], running, attempt) if at < len(changes) else []


SWITCH = 'rungs."switch leaf/r02/b"'


@pytest.mark.parametrize(
    ("path", "meant", "runs", "edits", "others"),
    [
        ("etc/chrony/chrony.conf", "server 10.90.0.22 iburst\n", "server 10.90.0.22 iburst\nserver 10.90.0.29 iburst\n",
         (("services.ntp", ["10.90.0.21", "10.90.0.22", "10.90.0.29"]),), 29),
        ("etc/chrony/chrony.conf", "server 10.90.0.22 iburst\n", "", (("services.ntp", ["10.90.0.21"]),), 29),
        ("etc/frr/frr.conf", "!\nend", "!\nip route 192.0.2.0/24 blackhole\n!\nend",
         ((f'{SWITCH}."additions.frr"', {"add": ["ip route 192.0.2.0/24 blackhole"], "why": "taken over from the switch"}),), 0),
        ("etc/network/interfaces", "mtu 9216", "mtu 9100", (("underlay.mtu", 9100),), 29),
        ("etc/resolv.conf", "nameserver 10.90.0.53", "nameserver 10.90.0.54", ((f'{SWITCH}."services.dns"', ["10.90.0.54"]),), 0),
        ("etc/frr/frr.conf", "timers 3 9", "timers 7 21", (("underlay.timers.keepalive", 7), ("underlay.timers.hold", 21)), 29),
    ],
)  # fmt: skip
def test_what_runs_is_said_by_the_word_that_means_it(
    marlin: Compiled, path: str, meant: str, runs: str, edits: object, others: int
) -> None:
    every = [way for at in range(2) for way in found(marlin, path, meant, runs, at)]
    one = next((way for way in every if way.edits == edits), None)
    assert one is not None and one.others == others


@pytest.mark.parametrize(
    ("lines", "carries"),
    [
        ("bridge-vids 102\n    bridge-pvid 101", {"untagged": "tide-archive"}),
        ("bridge-vids 101 102\n    bridge-pvid 100", {"tagged": ["buoy-telemetry", "tide-archive"]}),
        ("bridge-pvid 100", {"tagged": []}),
        ("bridge-access 100", {"tagged": []}),
    ],
)
def test_a_port_in_another_vlan_is_a_host_that_carries_another_segment(
    marlin: Compiled, lines: str, carries: dict[str, object]
) -> None:
    """One host of sixty that the brief names together: it stands by itself from then on, and what is on its port is what runs."""
    port = "model-033\n    mtu 9000\n    "
    ways_of = [
        way
        for at in range(2)
        for way in found(
            marlin, "etc/network/interfaces", f"{port}bridge-vids 102\n    bridge-pvid 100", port + lines, at
        )
    ]
    edits = dict(next(way.edits for way in ways_of if way.title.startswith("model-033 carries")))
    assert {name: edits["hosts.model-033"].get(name) for name in carries} == carries
    assert not {"untagged", "tagged"} & set(edits['hosts."model-061..model-090"']), "others carry what they did"


def test_a_number_that_somebody_changed_is_pinned(marlin: Compiled) -> None:
    (way,) = found(marlin, "etc/frr/frr.conf", f"router bgp {marlin.models[KEY].asn}", "router bgp 4200065999")
    assert way.pins == (("asn", KEY, "4200065999"),) and not way.edits and way.others == 4, "its neighbours say it too"


def test_what_no_word_means_has_no_way_and_what_is_held_stays_held(marlin: Compiled) -> None:
    assert found(marlin, "etc/hostname", "leaf-r02b", "pescado") == []
    held = found(marlin, "etc/chrony/chrony.conf", "server 10.90.0.22 iburst\n", "")
    assert all("rungs" not in place for way in held for place, _ in way.edits), "the fabric holds its clock for all"
