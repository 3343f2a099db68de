"""What Ripple says of a change, held against what happens: drafts put on a running fabric by its own programs, with flows running.

Nothing may happen that was not said: no session restarts, no link is lost, no device made anew, no packet lost. What was said and did not
happen is counted and listed.
"""

from __future__ import annotations

import re
import time
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import pytest

from barrio.core import Compiled, Stock, compile
from barrio.core.brief.document import apply as edited
from barrio.core.brief.document import read
from barrio.core.catalogue.made import MADE
from barrio.core.compare.ripple import Ripple, ripple
from barrio.core.compare.sessions import sessions_of
from barrio.core.ledger.wanted import Holdings, Taken
from barrio.core.render.effects import Effect
from barrio.rehearsal.applying import Standing, apply, standing
from barrio.rehearsal.ground import wait_until
from barrio.rehearsal.hosts import Plugged
from barrio.rehearsal.kernel import whole_ground
from barrio.rehearsal.lab import Lab
from tests.rehearsal.asked import established, planned_sessions
from tests.rehearsal.whole import PATIENCE, SMALL_LEAF

BRIEF = """
fabric: ripple
spines: {count: 2, racks: s0}
racks:
  - {racks: w1, leaves: 2, model: lonja-e6}
  - {racks: w2, leaves: 1, model: lonja-e6}
underlay: {bfd: {interval: 3000, multiplier: 10}, timers: {keepalive: 20, hold: 90}}
overlay: {startup_delay: 5}
vrfs: {tides: {}}
segments:
  tide-grid: {vrf: tides, vlan: 101, v4: 10.72.1.0/24}
  buoys: {vrf: tides, vlan: 102, v4: 10.72.2.0/24}
  spare: {vrf: tides, vlan: 103, v4: 10.72.3.0/24}
hosts:
  one: {at: w1/a h1, untagged: tide-grid}
  two: {at: w2 h1, untagged: tide-grid}
  three: {at: w2 h2, untagged: buoys}
services: {domain: ripple.example, ntp: [10.255.30.21], sign_in_from: [10.255.0.0/19]}
"""
HOSTS = {
    "one": Plugged((("leaf-w1a", "h1"),), ("10.72.1.11/24",), ("10.72.1.1",)),
    "two": Plugged((("leaf-w2", "h1"),), ("10.72.1.12/24",), ("10.72.1.1",)),
    "three": Plugged((("leaf-w2", "h2"),), ("10.72.2.12/24",), ("10.72.2.1",)),
}
FLOWS = (("one", "10.72.1.12"), ("one", "10.72.2.12"), ("three", "10.72.1.1"))


@dataclass
class Change:
    """A word or more of the brief that change, one after the other on the same fabric; `moves` are positions of cables. In a `quiet` one no packet may be
    lost."""

    name: str
    edits: list[tuple[str, object]]
    quiet: bool = False
    moves: dict[str, dict[str, int]] = field(default_factory=dict)


CHANGES = [
    Change("BFD timers", [("underlay.bfd.interval", 2000)], quiet=True),
    Change("BGP timers", [("underlay.timers", {"keepalive": 25, "hold": 100})], quiet=True),
    Change("max paths", [("underlay.max_paths", 1)], quiet=True),
    Change("another clock", [("services.ntp", ["10.255.30.22"])], quiet=True),
    Change(
        "a new VRF with a segment and a host",
        [
            ("vrfs.radar", {}),
            ("segments.sweep", {"vrf": "radar", "vlan": 104, "v4": "10.72.4.0/24"}),
            ("hosts.dish", {"at": "w2 h3", "untagged": "sweep"}),
        ],
        quiet=True,
    ),
    Change("a host more", [("hosts.four", {"at": "w1/b h2", "untagged": "buoys"})], quiet=True),
    Change(
        "a segment, its VRF and its host less",
        [("hosts.dish", None), ("segments.sweep", None), ("vrfs.radar", None)],
        quiet=True,
    ),
    Change("MTU", [("underlay.mtu", 9100)]),
    Change("TTL security", [("underlay.ttl_security", True)]),
    Change("a leaf out of service", [("out_of_service", {"leaf/w1/b": "its fan is loud"})]),
    Change("back in service", [("out_of_service", None)]),
    Change("ASN by pair", [("underlay.asn", "per-pair")]),
    Change("multihoming", [("racks[0].pairing", "multihoming")]),
    Change("cables with other ends", [("title", "Moved")], moves={"port.spine": {"leaf/w2/a~1": 9}}),
    Change("a leaf more", [("racks[1].racks", "w2, w3")], quiet=True),
]


@dataclass
class Running:
    """The lab, the fabric that it runs, and what was said of it and did not come."""

    lab: Lab
    now: Compiled
    text: str
    unheard: list[str] = field(default_factory=list)


@pytest.fixture(scope="module")
def running() -> Iterator[Running]:
    compiled = compile(read(BRIEF).brief, catalogue=MADE.with_models([SMALL_LEAF]))
    with Lab(compiled, whole_ground(), list(HOSTS.values())) as lab:
        assert wait_until(lambda: planned_sessions(lab) <= established(lab), PATIENCE)
        for host, target in FLOWS:
            assert wait_until(lambda host=host, target=target: _host(lab, host).ping(target), 60)
        yield Running(lab, compiled, BRIEF)


