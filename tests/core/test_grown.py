"""Racks come and go: what no change reaches is taken from before, and nobody can tell the fabric from one compiled whole."""

from __future__ import annotations

from copy import deepcopy
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from barrio.core import Compiled, Refused, Stock, compile
from barrio.core.brief.document import apply, read
from barrio.core.brief.model import Brief
from barrio.core.ledger.wanted import Holdings, Taken
from barrio.core.sums import effect
from tests.conftest import briefs, tries

EXAMPLES = Path(__file__).parents[2] / "examples"


def or_refused(brief: Brief, stock: Stock, previous: Compiled | None) -> Compiled | str:
    try:
        return compile(brief, stock, previous=previous)
    except Refused as refusal:
        return str(refusal)


@st.composite
def edited(draw: st.DrawFn, groups: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Racks as somebody may have them after one edit; hosts stand in the first, which stays."""
    groups = deepcopy(groups)
    at = draw(st.integers(0, len(groups) - 1))
    racks = groups[at]["racks"].split(", ")
    taken = {rack for group in groups for rack in group["racks"].split(", ")}
    fresh = draw(st.sampled_from([f"r{number:02d}" for number in range(1, 60) if f"r{number:02d}" not in taken]))
    match draw(st.sampled_from(["more", "more", "fewer", "first", "group", "growth", "other", "turned"])):
        case "more":
            groups[at]["racks"] = ", ".join([*racks, fresh])
        case "first":
            groups[at]["racks"] = ", ".join([racks[0], fresh, *racks[1:]])
        case "fewer" if len(racks) > 1:
            gone = draw(st.sampled_from(racks[1:] if at == 0 else racks))
            groups[at]["racks"] = ", ".join(rack for rack in racks if rack != gone)
        case "group":
            groups.append({**deepcopy(groups[at]), "racks": fresh})
        case "growth":
            groups[at]["growth"] = draw(st.integers(0, 3))
        case "other":
            groups[at]["faces"] = draw(st.sampled_from(["front", "rear"]))
        case "turned":
            groups = [groups[0], *reversed(groups[1:])]
    return groups


@tries(60)
@given(data=briefs(), draw=st.data())
def test_a_fabric_that_grew_and_shrank_is_the_one_compiled_whole(data: dict[str, Any], draw: st.DataObject) -> None:
    before = compile(Brief.model_validate(data))
    before.render_all()
    for _ in range(3):
        after = {**data, "racks": draw.draw(edited(data["racks"]))}
        brief = Brief.model_validate(after)
        numbers = before.allocation.numbers
        loaded = draw.draw(st.booleans())
        stock = Stock(before.pools, Holdings({use: dict(held) for use, held in numbers.items()} if loaded else numbers))
        again, anew = or_refused(brief, stock, before), or_refused(brief, stock, None)
        if isinstance(anew, str) or isinstance(again, str):
            assert again == anew
            continue
        assert again.structure == anew.structure and again.structure.links == anew.structure.links
        assert again.models == anew.models and again.ends == anew.ends and again.origins == anew.origins
        assert again.findings == anew.findings and again.allocation == anew.allocation and again.demands == anew.demands
        assert effect(before, again) == effect(before, anew), "and of a cable that is known it is not asked again"
        assert again.leads == anew.leads and again.cables == anew.cables and again.attachments == anew.attachments
        assert again.site_wide == anew.site_wide and again.without_files == anew.without_files
        for key in anew.models:
            if key not in anew.without_files:
                assert again.files(key) == anew.files(key)
        data, before = after, again


@pytest.mark.parametrize(("name", "field", "racks"), [("marlin", "racks[0].racks", "r01..r13"), ("pelican", "racks[1].racks", "a01..a03")])  # fmt: skip
def test_what_a_new_rack_does_not_reach_is_the_very_same(name: str, field: str, racks: str) -> None:
    text = (EXAMPLES / f"{name}.yaml").read_text()
    before = compile(read(text).brief)
    before.render_all()
    known = {id(lead) for lead in before.leads if lead.use == "fabric" and not lead.plug and not lead.via}
    brief = read(apply(text, [(field, racks)])).brief
    after = compile(brief, Stock(before.pools, Holdings(before.allocation.numbers)), previous=before)
    fresh = {key for key in after.models if key not in before.models}
    assert fresh and len(after.models) - len(fresh) == len(before.models)
    leaves = [one.key for one in after.structure.leaves if one.key not in fresh]
    kept = [key for key in leaves if after.models[key] is before.models[key]]
    assert kept == leaves and after.rendered >= len(leaves)
    assert known and known <= {id(lead) for lead in after.leads}


@pytest.mark.parametrize(
    ("use", "key"),
    [
        ("loopback.v4", "leaf/r02/a"), ("loopback.v4", "spine/2"), ("vtep.v4", "leaf/r02/a"), ("management.v4", "leaf/r02/b"),
        ("link.v4", "leaf/r02/a~spine/2~1"), ("cable", "leaf/r02/a~spine/2~1"), ("asn", "leaf/r02/a"), ("asn", "spines"),
    ],
)  # fmt: skip
def test_a_number_that_moves_while_a_rack_comes_is_in_every_model_that_has_it(use: str, key: str) -> None:
    text = (EXAMPLES / "marlin.yaml").read_text()
    before = compile(read(text).brief)
    pool = next(one for one in before.demands if one.use == use)
    moves = {use: {key: Taken(pool.ranges[0].low + 4000, pool.size)}}
    assert before.allocation.numbers[use][key] != moves[use][key]
    stock = Stock(before.pools, Holdings(before.allocation.numbers, moves=moves))
    brief = read(apply(text, [("racks[0].racks", "r01..r13")])).brief
    again, anew = compile(brief, stock, previous=before), compile(brief, stock)
    assert again.allocation.numbers[use][key] == moves[use][key]
    assert again.models == anew.models and again.ends == anew.ends and again.leads == anew.leads
