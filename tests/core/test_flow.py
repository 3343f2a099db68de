"""The way of a flow by the tables of the switches: where it goes when all is as planned, and what is said where one table is otherwise."""

from __future__ import annotations

from fractions import Fraction

import pytest

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.errors import Refused
from barrio.core.observe.follow import Followed, follow
from tests.conftest import EXAMPLES
from tests.core.tabled import Host, Tables, tabled

TERN = next(path.read_text() for path in EXAMPLES if path.stem == "tern")
ROBOT = Host("robot-1", ("leaf-t01",), "h1", "tape-robots", "10.72.10.21")
KEEPER = Host("keeper", ("leaf-t03",), "h24", "tape-robots", "10.72.10.5")
VAULT = Host("vault-05", ("leaf-t02",), "bond-h5", "cold-store", "10.72.0.25")
FEED = Host("feed-1", ("leaf-t01",), "h20", "dish-feeds", "10.72.1.31")

Fabric = tuple[Compiled, dict[str, Tables]]
Answers = dict[tuple[str, str], str]


@pytest.fixture(scope="module")
def tern() -> Compiled:
    return compile(read(TERN).brief)


@pytest.fixture
def fabric(tern: Compiled) -> Fabric:
    return tern, tabled(tern, [ROBOT, KEEPER, VAULT, FEED])


def asked(fabric: Fabric, source: str, target: str, without: frozenset[str] = frozenset()) -> tuple[Followed, Answers]:
    """Followed until nothing more is wanted that anybody answers, with all that was answered."""
    compiled, found = fabric
    answers: Answers = {}
    while True:
        came = follow(compiled, answers, source, target)
        wanted = [one for one in came.wants if one not in answers and one[0] not in without]
        if not wanted:
            return came, answers
        answers |= {(name, command): found[name].answer(command) for name, command in wanted}


def followed(fabric: Fabric, source: str, target: str, without: frozenset[str] = frozenset()) -> Followed:
    return asked(fabric, source, target, without)[0]


def vtep(fabric: Fabric, name: str) -> str:
    return next(str(one.vtep) for one in fabric[0].models.values() if one.name == name)


def ends(found: Followed) -> list[str]:
    return [f"{one.step.state.switch}: {end.words}" for one in found.passed for end in one.step.ends]


@pytest.mark.parametrize(
    ("source", "target", "end"),
    [
        ("robot-1", "keeper", "leaf-t03: out at h24, to keeper"),
        ("10.72.10.21", "10.72.10.5", "leaf-t03: out at h24, to keeper"),
        ("robot-1", "vault-05", "leaf-t02: out at bond-h5, to vault-05"),
        ("vault-05", "10.72.10.21", "leaf-t01: out at h1, to robot-1"),
    ],
)
def test_within_a_segment_and_between_segments_it_goes_by_every_spine_alike(
    fabric: Fabric, source: str, target: str, end: str
) -> None:
    found = followed(fabric, source, target)
    assert found.arrives == 1 and ends(found) == [end] and found.lost == []
    middle = {one.step.state.switch: one.share for one in found.passed if one.step.depth == 1}
    assert middle == {"spine-1": Fraction(1, 2), "spine-2": Fraction(1, 2)}
    assert found.narrowest == 9000 and not any(one.short for one in found.passed)
    assert found.passed[0].planned == 2


def test_each_step_says_what_table_sends_it_on(fabric: Fabric) -> None:
    [first, *_, last] = followed(fabric, "robot-1", "vault-05").passed
    told = "\n".join(first.step.words)
    assert "the frame is for vlan100 itself: routed in VRF archive" in told
    assert "10.72.0.25/32 in VRF archive: by vlan103" in told and "as another leaf told" in told
    assert f"tunnel to {vtep(fabric, 'leaf-t02')}" in told and "by u1 or u2" in told
    assert [one.cable for one in first.step.ways] == ["T-0001", "T-0002"]
    assert last.step.words[0].startswith("out of the tunnel: VNI 30003 is VLAN 103 here")


