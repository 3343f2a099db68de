"""Signing in and out, and one's own page."""

from __future__ import annotations

from datetime import UTC
from typing import Annotated, Literal

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field

from barrio.api.desk import COOKIE, ERRORS, SAFE_COOKIE, Asking, Mine, caller_of, cookie_of, house_of
from barrio.app import door, links, people
from barrio.app.desk import NotSignedIn
from barrio.app.door import Entered, Second
from barrio.app.rights import RIGHTS, Right, Role
from barrio.core.brief.terms import PublicKey
from barrio.store.people import Given
from barrio.store.proofs import Passkey
from barrio.store.signing import Session, Token

router = APIRouter(prefix="/api/v1", tags=["session"], responses=ERRORS)
Secret = Annotated[str, Field(min_length=1, max_length=100)]
Password = Annotated[str, Field(max_length=door.LONGEST)]


class SignIn(BaseModel):
    """`code` is that of a second factor, asked for when there is one."""

    name: str = Field(max_length=60)
    password: Password
    code: str = Field("", max_length=10)


class Link(BaseModel):
    """The secret of a link, which stands behind its # and so is in no log."""

    secret: Secret


class LinkView(BaseModel):
    """What a link is for, and whom."""

    purpose: Literal["first", "welcome", "enter"]
    name: str


class Enter(Link):
    password: Password = ""


class First(Link):
    name: str = Field(max_length=60)
    called: str = Field(max_length=100)
    password: Password


class Allowed(BaseModel):
    """A right that one has: for these fabrics, or for all."""

    right: Right
    fabrics: list[str] | None


class Who(BaseModel):
    """Who is signed in, until when at most, and what they may do."""

    name: str
    called: str
    rights: list[Allowed]
    manners: dict[str, str]


class MeView(BaseModel):
    """One's own page. `second` when codes are asked for; `outside` is how the office's provider calls one, if it knows one."""

    name: str
    called: str
    second: bool
    keys: list[str]
    manners: dict[str, str]
    given: list[Given]
    sessions: list[Session]
    here: int | None
    tokens: list[Token]
    passkeys: list[Passkey]
    outside: str | None


class Manners(BaseModel):
    """How one likes things shown, and where one is written to."""

    mail: Annotated[str, Field(max_length=120, pattern=r"^([^@\s<>,]+@[^@\s<>,]+)?$")] = ""
    dates: Literal["words", "iso"] = "words"
    theme: Literal["auto", "light", "dark"] = "auto"


class MyPage(BaseModel):
    called: str = Field(max_length=100)
    keys: list[PublicKey] = Field([], max_length=20)
    manners: Manners = Manners()


class NewPassword(BaseModel):
    old: Password
    new: Password


class NewSecond(BaseModel):
    secret: Secret
    code: str = Field(max_length=10)


class NoSecond(BaseModel):
    password: Password


class NewToken(BaseModel):
    """A token for a program: what of one's roles it has, for which fabrics (all, when none is named), and how long."""

    name: str = Field(max_length=60)
    roles: list[Role] = Field(max_length=6)
    fabrics: list[str] | None = Field(None, max_length=200)
    days: int = Field(90, ge=1, le=people.MOST_DAYS)


class MadeToken(BaseModel):
    """The token itself, which is not shown again."""

    token: str


def keep(request: Request, response: Response, entered: Entered) -> None:
    """Give the browser its session: out of reach of scripts, and never sent by another site's page."""
    safe = request.url.scheme == "https"
    response.set_cookie(
        cookie_of(request), entered.secret, secure=safe, httponly=True, samesite="strict", path="/",
        expires=entered.ends_at.astimezone(UTC),
    )  # fmt: skip


@router.post("/session", operation_id="signIn", status_code=204)
def sign_in(said: SignIn, request: Request, response: Response) -> None:
    """Sign in by name and password. 401 when they are wrong, with `sign-in.code` when only the second factor is missing."""
    keep(request, response, door.sign_in(house_of(request), said.name, said.password, said.code, caller_of(request)))


