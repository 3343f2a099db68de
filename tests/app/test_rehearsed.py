"""What rehearsals of the very state of a draft say about sealing it: a rule asks for one, and what a change drill showed beyond Ripple asks for a reason."""

from __future__ import annotations

from typing import Any

import pytest

from barrio.app import drafts, editions, rehearsals, reviews
from barrio.app.desk import Actor, Desk
from barrio.app.house import House
from barrio.app.rehearsals import Wanted
from barrio.core import Refused
from barrio.core.brief.document import apply
from barrio.core.rehearse.slices import Wish
from barrio.jobs import queue
from barrio.store import jobs
from barrio.store import rehearsals as stored
from barrio.store.entries import Act, open_change
from tests.app.test_agreeing import SMALL
from tests.database import Databases

YES = {"question": "sessions", "title": "every session is up", "state": "yes", "claims": []}
NO = {"question": "claims", "title": "the brief's own claims hold", "state": "no", "claims": []}


@pytest.fixture
def desk(databases: Databases) -> Desk:
    house = House(databases.fresh(SMALL))
    reviews.set_rule(Desk(house), "small", 0, [], True)
    return Desk(house, Actor("Ines"))


def rehearsed(
    desk: Desk, *answers: dict[str, Any], faults: tuple[str, ...] = (), state: str = "done", **more: Any
) -> int:
    """A rehearsal that came to its end, with what it found."""
    said = rehearsals.values(Wanted(**({"edition": 0, "wish": Wish(), "ground": "here", "questions": ("all",)} | more)))
    job = queue.ask(desk, "rehearsal", "small", said, lambda tx, job: rehearsals.begin(tx, job, "small", said)).id
    drills = [{"id": "change", "faults": list(faults), "words": "the change"}] if more.get("change") else []
    with desk.house.alone() as connection:
        stored.keep(connection, job, {"answers": list(answers), "drills": drills})
        attempt = jobs.begin(connection, job)
        open_change(connection, Act(f"job {state}", "small"))
        assert jobs.end(connection, job, attempt, state, "", "")
    return job


def turn(desk: Desk, word: str, value: object) -> None:
    drafts.save(desk, "small", drafts.version(desk, "small"), lambda text: apply(text, [(word, value)]), "a word")  # type: ignore[list-item]


def seal(desk: Desk, despite: str = "") -> None:
    editions.seal(desk, "small", drafts.version(desk, "small"), "as it is", despite=despite)


def refused(desk: Desk) -> str:
    with pytest.raises(Refused) as refusal:
        seal(desk)
    return str(refusal.value)


def test_a_rule_asks_for_a_rehearsal_of_this_very_state_with_every_question_and_all_yes(desk: Desk) -> None:
    assert "It was not rehearsed as it is now" in refused(desk)
    rehearsed(desk, YES, questions=("sessions",))
    assert "asked only some questions" in refused(desk)
    rehearsed(desk, YES, state="failed")
    assert "asked only some questions" in refused(desk), "one that did not come to its end says nothing"
    rehearsed(desk, YES, NO)
    assert "Its rehearsal said no: the brief's own claims hold." in refused(desk)
    rehearsed(desk, YES)
    seal(desk)
    turn(desk, "title", "Another")
    assert "It was not rehearsed as it is now" in refused(desk), "what was rehearsed is another state"
    assert reviews.review(desk, "small").lacking == [refused(desk)]


def test_how_many_must_agree_can_be_set_without_a_word_on_rehearsals(desk: Desk) -> None:
    reviews.set_rule(Desk(desk.house), "small", 0, [])
    assert reviews.review(desk, "small").rule.rehearsed
    reviews.set_rule(Desk(desk.house), "small", 0, [], False)
    seal(desk)


def test_what_a_change_drill_showed_beyond_ripple_is_sealed_with_a_reason_on_record(desk: Desk) -> None:
    reviews.set_rule(Desk(desk.house), "small", 0, [], False)
    seal(desk)
    turn(desk, "underlay.mtu", 9100)
    rehearsed(desk, YES, edition=1, change=True, faults=("the session a~b restarted, which was not said",))
    assert "the session a~b restarted, which was not said. Mend the draft, or say why" in refused(desk)
    assert "a~b" in reviews.review(desk, "small").despite
    seal(desk, "it is night, and nobody is here")
    assert editions.one(desk, "small", 2).despite == (
        "the session a~b restarted, which was not said. it is night, and nobody is here"
    )
    assert editions.one(desk, "small", 1).despite == ""


def test_the_newest_change_drill_of_this_state_counts(desk: Desk) -> None:
    reviews.set_rule(Desk(desk.house), "small", 0, [], False)
    seal(desk)
    turn(desk, "underlay.mtu", 9100)
    rehearsed(desk, YES, edition=1, change=True, faults=("one thing",))
    rehearsed(desk, YES, edition=1, change=True)
    assert reviews.review(desk, "small").despite == ""
    rehearsed(desk, YES, edition=1, change=True, faults=("one thing", "another", "a third", "a fourth"))
    assert reviews.review(desk, "small").despite == "one thing; another; a third; and 1 more"
    turn(desk, "title", "Mended")
    assert reviews.review(desk, "small").despite == "", "it is of another state"


def test_a_change_drill_counts_as_a_rehearsal_only_by_what_was_asked_after_the_change(desk: Desk) -> None:
    reviews.set_rule(Desk(desk.house), "small", 0, [], False)
    seal(desk)
    reviews.set_rule(Desk(desk.house), "small", 0, [], True)
    turn(desk, "underlay.mtu", 9100)
    rehearsed(desk, YES, edition=1, change=True)
    assert "It was not rehearsed as it is now" in refused(desk), "only the edition was asked"
    rehearsed(desk, NO, {**YES, "question": "sessions-after"}, edition=1, change=True)
    seal(desk)


def test_a_change_that_was_never_put_on_is_told(desk: Desk) -> None:
    reviews.set_rule(Desk(desk.house), "small", 0, [], False)
    seal(desk)
    turn(desk, "underlay.mtu", 9100)
    job = rehearsed(desk, YES, edition=1, change=True)
    with desk.house.alone() as connection:
        stored.keep(connection, job, {"answers": [YES], "drills": []})
    assert "the draft was not put on the edition" in refused(desk)


def test_a_change_drill_needs_an_edition_and_something_to_change(desk: Desk) -> None:
    with pytest.raises(Refused, match="A change drill begins with an edition"):
        rehearsed(desk, change=True)
    reviews.set_rule(Desk(desk.house), "small", 0, [], False)
    seal(desk)
    with pytest.raises(Refused, match="The draft is what edition 1 is"):
        rehearsed(desk, edition=1, change=True)
