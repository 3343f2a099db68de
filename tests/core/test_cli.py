"""The command line: exit codes, ledger files, and whole bundles or none."""

from __future__ import annotations

import hashlib
import json
import re
import subprocess
import sys
import tarfile
from pathlib import Path

import pytest

from barrio.cli import ledgerfile
from barrio.core.book import held_by
from barrio.core.ledger.states import State
from tests.cli import barrio
from tests.conftest import EXAMPLES

MARLIN, _PELICAN, TERN = EXAMPLES


def bytes_of(folder: Path) -> dict[str, bytes]:
    return {str(path.relative_to(folder)): path.read_bytes() for path in sorted(folder.rglob("*")) if path.is_file()}


def test_a_build_writes_what_its_manifest_says_and_building_again_changes_nothing(tmp_path: Path) -> None:
    ledger = tmp_path / "ledger.json"
    barrio("build", MARLIN, "--out", tmp_path / "out", "--ledger", ledger)
    files, kept = bytes_of(tmp_path / "out"), ledger.read_bytes()
    manifest = json.loads(files["manifest.json"])
    assert {path: hashlib.sha256(files[path]).hexdigest() for path in manifest["sha256"]} == manifest["sha256"]
    again = barrio("build", MARLIN, "--out", tmp_path / "out", "--ledger", ledger)
    assert "0 numbers new" in again
    assert bytes_of(tmp_path / "out") == files and ledger.read_bytes() == kept
    barrio("build", MARLIN, "--out", tmp_path / "out.tar.gz", "--ledger", ledger)
    with tarfile.open(tmp_path / "out.tar.gz") as archive:
        assert set(archive.getnames()) == set(files)


def test_a_ledger_file_keeps_numbers_through_changes_and_apart_between_fabrics(tmp_path: Path) -> None:
    ledger = tmp_path / "ledger.json"
    barrio("build", MARLIN, "--out", tmp_path / "marlin", "--ledger", ledger)
    barrio("build", TERN, "--out", tmp_path / "tern", "--ledger", ledger)
    held = {name: held_by(ledgerfile.load(ledger), name) for name in ("marlin", "tern")}
    for use in ("loopback.v4", "asn", "vni"):
        marlin, tern = ({taken for (one, _), taken in held[name].items() if one == use} for name in ("marlin", "tern"))
        assert marlin and tern and not marlin & tern
    smaller = tmp_path / "smaller.yaml"
    smaller.write_text(MARLIN.read_text().replace("r01..r12\n    leaves", "r01..r06, r08..r12\n    leaves"))
    barrio("build", smaller, "--out", tmp_path / "marlin", "--ledger", ledger, code=0)
    rests = {(entry.use, entry.key) for entry in ledgerfile.load(ledger).all() if entry.life.state is State.RESTING}
    assert ("loopback.v4", "leaf/r07/a") in rests
    barrio("build", MARLIN, "--out", tmp_path / "marlin", "--ledger", ledger)
    assert held_by(ledgerfile.load(ledger), "marlin") == held["marlin"]


def test_check_exits_0_when_all_is_well_1_with_findings_and_2_when_refused(tmp_path: Path) -> None:
    assert "328 cables" in barrio("check", MARLIN)
    brief = tmp_path / "b.yaml"
    brief.write_text("fabric: x\nspines: {count: 1}\nracks:\n  - racks: r01\n")
    assert "[spines.single]" in barrio("check", brief, code=1)
    brief.write_text("fabric: x\nspines:\n  count: four\n")
    assert f"{brief}:3:3: spines.count must be a whole number" in barrio("check", brief, code=2)


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"# " + b"x" * 5_000_000, "5.0 MB"), (b"\xff\xfe", "not UTF-8"), (b"", "list of fields"),
        (b"fabric: x\nsegments:\n  a: {v4: 10.0.0.1/24}\n", ":3:7: segments.a.v4"),
    ],
)  # fmt: skip
def test_a_bad_file_is_refused_in_words(tmp_path: Path, content: bytes, says: str) -> None:
    brief = tmp_path / "b.yaml"
    brief.write_bytes(content)
    assert says in barrio("check", brief, code=2)
    assert says in barrio("build", brief, "--out", tmp_path / "out", code=2)
    assert not (tmp_path / "out").exists()


