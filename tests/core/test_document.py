"""The brief as text: lines, ranges, edits, and input that means harm."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from ruamel.yaml import YAML

from barrio.core import Refused, compile
from barrio.core.brief import document
from barrio.core.brief.compare import changed_paths
from barrio.core.brief.document import apply, read, set_value, split_path
from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import contract_names, expand_names
from tests.conftest import EXAMPLES, briefs, tries

DOCS = Path(__file__).parents[2] / "docs"


def as_yaml(data: dict[str, Any]) -> str:
    from io import StringIO

    out = StringIO()
    YAML(typ="safe", pure=True).dump(data, out)
    return out.getvalue()


@tries(30)
@given(data=briefs())
def test_a_brief_reads_back_from_its_own_text_and_every_line_is_where_it_says(data: dict[str, Any]) -> None:
    text = as_yaml(data)
    document = read(text)
    assert document.brief == Brief.model_validate(data)
    lines = text.splitlines()
    for path, line in document.lines.items():
        last = split_path(path)[-1]
        if isinstance(last, str):
            assert re.search(rf"['\"]?{re.escape(last)}['\"]?:", lines[line - 1]), path


@tries(30)
@given(first=st.integers(0, 900), count=st.integers(1, 90), extra=st.sets(st.integers(2000, 2040), max_size=6))
def test_contracted_ranges_expand_to_the_same_names_in_the_same_order(first: int, count: int, extra: set[int]) -> None:
    names = (*(f"r{number:04d}" for number in [*range(first, first + count), *sorted(extra)]), "b01")
    assert expand_names(contract_names(names)) == names
    assert len(contract_names(names)) <= len(", ".join(names))


@given(text=st.text(max_size=200))
def test_any_text_is_a_brief_or_refused_in_words(text: str) -> None:
    try:
        read(text)
    except Refused as refused:
        assert all(fault.message and fault.code for fault in refused.faults)


TOKENS = st.sampled_from(
    ["fabric: a\n", "spines:\n", "  count: 2\n", "  - racks: r01\n", "racks:\n", "racks: [", "]", "{", "}", "&a ", "*a", "!!set ",
     "? ", ": ", "- ", "'", '"', "|\n", ">\n", "%YAML 9.9\n", "---\n", "...\n", "\t", "<<: ", "null", "0x1f", "1e999", "é", "\u2028"]
)  # fmt: skip


@tries(150)
@given(parts=st.lists(TOKENS, max_size=14))
def test_broken_yaml_of_every_kind_is_refused_in_words(parts: list[str]) -> None:
    text = "".join(parts)
    try:
        compile(read(text).brief)
    except Refused as refused:
        assert all(fault.message for fault in refused.faults)


PATHS = st.sampled_from(
    ["spines.count", "spines", "racks[0].leaves", "racks[9]", "racks", "title", "nope.deep[3].er", "", "names.\"leaf/r01/a\"", "[0]", "fabric",
     "segments.tide-grid.vlan", "services.users.ines.keys[0]", "pools.x", "racks[0].racks.more", "underlay.timers.hold"]
)  # fmt: skip
VALUES = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-5, 70),
    st.text(max_size=12),
    st.lists(st.text(max_size=4), max_size=3),
    st.just({}),
)


@tries(150)
@given(path=PATHS, value=VALUES)
def test_any_edit_gives_text_that_reads_or_is_refused_in_words(path: str, value: object) -> None:
    text = EXAMPLES[0].read_text()
    try:
        document = read(set_value(text, path, value))
        compile(document.brief)
    except Refused as refused:
        assert all(fault.message for fault in refused.faults)
    else:
        assert [line for line in document.text.splitlines() if line.strip().startswith("#")] == [
            line for line in text.splitlines() if line.strip().startswith("#")
        ] or value is None


def test_an_edit_says_exactly_the_path_it_changed() -> None:
    text = EXAMPLES[0].read_text()
    before = read(text).brief
    for path, value in (
        ("spines.count", 3),
        ("racks[1].leaves", 1),
        ("underlay.bfd.interval", 150),
        ("segments.tide-grid.vlan", 222),
        ("services.domain", "other.example"),
    ):
        assert changed_paths(before, read(set_value(text, path, value)).brief) == [path]
        assert changed_paths(before, before) == []


HOSTILE = {
    "billions": "a: &a [x,x,x,x,x,x,x,x,x]\n" + "".join(f"b{n}: &b{n} [*a,*a,*a,*a]\n" for n in range(50)),
    "deep lists": "fabric: x\nracks: " + "[" * 20_000,
    "deep maps": "".join(f"{' ' * n}a:\n" for n in range(400)),
    "long line": "fabric: " + "x" * 200_000,
    "many keys": "fabric: x\nvrfs:\n" + "".join(f"  v{n}: {{}}\n" for n in range(9_000)),
    "merge": "fabric: x\n<<: {spines: {count: 2}}\n",
    "tag": "fabric: !!python/object/apply:os.system [id]\n",
    "huge": "# " + "x" * 10_000_000,
    "huge number": "fabric: x\nspines:\n  count: " + "9" * 5_000,
    "huge range": "fabric: x\nracks:\n  - racks: r" + "1" * 3_000 + "..r" + "9" * 3_000,
}


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_text_is_refused_before_it_costs_anything(name: str) -> None:
    with pytest.raises(Refused):
        compile(read(HOSTILE[name]).brief)


def test_the_guide_speaks_of_every_field() -> None:
    guide = (DOCS / "brief.md").read_text()
    schema = Brief.model_json_schema()
    fields = set(schema["properties"]) | {
        field
        for part in (
            "Spines",
            "RackGroup",
            "Bfd",
            "Timers",
            "Underlay",
            "Overlay",
            "Segment",
            "Vrf",
            "Relay",
            "Management",
            "Services",
            "Numbers",
            "Cabling",
            "Floor",
            "Hall",
            "Row",
            "Tray",
            "Way",
            "Cabinet",
            "Gear",
            "Trunk",
        )
        for field in schema["$defs"][part]["properties"]
    }
    assert {field for field in fields if not re.search(rf"\b{field}\b", guide)} == set()


def test_the_readme_links_only_to_what_is_there_and_shows_every_screenshot() -> None:
    root = DOCS.parent
    readme = (root / "README.md").read_text()
    targets = re.findall(r"\]\(([^)]+)\)", readme)
    assert all((root / target).exists() for target in targets)
    shots = {f"docs/screenshots/{path.name}" for path in (DOCS / "screenshots").iterdir()}
    assert shots == {target for target in targets if target.endswith(".png")} and len(shots) < 20


def test_a_section_goes_with_its_last_field_and_an_empty_one_that_was_written_stays() -> None:
    text = "fabric: x\npods: p1..p2\nsuper_spines: {}\nunderlay: {mtu: 9100}\n"
    after = set_value(text, "underlay.mtu", None)
    assert "underlay" not in after and "super_spines: {}" in after
    assert read(set_value(after, "spines.count", 3)).brief.super_spines is not None


LONG_ONE = (
    next(path for path in EXAMPLES if path.stem == "marlin").read_text()
    + "".join(f"# note {n} about nothing that matters to anybody who reads it\n" for n in range(90))
    + "names:\n"
    + "".join(f"  leaf/r{n:02d}/a: mast-{n}  # by hand\n" for n in range(1, 13))
)
EDITS = [
    ("title", "Another"), ("spines.count", 3), ("segments.tide-grid.state", "paused"), ("cabling.kind", "SR optics"),
    ('hosts."radar-1..radar-6"', None), ("hosts.gauge", {"at": "r01 h40", "untagged": "tide-grid"}), ("plugs.web", None),
    ('hosts."forecast-1..forecast-4".plug', None), ("plugs.radar.macs", 9), ('names."leaf/r05/a"', "spar"), ("names", None),
    ("racks[0].growth", 2), ("services.ntp[1]", None), ("overlay.storm", 400), ("hosts", None),
]  # fmt: skip


@pytest.mark.parametrize("sign", ["\\u2028", "\\x85", "\\r\\n", "\\x0c", "\\x0b"])
def test_signs_that_only_some_take_for_the_end_of_a_line_move_no_piece(sign: str) -> None:
    broken = sign.encode().decode("unicode_escape")
    text = LONG_ONE.replace("\n", "\r\n") if sign == "\\r\\n" else LONG_ONE.replace("# note 1 ", f"# note{broken}")
    try:
        read(text)
    except Refused:
        return
    assert read(apply(text, [("cabling.kind", "SR optics")])).brief.cabling.kind == "SR optics"
    assert read(apply(text, [("title", "x")])).brief.hosts == read(text).brief.hosts


@tries(60)
@given(chosen=st.lists(st.sampled_from(EDITS), min_size=1, max_size=5, unique_by=lambda one: one[0]))
def test_a_long_brief_edited_piece_by_piece_says_what_it_would_as_a_whole(chosen: list[tuple[str, Any]]) -> None:
    """And what no edit touched is there byte for byte."""
    assert len(LONG_ONE) > document.LONG

    def said(change: Callable[[str, Any], str]) -> object:
        try:
            return read(change(LONG_ONE, chosen)).brief
        except Refused as error:
            return [fault.code for fault in error.faults]

    assert said(apply) == said(document._apply)
    if not any(path.startswith(("names", "cabling", "overlay")) for path, _ in chosen):
        with contextlib.suppress(Refused):
            assert apply(LONG_ONE, chosen).endswith(LONG_ONE[LONG_ONE.index("# note 3 ") :])
