"""Saying and changing a shape: the quick line, proposals, edits on the picture, structures in and out."""

from __future__ import annotations

import csv
import io
import json
import re
import subprocess
from collections import Counter
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from barrio.core import Compiled, Refused, Stock, compile
from barrio.core.brief.document import read, set_value
from barrio.core.brief.model import Brief
from barrio.core.brief.schema import brief_schema
from barrio.core.catalogue.made import MADE
from barrio.core.catalogue.model import Catalogue
from barrio.core.edits import reshape
from barrio.core.edits.linetext import edits_of, write_line
from barrio.core.edits.quickline import complete, parse_line
from barrio.core.exchange.links import read_links
from barrio.core.exchange.understand import understand
from barrio.core.exchange.write import dot, graphml, rfc8345, svg
from barrio.core.ledger.wanted import Holdings
from barrio.core.proposals import Need, propose
from barrio.core.structure.expand import expand
from barrio.core.sums import add_up
from tests.conftest import EXAMPLES, briefs, tries

MODELS = Path("/usr/share/yuma/modules/ietf")


def example(name: str) -> tuple[str, Compiled]:
    text = next(path for path in EXAMPLES if path.stem == name).read_text()
    return text, compile(read(text).brief)


SHAPE = ("pods", "super_spines", "spines", "uplinks_per_spine")
GROUP = ("racks", "kind", "pods", "leaves", "model", "role", "pairing", "uplinks_per_spine", "host_speed")


@tries(60)
@given(data=briefs())
def test_a_line_says_the_shape_and_reads_back_as_the_same(data: dict[str, Any]) -> None:
    brief = Brief.model_validate(data)
    line = write_line(brief)
    said = parse_line(line, MADE)
    assert said.name == brief.fabric
    text = "fabric: x\n"
    for path, value in edits_of(said, None):
        text = set_value(text, path, value)
    back = read(set_value(text, "fabric", brief.fabric)).brief
    for field in ("count", "model", "racks"):
        assert getattr(back.spines, field) == getattr(brief.spines, field)
    assert (back.pods and back.pods.replace("..", "")) == (brief.pods and re.sub(r", p(\d)", r"p\1", brief.pods)) or (
        back.pod_names == brief.pod_names
    )
    assert back.uplinks_per_spine == brief.uplinks_per_spine
    assert back.underlay.protocol == brief.underlay.protocol and back.underlay.addressing == brief.underlay.addressing
    assert back.underlay.asn == brief.underlay.asn and back.overlay.protocol == brief.overlay.protocol
    for one, two in zip(back.racks, brief.racks, strict=True):
        assert one.rack_names == two.rack_names
        assert all(getattr(one, field) == getattr(two, field) for field in GROUP[1:])
    again = parse_line(write_line(back), MADE)
    assert (again.fields, again.groups) == (said.fields, said.groups)


WORDS = ["4", "12", "spines", "racks", "of", "leaf", "pairs", "r01..r04", ",", ":", "with", "in", "single", "é", "\t"]


@tries(200)
@given(text=st.lists(st.sampled_from(WORDS), max_size=12).map(" ".join))
def test_any_line_is_read_or_refused_with_the_column_of_a_word(text: str) -> None:
    try:
        parse_line(text, MADE)
    except Refused as error:
        (fault,) = error.faults
        assert 1 <= fault.column <= len(text) + 1 and fault.message.endswith(".")
    assert isinstance(complete(text, MADE), list)


@pytest.mark.parametrize(
    ("line", "column", "says"),
    [
        ("4 spins, 2 racks of leaf pairs", 3, "Did you mean “spines”?"),
        ("4 spines, 3 racks r01..r04 of leaf pairs", 19, "names 4 racks, and the line says 3"),
        ("4 spines cantera-l48", 10, "does not fit here"),
        ("2 racks of leaf", 16, "stops too soon"),
    ],
)
def test_a_line_points_at_the_word_that_does_not_fit(line: str, column: int, says: str) -> None:
    with pytest.raises(Refused) as refused:
        parse_line(line, MADE)
    fault = refused.value.faults[0]
    assert (fault.column, says in fault.message) == (column, True), fault


