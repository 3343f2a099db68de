"""People and teams, what they may do, and sharing a fabric."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path
from pydantic import BaseModel, Field

from barrio.api.desk import ERRORS, Editing, KeepingPeople, Looking, Reading, Sharing
from barrio.app import people
from barrio.app.rights import RIGHTS, SENTENCES, Right, Role
from barrio.store.people import Given, Person, Team

router = APIRouter(prefix="/api/v1", tags=["people"], responses=ERRORS)
Id = Annotated[int, Path(ge=0, lt=2**63)]


class RightRow(BaseModel):
    """A line of the table: a right, in words that go on from “may”, and the roles that have it."""

    right: Right
    words: str
    roles: list[Role]


class RoleRow(BaseModel):
    role: Role
    words: str


class Table(BaseModel):
    """Who may do what."""

    roles: list[RoleRow]
    rights: list[RightRow]


class PeopleView(BaseModel):
    people: list[Person]
    teams: list[Team]
    given: list[Given]


class NewPerson(BaseModel):
    name: str = Field(max_length=60)
    called: str = Field(max_length=100)


class LinkMade(BaseModel):
    """The secret of a link to choose a password, good once; it goes behind `/enter#`."""

    secret: str


class Presence(BaseModel):
    """Whether somebody has left."""

    left: bool


class TeamBody(BaseModel):
    note: str = Field("", max_length=200)
    members: list[str] = Field([], max_length=1000)


class NewGrant(BaseModel):
    """A role for a person or a team."""

    role: Role
    person: str | None = Field(None, max_length=60)
    team: str | None = Field(None, max_length=60)


class Holders(BaseModel):
    """Who has a right, as they are called, in words that go on from “may”."""

    right: Right
    words: str
    who: list[str]


class KeysOf(BaseModel):
    """Somebody's SSH keys, as they stand on their own page."""

    name: str
    called: str
    keys: list[str]


class Known(BaseModel):
    """Whom a fabric can be shared with, and who has a role for it."""

    people: list[NewPerson]
    teams: list[str]
    given: list[Given]


@router.get("/roles", operation_id="getRoles")
def get_roles(at: Looking) -> Table:
    """The one table that says who may do what."""
    return Table(
        roles=[RoleRow(role=role, words=words) for role, words in SENTENCES.items()],
        rights=[
            RightRow(right=right, words=words.format(it="the fabric"), roles=sorted(roles))
            for right, (roles, words) in RIGHTS.items()
        ],
    )


@router.get("/people", operation_id="getPeople")
def get_people(at: KeepingPeople) -> PeopleView:
    everybody, teams, given = people.everybody(at)
    return PeopleView(people=everybody, teams=teams, given=given)


@router.post("/people", operation_id="addPerson", status_code=201)
def add_person(new: NewPerson, at: KeepingPeople) -> LinkMade:
    return LinkMade(secret=people.add(at, new.name, new.called))


@router.post("/people/{person}/link", operation_id="makeLink", status_code=201)
def make_link(person: str, at: KeepingPeople) -> LinkMade:
    """A link for a new password; a second factor that was lost goes with the old one."""
    return LinkMade(secret=people.link(at, person))


@router.put("/people/{person}/presence", operation_id="setPresence", status_code=204)
def set_presence(person: str, said: Presence, at: KeepingPeople) -> None:
    """Somebody leaves, and is signed out everywhere at once, or comes back."""
    people.leave(at, person, said.left)


@router.put("/teams/{team}", operation_id="putTeam", status_code=204)
def put_team(team: str, said: TeamBody, at: KeepingPeople) -> None:
    people.set_team(at, team, said.note, said.members)


@router.delete("/teams/{team}", operation_id="dropTeam", status_code=204)
def drop_team(team: str, at: KeepingPeople) -> None:
    people.drop_team(at, team)


@router.post("/grants", operation_id="giveRole", status_code=204)
def give_role(new: NewGrant, at: KeepingPeople) -> None:
    """Give a role for all fabrics."""
    people.give(at, new.role, None, new.person, new.team)


@router.delete("/grants/{grant}", operation_id="takeRole", status_code=204)
def take_role(grant: Id, at: KeepingPeople) -> None:
    people.take(at, grant)


@router.get("/fabrics/{name}/sharing", operation_id="getSharing")
def get_sharing(name: str, at: Sharing) -> Known:
    """Who has a role for a fabric, and who could be given one."""
    given = people.shared(at, name)
    everybody, teams, _ = people.everybody(at)
    here = [NewPerson(name=one.name, called=one.called) for one in everybody if one.left_at is None]
    return Known(people=here, teams=[team.name for team in teams], given=given)


@router.get("/fabrics/{name}/holders", operation_id="getHolders")
def get_holders(name: str, at: Reading) -> list[Holders]:
    """Who may do what with a fabric, for those who may not."""
    return [
        Holders(right=right, words=RIGHTS[right][1].format(it=name), who=who)
        for right, who in people.holders(at, name).items()
    ]


@router.get("/fabrics/{name}/keys", operation_id="listKeys")
def list_keys(name: str, at: Editing) -> list[KeysOf]:
    """The SSH keys that people keep on their own pages, for the users of a brief."""
    return [
        KeysOf(name=one.name, called=one.called, keys=one.keys)
        for one in people.everybody(at)[0]
        if one.keys and one.left_at is None
    ]


@router.post("/fabrics/{name}/sharing", operation_id="share", status_code=204)
def share(name: str, new: NewGrant, at: Sharing) -> None:
    """Give a role for this fabric."""
    people.give(at, new.role, name, new.person, new.team)


@router.delete("/fabrics/{name}/sharing/{grant}", operation_id="unshare", status_code=204)
def unshare(name: str, grant: Id, at: Sharing) -> None:
    people.take(at, grant, name)
