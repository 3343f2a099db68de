"""What a question makes of what a fabric answers: of a right one yes; of one wrong word, no, about that switch alone, by that question alone.

The switches here only tell (`told.py`); that daemons answer so is shown where they run.
"""

from __future__ import annotations

from collections.abc import Callable
from types import SimpleNamespace
from typing import Any

import pytest

from barrio.core import compile
from barrio.core.brief.document import apply, read
from barrio.core.catalogue.made import MADE
from barrio.rehearsal.asking.claims import Answer, Asking, Claim, Question, answer, excerpt
from barrio.rehearsal.asking.every import BY_ID
from barrio.rehearsal.ground import NoGround, NoLab
from tests.rehearsal.test_rehearse import BRIEF, fabric
from tests.rehearsal.told import BFD, FOUR, MACS, NEIGHBOURS, RELOAD, VNIS, Told, right
from tests.rehearsal.whole import SMALL_LEAF

Change = Callable[[Told], object]


@pytest.fixture
def told() -> Told:
    made = right(fabric())
    # The brief claims that who is alone in a VRF reaches nobody beyond the router of another.
    made.apart |= {(host(made, "hermit in hermit"), "10.99.7.7")}
    return made


def once(told: Asking, name: str) -> Answer:
    """A question asked one time, without waiting for what may come."""
    one = BY_ID[name]
    return answer(told, Question(one.id, one.title, one.ask, one.needs, 0, one.nothing))


ASKED = [name for name in BY_ID if name not in ("leases", "moves", "services")]
"""Those that only ask: the others have hosts move or ask, and programs start, which is shown where they can."""


def wrong(told: Asking) -> dict[str, set[str]]:
    """By question which switches its failed claims are about."""
    answers = [once(told, name) for name in ASKED]
    return {
        one.question: {claim.about for claim in one.claims if not claim.holds} for one in answers if one.state == "no"
    }


def test_a_fabric_that_tells_what_is_planned_is_right_in_every_question_that_can_be_asked(told: Told) -> None:
    assert wrong(told) == {}
    states = {name: once(told, name).state for name in ASKED}
    assert {name for name, state in states.items() if state == "not asked"} == {"adjacencies", "shared"}


def neighbour(told: Told, switch: str, **words: Any) -> None:
    next(iter(told.said(switch)[NEIGHBOURS]["default"].values())).update(words)


def first(told: Told, switch: str, command: str) -> Any:
    return told.said(switch)[command][0]


def host(told: Told, name: str) -> str:
    """The namespace of a host in a segment."""
    return next(seat.namespace for station, seat in told.lab.seats.items() if station.name == name)


def at(told: Told, name: str, v6: bool = False) -> str:
    return next(station.address(v6) for station in told.stations if station.name == name)


def forget(table: dict[str, Any], command: str, gone: str) -> None:
    table[command] = [one for one in table[command] if one["dst"] != gone]


