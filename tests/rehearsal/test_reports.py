"""What is handed on of a rehearsal: a page, a paper and JUnit's XML of the same values; and how `barrio rehearse` ends."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from io import BytesIO
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest
from reportlab.pdfgen.canvas import Canvas
from typer.testing import CliRunner

from barrio.cli import rehearse as command
from barrio.cli.main import app
from barrio.core.rehearse.slices import Slice
from barrio.paper.change_board import change_board
from barrio.rehearsal.asking.claims import Answer, Claim
from barrio.rehearsal.drilling import Drilled, Flow, Silence, Utterance, WaveDone
from barrio.rehearsal.ground import NoGround
from barrio.rehearsal.report import junit, page
from barrio.rehearsal.run import Rehearsal
from tests.core.test_rehearse import EXAMPLES

TERN = str(EXAMPLES / "tern.yaml")
YES = Claim("leaf-t01 hears spine-1", True, "leaf-t01", "spine-1 p1", "spine-1 p1", "lldpcli show neighbors")
NO = Claim(
    "leaf-t02 holds its session <with> spine-1",
    False,
    "leaf-t02",
    "AS 1 with AS 2",
    "it is Active",
    "vtysh -c 'show bgp'",
    '{"bgpState": "Active"}\x07',
)
FLOW = Flow(
    "one in a",
    "two in a",
    "across",
    6000,
    5000,
    0,
    (Silence(2.0, 3.0, 1000),),
    (1.0,) * 20 + (0.0,) * 10 + (1.0,) * 90,
    1.9,
    1.0,
    0,
)
DRILL = Drilled("spine-1", "spine-1 is away", ("spine-1",), 2.0, 7.0, 12.0, 1000, 0, (FLOW, replace(FLOW, one="three", received=6000, longest=0.0, silences=())), (), (Utterance(2.3, "leaf-t01", "bgpd: Down"),), 7.0, True, ())  # fmt: skip
WAVES = (WaveDone(1, ("spine-1",), 2.0, 4.0, True), WaveDone(2, ("leaf-t01",), 4.0, 7.0, True))
CHANGE = replace(
    DRILL,
    id="change",
    words="the change is put on 2 switches in 2 waves",
    waves=WAVES,
    faults=("p1 of spine-1 went down, which was not said",),
)


def made(*answers: Answer, drills: tuple[Drilled, ...] = ()) -> Rehearsal:
    slice = Slice(("spine/1", "leaf/t01/a"), (), ("1 of 2 spines",), ("how wide paths are",))
    found = Rehearsal(
        "tern",
        slice,
        "a kernel of its own",
        "done",
        hosts=1,
        of_hosts=4,
        answers=list(answers),
        drills=list(drills),
        left_out=["table inet own: none here"],
    )
    found.switches = {
        key: {"key": key, "name": key, "rack": "t01", "words": "runs", "seconds": 1.0, "failed": False}
        for key in slice.keys
    }
    return found


GOOD = made(
    Answer("cables", "every port hears its neighbour", "yes", (YES,)),
    Answer("shared", "shared hosts", "not asked", (), "no host is shared"),
    drills=(DRILL,),
)
BAD = made(
    Answer("cables", "every port hears its neighbour", "yes", (YES,)),
    Answer("sessions", "every session is up", "no", (NO, YES)),
    drills=(DRILL, CHANGE),
)


def test_a_page_says_first_what_did_not_hold_with_its_evidence_and_needs_nothing_but_itself() -> None:
    text = page(BAD.values(), BAD.summary(), "the draft, version 7", "Asked for by Ines")
    assert text.index("every session is up") < text.index("every port hears its neighbour")
    for words in (
        "it is Active",
        "AS 1 with AS 2",
        "&lt;with&gt;",
        "not as foretold",
        "p1 of spine-1 went down",
        "how wide paths are",
        "Asked for by Ines",
    ):
        assert words in text
    assert "<with>" not in text
    assert not any(word in text for word in ("http://", "https://", "src=", "<link", "<script", "@import"))
    assert "no host is shared" in page(GOOD.values(), GOOD.summary())


def test_junit_counts_claims_failures_and_what_was_not_asked() -> None:
    root = ElementTree.fromstring(junit(BAD))
    suites = {one.get("name"): one for one in root}
    assert [(one.get("tests"), one.get("failures")) for one in suites.values()] == [("1", "0"), ("2", "1"), ("2", "1")]
    [failure] = suites["every session is up"].iter("failure")
    assert failure.get("message") == "expected: AS 1 with AS 2; found: it is Active" and "Active" in (
        failure.text or ""
    )
    [other] = suites["drills"].iter("failure")
    assert "p1 of spine-1" in str(other.get("message")) and "bgpd: Down" in (other.text or "")
    [skipped] = ElementTree.fromstring(junit(GOOD)).iter("skipped")
    assert skipped.get("message") == "no host is shared"


@pytest.fixture
def drawn(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The words that a paper draws, in their order."""
    found: list[str] = []
    for name in ("drawString", "drawRightString"):
        was = getattr(Canvas, name)
        monkeypatch.setattr(
            Canvas,
            name,
            lambda self, x, y, text, *more, was=was, **rest: (found.append(text), was(self, x, y, text, *more, **rest)),
        )
    return found