@router.post("/links/look", operation_id="lookAtLink")
def look_at_link(link: Link, request: Request) -> LinkView:
    """What a link is for; it stays good."""
    purpose, name = links.look_at_link(house_of(request), link.secret)
    return LinkView.model_validate({"purpose": purpose, "name": name})


@router.post("/links/enter", operation_id="enter", status_code=204)
def enter(said: Enter, request: Request, response: Response) -> None:
    """Come in by a link, which is used up."""
    keep(request, response, links.enter(house_of(request), said.secret, said.password, caller_of(request)))


@router.post("/links/first", operation_id="makeFirst", status_code=204)
def make_first(said: First, request: Request, response: Response) -> None:
    """Make the first person of an empty Barrio, by the link that its start printed."""
    house = house_of(request)
    people.check_name(said.name)
    called = people.clean(said.called, "called")
    keep(
        request, response, links.first_person(house, said.secret, said.name, called, said.password, caller_of(request))
    )


@router.get("/session", operation_id="getSession")
def get_session(actor: Asking, request: Request) -> Who:
    """Who is signed in, and what they may do. 401 when nobody is."""
    if actor is None or actor.id is None:
        raise NotSignedIn
    rights = []
    for right, (roles, _) in RIGHTS.items():
        of = [grant.fabric for grant in actor.grants if grant.role in roles]
        if actor.may(right) or of:
            rights.append(Allowed(right=right, fabrics=None if None in of else sorted(name for name in of if name)))
    name, manners = people.manners_of(house_of(request), actor.id)
    return Who(name=name, called=actor.name, rights=rights, manners=manners)


@router.delete("/session", operation_id="signOut", status_code=204)
def sign_out(at: Mine, request: Request, response: Response) -> None:
    door.sign_out(at)
    for name in (COOKIE, SAFE_COOKIE):
        response.delete_cookie(name, path="/", secure=name == SAFE_COOKIE, httponly=True, samesite="strict")


@router.get("/me", operation_id="getMe")
def get_me(at: Mine) -> MeView:
    me = people.me(at)
    return MeView(
        name=me.person.name, called=me.person.called, second=me.codes, keys=me.person.keys,
        manners=me.person.manners, given=me.given, sessions=me.sessions, here=at.actor.session, tokens=me.tokens,
        passkeys=me.passkeys, outside=me.outside,
    )  # fmt: skip


@router.put("/me", operation_id="putMe", status_code=204)
def put_me(page: MyPage, at: Mine) -> None:
    people.change_me(
        at, page.called, page.keys, page.manners.model_dump(exclude=set() if page.manners.mail else {"mail"})
    )


@router.put("/me/password", operation_id="putPassword", status_code=204)
def put_password(said: NewPassword, at: Mine) -> None:
    """Change one's password, which signs out everywhere else."""
    door.new_password(at, said.old, said.new)


@router.delete("/me/sessions/{session}", operation_id="endSession", status_code=204)
def end_session(session: int, at: Mine) -> None:
    door.sign_out(at, session)


@router.delete("/me/sessions", operation_id="endOtherSessions", status_code=204)
def end_other_sessions(at: Mine) -> None:
    door.sign_out(at, others=True)


@router.post("/me/second", operation_id="proposeSecond")
def propose_second(at: Mine) -> Second:
    """A secret for an app that shows codes; a code has to show that it was taken up."""
    return door.propose_second(at)


@router.put("/me/second", operation_id="takeSecond", status_code=204)
def take_second(said: NewSecond, at: Mine) -> None:
    door.take_second(at, said.secret, said.code)


@router.post("/me/second/end", operation_id="dropSecond", status_code=204)
def drop_second(said: NoSecond, at: Mine) -> None:
    door.drop_second(at, said.password)


@router.post("/me/tokens", operation_id="makeToken", status_code=201)
def make_token(new: NewToken, at: Mine) -> MadeToken:
    return MadeToken(token=people.add_token(at, new.name, new.roles, new.fabrics, new.days))


@router.delete("/me/tokens/{token}", operation_id="dropToken", status_code=204)
def drop_token(token: str, at: Mine) -> None:
    people.drop_token(at, token)
