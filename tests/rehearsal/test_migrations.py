"""Migrations on a running fabric: each put on wave by wave, as staging will, with flows running; nothing happens that Ripple did not say, and afterwards
every question says yes."""

from __future__ import annotations

import pytest

from barrio.core import Compiled, Stock, compile
from barrio.core.brief.document import apply as edited
from barrio.core.brief.document import read
from barrio.core.ledger.wanted import Holdings
from barrio.core.rehearse.slices import Wish
from barrio.rehearsal.asking.every import chosen
from barrio.rehearsal.run import Rehearsal, rehearse

FLAT = """
fabric: moving
spines: {count: 2, racks: q0}
racks:
  - {racks: q1..q3, leaves: 1, model: cantera-l48}
underlay: {addressing: ipv4}
vrfs: {tides: {}}
segments:
  tide-grid: {vrf: tides, vlan: 101, v4: 10.72.1.0/24}
  buoys: {vrf: tides, vlan: 102, v4: 10.72.2.0/24}
hosts:
  one: {at: q1/a h1, untagged: tide-grid}
  two: {at: q2/a h1, untagged: tide-grid}
  three: {at: q3/a h1, untagged: buoys}
claims: [one reaches two, three reaches one]
services: {domain: moving.example, ntp: [10.255.30.21]}
"""
TALL = """
fabric: tall
pods: p1
pods_growth: 1
super_spines: {per_plane: 1, racks: c0, model: cantera-c32}
spines: {count: 2, racks: s0}
racks:
  - {racks: q1..q2, leaves: 1, model: cantera-l48}
vrfs: {tides: {}}
segments: {tide-grid: {vrf: tides, vlan: 101, v4: 10.72.1.0/24}}
hosts:
  one: {at: p1-q1/a h1, untagged: tide-grid}
  two: {at: p1-q2/a h1, untagged: tide-grid}
"""
QUESTIONS = ("cables", "sessions", "routes", "flooding", "together", "claims")


def turned(text: str, edits: list[tuple[str, object]], anew: tuple[str, ...]) -> tuple[Compiled, Compiled]:
    """A fabric, and what it becomes as a draft: what both ask for keeps its numbers, but for the uses that are drawn anew."""
    before = compile(read(text).brief)
    held = Holdings(held={use: keys for use, keys in before.allocation.numbers.items() if use not in anew})
    return before, compile(read(edited(text, edits)).brief, Stock(before.pools, held))  # type: ignore[arg-type]


def migrated(text: str, edits: list[tuple[str, object]], anew: tuple[str, ...] = ()) -> Rehearsal:
    before, after = turned(text, edits, anew)
    found = rehearse(before, Wish(whole=True), chosen(QUESTIONS), "best", becomes=after)
    wrong = {
        one.question: [f"{claim.words}: {claim.found}" for claim in one.claims if not claim.holds]
        for one in found.failed
    }
    assert wrong == {}
    return found


def changed(found: Rehearsal) -> list[str]:
    """The switches in the order in which they were changed."""
    [one] = found.drills
    assert one.faults == (), one.faults
    assert all(wave.settled for wave in one.waves) and one.stands
    return [name for wave in one.waves for name in wave.switches]


@pytest.mark.long
def test_a_spine_of_another_model_takes_the_place_of_one_and_no_flow_is_cut() -> None:
    found = migrated(FLAT, [("models", {"spine/1": "cantera-c64"})])
    assert changed(found)[0] == "spine-1"
    [one] = found.drills
    assert all(flow.longest <= flow.most < 8 for flow in one.flows), "the other spine carries on"


@pytest.mark.long
def test_links_lose_their_numbers_one_switch_after_the_other() -> None:
    found = migrated(FLAT, [("underlay.addressing", "unnumbered")])
    assert len(changed(found)) == 5
    assert found.drills[0].restarted, "sessions speak over ports, in place of addresses"


@pytest.mark.long
def test_loopbacks_are_drawn_from_another_pool() -> None:
    found = migrated(FLAT, [("pools", {"other": "10.88.0.0/22"}), ("numbers", {"loopback": "other"})], ("loopback.v4",))
    assert set(changed(found)) == {"spine-1", "spine-2", "leaf-q1", "leaf-q2", "leaf-q3"}


@pytest.mark.long
def test_a_pod_joins_and_who_is_there_does_not_notice() -> None:
    found = migrated(TALL, [("pods", "p1..p2")])
    assert any("p2" in name for name in changed(found))
    assert all(flow.lost == 0 for flow in found.drills[0].flows)