MISTAKES: dict[str, tuple[Change, dict[str, set[str]], str]] = {
    "crossed": (lambda told: told.said("leaf-q2")["lldp"].update(u1=("spine-2", "p2")), {"cables": {"leaf-q2"}}, "spine-2 p2"),
    "nobody at the other end": (lambda told: told.said("spine-1")["lldp"].clear(), {"cables": {"spine-1"}}, "nobody is heard"),
    "a session that is not up": (
        lambda told: neighbour(told, "spine-2", bgpState="Active", lastNotificationReason="OPEN Message Error/Bad Peer AS"),
        {"sessions": {"spine-2"}}, "it is Active (OPEN Message Error/Bad Peer AS)",
    ),
    "a session of another AS": (lambda told: neighbour(told, "leaf-q2", remoteAs=7), {"sessions": {"leaf-q2"}}, "it expects AS 7, not"),
    "a switch of another AS": (lambda told: neighbour(told, "leaf-q2", localAs=7), {"sessions": {"leaf-q2"}}, "its own AS is 7, not"),
    "a family that is not carried": (
        lambda told: neighbour(told, "leaf-q2", addressFamilyInfo={"ipv4Unicast": {}}),
        {"sessions": {"leaf-q2"}}, "it carries ipv4 unicast, not ipv4 unicast and l2vpn evpn",
    ),
    "a slower timer": (lambda told: neighbour(told, "border-q1", bgpTimerHoldTimeMsecs=180000), {"sessions": {"border-q1"}}, "agreed to wait 180 s"),
    "a neighbour that nobody configured": (
        lambda told: told.said("border-q1")[NEIGHBOURS].pop("tides"), {"sessions": {"border-q1"}}, "it has no such neighbour",
    ),
    "BFD that is down": (lambda told: first(told, "spine-1", BFD).update(status="down"), {"bfd": {"spine-1"}}, "it is down"),
    "BFD that is slow": (lambda told: first(told, "spine-1", BFD).update({"receive-interval": 1000}), {"bfd": {"spine-1"}}, "it speaks every 1000 ms"),
    "BFD that is not there": (lambda told: told.said("spine-1")[BFD].pop(), {"bfd": {"spine-1"}}, "nothing watches it"),
    "a path less": (lambda told: first(told, "leaf-q2", FOUR)["nexthops"].pop(), {"routes": {"leaf-q2"}}, "1 next hops"),
    "no way to a tunnel end": (lambda told: told.said("border-q1")[FOUR].pop(), {"routes": {"border-q1"}}, "no route"),
    "a tunnel end too many": (
        lambda told: first(told, "leaf-q2", VNIS)["numRemoteVteps"].append("10.9.9.9"), {"flooding": {"leaf-q2"}}, "10.9.9.9",
    ),
    "a VNI missing": (lambda told: told.said("leaf-q2")[VNIS].pop(0), {"flooding": {"leaf-q2"}}, "it has no VNI"),
    "an address taken for one's own": (lambda told: mac(told, "leaf-q2", "one").update(type="local"), {"addresses": {"leaf-q2"}}, "it is taken for local"),
    "an address behind somebody else": (
        lambda told: mac(told, "leaf-q2", "one").update(remoteVtep="10.9.9.9"), {"addresses": {"leaf-q2"}}, "behind 10.9.9.9",
    ),
    "an address that is not known": (lambda told: mac(told, "leaf-q2", "one").clear(), {"addresses": {"leaf-q2"}}, "the address is not known"),
    "a prefix missing": (
        lambda told: forget(told.said("leaf-q2"), "ip -4 -j route show vrf tides", "10.72.2.0/24"), {"prefixes": {"leaf-q2"}}, "no route",
    ),
    "a type 3 route missing": (lambda told: take(told, "leaf-q2", "multicast"), {"types": {"leaf-q2"}}, "no route for"),
    "a type 3 route too many": (
        lambda told: retarget(told, "leaf-q2", "multicast", "1:1"), {"types": {"leaf-q2"}}, "one for 1:1 that nobody planned",
    ),
    "a type 2 route missing": (lambda told: take(told, "border-q1", "macip"), {"types": {"border-q1"}}, "no route for 02:00:0b"),
    "a type 5 route of another target": (
        lambda told: retarget(told, "leaf-q2", "prefix", "1:1"), {"types": {"leaf-q2"}}, "no route for ",
    ),
    "a route of outside that does not come": (
        lambda told: forget(told.said("border-q1"), "ip -4 -j route show vrf tides", "10.99.0.0/16"), {"outside": {"border-q1"}}, "no route",
    ),
    "a route that nobody asked for": (
        lambda told: told.said("border-q1")["ip -4 -j route show vrf tides"].append({"dst": "192.0.2.0/24"}), {"outside": {"border-q1"}}, "a route",
    ),
    "a gateway that is deaf": (lambda told: told.deaf.add((host(told, "hermit in hermit"), "10.72.4.1", 0)), {"gateways": {"border-q1"}}, "no answer"),
    "a host that is not reached": (
        lambda told: told.deaf.add((host(told, "one in tide-grid"), at(told, "two in tide-grid", True), 0)), {"together": {"leaf-q2"}}, "no answer",
    ),
    "an MTU too small": (
        lambda told: told.deaf.add((host(told, "one in tide-grid"), at(told, "two in tide-grid"), 1500)), {"together": {"leaf-q2"}}, "answered to 84 bytes, not to 9,000",
    ),
    "a VRF that leaks": (
        lambda told: told.leaky.add((host(told, "one in tide-grid"), at(told, "hermit in hermit"))), {"apart": {"border-q1"}}, "answered",
    ),
    "a claim that does not hold": (
        lambda told: told.deaf.add((host(told, "dish in sweep"), "10.72.1.40", 0)), {"claims": {"leaf-q2"}}, "no answer",
    ),
    "a server that is not reached": (lambda told: told.deaf.add(("n-spine-2", "10.255.30.21", 0)), {"management": {"spine-2"}}, "no answer"),
    "a device that goes down when its file is read again": (
        lambda told: told.lab.node("spine-1").goes_down.add("p1"), {"reload": {"spine-1"}}, "p1 did",  # type: ignore[attr-defined]
    ),
    "a file that is not what runs": (
        lambda told: told.said("spine-1").update({RELOAD: "Lines To Add\n====\nrouter bgp 1\n"}), {"reload": {"spine-1"}}, "1 lines",
    ),
}  # fmt: skip