def test_a_vrf_without_a_route_ends_it_and_says_so(fabric: Fabric) -> None:
    found = followed(fabric, "feed-1", "keeper")
    assert found.arrives == 0
    assert found.words() == "It does not arrive: leaf-t01 has no route to 10.72.10.5 in VRF intake."


def test_a_link_that_is_down_leaves_fewer_ways_than_planned(fabric: Fabric) -> None:
    fabric[1]["leaf-t01"].route(vtep(fabric, "leaf-t03"))["nexthops"][0]["flags"].append("linkdown")
    found = followed(fabric, "robot-1", "keeper")
    assert found.arrives == 1 and [one.step.state.switch for one in found.passed if one.short] == ["leaf-t01"]
    assert found.words() == "It arrives, at leaf-t03. leaf-t01 spread it over fewer ways than planned."
    assert "by u1 (down) or u2" in "\n".join(found.passed[0].step.words)


def test_what_one_spine_throws_away_is_told_with_its_share(fabric: Fabric) -> None:
    route = fabric[1]["spine-2"].route(vtep(fabric, "leaf-t03"))
    route.clear()
    route |= {"type": "blackhole", "dst": vtep(fabric, "leaf-t03")}
    found = followed(fabric, "robot-1", "keeper")
    assert found.arrives == Fraction(1, 2)
    assert [(name, part) for name, _, part in found.lost] == [("spine-2", Fraction(1, 2))]
    assert found.words().startswith("50% of it arrives; the rest does not: spine-2 has")


def test_unequal_weights_are_unequal_shares(fabric: Fabric) -> None:
    fabric[1]["leaf-t01"].route(vtep(fabric, "leaf-t03"))["nexthops"][0]["weight"] = 3
    shares = {one.step.state.switch: one.share for one in followed(fabric, "robot-1", "keeper").passed}
    assert (shares["spine-1"], shares["spine-2"], shares["leaf-t03"]) == (Fraction(3, 4), Fraction(1, 4), Fraction(1))


def test_parts_that_end_in_different_ways_at_one_switch_keep_their_shares(fabric: Fabric) -> None:
    leaf = fabric[1]["leaf-t01"]
    first, second = leaf.route(vtep(fabric, "leaf-t03"))["nexthops"]
    first["weight"], second["dev"] = 3, "u9"
    leaf.neighbours = [one for one in leaf.neighbours if one["dev"] != "u1"]
    found = followed(fabric, "robot-1", "keeper")
    assert found.arrives == 0
    assert sorted(part for _, _, part in found.lost) == [Fraction(1, 4), Fraction(3, 4)]


def test_nothing_but_a_mac_that_one_switch_says_is_asked_of_another(fabric: Fabric) -> None:
    for one in fabric[1]["leaf-t03"].neighbours:
        if one["dst"] == KEEPER.address:
            one["lladdr"] = "02:00:00:00:00:01 dev eth0"
    _, answers = asked(fabric, "robot-1", "10.72.10.5")
    assert not any("eth0" in command for _, command in answers)


def test_a_circle_is_a_circle(fabric: Fabric) -> None:
    models = {str(one.name): one for one in fabric[0].models.values()}
    back = next(str(one.label) for one in models["spine-1"].fabric_ports if one.peer == "leaf-t01")
    fabric[1]["spine-1"].route(vtep(fabric, "leaf-t03"))["dev"] = back
    found = followed(fabric, "robot-1", "keeper")
    assert found.circle and "circle" in found.words()


