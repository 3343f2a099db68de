"""Drawings: what GraphML and DOT say is read, what is not understood is named, and the same drawing is the same fabric."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from barrio.core import Compiled, Refused, compile
from barrio.core.adopt.adopting import Adoption
from barrio.core.adopt.drawn import adopt_drawing
from barrio.core.brief.document import read
from barrio.core.exchange.drawing import is_drawing, kind_of, read_drawing
from barrio.core.exchange.write import dot, graphml, rfc8345
from tests.conftest import EXAMPLES, tries

DRAWN = r"""
// as it hangs on the wall
strict digraph "Hall 3" {
  rankdir=TB; node [shape=box, rack=9];
  subgraph cluster_top { s1 [label="spine-1\nAS 65000"]; s2 [label="spine-2\nASN: 65000"] }
  a [label="leaf-r01a\nAS65001\n10.0.0.11/32", asn=65001];
  b [label=<leaf-r01b<br/>AS 65002>, loopback="10.0.0.12", coffee=strong];
  a -> s1 [label="10.1.0.0/31, 100G"]; a:u2:n -> s2:p1 [label="u2 - p1"];
  b -> {s1; s2} [label="2 x 100G", smell=blue];
}
"""
GRAPHML = """<?xml version="1.0"?>
<graphml xmlns="http://graphml.graphdrawing.org/xmlns" xmlns:y="http://www.yworks.com/xml/graphml">
  <key id="d1" for="node" yfiles.type="nodegraphics"/><key id="d2" for="node" attr.name="asn"/>
  <key id="d3" for="edge" attr.name="subnet"/><key id="d4" for="node" attr.name="mood"/>
  <graph edgedefault="undirected">
    <node id="n0"><data key="d1"><y:ShapeNode><y:NodeLabel>spine-1</y:NodeLabel></y:ShapeNode></data></node>
    <node id="n1"><data key="d1"><y:ShapeNode><y:NodeLabel>leaf-r01
10.0.0.1</y:NodeLabel></y:ShapeNode></data><data key="d2">65001</data><data key="d4">fair</data></node>
    <node id="n2"><data key="d1"><y:ShapeNode><y:NodeLabel>leaf-r02</y:NodeLabel></y:ShapeNode></data></node>
    <edge source="n1" target="n0" sourceport="u1" targetport="p1"><data key="d3">10.1.0.0/31</data></edge>
    <edge source="n2" target="n0"/>
  </graph>
