"""A brief that is changed in a clone and pushed, by the real git: it becomes the draft with a review, or is refused with its errors and lines."""

from __future__ import annotations

import os
import subprocess
from dataclasses import dataclass
from pathlib import Path

import pytest

from barrio.app import drafts, editions, reviews
from barrio.app.desk import Actor, Desk
from barrio.app.house import House
from tests.api.conftest import TERN
from tests.people import without_review
from tests.serving import Serving
from tests.signed import TOKEN


@dataclass
class Clone:
    """A clone of Tern's repository, by somebody with a token."""

    folder: Path
    address: str
    house: House

    def git(self, *words: str, at: Path | None = None) -> tuple[int, str]:
        """What git answers, and all that it says."""
        named = ["-c", "user.name=Ines", "-c", "user.email=ines@azulejo.example"]
        env = {**os.environ, "GIT_CONFIG_GLOBAL": "/dev/null", "GIT_TERMINAL_PROMPT": "0", "LANG": "C"}
        done = subprocess.run(
            ["git", *named, *words], cwd=at or self.folder, capture_output=True, text=True, env=env, check=False
        )
        return done.returncode, done.stdout + done.stderr

    def change(self, old: str, new: str, message: str) -> None:
        brief = self.folder / "brief.yaml"
        assert old in brief.read_text()
        brief.write_text(brief.read_text().replace(old, new))
        assert self.git("commit", "--quiet", "-am", message)[0] == 0

    def push(self, *words: str) -> tuple[int, str]:
        return self.git("push", *(words or ("origin", "HEAD:draft")))


@pytest.fixture
def clone(serving: Serving, tmp_path: Path) -> Clone:
    serving.start()
    serving.load(TERN)
    house = serving.house
    house.folder = tmp_path / "data"
    desk = Desk(house, Actor("Ines"))
    without_review(house, "tern")
    editions.seal(desk, "tern", drafts.version(desk, "tern"), "As cabled")
    address = f"{serving.address.replace('://', f'://ines:{TOKEN}@')}/git/tern.git"
    made = Clone(tmp_path / "tern", address, house)
    code, words = made.git("clone", "--quiet", address, str(made.folder), at=tmp_path)
    assert code == 0, words
    reviews.set_rule(Desk(house), "tern", 1, [])
    return made


def test_a_pushed_brief_is_the_draft_and_is_offered_for_review(clone: Clone) -> None:
    clone.change("10.90.0.22", "10.90.0.23", "Another clock\n\nThe old one drifts.")
    code, words = clone.push()
    assert code == 0 and "offered for review" in words, words
    desk = Desk(clone.house)
    found = reviews.review(desk, "tern")
    assert found.offer and (found.offer.title, found.offer.why, found.offer.author) == (
        "Another clock",
        "The old one drifts.",
        "Olmo",
    )
    assert "10.90.0.23" in drafts.draft(desk, "tern").text
    clone.change("10.90.0.23", "10.90.0.24", "A better one")
    assert clone.push()[0] == 0, "a second thought is pushed on top of the first"
    assert "10.90.0.24" in drafts.draft(desk, "tern").text


def test_a_brief_that_cannot_be_had_is_refused_with_its_errors_and_their_lines(clone: Clone) -> None:
    before = drafts.version(Desk(clone.house), "tern")
    clone.change("  count: 2", "  count: many", "Many spines")
    code, words = clone.push()
    line = next(at for at, one in enumerate((clone.folder / "brief.yaml").read_text().splitlines(), 1) if "many" in one)
    assert code != 0 and f"brief.yaml:{line}:" in words, words
    clone.change("  count: many", "  count: 20", "Twenty")
    code, words = clone.push()
    assert code != 0 and "uplinks" in words and "brief.yaml:" in words, words
    assert (
        drafts.version(Desk(clone.house), "tern") == before and reviews.review(Desk(clone.house), "tern").offer is None
    )


def test_other_branches_and_what_stands_on_an_older_edition_are_refused_with_the_way_on(clone: Clone) -> None:
    clone.change("10.90.0.22", "10.90.0.23", "Another clock")
    code, words = clone.push("origin", "HEAD:main")
    assert code != 0 and "git push origin HEAD:draft" in words
    desk = Desk(clone.house, Actor("Teo"))
    without_review(clone.house, "tern")
    drafts.save(
        desk,
        "tern",
        drafts.version(desk, "tern"),
        lambda text: text.replace("the archive hall", "the cold hall"),
        "a title",
    )
    code, words = clone.push()
    assert code != 0 and "not sealed" in words, words
    editions.seal(desk, "tern", drafts.version(desk, "tern"), "Second")
    code, words = clone.push()
    assert code != 0 and "does not stand on the newest edition" in words, words
    code, words = clone.git("pull", "--quiet", "--rebase", "origin", "main")
    assert code == 0, words
    assert clone.push()[0] == 0, "put on top of what was sealed, it goes"
    text = drafts.draft(desk, "tern").text
    assert "cold hall" in text and "10.90.0.23" in text


def test_nobody_clones_or_pushes_without_a_token_that_may(clone: Clone, tmp_path: Path) -> None:
    bare = clone.address.replace(TOKEN, "wrong")
    code, words = clone.git("ls-remote", bare)
    assert code != 0 and "Authentication failed" in words
    code, words = clone.git("ls-remote", clone.address.replace("tern", "nothing"))
    assert code != 0