def test_completion_offers_what_the_grammar_takes() -> None:
    assert complete("4 racks of ", MADE) == ["single", "leaf"]
    assert complete("4 spines lon", MADE) == ["lonja-s64", "lonja-k1152"]
    assert complete("4 spins ", MADE) == []
    line = ""
    for word in ("4", "spines", "cantera-c64", ",", "2"):
        line += f" {word}"
        parse_line_or_more(line)


def parse_line_or_more(line: str) -> None:
    """A line that completion led to is right so far: it is whole, or only stops too soon."""
    try:
        parse_line(line, MADE)
    except Refused as error:
        assert error.faults[0].code == "quickline.end"


NEEDS = [
    Need(hosts=300, oversubscription=3.0),
    Need(hosts=1000, host_speed=25, homes=1, growth=0.5, rule="least power"),
    Need(hosts=4000, host_speed=100, homes=1, oversubscription=2.0, rule="fewest cables"),
    Need(hosts=6000, host_speed=25, models=("cantera-l48", "cantera-c32"), rule="most room"),
]


@pytest.mark.parametrize("need", NEEDS)
def test_every_proposal_meets_the_need_and_they_come_in_the_order_asked_for(need: Need) -> None:
    answer = propose(need, MADE)
    assert answer.met >= len(answer.proposals) > 0
    for proposal in answer.proposals:
        brief = read(proposal.text).brief
        compiled = expand(brief, MADE)
        usable = sum(len(leaf.plan.hosts) for leaf in compiled.leaves)
        assert usable >= need.hosts * need.homes
        assert proposal.sums.oversubscription <= need.oversubscription + 1e-9
        for pod in proposal.sums.by_pod:
            assert pod.oversubscription <= need.oversubscription + 1e-9
        assert (proposal.sums.switches, proposal.sums.cables, proposal.sums.power) == (
            proposal.design.switches, proposal.design.cables, proposal.design.power,
        )  # fmt: skip
        used = {switch.type.id for switch in compiled.switches}
        assert not need.models or used <= set(need.models)
        assert not [fault for fault in compile_findings(brief) if fault.startswith("growth.")], "growth fits"
    keys = {"fewest switches": "switches", "fewest cables": "cables", "least power": "power", "most room": "room"}
    values = [getattr(one.design, keys[need.rule]) for one in answer.proposals]
    best = max(values) if need.rule == "most room" else min(values)
    assert values[0] == best


def compile_findings(brief: Brief) -> list[str]:
    from barrio.core.checks.structure import check_structure

    return [finding.code for finding in check_structure(brief, expand(brief, MADE))]


def test_no_smaller_two_tier_fabric_was_missed() -> None:
    """Against a search of its own: every count of spines and links, by compiling each."""
    leaf, spine = MADE.find("cantera-l24"), MADE.find("cantera-c32")
    assert leaf and spine
    few = Catalogue(models=(leaf, spine))
    answer = propose(Need(hosts=200, homes=2, oversubscription=3.0), few)
    best = None
    for spines in range(2, 5):
        for lanes in range(1, 3):
            text = f"fabric: x\nspines: {{count: {spines}}}\nuplinks_per_spine: {lanes}\nracks: [{{racks: r01..r09, leaves: 2, model: cantera-l24}}]\n"
            try:
                brief = read(text).brief
                sums = add_up(brief, expand(brief, few))
            except Refused:
                continue
            if sums.oversubscription <= 3.0:
                best = min(best or (10**6,), (sums.switches, sums.cables))
    assert best == (answer.proposals[0].design.switches, answer.proposals[0].design.cables)


def test_what_cannot_be_met_says_by_how_much() -> None:
    answer = propose(Need(hosts=1200, models=("cantera-l24", "cantera-c32")), MADE)
    reasons = {failure.models: failure.reason for failure in answer.failures}
    assert re.search(r"needs \d+ spine ports, has 32", reasons["Cantera L24 under Cantera C32"])
    assert propose(Need(hosts=10, host_speed=999), MADE).proposals == ()
    for bad in (Need(hosts=0), Need(hosts=5, homes=3), Need(hosts=5, growth=-1.0), Need(hosts=5, models=("nope",))):
        with pytest.raises(Refused):
            propose(bad, MADE)