def test_what_is_not_ours_is_never_written_over(tmp_path: Path) -> None:
    (tmp_path / "letters").mkdir()
    (tmp_path / "letters" / "dear.txt").write_text("keep me")
    assert "holds no earlier bundle" in barrio("build", TERN, "--out", tmp_path / "letters", code=3)
    assert [path.name for path in (tmp_path / "letters").iterdir()] == ["dear.txt"]
    damaged = tmp_path / "ledger.json"
    for content in (
        "{",
        "[]",
        '{"format": "barrio-ledger/2", "pools": {}, "entries": {"tern": [["asn", "spines"]]}}',
        '{"format": "barrio-ledger/2", "pools": {"asns": {"ranges": ["9..1"]}}, "entries": {}}',
    ):
        damaged.write_text(content)
        barrio("build", TERN, "--out", tmp_path / "out", "--ledger", damaged, code=2)
        assert damaged.read_text() == content and not (tmp_path / "out").exists()
    barrio("check", tmp_path / "absent.yaml", code=2)


def test_cables_are_listed_ordered_and_printed_from_the_command_line(tmp_path: Path) -> None:
    listed = json.loads(barrio("cables", "list", MARLIN, "--rack", "r07", "--as", "json"))
    assert len(listed) == 24 and all(float(row["take_m"]) >= float(row["length_m"]) for row in listed)
    order = json.loads(barrio("cables", "order", MARLIN, "--as", "json"))
    assert sum(int(row["needed"]) for row in order) == 328
    (tmp_path / "stock.csv").write_text(f"part,length,count\n{order[0]['part']},{order[0]['length_m']},9999\n")
    less = json.loads(barrio("cables", "order", MARLIN, "--stock", tmp_path / "stock.csv", "--as", "json"))
    assert [row["order"] for row in less] == ["0"] + [row["order"] for row in order[1:]]
    for what in ("cover", "racks", "bundles", "labels"):
        barrio("cables", "print", MARLIN, "--what", what, "--out", tmp_path / f"{what}.pdf")
        assert (tmp_path / f"{what}.pdf").read_bytes().startswith(b"%PDF")
    assert "end it in .pdf" in barrio("cables", "print", MARLIN, "--out", tmp_path / "racks.txt", code=2)


def test_neighbour_tables_are_held_against_the_plan_from_the_command_line(tmp_path: Path) -> None:
    listed = json.loads(barrio("cables", "list", MARLIN, "--as", "json"))
    lines = [
        f"{row['from'].split()[1]} {row['to'].split()[1]}".replace(":", " ")
        for row in listed
        if row["part"] == "AOC 100G"
    ]
    (tmp_path / "heard.txt").write_text("\n".join(lines))
    assert "208 right" in barrio("cables", "check", MARLIN, tmp_path / "heard.txt")
    first, second = (line.rsplit(" ", 2) for line in lines[:2])
    lines[:2] = [" ".join([first[0], *second[1:]]), " ".join([second[0], *first[1:]])]
    (tmp_path / "heard.txt").write_text("\n".join(lines))
    said = barrio("cables", "check", MARLIN, tmp_path / "heard.txt", code=1)
    assert "206 right, 2 swapped" in said and said.count("let it hang") == said.count("move M-") == 1
    (tmp_path / "leaf-r01a.json").write_text("{")
    assert "not JSON" in barrio("cables", "check", MARLIN, tmp_path / "leaf-r01a.json", code=2)


def test_every_command_that_is_named_is_there_and_only_what_is_said_is_loaded() -> None:
    listed = re.findall(r"^│ ([a-z][a-z-]+)  ", barrio("--help"), re.MULTILINE)
    assert {"build", "drift", "stage", "serve", "work"} <= set(listed)
    for name in listed:
        assert f" {name} [OPTIONS]" in barrio(name, "--help")
    loads = "import sys; from barrio.cli.main import app; print([name for name in sys.modules if name.startswith('barrio.core')])"
    assert subprocess.run([sys.executable, "-c", loads], capture_output=True, text=True, check=True).stdout == "[]\n"
