"""A flow is followed where packets really go: by the tables of running switches, beside what hosts say who send it."""

from __future__ import annotations

import pytest

from barrio.core.observe.follow import Followed, follow
from tests.rehearsal.whole import ROUTER, Fabric


def followed(fabric: Fabric, source: str, target: str) -> Followed:
    """Followed through the tables of the lab's switches."""
    nodes = {str(node.switch.name): node for node in fabric.lab.nodes.values()}
    answers: dict[tuple[str, str], str] = {}
    while True:
        found = follow(fabric.lab.compiled, answers, source, target)
        wanted = [one for one in found.wants if one not in answers]
        if not wanted:
            return found
        for name, command in wanted:
            done = nodes[name].ask(*command.split())
            answers[name, command] = done.out + done.err


@pytest.mark.parametrize(
    ("source", "target", "address"),
    [
        ("bonded", "buoy", "10.72.2.21"), ("dish", "10.72.1.11", "10.72.1.11"),
        *(
            pytest.param(*one, marks=pytest.mark.long)
            for one in (("bonded", "far", "10.72.1.21"), ("single", "twin", "10.72.1.14"), ("dish", "buoy", "10.72.2.21"), ("buoy", "10.99.1.1", ""))
        ),
    ],
)  # fmt: skip
def test_it_arrives_where_packets_arrive_and_ends_where_they_end(
    fabric: Fabric, source: str, target: str, address: str
) -> None:
    wanted = target != "10.72.1.11"
    assert not address or fabric.reaches(source, address, seconds=60 if wanted else 3) == wanted
    found = followed(fabric, source, target)
    assert found.arrives == (1 if wanted else 0), found.words()
    assert not any(one.short for one in found.passed), "it is spread over as many ways as planned"
    ends = [end.words for one in found.passed for end in one.step.ends]
    at = {"far": "far", "twin": "twin", "buoy": "buoy", "10.99.1.1": ROUTER}.get(target, "no route to 10.72.1.11")
    assert all(at in one for one in ends), ends


def test_what_the_spines_throw_away_is_lost_and_the_walk_says_where(fabric: Fabric) -> None:
    assert fabric.reaches("bonded", "10.72.2.21")
    vtep = next(str(one.vtep) for one in fabric.lab.compiled.models.values() if one.name == "leaf-w2")
    spines = [node for node in fabric.lab.nodes.values() if node.switch.role == "spine"]
    try:
        for count, spine in enumerate(spines, 1):
            spine.run("ip", "route", "add", "blackhole", f"{vtep}/32", "metric", "1")
            found = followed(fabric, "bonded", "buoy")
            assert float(found.arrives) == 1 - count / len(spines), found.words()
            assert {name for name, _, _ in found.lost} == {str(one.switch.name) for one in spines[:count]}
        assert not fabric.reaches("bonded", "10.72.2.21", seconds=3)
    finally:
        for spine in spines:
            spine.run("ip", "route", "del", "blackhole", f"{vtep}/32", "metric", "1", check=False)
    assert fabric.reaches("bonded", "10.72.2.21")
