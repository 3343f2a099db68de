"""A rehearsal asks well: on a fabric that is right every question says yes, and of each mistake that is made on purpose the right ones say no and name
the switch; drills find just what the sums foretell.

One fabric is booted on a whole kernel for all claims. Mistakes are made on the running switches, and mended again.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

import pytest

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.catalogue.made import MADE
from barrio.core.rehearse.losses import chosen
from barrio.core.rehearse.slices import Wish, choose
from barrio.rehearsal.asking.claims import Answer, Asking, answer
from barrio.rehearsal.asking.every import BY_ID, QUESTIONS
from barrio.rehearsal.drilling import drill
from barrio.rehearsal.run import AS_SERVES, Rehearsal, booted
from tests.rehearsal.whole import SMALL_LEAF

BRIEF = """
fabric: asked
spines: {count: 2, racks: q0}
racks:
  - {racks: q1, leaves: 1, model: lonja-e6, role: border}
  - {racks: q2, leaves: 1, model: lonja-e6}
vrfs:
  tides: {imports: {radar: [sweep]}}
  radar: {imports: {tides: [tide-grid]}}
  alone: {}
segments:
  tide-grid: {vrf: tides, vlan: 101, v4: 10.72.1.0/24, v6: "fd72:0:0:1::/64"}
  buoys: {vrf: tides, vlan: 102, v4: 10.72.2.0/24, relay: {servers: [10.72.1.53]}}
  sweep: {vrf: radar, vlan: 103, v4: 10.72.3.0/24}
  hermit: {vrf: alone, vlan: 104, v4: 10.72.4.0/24}
hosts:
  one: {at: q1/a h1, untagged: tide-grid, tagged: [buoys]}
  two: {at: q2/a h1, untagged: tide-grid, tagged: [buoys]}
  dish: {at: q2/a h2, untagged: sweep}
  hermit: {at: q1/a h3, untagged: hermit}
outside:
  harbour-router: {asn: 64600, default: in, accept: [10.99.0.0/16], links: [{switch: leaf/q1/a, port: h6, vrfs: {tides: {vlan: 301}}}]}
claims:
  - one reaches two in segment buoys
  - vrf alone never reaches vrf tides
  - dish reaches 10.72.1.40 with 9000 bytes
  - host hermit never reaches 10.99.7.7
  - two reaches 10.99.7.7 in vrf tides
  - leaf-q2 reaches 10.255.30.80 in vrf mgmt
services:
  domain: asked.example
  ntp: [10.255.30.21, 10.255.30.22]
  dns: [10.255.30.53]
  syslog: [10.255.30.14]
  sign_in_from: [10.255.0.0/19]
  users: {ines: {keys: [ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIEmZ7sT1mQ1xqk0f5m0b3Y9b8o4G2v0gkqfN6yH1cD2R ines@asked.example]}}