</graphml>
"""


def test_dot_is_read_with_its_defaults_subgraphs_ports_and_labels() -> None:
    drawing = read_drawing(DRAWN.encode())
    assert {name: (node.asn, node.loopbacks) for name, node in drawing.nodes.items()} == {
        "spine-1": (65000, ()), "spine-2": (65000, ()), "leaf-r01a": (65001, ("10.0.0.11",)), "leaf-r01b": (65002, ("10.0.0.12",)),
    }  # fmt: skip
    ends = [(one.a, one.b) for one in drawing.links]
    assert ends == [("leaf-r01a", "spine-1"), ("leaf-r01a", "spine-2")] + [("leaf-r01b", "spine-1")] * 2 + [("leaf-r01b", "spine-2")] * 2  # fmt: skip
    assert (drawing.links[1].a_port, drawing.links[1].b_port) == ("u2", "p1")
    assert drawing.subnets == {1: "10.1.0.0/31"}


def test_graphml_is_read_as_drawing_programs_write_it() -> None:
    drawing = read_drawing(GRAPHML.encode())
    assert drawing.nodes["leaf-r01"].asn == 65001 and drawing.nodes["leaf-r01"].loopbacks == ("10.0.0.1",)
    first = drawing.links[0]
    assert (first.a, first.a_port, first.b, first.b_port) == ("leaf-r01", "u1", "spine-1", "p1")
    assert drawing.subnets == {1: "10.1.0.0/31"}
    assert drawing.notes == ("Not understood: what a node says of “mood”.",)


def test_what_is_not_understood_is_named_once_with_how_often() -> None:
    assert read_drawing(DRAWN.encode()).notes == (
        "Not understood: what an edge says of “smell” (2 times).", "Not understood: what a node says of “coffee”.",
    )  # fmt: skip
    notes = read_drawing(b'graph { a [label="leaf-1\\nkeep out"]; a -- s1 [label="fragile"]; a -- a }').notes
    assert set(notes) == {
        "Not understood: “keep out” of a node.", "Not understood: “fragile” of an edge.",
        "Not understood: a link of leaf-1 to itself.",
    }  # fmt: skip


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"graph { a -- ", "not DOT"),
        (b"graph {\n a -- b\n c == d\n}", "this is not DOT"),
        (b"<graphml><node></graphml>", "not GraphML"),
        (b'<!DOCTYPE x [<!ENTITY a "b">]><graphml/>', "document type of its own"),
        (b"graph { a; b }", "no link in this drawing"),
        (b"graph { \xff\xfe }", "not UTF-8"),
        (b'graph { a [label=x]; b [label=x]; a -- b }', "Two nodes are called x"),
        (b'graph { a:p1 -- b:p1; a:p1 -- c:p1 }', "uses port p1 of a"),
    ],
)  # fmt: skip
def test_what_is_no_drawing_is_refused_with_its_line(content: bytes, says: str) -> None:
    with pytest.raises(Refused, match=says):
        read_drawing(content)


def test_the_line_is_told_from_which_on_it_is_no_drawing() -> None:
    for wrong in (b"graph {\n a -- b\n c == d\n}", b"<graphml>\n<graph>\n</node></graphml>"):
        with pytest.raises(Refused) as refused:
            read_drawing(wrong)
        assert refused.value.faults[0].line == 3


def test_drawings_sheets_and_archives_are_told_apart() -> None:
    kinds = [kind_of(one) for one in (DRAWN.encode(), GRAPHML.encode(), b"a,1,b,2", b'{"ietf-network:networks": {}}')]
    assert kinds == ["dot", "graphml", "links", "links"]
    assert not is_drawing(b"PK\x03\x04") and not is_drawing(b"\x1f\x8b\x08") and not is_drawing(b"\0\0")


@given(st.text(max_size=200))
@tries(200)
def test_whatever_is_written_is_read_or_refused(text: str) -> None:
    for around in ("{}", "graph {{ {} }}", 'graph {{ a -- b [label="{}"] }}', "<graphml><node>{}</node></graphml>"):
        try:
            read_drawing(around.format(text).encode(errors="replace"))
        except Refused as error:
            assert error.faults


@pytest.fixture(scope="module", params=EXAMPLES, ids=lambda path: path.stem)
def example(request: pytest.FixtureRequest) -> Compiled:
    return compile(read(request.param.read_text()).brief)


def as_drawn(content: str, fabric: str = "drawn") -> Adoption:
    return adopt_drawing(read_drawing(content.encode()), fabric)


def test_a_fabric_that_is_drawn_comes_back_with_its_names_models_as_numbers_and_loopbacks(example: Compiled) -> None:
    found = as_drawn(graphml(example))
    back = {str(one.name): one for one in found.compiled.models.values()}
    for one in example.models.values():
        there = back[str(one.name)]
        assert (there.asn, there.router_id, there.model) == (one.asn, one.router_id, one.model)
        assert {str(port.peer) for port in there.fabric_ports} == {str(port.peer) for port in one.fabric_ports}
    assert found.oddities == ()


def test_every_form_of_a_drawing_is_the_same_shape_every_time(example: Compiled) -> None:
    shapes = [
        (found.keys, found.compiled.structure.links)
        for write in (graphml, dot, rfc8345)
        for found in [as_drawn(write(example))]
    ]
    keys = [sorted(one.items()) for one, _ in shapes]
    assert keys[0] == keys[1] == keys[2]
    joined = [sorted((one.upper.key, one.lower.key, one.lane) for one in links) for _, links in shapes]
    assert joined[0] == joined[1] == joined[2]
    assert as_drawn(graphml(example)).text == as_drawn(graphml(example)).text


@pytest.mark.parametrize("path", [one for one in EXAMPLES if one.stem != "pelican"], ids=lambda path: path.stem)
def test_a_leaf_more_in_the_middle_moves_no_other(path: Path) -> None:
    """Racks are named by what leaves are called."""
    example = compile(read(path.read_text()).brief)
    before = as_drawn(dot(example))
    spines = [str(one.name) for one in example.structure.spines]
    more = "".join(f'  "{spine}" -- "leaf-r00" [label="2 × 100G"];\n' for spine in spines)
    after = as_drawn(dot(example).rstrip().removesuffix("}") + more + "}\n")
    assert after.keys["leaf-r00"] == "leaf/r00/a"
    assert {name: key for name, key in after.keys.items() if name != "leaf-r00"} == before.keys


def test_who_is_no_part_of_the_clos_and_who_contradicts_is_an_oddity() -> None:
    text = "graph {" + "".join(
        f'"leaf-r0{leaf}" -- "spine-{spine}";' for leaf in range(1, 9) for spine in (1, 2)
    ) + '"spine-1" [asn=65000]; "spine-2" [asn=65009]; "leaf-r01" -- firewall }'  # fmt: skip
    found = as_drawn(text)
    words = [one.words for one in found.oddities]
    assert any(one.startswith("firewall is no part of the fabric") for one in words)
    assert any("AS 65009 is drawn beside AS 65000" in one for one in words)
    assert len(found.compiled.structure.leaves) == 8


def test_subnets_of_links_are_pinned_to_the_links_they_are_drawn_at() -> None:
    text = "graph {" + "".join(
        f'"leaf-r0{leaf}" -- "spine-{spine}" [label="10.9.{leaf}.{2 * spine}/31"];' for leaf in (1, 2) for spine in (1, 2)
    ) + "}"  # fmt: skip
    found = as_drawn(text)
    ports = {
        (str(one.name), str(port.peer)): str(port.v4)
        for one in found.compiled.models.values()
        for port in one.fabric_ports
        if one.is_leaf
    }
    assert {at: address.rpartition(".")[0] for at, address in ports.items()} == {
        (f"leaf-r0{leaf}", f"spine-{spine}"): f"10.9.{leaf}" for leaf in (1, 2) for spine in (1, 2)
    }
    assert ports["leaf-r02", "spine-2"] in ("10.9.2.4/31", "10.9.2.5/31")