def _host(lab: Lab, name: str):  # type: ignore[no-untyped-def]
    return lab.hosts[list(HOSTS).index(name)]


def _looked(running: Running, compiled: Compiled) -> dict[str, Standing]:
    return {key: standing(node, compiled.models[key]) for key, node in running.lab.nodes.items()}


class Flow:
    """Pings that go on while something happens."""

    def __init__(self, running: Running, host: str, target: str) -> None:
        self.words, self._running = f"{host} → {target}", running
        self.log = running.lab.ground.folder / f"flow-{host}-{target}-{time.monotonic_ns()}"
        inside = f"--net=/run/netns/{_host(running.lab, host).namespace}"
        self._process = running.lab.ground.start(
            "nsenter", inside, "ping", "-n", "-i", "0.5", "-O", target, log=self.log
        )

    def lost(self) -> int:
        """How many went unanswered; the last, whose answer may be on its way, is not counted."""
        self._running.lab.ground.stop(self._process)
        said = Path(self.log).read_text()
        seen = {int(number) for number in re.findall(r"bytes from .*icmp_seq=(\d+)", said)}
        return max(seen, default=0) - len(seen)


def told(running: Running, change: Change) -> tuple[Compiled, Ripple]:
    text = edited(running.text, change.edits)  # type: ignore[arg-type]
    numbers = {use: dict(keys) for use, keys in running.now.allocation.numbers.items()}
    for use, keys in change.moves.items():
        numbers[use] |= {key: Taken(low, 1) for key, low in keys.items()}
    held = Holdings(held=numbers)
    after = compile(read(text).brief, Stock(running.now.pools, held), MADE.with_models([SMALL_LEAF]))
    running.text = text
    return after, ripple(running.now, after)


@pytest.mark.long
@pytest.mark.parametrize("change", CHANGES, ids=lambda one: one.name)
def test_nothing_happens_that_was_not_said(running: Running, change: Change) -> None:
    before = running.now
    after, said = told(running, change)
    assert said.switches, "it changes something"
    was = _looked(running, before)
    flows = [Flow(running, host, target) for host, target in FLOWS]
    time.sleep(2)
    moved = running.lab.recable(after, running.lab.nodes)
    for one in said.switches:
        if one.key not in running.lab.nodes:
            continue
        restart = one.effect is Effect.DAEMON
        apply(running.lab.nodes[one.key], after.files(one.key), running.lab.missing, restart)
    running.lab.compiled = running.now = after
    back = wait_until(lambda: not down(running, after), PATIENCE)
    assert back, f"sessions that do not come back: {down(running, after)}"
    time.sleep(3)
    lost = {flow.words: flow.lost() for flow in flows}
    now = _looked(running, after)
    restarted, lost_devices = set[str](), dict[str, set[str]]()
    for key, node in running.lab.nodes.items():
        restarted |= was[key].restarted(now[key])
        lost_devices[node.switch.name] = was[key].went_down(now[key])
    gone = {one for one in restarted if one not in {id for key in after.models for id in _every(after, key)}}
    unsaid = restarted - set(said.sessions) - gone
    assert not unsaid, f"sessions restarted that nobody spoke of: {sorted(unsaid)}"
    for name, devices in lost_devices.items():
        spoken = [*_spoken(said, name), *moved.get(name, ())]
        quiet = {one for one in devices if not any(one in words for words in spoken)}
        assert not quiet, f"{name}: links were lost or devices made anew that nobody spoke of: {sorted(quiet)}"
    touches = any(one.effect.touches or one.effect is Effect.GONE for one in said.switches)
    assert touches or not any(lost.values()), f"packets were lost, and nothing was said to touch anybody: {lost}"
    assert not (change.quiet and any(lost.values())), lost
    never = sorted(set(said.sessions) - restarted)
    print(
        f"{change.name}: {len(restarted)} sessions restarted; said and not come: {len(never)} {never[:6]}; lost {lost}"
    )


def down(running: Running, compiled: Compiled) -> list[str]:
    """The sessions that are planned between switches of the lab and do not stand."""
    names = {node.switch.name for node in running.lab.nodes.values()}
    found: set[str] = set()
    for key, node in running.lab.nodes.items():
        known = sessions_of(compiled.models[key])
        wanted = {one.id for one in known.every.values() if set(one.ends) <= names and one.id not in known.shut}
        found |= wanted - standing(node, compiled.models[key]).sessions.keys()
    return sorted(found)


def _every(compiled: Compiled, key: str) -> set[str]:
    return set(sessions_of(compiled.models[key]).every)


def _spoken(said: Ripple, name: str) -> list[str]:
    """Every device that a line of a switch is about, where the line takes something away for a moment or for good."""
    one = next((one for one in said.switches if one.name == name), None)
    if one is None:
        return []
    words = [*one.devices, *one.links]
    for line in one.changes:
        if line.effect.touches or line.effect is Effect.GONE:
            words += [line.about.get("device", ""), line.before, line.after]
    return words