def test_a_paper_is_the_same_bytes_for_the_same_values_and_breaks_over_pages(drawn: list[str]) -> None:
    words = (BAD.summary(), "the draft, version 7", "Asked for by Ines")
    paper = change_board(BAD.values(), *words)
    assert paper.startswith(b"%PDF-") and paper == change_board(BAD.values(), *words)
    assert "1.00 s, 1000 lost" in drawn and any("one in a > two in a" in one for one in drawn)
    many = made(*(Answer(str(at), f"question {at}", "no", (NO,) * 60) for at in range(3)))
    drawn.clear()
    assert change_board(many.values(), *words).count(b"/Type /Page\n") > 3
    assert "4" in drawn, "pages are numbered"


def test_nothing_that_a_daemon_says_breaks_a_paper() -> None:
    odd = replace(NO, words="a <b> & c", said="<&>" + "x" * 5000 + "\n" * 50 + "\x00é→", found="<i>")
    assert len(change_board(made(Answer("sessions", "<sessions>", "no", (odd,))).values(), "no", "of", "asked")) > 1000


@pytest.fixture
def told(monkeypatch: pytest.MonkeyPatch) -> Callable[..., list[Any]]:
    """Let `barrio rehearse` find what it is told to, without a lab; what it was asked for."""

    def tell(found: Rehearsal | Exception) -> list[Any]:
        asked: list[Any] = []

        def rehearse(*words: Any) -> Rehearsal:
            asked.append(words)
            if isinstance(found, Exception):
                raise found
            return found

        monkeypatch.setattr(command, "rehearse", rehearse)
        return asked

    return tell


def run(*words: str) -> tuple[int, str]:
    done = CliRunner().invoke(app, ["rehearse", *words])
    return done.exit_code, done.output


def test_the_command_ends_as_what_it_found(told: Callable[..., list[Any]]) -> None:
    told(GOOD)
    code, said = run(TERN)
    assert (
        code == 0
        and "1 of 1 questions say yes" in said
        and "as said   spine-1 is away: 1 of 2 flows lost 1,000 packets" in said
    )
    assert "not here: 1 of 2 spines" in said and "not proven: how wide paths are" in said
    told(BAD)
    code, said = run(TERN)
    assert code == 1 and "NO        every session is up (1 of 2)" in said and "OTHER" in said
    told(NoGround("This kernel has no VRF, and another could not be had."))
    assert run(TERN) == (3, "This kernel has no VRF, and another could not be had.\n")


@pytest.mark.parametrize(
    ("words", "fault"),
    [
        (["nowhere.yaml"], "nowhere.yaml"),
        ([TERN, "--questions", "sesions"], "Is sessions meant?"),
        ([TERN, "--from", "nowhere.yaml"], "nowhere.yaml"),
        ([TERN, "--limit", "-1"], "limit"),
    ],
)
def test_wrong_words_end_with_two_and_name_the_way_out(
    told: Callable[..., list[Any]], words: list[str], fault: str
) -> None:
    asked = told(GOOD)
    code, said = run(*words)
    assert code == 2 and fault in said and not asked


def test_what_is_asked_for_is_what_is_done_and_written(told: Callable[..., list[Any]], tmp_path: Path) -> None:
    asked = told(BAD)
    names = {name: tmp_path / f"found.{name}" for name in ("json", "junit", "html", "pdf")}
    code, _ = run(TERN, "--racks", "t01, t02", "--spines", "1", "--drill", "spine", "--drill", "leaf", "--ground", "here", "--limit", "5", "--split", "3", "--questions", "sessions,routes", *(part for name, path in names.items() for part in (f"--{name}", str(path))))  # fmt: skip
    assert code == 1
    [(compiled, wish, questions, ground, _, drills, limit, becomes, split)] = asked
    assert (wish.racks, wish.spines, ground, drills, limit, becomes) == (
        ("t01", "t02"),
        1,
        "here",
        ["spine", "leaf"],
        300,
        None,
    )
    assert split.grounds == 3
    assert [one.id for one in questions] == ["sessions", "routes"] and compiled.brief.fabric == "tern"
    assert json.loads(names["json"].read_text())["fabric"] == "tern"
    assert ElementTree.parse(BytesIO(names["junit"].read_bytes())).getroot().tag == "testsuites"
    assert "<!doctype html>" in names["html"].read_text() and names["pdf"].read_bytes().startswith(b"%PDF")


def test_a_change_keeps_the_numbers_of_what_both_ask_for(told: Callable[..., list[Any]], tmp_path: Path) -> None:
    asked = told(GOOD)
    later = tmp_path / "later.yaml"
    later.write_text(Path(TERN).read_text().replace("t01..t04\n    leaves", "t00a, t01..t04\n    leaves"))
    assert run(str(later), "--from", TERN)[0] == 0
    before, after = asked[0][0], asked[0][-2]
    assert len(after.staged) == len(before.staged) + 1
    for use, keys in before.allocation.numbers.items():
        assert {key: after.allocation.numbers[use].get(key) for key in keys} == keys, use