def test_a_cable_that_is_not_where_the_plan_has_it_ends_it(fabric: Fabric) -> None:
    for one in fabric[1]["leaf-t01"].neighbours:
        if one["dev"] == "u1":
            one["lladdr"] = "02:00:00:00:00:99"
    found = followed(fabric, "robot-1", "keeper")
    assert found.arrives == Fraction(1, 2) and "which is not spine-1's, as the plan has it there" in ends(found)[0]


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        (lambda one: one.macs.clear(), "does not know where"),
        (lambda one: one.devices.remove(next(each for each in one.devices if each["ifname"] == "vni30000")), "has nothing of VNI 30000"),
        (lambda one: next(each for each in one.devices if each["ifname"] == "h24").update(operstate="DOWN"), "h24 is down"),
        (lambda one: one.routes.clear(), "has no route to the tunnel end"),
    ],
)  # fmt: skip
def test_what_is_wrong_at_the_far_leaf_is_said_there(fabric: Fabric, spoil: object, says: str) -> None:
    compiled, found = fabric
    before, answers = asked(fabric, "robot-1", "10.72.10.5")
    assert before.arrives == 1
    spoil(found["leaf-t03"])  # type: ignore[operator]
    # Where the host is stays as it was told; what becomes of the flow is asked anew.
    late = {key: found[key[0]].answer(key[1]) for key in answers if key[0] == "leaf-t03" and "neigh" not in key[1]}
    came = follow(compiled, answers | late, "robot-1", "10.72.10.5")
    assert came.arrives == 0 and says in "\n".join(ends(came))


def test_who_does_not_answer_is_named_and_what_is_known_is_shown(fabric: Fabric) -> None:
    found = followed(fabric, "robot-1", "keeper", without=frozenset({"spine-2"}))
    assert {name for name, _ in found.wants} == {"spine-2"}
    assert found.words({"spine-2"}) == "What spine-2 would do with it is not known."
    assert "leaf-t03" in {one.step.state.switch for one in found.passed}


@pytest.mark.parametrize(
    ("source", "target", "says"),
    [
        ("somebody", "keeper", "is no address, and no host"),
        ("robot-1", "vault-07", "vault-07 is not heard at leaf-t02:bond-h9"),
        ("10.1.1.1", "keeper", "is in no segment of tern"),
        ("10.72.10.99", "keeper", "No leaf has 10.72.10.99 at a port"),
        ("robot-1", "10.72.10.98", "No leaf has 10.72.10.98 among its neighbours"),
        ("10.72.10.21", "2001:db8::1", "of two families"),
    ],
)
def test_what_cannot_be_followed_is_refused_with_the_way_out(
    fabric: Fabric, source: str, target: str, says: str
) -> None:
    with pytest.raises(Refused, match=says):
        followed(fabric, source, target)


def test_a_host_that_is_heard_in_two_segments_is_asked_which(fabric: Fabric) -> None:
    leaf = fabric[1]["leaf-t01"]
    leaf.neighbours = [one for one in leaf.neighbours if one["dst"] != ROBOT.address]
    leaf.macs.append(f"{ROBOT.mac} dev h1 vlan 101 master bridge ")
    with pytest.raises(Refused, match="robot-1 is heard in cold-store and tape-robots"):
        followed(fabric, "robot-1", "vault-05")
    assert followed(fabric, "robot-1 in tape-robots", "vault-05").arrives == 1


def test_the_gateway_itself_is_an_end(fabric: Fabric) -> None:
    found = followed(fabric, "robot-1", "10.72.10.1")
    assert found.arrives == 1 and ends(found) == ["leaf-t01: 10.72.10.1 is an address of its own"]


def test_fifty_thousand_macs_behind_a_port_are_no_hindrance(fabric: Fabric) -> None:
    leaf = fabric[1]["leaf-t01"]
    many = [f"02:bb:{number >> 16:02x}:{number >> 8 & 255:02x}:{number & 255:02x}:01" for number in range(50_000)]
    leaf.macs = [f"{mac} dev h1 vlan 100 master bridge " for mac in many] + leaf.macs
    leaf.neighbours = [
        {"dst": "10.72.10.200", "dev": "vlan100", "lladdr": "", "state": ["FAILED"]}
    ] * 5_000 + leaf.neighbours
    assert followed(fabric, "robot-1", "keeper").arrives == 1
