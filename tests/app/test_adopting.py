"""What runs is adopted part by part: only what was taken is in the draft, with the numbers that run, and nothing is asked twice."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Mapping
from pathlib import Path

import pytest

from barrio.app import adopting, drafts
from barrio.app.desk import Actor, Desk, Forbidden
from barrio.app.rights import Grant, Role
from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import read
from barrio.store.errors import Missing
from tests.api.conftest import MARLIN, TERN
from tests.cli import barrio
from tests.core import handwritten
from tests.serving import Serving


def packed(files: Mapping[str, Mapping[str, str]]) -> bytes:
    """Saved outputs: a folder for each switch."""
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, texts in files.items():
            for path, text in texts.items():
                archive.writestr(f"{name}/{path}", text)
    return held.getvalue()


def saved(compiled: Compiled, *without: str) -> bytes:
    return packed({str(one.name): compiled.files(one.key) for one in compiled.staged if one.name not in without})


def all_keys(found: adopting.Discovery, *parts: str) -> list[str]:
    return [one["key"] for one in found.found["proposals"] if one["part"] in parts or not parts]


def test_a_fabric_is_adopted_part_by_part_and_its_files_are_those_that_run(desk: Desk) -> None:
    meant = compile(read(MARLIN).brief)
    found = adopting.discover(desk, "marlin", saved(meant), "a stick")
    assert not found.exists and all(one["alike"] for one in found.found["switches"]) and found.found["oddities"] == []
    with pytest.raises(Refused, match="Take the shape first"):
        adopting.take(desk, "marlin", all_keys(found, "carried"))
    with pytest.raises(Missing):
        drafts.load(desk, "marlin")
    adopting.take(desk, "marlin", all_keys(found, "shape"))
    first = drafts.load(desk, "marlin").compiled
    assert first.models["leaf/r07/b"].loopback_v4 == meant.models["leaf/r07/b"].loopback_v4, (
        "numbers come with their owners"
    )
    assert not first.brief.segments, "and nothing that was not taken"
    for part in ("routing", "carried", "attached", "settings", "additions"):
        keys = all_keys(adopting.show(desk, "marlin"), part)
        if keys:
            adopting.take(desk, "marlin", keys)
    whole = drafts.load(desk, "marlin").compiled
    for switch in meant.staged:
        assert whole.files(switch.key) == meant.files(switch.key), switch.name
    with pytest.raises(Refused, match="in the draft already"):
        adopting.take(desk, "marlin", all_keys(found, "shape"))


def test_what_was_refused_is_not_proposed_again_and_what_is_new_is(desk: Desk) -> None:
    meant = compile(read(TERN).brief)
    found = adopting.discover(desk, "tern", saved(meant, "leaf-t04"), "yesterday")
    assert any(one["key"] == "unread/leaf-t04" for one in found.found["oddities"])
    adopting.take(desk, "tern", all_keys(found, "shape", "carried"))
    adopting.refuse_proposals(desk, "tern", ["plug/tape-robots"], "robots get plugs of their own")
    adopting.odd(desk, "tern", ["unread/leaf-t04"], "left out", "")
    with pytest.raises(Refused, match="Say why"):
        adopting.odd(desk, "tern", ["unread/leaf-t04"], "kept", " ")
    with pytest.raises(Missing):
        adopting.refuse_proposals(desk, "tern", ["plug/nothing"], "")
    again = adopting.discover(desk, "tern", saved(meant), "today")
    assert again.said["plug/tape-robots"].said == "refused" and again.said["plug/tape-robots"].why.startswith("robots")
    assert again.said["shape"].said == "taken" and again.said["unread/leaf-t04"].said == "left out"
    open_keys = {one["key"] for one in again.found["proposals"]} - set(again.said)
    assert "host/robot-7..robot-8" in open_keys, "what the switch that was silent had is new"
    adopting.again(desk, "tern", ["plug/tape-robots", "shape"])
    said = adopting.show(desk, "tern").said
    assert "plug/tape-robots" not in said and said["shape"].said == "taken"


def test_models_that_are_new_need_the_keeper_of_the_catalogue(desk: Desk) -> None:
    files = {one.name: one.files for one in handwritten.fabric()}
    architect = Desk(desk.house, Actor("Ines", frozenset({Grant(Role.ARCHITECT)})))
    found = adopting.begin(architect, "office", handwritten.fabric(), "by hand")
    with pytest.raises(Forbidden, match="change the catalogue"):
        adopting.take(architect, "office", all_keys(found, "shape"))
    adopting.take(desk, "office", all_keys(found))
    compiled = drafts.load(architect, "office").compiled
    assert (
        compiled.models["leaf/r12/b"].asn == 65104
        and compiled.structure.by_key["leaf/r12/b"].type.id == "found-leaf-lan24-up4"
    )
    assert "etc/frr/frr.conf" in files["core-1"]


def test_bad_archives_and_names_are_refused(desk: Desk) -> None:
    for content, words in ((b"", "no ZIP"), (packed({"notes": {"readme.txt": "call Ines"}}), "Nothing of a switch")):
        with pytest.raises(Refused, match=words):
            adopting.discover(desk, "harbour", content, "a stick")
    with pytest.raises(Refused, match="lower-case"):
        adopting.begin(desk, "No Name", [], "nothing")
    with pytest.raises(Missing):
        adopting.show(desk, "harbour")


def test_on_the_command_line(serving: Serving, tmp_path: Path) -> None:
    meant = compile(read(TERN).brief)
    for switch in meant.staged:
        for path, text in meant.files(switch.key).items():
            there = tmp_path / "out" / str(switch.name) / path
            there.parent.mkdir(parents=True, exist_ok=True)
            there.write_text(text)
    assert "fabric: tern" in barrio("adopt", "brief", "tern", tmp_path / "out")
    serving.start()
    at = ("--at", serving.address)
    said = barrio("adopt", "look", "tern", tmp_path / "out", *at)
    assert "6 switches" in said and "6 would be written as they run" in said and "segment/cold-store" in said
    assert "barrio show tern" in barrio("adopt", "take", "tern", "--part", "shape", *at)
    assert "plug/cold-store" in barrio("adopt", "show", "tern", "--part", "attached", *at)
    barrio("adopt", "refuse", "tern", "plug/cold-store", "--why", "later", *at)
    assert "(refused;" in barrio("adopt", "show", "tern", "--part", "attached", *at)
    barrio("adopt", "again", "tern", "plug/cold-store", *at)
    barrio("adopt", "take", "tern", "--all", *at)
    assert "Say which" in barrio("adopt", "take", "tern", *at, code=2)
    assert drafts.load(Desk(serving.house), "tern").compiled.files("leaf/t01/a") == meant.files("leaf/t01/a")


def drawn(more: str = "", asn: int = 65003) -> bytes:
    """A drawing of three leaves, and what is drawn beside them."""
    links = "".join(f'"leaf-r0{leaf}" -- "spine-{spine}";' for leaf in (1, 2, 3) for spine in (1, 2))
    return f'graph {{ {links} "leaf-r03" [asn={asn}, loopback="10.8.0.3"]; {more} }}'.encode()


def test_a_drawing_is_a_start_and_one_that_was_changed_changes_just_that(desk: Desk) -> None:
    found = adopting.discover(desk, "sketch", drawn(), "the wall")
    assert found.found["kind"] == "drawn" and all_keys(found) == ["shape", "pool/loopback", "pool/asn", "numbers"]
    adopting.take(desk, "sketch", ["shape"])
    first = drafts.load(desk, "sketch").compiled
    leaf = first.models["leaf/r03/a"]
    assert (leaf.asn, leaf.router_id, len(first.structure.leaves)) == (65003, "10.8.0.3", 3)
    again = adopting.discover(desk, "sketch", drawn(), "the wall, again")
    assert {one.said for one in again.said.values()} == {"taken"} and set(all_keys(again)) == set(again.said)
    wider = drawn('"leaf-r00" -- {"spine-1"; "spine-2"};', asn=65004)
    changed = adopting.discover(desk, "sketch", wider, "the wall, a week later")
    assert set(all_keys(changed)) - set(changed.said) == {"shape", "numbers"}
    shape = next(one for one in changed.found["proposals"] if one["key"] == "shape")
    assert "said “taken” when it was otherwise" in shape["evidence"][-1]
    adopting.take(desk, "sketch", ["shape", "numbers"])
    second = drafts.load(desk, "sketch").compiled
    assert second.models["leaf/r03/a"].asn == 65004 and "leaf/r00/a" in second.models
    for key in ("leaf/r01/a", "leaf/r02/a"):
        assert second.models[key].asn == first.models[key].asn, "nobody else's number moves"
        assert second.models[key].loopback_v4 == first.models[key].loopback_v4


def test_words_that_a_changed_drawing_does_not_say_any_more_leave_the_draft(desk: Desk) -> None:
    plain = drawn().replace(b'[asn=65003, loopback="10.8.0.3"]', b"")
    named = plain.replace(b"leaf-r03", b"Corner")
    adopting.take(desk, "sketch", all_keys(adopting.discover(desk, "sketch", named, "the wall")))
    assert "names" in drafts.load(desk, "sketch").draft.text
    found = adopting.discover(desk, "sketch", plain, "renamed")
    assert "names" not in {path for one in found.found["proposals"] for path, _ in one["edits"]}
    adopting.take(desk, "sketch", ["shape"])
    after = drafts.load(desk, "sketch")
    assert "names" not in after.draft.text and len(after.compiled.structure.leaves) == 3


def test_a_drawing_on_the_command_line(tmp_path: Path) -> None:
    place = tmp_path / "hall.dot"
    place.write_bytes(drawn('"leaf-r01" [mood=fair];'))
    said = barrio("adopt", "brief", "sketch", place)
    assert "racks: r01..r03" in said and "Not understood: what a node says of “mood”" in said
    assert "racks: r01..r03" in barrio("import-links", place)
    place.write_text("graph { a -- ")
    assert "not DOT" in barrio("import-links", place, code=2)
