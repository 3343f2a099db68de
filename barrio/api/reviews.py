"""Review: offer a draft, see what is said of it, agree or not, comment, and set the rule."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Path
from pydantic import BaseModel, Field

from barrio.api.desk import ERRORS, Agreeing, Editing, Looking, Reading, Ruling, Saying
from barrio.api.ripple import RippleView, ripple_view
from barrio.app import reviews
from barrio.app.reviews import Review
from barrio.store.reviews import Comment

waiting_router = APIRouter(prefix="/api/v1/waiting", tags=["review"], responses=ERRORS)
router = APIRouter(prefix="/api/v1/fabrics/{name}/review", tags=["review"], responses=ERRORS)
Words = Annotated[str, Field(max_length=4000)]
Digest = Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


class OfferView(BaseModel):
    title: str
    why: str
    author: str
    offered_at: datetime


class VoiceView(BaseModel):
    """What somebody said. `current` says that it is of exactly what the draft is now, `last` that they have not said otherwise since."""

    id: int
    verdict: Literal["agrees", "asks", "declines"]
    note: str
    author: str
    said_at: datetime
    current: bool
    last: bool


class CommentView(BaseModel):
    """Words on the whole, or on a line, a number, a cable or a word; `stands` says whether what they are about is still there."""

    id: int
    thing: Literal["whole", "line", "number", "cable", "word"]
    at: str
    stood: str
    stands: bool
    words: str
    answers: int | None
    author: str
    said_at: datetime
    settled_by: str
    settled_at: datetime | None


class ReviewView(BaseModel):
    """The review of a draft. `seen` is what an agreement is to: it changes with the draft, the office and the pools. `lacking` is what keeps the draft
    from being sealed, `rehearsed` whether the rule asks for a rehearsal of it, and `despite` what its change drill showed beyond its Ripple."""

    offer: OfferView | None
    agree: int
    people: list[str]
    seen: str
    voices: list[VoiceView]
    comments: list[CommentView]
    editors: list[str]
    may_agree: list[str]
    lacking: list[str]
    rehearsed: bool
    despite: str


class NewOffer(BaseModel):
    version: int = Field(ge=0, lt=2**63)
    title: str = Field(min_length=1, max_length=200)
    why: Words = ""


class Spoken(BaseModel):
    """A verdict on what was seen (`ReviewView.seen`)."""

    verdict: Literal["agrees", "asks", "declines"]
    note: Words = ""
    seen: Digest


class NewComment(BaseModel):
    thing: Literal["whole", "line", "number", "cable", "word"] = "whole"
    at: str = Field("", max_length=400)
    stood: str = Field("", max_length=400)
    words: str = Field(min_length=1, max_length=4000)
    answers: int | None = Field(None, ge=1, lt=2**63)


class Settled(BaseModel):
    settled: bool = True


class NewRule(BaseModel):
    agree: int = Field(ge=0, le=9)
    people: list[Annotated[str, Field(max_length=120)]] = Field([], max_length=50)
    rehearsed: bool | None = None


@waiting_router.get("", operation_id="listWaiting")
def list_waiting(at: Looking) -> list[reviews.Waiting]:
    """What waits for whoever asks: offers to look at, to answer, to seal."""
    return reviews.waiting(at)


@router.get("", operation_id="getReview")
def get_review(name: str, at: Reading) -> ReviewView:
    return review_view(reviews.review(at, name))


@router.put("", operation_id="offerDraft")
def put_offer(name: str, offer: NewOffer, at: Editing) -> ReviewView:
    """Offer the draft, or say otherwise what it is for."""
    return review_view(reviews.offer(at, name, offer.title.strip(), offer.why.strip(), offer.version))


@router.delete("", operation_id="withdrawOffer")
def delete_offer(name: str, at: Editing) -> ReviewView:
    return review_view(reviews.withdraw(at, name))


@router.post("/voices", operation_id="sayOfDraft")
def post_voice(name: str, said: Spoken, at: Agreeing) -> ReviewView:
    """Agree to exactly what was seen, ask for changes, or decline."""
    return review_view(reviews.say(at, name, said.verdict, said.note.strip(), said.seen))


@router.get("/voices/{voice}/since", operation_id="getSince")
def get_since(name: str, voice: Annotated[int, Path(ge=1, lt=2**63)], at: Reading) -> RippleView:
    """What is new since somebody spoke: the draft as it is now against what they saw."""
    return ripple_view(reviews.since(at, name, voice))


@router.post("/comments", operation_id="commentOnDraft")
def post_comment(name: str, new: NewComment, at: Saying) -> ReviewView:
    return review_view(reviews.comment(at, name, new.thing, new.at, new.stood, new.words.strip(), new.answers))


@router.put("/comments/{comment}", operation_id="settleComment")
def put_comment(name: str, comment: Annotated[int, Path(ge=1, lt=2**63)], said: Settled, at: Saying) -> ReviewView:
    return review_view(reviews.settle(at, name, comment, said.settled))


@router.put("/rule", operation_id="setReviewRule")
def put_rule(name: str, new: NewRule, at: Ruling) -> ReviewView:
    """How many must agree, and who may; everybody with the role when nobody is named."""
    return review_view(reviews.set_rule(at, name, new.agree, new.people, new.rehearsed))


def review_view(found: Review) -> ReviewView:
    offer = found.offer
    return ReviewView(
        offer=OfferView(title=offer.title, why=offer.why, author=offer.author, offered_at=offer.offered_at) if offer else None,
        agree=found.rule.agree, people=found.rule.people, seen=found.seen,
        voices=[
            VoiceView.model_validate({
                "id": one.voice.id, "verdict": one.voice.verdict, "note": one.voice.note, "author": one.voice.author, "said_at": one.voice.said_at,
                "current": one.current, "last": one.last,
            })
            for one in found.voices
        ],
        comments=[_comment(one, one.id not in found.gone) for one in found.comments],
        editors=list(found.editors), may_agree=list(found.may_agree), lacking=list(found.lacking),
        rehearsed=found.rule.rehearsed, despite=found.despite,
    )  # fmt: skip


def _comment(one: Comment, stands: bool) -> CommentView:
    return CommentView.model_validate(
        {
            "id": one.id, "thing": one.thing, "at": one.at, "stood": one.stood, "stands": stands, "words": one.words, "answers": one.answers,
            "author": one.author, "said_at": one.said_at, "settled_by": one.settled_by, "settled_at": one.settled_at,
        }
    )  # fmt: skip
