"""Who may do what: one table of rights and the roles that have them.

A role is held for one fabric or for all. What concerns one fabric is allowed by a role held for it or for all; what concerns all
of them (pools, models, people) by a role held for all. `look` is what everybody may who has a role for anything.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum


class Role(StrEnum):
    """What somebody is to a fabric. A keeper is one for all."""

    READER = "reader"
    ARCHITECT = "architect"
    REVIEWER = "reviewer"
    TECHNICIAN = "technician"
    OPERATOR = "operator"
    KEEPER = "keeper"


class Right(StrEnum):
    """What one may do. The first thirteen concern one fabric, the others all that there is."""

    READ = "read"
    EDIT = "edit"
    NUMBER = "number"
    CABLE = "cable"
    SEAL = "seal"
    AGREE = "agree"
    SAY = "say"
    REHEARSE = "rehearse"
    UNBOX = "unbox"
    STAGE = "stage"
    RULE = "rule"
    DELETE = "delete"
    SHARE = "share"
    LOOK = "look"
    CREATE = "create"
    POOLS = "pools"
    CATALOGUE = "catalogue"
    OFFICE = "office"
    PEOPLE = "people"
    RECORD = "record"


_ALL = frozenset(Role)
_ARCHITECT, _OPERATOR, _KEEPER = frozenset({Role.ARCHITECT}), frozenset({Role.OPERATOR}), frozenset({Role.KEEPER})
_TECHNICIAN = frozenset({Role.TECHNICIAN})

RIGHTS: dict[Right, tuple[frozenset[Role], str]] = {
    Right.READ: (_ALL, "see {it}"),
    Right.EDIT: (_ARCHITECT, "change the brief of {it}"),
    Right.NUMBER: (_ARCHITECT, "pin and renumber in {it}"),
    Right.CABLE: (_ARCHITECT | _TECHNICIAN | _OPERATOR, "work on the cables of {it}"),
    Right.SEAL: (_OPERATOR, "seal an edition of {it}"),
    Right.AGREE: (frozenset({Role.REVIEWER}), "agree to a draft of {it}"),
    Right.SAY: (_ALL - {Role.READER, Role.KEEPER}, "comment on a draft of {it}"),
    Right.REHEARSE: (_ALL - {Role.READER, Role.KEEPER}, "rehearse {it}"),
    Right.UNBOX: (_TECHNICIAN | _OPERATOR, "say which box is which switch of {it}"),
    Right.STAGE: (_OPERATOR, "stage {it}"),
    Right.RULE: (_KEEPER, "say who must agree to a draft of {it}"),
    Right.DELETE: (_ARCHITECT | _KEEPER, "delete {it}"),
    Right.SHARE: (_ARCHITECT | _KEEPER, "share {it}"),
    Right.LOOK: (_ALL, "see the Ledger and the catalogue"),
    Right.CREATE: (_ARCHITECT, "make a fabric"),
    Right.POOLS: (_KEEPER, "change pools and reserve numbers"),
    Right.CATALOGUE: (_KEEPER, "change the catalogue"),
    Right.OFFICE: (_ARCHITECT | _KEEPER, "change what holds for every fabric"),
    Right.PEOPLE: (_KEEPER, "say who may do what"),
    Right.RECORD: (_KEEPER, "read the record"),
}
"""The table: which roles have a right, and what it is, in words that go on from “may” (`{it}` is the fabric)."""

OF_A_FABRIC = frozenset(
    {
        Right.READ, Right.EDIT, Right.NUMBER, Right.CABLE, Right.SEAL, Right.AGREE, Right.SAY, Right.REHEARSE, Right.UNBOX, Right.STAGE, Right.RULE,
        Right.DELETE, Right.SHARE,
    }
)  # fmt: skip

SENTENCES: dict[Role, str] = {
    Role.READER: "sees everything and changes nothing",
    Role.ARCHITECT: "changes the brief, pins numbers, shares and deletes",
    Role.REVIEWER: "sees everything, and agrees to what an architect made",
    Role.TECHNICIAN: "sees everything, works on cables, and unboxes switches",
    Role.OPERATOR: "seals editions and stages them",
    Role.KEEPER: "keeps people, pools and the catalogue, for all fabrics",
}


@dataclass(frozen=True, slots=True)
class Grant:
    """A role for a fabric, or for all when none is named."""

    role: Role
    fabric: str | None = None


def allowed(grants: Iterable[Grant], right: Right, fabric: str | None = None) -> bool:
    """Whether these grants give a right, over a fabric where it concerns one."""
    roles = RIGHTS[right][0]
    if right is Right.LOOK:
        return any(grant.role in roles for grant in grants)
    return any(
        grant.role in roles and (grant.fabric is None or (right in OF_A_FABRIC and grant.fabric == fabric))
        for grant in grants
    )


def limited(grants: Iterable[Grant], roles: Iterable[Role], fabrics: Iterable[str] | None) -> frozenset[Grant]:
    """What is left of grants within the limits of a token: only these roles, and only for these fabrics (all, without any).

    >>> sorted(limited([Grant(Role.ARCHITECT), Grant(Role.KEEPER)], [Role.ARCHITECT], ["tern"]), key=str)
    [Grant(role=<Role.ARCHITECT: 'architect'>, fabric='tern')]
    """
    wanted = set(roles)
    kept = [grant for grant in grants if grant.role in wanted]
    if fabrics is None:
        return frozenset(kept)
    return frozenset(
        Grant(grant.role, fabric)
        for grant in kept
        for fabric in fabrics
        if grant.fabric in (None, fabric) and grant.role is not Role.KEEPER
    )
