"""What a draft would do: sums, switches, sessions, like changes, and the order."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Reading
from barrio.api.paging import PAGED, Paged
from barrio.app import ripples
from barrio.app.ripples import Rippled
from barrio.core.brief.compare import changed_paths, words_at
from barrio.core.compare.groups import Alike, alike
from barrio.core.compare.lines import LineChange
from barrio.core.compare.ripple import SwitchRipple
from barrio.core.render.effects import WORDS, Effect
from barrio.store.errors import Missing

router = APIRouter(prefix="/api/v1/fabrics/{name}/ripple", tags=["ripple"], responses=ERRORS)
MOST_WORDS, MOST_LINES, MOST_NAMES = 60, 60, 400
Against = Annotated[int | None, Query(ge=0, lt=2**31)]
"""The edition that is held against: the newest without one, nothing at all for 0."""
Of = Annotated[int | None, Query(ge=1, lt=2**31)]
"""The edition that is asked about: the draft without one."""


class RippleSums(BaseModel):
    """Counts of switches, cables and numbers against the newest edition; `against` is 0 when there is none."""

    version: int
    against: int
    counts: dict[str, int]


class SwitchChange(BaseModel):
    """What happens to one switch, without its lines."""

    key: str
    name: str
    role: str
    rack: str
    state: str
    added: int
    removed: int
    effect: Effect
    words: str
    sessions: int
    links: list[str]
    devices: list[str]


class SessionChange(BaseModel):
    """A session that restarts: its two ends, what it carries, the cable it runs over, and the switches whose lines do it."""

    ends: tuple[str, str]
    families: list[str]
    cable: str
    by: list[str]


class ChangedLine(BaseModel):
    """A line that changes, in its blocks; `device` is the port or device that it is about, where it is about one."""

    within: list[str]
    device: str
    before: str
    after: str
    effect: Effect
    words: str
    why: str
    source: str


class LikeChange(BaseModel):
    """Lines that change in the same way on `count` switches, of which some are named; `same` says letter by letter, else `lines` are those of the first switch.
    `more` counts lines that are not shown."""

    path: str
    count: int
    switches: list[str]
    same: bool
    effect: Effect
    words: str
    lines: list[ChangedLine]
    more: int


class WaveView(BaseModel):
    number: int
    switches: list[str]
    why: str
    bandwidth: float
    paths: float
    between: list[str]
    out: list[str]


class OrderView(BaseModel):
    """Waves in the order in which they are safe. `exact` says that fewer cannot be, otherwise `bound` is what none goes below."""

    waves: list[WaveView]
    exact: bool
    bound: int
    unsafe: list[str]
    bandwidth: float
    paths: float


class WordChange(BaseModel):
    """What the brief says otherwise: where, and in a word or two before and now."""

    path: str
    before: str
    after: str


class RippleView(BaseModel):
    """All that a draft would do, or an edition did, in sums. `effect` is the worst of it, in `words`; `said` are words of the brief, `of` is 0 for the draft."""

    version: int
    of: int
    against: int
    effect: Effect
    words: str
    added: int
    removed: int
    new: int
    gone: int
    changed: int
    untouched: int
    counts: dict[str, int]
    said: list[WordChange]
    effects: dict[Effect, int]
    sessions: int
    links: list[str]
    gateways: dict[str, list[str]]
    order: OrderView


@router.get("/sums", operation_id="getRippleSums")
def get_sums(name: str, at: Reading) -> RippleSums:
    """The counts alone, at once."""
    version, against, counts = ripples.sums(at, name)
    return RippleSums(version=version, against=against, counts=counts)


@router.get("", operation_id="getRipple")
def get_ripple(name: str, at: Reading, against: Against = None, of: Of = None) -> RippleView:
    """What the draft would do against an edition, or against the newest."""
    return ripple_view(ripples.of(at, name, against, of))


@router.get("/switches", operation_id="getRippleSwitches", responses=PAGED)
def get_switches(name: str, at: Reading, page: Paged, against: Against = None, of: Of = None) -> list[SwitchChange]:
    """Every switch that the draft touches, the worst first."""
    found = ripples.of(at, name, against, of).ripple.switches
    ordered = sorted(found, key=lambda one: (-one.effect.rank, one.name))
    return [switch_change(one) for one in page.of(ordered)]


@router.get("/groups", operation_id="getRippleGroups", responses=PAGED)
def get_groups(name: str, at: Reading, page: Paged, against: Against = None, of: Of = None) -> list[LikeChange]:
    """Lines that change alike, those that touch most first."""
    return [_like(one) for one in page.of(alike(ripples.of(at, name, against, of).ripple))]


@router.get("/sessions", operation_id="getRippleSessions", responses=PAGED)
def get_sessions(name: str, at: Reading, page: Paged, against: Against = None, of: Of = None) -> list[SessionChange]:
    """Every session that restarts."""
    what = ripples.of(at, name, against, of).ripple
    by: dict[str, list[str]] = {}
    for one in what.switches:
        for session in one.sessions:
            by.setdefault(session, []).append(one.name)
    return [
        SessionChange(ends=one.ends, families=list(one.families), cable=one.cable, by=by.get(one.id, []))
        for one in page.of(sorted(what.sessions.values(), key=lambda one: (one.ends, one.id)))
    ]


@router.get("/switches/{switch}", operation_id="getRippleSwitch")
def get_switch(name: str, switch: str, at: Reading, against: Against = None, of: Of = None) -> list[ChangedLine]:
    """The changed lines of one switch, by its name or key."""
    for one in ripples.of(at, name, against, of).ripple.switches:
        if switch in (one.name, one.key):
            return [line_view(line) for line in one.changes]
    raise Missing(f"The draft does not touch {switch}.")


def ripple_view(found: Rippled) -> RippleView:
    what, waves = found.ripple, found.order
    states = [one.state for one in what.switches]
    added, removed = what.lines
    effects: dict[Effect, int] = {}
    for one in what.switches:
        effects[one.effect] = effects.get(one.effect, 0) + 1
    least = waves.least
    return RippleView(
        version=found.version, of=found.of, against=found.against, effect=what.effect, words=WORDS[what.effect], added=added, removed=removed,
        new=states.count("new"), gone=states.count("gone"), changed=states.count("changed"), untouched=what.untouched,
        counts=dict(what.counts), said=_said(found), effects=effects, sessions=len(what.sessions), links=sorted(what.links), gateways=what.gateways,
        order=OrderView(
            waves=[
                WaveView(number=one.number, switches=list(one.switches), why=one.why, bandwidth=one.left.bandwidth, paths=one.left.paths, between=list(one.left.names), out=list(one.left.out))
                for one in waves.waves
            ],
            exact=waves.exact, bound=waves.bound, unsafe=list(waves.unsafe), bandwidth=least.bandwidth, paths=least.paths,
        ),
    )  # fmt: skip


def _said(found: Rippled) -> list[WordChange]:
    if found.before is None:
        return []
    before, after = found.before.brief, found.after.brief
    paths = changed_paths(before, after)[:MOST_WORDS]
    return [WordChange(path=one, before=words_at(before, one), after=words_at(after, one)) for one in paths]


def switch_change(one: SwitchRipple) -> SwitchChange:
    return SwitchChange(
        key=one.key, name=one.name, role=one.role, rack=one.rack, state=one.state, added=one.added, removed=one.removed, effect=one.effect,
        words=WORDS[one.effect], sessions=len(one.sessions), links=sorted(one.links), devices=sorted(one.devices),
    )  # fmt: skip


def _like(one: Alike) -> LikeChange:
    lines = one.lines[:MOST_LINES]
    return LikeChange(
        path=one.path, count=len(one.switches), switches=list(one.switches[:MOST_NAMES]), same=one.same, effect=one.effect,
        words=WORDS[one.effect], lines=lines_view(lines), more=len(one.lines) - len(lines),
    )  # fmt: skip


def lines_view(lines: Iterable[LineChange]) -> list[ChangedLine]:
    return [line_view(line) for line in lines]


def line_view(line: LineChange) -> ChangedLine:
    return ChangedLine(
        within=list(line.within), device=line.about.get("device", ""), before=line.before, after=line.after, effect=line.effect, words=WORDS[line.effect], why=line.why,
        source=line.source,
    )  # fmt: skip