def take(told: Told, switch: str, kind: str) -> None:
    routes = told.answers_to(switch, kind)
    del routes[next(iter(routes))]


def retarget(told: Told, switch: str, kind: str, target: str) -> None:
    """Another route target on the first route of a type."""
    next(iter(told.answers_to(switch, kind).values()))["paths"][0][0]["extendedCommunity"]["string"] = (
        f"RT:{target} ET:8"
    )


def mac(told: Told, switch: str, name: str) -> dict[str, Any]:
    """What a switch knows of a host's address in the first segment that it has."""
    station = next(one for one in told.stations if one.host == name)
    found: dict[str, Any] = next(
        one["macs"][station.mac] for one in told.said(switch)[MACS].values() if station.mac in one["macs"]
    )
    return found


@pytest.mark.parametrize("name", MISTAKES)
def test_one_wrong_word_is_found_by_its_question_alone_and_named(told: Told, name: str) -> None:
    change, expected, words = MISTAKES[name]
    change(told)
    assert wrong(told) == expected
    [question] = expected
    found = once(told, question)
    assert not found.claims[0].holds, "what failed comes first"
    assert any(words in claim.found for claim in found.claims if not claim.holds), found.claims[0]
    assert sum(claim.holds for claim in found.claims) > 0, "and not everything is wrong"
    assert all(claim.command for claim in found.claims), "each says what was asked"


def test_a_claim_about_nobody_does_not_hold_whoever_else_is_here() -> None:
    text = apply(BRIEF, [("claims", ["one reaches two in segment buoys", "nobody reaches two", "hermit reaches two"])])
    asked = right(compile(read(text).brief, catalogue=MADE.with_models([SMALL_LEAF])))
    found = [(claim.words, claim.holds) for claim in once(asked, "claims").claims]
    assert ("nobody reaches two", False) in found and ("hermit reaches two", False) in found, "which is two of them"
    assert any(holds for _, holds in found)
    assert "There is no host, segment, VRF or switch nobody." in once(asked, "claims").claims[0].found


def test_a_host_that_is_not_to_be_heard_is_a_claim_of_its_own(told: Told) -> None:
    """Of strangers and of VRFs that share nothing; each way only once, since an answer needs both."""
    words = [claim.words for claim in once(told, "apart").claims]
    assert len(words) == len(set(words))
    assert any(one.startswith("a stranger on ") and "the gateway" in one for one in words)


def test_a_question_is_asked_until_all_of_it_holds_or_its_time_is_up(
    told: Told, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("time.sleep", lambda seconds: None)
    turns: list[int] = []

    def ask(asking: Asking) -> list[Claim]:
        turns.append(1)
        return [Claim("it is there", len(turns) > 2, "leaf-q2")]

    assert answer(told, Question("late", "it comes", ask)).state == "yes" and len(turns) == 3
    turns.clear()
    assert answer(told, Question("late", "it comes", ask, seconds=0)).state == "no" and len(turns) == 1


def test_what_a_kernel_cannot_show_is_not_asked_and_what_is_not_there_neither(told: Told) -> None:
    told.lab.missing = frozenset({"VXLAN"})
    unasked = once(told, "flooding")
    assert (unasked.state, unasked.claims) == ("not asked", ()) and "VXLAN" in unasked.why
    told.lab.missing = frozenset()
    assert once(told, "shared").why == "no host here hangs on two leaves"


def test_a_daemon_that_does_not_answer_is_a_claim_that_names_its_switch(told: Told) -> None:
    def gone(command: str) -> str:
        raise NoLab("leaf-q2: vtysh: bgpd is not running")

    told.lab.node("leaf-q2").vtysh = gone  # type: ignore[method-assign]
    found = once(told, "sessions")
    assert [(one.holds, one.about) for one in found.claims] == [(False, "leaf-q2")]
    assert "bgpd is not running" in found.claims[0].found


def test_that_the_lab_itself_is_gone_is_no_answer(told: Told) -> None:
    def ended(*words: str) -> None:
        raise NoGround("The lab's ground has ended.")

    told.lab.ground = SimpleNamespace(run=ended, at_once=2)  # type: ignore[assignment]
    told.lab.node("leaf-q2").vtysh = ended  # type: ignore[method-assign, assignment]
    with pytest.raises(NoGround):
        once(told, "sessions")


def test_what_was_answered_is_kept_short() -> None:
    assert excerpt("short") == "short" and excerpt([1]) == "[\n 1\n]"
    assert len(excerpt("x" * 5000)) == 601 and excerpt("x" * 5000).endswith("…")