"""


def fabric() -> Compiled:
    return compile(read(BRIEF).brief, catalogue=MADE.with_models([SMALL_LEAF]))


pytestmark = pytest.mark.long


@pytest.fixture(scope="module")
def asking() -> Iterator[Asking]:
    compiled = fabric()
    found = Rehearsal("asked", choose(compiled, Wish(whole=True)))
    with booted(compiled, found, "best", split=AS_SERVES) as running:
        yield running


def ask(asking: Asking, *names: str) -> dict[str, Answer]:
    return {name: answer(asking, BY_ID[name]) for name in names}


def failed(answers: dict[str, Answer]) -> dict[str, list[str]]:
    return {
        name: [f"{claim.words}: {claim.found}" for claim in one.claims if not claim.holds]
        for name, one in answers.items()
        if one.state == "no"
    }


def test_on_a_fabric_that_is_right_every_question_says_yes_with_evidence(asking: Asking) -> None:
    answers = ask(asking, *BY_ID)
    assert failed(answers) == {}
    assert {name for name, one in answers.items() if one.state == "not asked"} == {"adjacencies", "shared"}
    count = {name: len(one.claims) for name, one in answers.items()}
    assert count["sessions"] == 9 and count["bfd"] == count["cables"] == 8, "from both ends, and the router outside"
    assert count["routes"] == 4, "two leaves, each with the other's loopback and tunnel end"
    hosts = [claim.words for claim in answers["together"].claims]
    assert "one in tide-grid reaches dish in sweep, across, routed" in hosts, "what a VRF imports of another is reached"
    assert any("by IPv6" in words for words in hosts)
    apart = [claim.words for claim in answers["apart"].claims]
    assert "one in tide-grid does not reach hermit in hermit" in apart and any("a stranger" in words for words in apart)
    assert "one in buoys does not reach dish in sweep" in apart, "which imports the other segment alone"
    if "leases" in answers:
        assert [claim.found[:15] for claim in answers["leases"].claims] == ["it was given 10"], "by two, for one"
    assert count["claims"] == 1 + 4 + 1 + 1 + 2 + 1, [claim.words for claim in answers["claims"].claims]
    assert all(
        claim.command and claim.because for name in ("sessions", "routes", "flooding") for claim in answers[name].claims
    )


def run(asking: Asking, switch: str, *lines: str) -> None:
    node = asking.lab.node(switch)
    for line in lines:
        node.run("sh", "-c", line)


def bgp(asking: Asking, switch: str, *words: str) -> None:
    process = asking.lab.models[asking.lab.node(switch).switch.key].process_asn
    asking.lab.node(switch).run(
        "vtysh", *(part for one in ("configure", f"router bgp {process}", *words) for part in ("-c", one))
    )


CROSS = "for one in p1 p2; do ip link set $one down; done; ip link set p1 name x && ip link set p2 name p1 && ip link set x name p2; for one in p1 p2; do ip link set $one up; done"
"""Two ports of a spine change places, as when their cables are swapped."""

MISTAKES: dict[str, tuple[Callable[[Asking], None], Callable[[Asking], None], str, str]] = {
    "a filter that drops": (
        lambda asking: run(asking, "leaf-q2", "ip link set bond-none down 2>/dev/null; tc qdisc add dev vlan101 root netem loss 100%"),
        lambda asking: run(asking, "leaf-q2", "tc qdisc del dev vlan101 root"),
        "together", "leaf-q2",
    ),
    "an MTU too small": (
        lambda asking: run(asking, "leaf-q2", "ip link set h1 mtu 1500"), lambda asking: run(asking, "leaf-q2", "ip link set h1 mtu 9000"),
        "together", "answered to 84 bytes, not to 9,000",
    ),
    "a VLAN missing": (
        lambda asking: run(asking, "leaf-q2", "bridge vlan del vid 102 dev h1"), lambda asking: run(asking, "leaf-q2", "bridge vlan add vid 102 dev h1"),
        "gateways", "two in buoys",
    ),
    "a VRF that lets in too much": (
        lambda asking: run(asking, "border-q1", "ip route add 10.72.4.0/24 dev vlan104 vrf tides && ip route add 10.72.1.0/24 dev vlan101 vrf alone"),
        lambda asking: run(asking, "border-q1", "ip route del 10.72.4.0/24 vrf tides; ip route del 10.72.1.0/24 vrf alone"),
        "apart", "one in tide-grid does not reach hermit in hermit",
    ),
    "a VNI missing": (
        lambda asking: run(asking, "leaf-q2", "ip link set vni$(ip -d -o link | grep -o 'vni1[0-9]*' | sort -u | head -1 | tr -d vni) down"),
        lambda asking: run(asking, "leaf-q2", "for one in $(ip -o link | grep -o 'vni1[0-9]*' | sort -u); do ip link set $one up; done"),
        "flooding", "q1",
    ),
    "a cable crossed": (
        lambda asking: run(asking, "spine-2", CROSS), lambda asking: run(asking, "spine-2", CROSS),
        "cables", "spine-2 p1",
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", MISTAKES)
def test_a_mistake_is_found_and_named(asking: Asking, name: str) -> None:
    make, mend, question, words = MISTAKES[name]
    assert failed(ask(asking, question)) == {}
    make(asking)
    quick = next(one for one in QUESTIONS if one.id == question)
    wrong: list[str] = []
    for _ in range(20):
        found = answer(asking, type(quick)(quick.id, quick.title, quick.ask, quick.needs, 2))
        wrong = [f"{claim.about} {claim.words}: {claim.found}" for claim in found.claims if not claim.holds]
        if any(words in one for one in wrong):
            break
    mend(asking)
    assert any(words in one for one in wrong), wrong
    assert len(wrong) < len(found.claims), "and not everything is wrong"
    assert failed(ask(asking, question)) == {}


def test_a_wrong_as_is_found_at_both_ends_and_named(asking: Asking) -> None:
    planned = asking.lab.models["leaf/q2/a"].fabric_ports[0]
    bgp(asking, "leaf-q2", f"neighbor {planned.neighbor} remote-as 4200999999")
    quick = BY_ID["sessions"]
    found = answer(asking, type(quick)(quick.id, quick.title, quick.ask, quick.needs, 3))
    bgp(asking, "leaf-q2", f"neighbor {planned.neighbor} remote-as {planned.peer_asn}")
    wrong = {claim.about: claim.found for claim in found.claims if not claim.holds}
    assert set(wrong) == {"leaf-q2", planned.peer}
    assert f"it expects AS 4200999999, not {planned.peer_asn}" in wrong["leaf-q2"]
    assert failed(ask(asking, "sessions", "routes", "together")) == {}


@pytest.mark.parametrize("what", ["spine", "leaf", "link", "leaf-q2:bgpd", "leaf-q2:restart"])
def test_what_is_taken_away_leaves_what_was_foretold_and_comes_back_whole(asking: Asking, what: str) -> None:
    """What is routed goes on when a spine goes: zebra takes back and tells anew in that order. And all paths are there again when it comes back."""
    [loss] = chosen(asking.compiled, list(asking.lab.nodes), [what])
    found = drill(asking, loss)
    assert found.faults == (), found.faults
    assert len(found.flows) > 6 and all(flow.sent > 1000 for flow in found.flows)
    assert found.left == () or all(one.paths == one.found for one in found.left)
    assert any(one.who in ("border-q1", "leaf-q2") for one in found.said), "the daemons noticed"
    if "leaf" in what:
        assert any(flow.longest > 3 for flow in found.flows), "whose leaf is away hears nothing"
    else:
        assert all(one.found == 1 and one.of_paths == 2 for one in found.left)
    assert failed(ask(asking, "sessions", "routes", "addresses", "together")) == {}