def edited(text: str, edits: reshape.Edits) -> str:
    for path, value in edits:
        text = set_value(text, path, value)
    return text


@tries(40)
@given(data=briefs(), draw=st.data())
def test_edits_on_the_picture_touch_only_the_racks_that_were_chosen(data: dict[str, Any], draw: st.DataObject) -> None:
    before = compile(Brief.model_validate(data))
    brief = before.brief
    racks = draw.draw(st.lists(st.sampled_from(brief.rack_names), min_size=1, max_size=3, unique=True))
    text = json.dumps(brief.model_dump(mode="json", exclude_unset=True))
    ledger = Stock(before.pools, Holdings(before.allocation.numbers))
    fewer = read(edited(text, reshape.remove_racks(brief, racks))).brief
    assert set(fewer.rack_names) == set(brief.rack_names) - set(racks)
    more = read(edited(text, reshape.copy_racks(brief, racks))).brief
    assert len(more.rack_names) == len(brief.rack_names) + len(racks) and set(brief.rack_names) <= set(more.rack_names)
    changed = read(edited(text, reshape.change_racks(brief, racks, {"model": "lonja-t64", "kind": "new"}))).brief
    kinds = {rack: group.kind for group in changed.racks for _, rack in changed.places(group)}
    assert {rack for rack, kind in kinds.items() if kind == "new"} == set(racks)
    after = compile(more, ledger)
    assert not after.allocation.given_back, "a copy takes nothing from what is there"


def test_ports_get_another_use_for_a_switch_or_for_its_kind() -> None:
    text, compiled = example("marlin")
    leaf = compiled.structure.by_key["leaf/r01/a"]
    edits = reshape.plan_ports_of(compiled.brief, leaf, ["h47", "h48"], "reserved", "kind")
    after = compile(read(edited(text, edits)).brief)
    assert len(after.models["leaf/r05/b"].host_ports) == 46 and len(after.models["leaf/b01/a"].host_ports) == 48
    edits = reshape.plan_ports_of(compiled.brief, leaf, ["h48"], "reserved", "switch")
    one = compile(read(edited(text, edits)).brief)
    assert [port.label for port in one.models["leaf/r01/a"].host_ports][-2:] == ["h46", "h47"]
    assert len(one.models["leaf/r01/b"].host_ports) == 48
    with pytest.raises(Refused):
        reshape.plan_ports_of(compiled.brief, leaf, ["h1"], "decoration", "switch")
    with pytest.raises(Refused):
        reshape.remove_racks(compiled.brief, ["r99"])


