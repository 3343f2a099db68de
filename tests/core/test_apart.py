"""Two bundles held against each other, and archives from elsewhere."""

from __future__ import annotations

import io
import tarfile
import zipfile

import hypothesis.strategies as st
import pytest
from hypothesis import given

from barrio.core import Refused, compile
from barrio.core.archives import read_archive
from barrio.core.brief.document import apply, read
from barrio.core.bundle import as_tar_gz, as_zip, bundle_files
from barrio.core.compare.bundles import apart, rows
from tests.conftest import EXAMPLES, tries

TERN = EXAMPLES[2].read_text()


def bundle(text: str) -> dict[str, bytes]:
    document = read(text)
    return bundle_files(document, compile(document.brief))


def test_every_level_tells_what_is_other_and_like_files_are_told_once() -> None:
    one = bundle(TERN)
    other = bundle(apply(TERN, [("services.ntp", ["10.90.0.23"]), ("racks[0].racks", "t01..t05")]))
    found = apart(one, other)
    assert {part.name for part in found.words} == {"services.ntp", "racks[0].racks"}
    assert next((part.name, part.one) for part in found.switches if part.name == "leaf-t05") == ("leaf-t05", "")
    assert [part.name for part in found.cables] == ["T-0009", "T-0010"]
    assert any(part.name == "loopback.v4 leaf/t05/a" and part.one == "" for part in found.numbers)
    clock = next(part for part in found.files if part.path == "etc/chrony/chrony.conf" and part.state == "changed")
    assert len(clock.switches) == 6 and (clock.gone, clock.come) == (2, 1)
    new = {part.path for part in found.files if part.state == "only other"}
    assert "etc/frr/frr.conf" in new and not any(part.state == "only one" for part in found.files)
    same = apart(one, one)
    assert not (same.words or same.numbers or same.switches or same.files or same.cables)


def test_a_bundle_whose_brief_cannot_be_read_is_compared_in_all_else() -> None:
    one = bundle(TERN)
    found = apart(one, {**one, "brief.yaml": b"fabric: ["})
    assert "cannot be read" in found.unread and not found.switches
    assert [part.path for part in found.files] == ["brief.yaml"]


LINES = st.lists(st.sampled_from(["a", "b", "c", "d", ""]), max_size=30)


@tries(200)
@given(one=LINES, other=LINES)
def test_the_rows_of_a_file_give_back_both_sides(one: list[str], other: list[str]) -> None:
    sides = [("\n".join(lines) + "\n") if lines else "" for lines in (one, other)]
    kept: tuple[list[str], list[str]] = ([], [])
    at = [0, 0]
    for row in rows(sides[0].encode(), sides[1].encode()):
        if row.kind == "folded":
            for side, lines in enumerate((one, other)):
                kept[side].extend(lines[at[side] : at[side] + row.folded])
                at[side] += row.folded
            continue
        for side, (number, text) in enumerate(((row.one, row.text), (row.other, row.beside))):
            if number:
                assert number == at[side] + 1, "lines count on"
                kept[side].append(text)
                at[side] += 1
    assert kept == (one, other)


def test_what_leaves_comes_back_from_either_archive() -> None:
    files = bundle(TERN)
    assert read_archive(as_zip(files)) == files == read_archive(as_tar_gz(files))


def zipped(*names: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name in names:
            archive.writestr(zipfile.ZipInfo(name), "x")
    return out.getvalue()


def tarred(name: str, kind: bytes = tarfile.REGTYPE) -> bytes:
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode="w:gz") as archive:
        entry = tarfile.TarInfo(name)
        entry.type, entry.linkname = kind, "/etc/passwd"
        archive.addfile(entry, io.BytesIO(b""))
    return out.getvalue()


@pytest.mark.parametrize(
    "content",
    [zipped("../up"), zipped("brief.yaml", "a/../../b"), zipped("/etc/passwd"), zipped("a\\..\\b"), tarred("../up"), tarred("brief.yaml", tarfile.SYMTYPE)],
    ids=str.split("up deep root backslash tar link"),
)  # fmt: skip
def test_an_archive_that_climbs_out_is_refused_whole(content: bytes) -> None:
    with pytest.raises(Refused) as refused:
        read_archive(content)
    assert refused.value.faults[0].code == "archive.path" and "Nothing was taken" in refused.value.faults[0].message


@pytest.mark.parametrize(
    "content",
    [b"", b"PK", b"PK\x03\x04broken", b"\x1f\x8b\x08broken", zipped("readme"), as_zip({"a": b"1"})[:40]],
    ids=str.split("empty two broken gzip other cut"),
)
def test_what_is_no_bundle_is_refused_with_what_one_is(content: bytes) -> None:
    with pytest.raises(Refused) as refused:
        read_archive(content)
    assert refused.value.faults[0].code == "archive.kind"