def test_a_plan_of_a_switch_begins_with_what_its_kind_s_says() -> None:
    text, compiled = example("pelican")
    leaf = compiled.structure.by_key["leaf/p01-r01/a"]
    text = edited(text, reshape.plan_ports_of(compiled.brief, leaf, ["h47", "h48"], "reserved", "kind"))
    kind = compile(read(text).brief)
    leaf = kind.structure.by_key["leaf/p01-r01/a"]
    after = compile(read(edited(text, reshape.plan_ports_of(kind.brief, leaf, ["u8"], "4x25", "switch"))).brief)
    labels = [port.label for port in after.models["leaf/p01-r01/a"].host_ports]
    assert labels == [f"h{number}" for number in range(1, 47)], "what the kind reserves stays reserved"


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_a_topology_goes_out_and_comes_back_as_the_same_links(path: Path, tmp_path: Path) -> None:
    compiled = compile(read(path.read_text()).brief)
    document = rfc8345(compiled)
    sheet = io.StringIO()
    writer = csv.writer(sheet)
    writer.writerow(["switch", "port", "other switch", "other port"])
    for end in compiled.ends:
        writer.writerow([end.link.upper.name, end.upper_port, end.link.lower.name, end.lower_port])
    wanted = Counter(frozenset((end.link.upper.name, end.link.lower.name)) for end in compiled.ends)
    for content in (document.encode(), sheet.getvalue().encode()):
        found = understand(read_links(content), "again", MADE)
        again = compile(read(found.text).brief)
        assert Counter(frozenset((end.link.upper.name, end.link.lower.name)) for end in again.ends) == wanted
        assert (found.tiers, found.links) == (3 if compiled.structure.supers else 2, len(compiled.ends))
        assert any("Ports are planned anew" in note for note in found.notes)
    place = tmp_path / "topology.json"
    place.write_text(document)
    modules = [str(MODELS / f"ietf-network{name}@2018-02-26.yang") for name in ("", "-topology")]
    done = subprocess.run(
        ["yanglint", "-p", str(MODELS), "-t", "data", *modules, str(place)], capture_output=True, text=True, check=False
    )
    assert (done.returncode, done.stderr) == (0, "")
    place.write_text(document.replace('"source-node"', '"sauce-node"', 1))
    wrong = subprocess.run(
        ["yanglint", "-p", str(MODELS), "-t", "data", *modules, str(place)], capture_output=True, check=False
    )
    assert wrong.returncode != 0, "the claim above can fail"


def test_graphs_and_pictures_hold_every_switch_and_every_link() -> None:
    _, compiled = example("pelican")
    root = ElementTree.fromstring(graphml(compiled))
    space = {"g": "http://graphml.graphdrawing.org/xmlns"}
    assert len(root.findall(".//g:node", space)) == len(compiled.structure.switches)
    assert len(root.findall(".//g:edge", space)) == len(compiled.ends)
    edges = re.findall(r'^  "([^"]+)" -- "([^"]+)"', dot(compiled), re.M)
    assert {frozenset(edge) for edge in edges} == {
        frozenset((end.link.upper.name, end.link.lower.name)) for end in compiled.ends
    }
    drawn = ElementTree.fromstring(svg(compiled))
    words = {element.text for element in drawn.iter("{http://www.w3.org/2000/svg}text")}
    assert all(any(switch.name in (word or "") for word in words) for switch in compiled.structure.switches)


@pytest.mark.parametrize(
    ("content", "code"),
    [
        (b"a,1,b,1\na,1,c,1\n", "import.port-twice"),
        (b"a,1\n", "import.row"),
        (b"\xff\xfea", "import.encoding"),
        (b"{", "import.json"),
        (b"{}", "import.topology"),
        (b"", "import.empty"),
        (b"a,1,a,2\n", "import.loop"),
        (b"a,1,b,1\nb,2,c,1\nc,2,a,2\n", "import.shape"),
        (b"l1,1,s1,1\nl1,2,s2,1\nl2,1,s1,2\nl2,2,s2,2\nl3,1,s1,3\n", "import.shape"),
        (b"l1,1,s1,1\nl2,1,s2,1\n", "import.shape"),
        (b'"l1,1,s1,1\n', "import.csv"),
        (b"x" * 21_000_000, "import.too-large"),
    ],
)
def test_links_that_make_no_fabric_are_refused_in_words(content: bytes, code: str) -> None:
    with pytest.raises(Refused) as refused:
        understand(read_links(content), "x", MADE)
    assert refused.value.faults[0].code == code and refused.value.faults[0].message.endswith(".")


def test_the_published_schema_is_the_model_s() -> None:
    published = Path(__file__).parents[2] / "docs" / "brief.schema.json"
    assert json.loads(published.read_text()) == json.loads(json.dumps(brief_schema()))


def test_what_a_line_cannot_say_is_named() -> None:
    from barrio.core.edits.linetext import beyond_line

    brief = example("pelican")[1].brief
    assert {"racks.growth", "pods_growth", "segments", "outside", "out_of_service", "underlay.graceful_restart"} <= set(
        beyond_line(brief, MADE)
    )
    assert beyond_line(read("fabric: x\nracks: [{racks: 'r01, r02'}]\n").brief, MADE) == []
