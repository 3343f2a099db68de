"""The front door of `core`: brief, catalogue and ledger in; one compiled fabric out.

`compile` expands the brief, draws its numbers, and builds the model of every switch. Files are rendered when they are
asked for; a switch whose model equals the one in `previous` keeps the files it had there. Pure: no I/O, no clock, no
randomness, and nothing shared that changes.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from functools import cached_property

from barrio.core.attach.attachments import Attachments, attach, differing
from barrio.core.attach.seats import Seats
from barrio.core.brief.model import Brief
from barrio.core.cabling.faults import faults_of as cable_faults
from barrio.core.cabling.lay import Laid, lay
from barrio.core.cabling.plan import Cable, Lead, leads
from barrio.core.catalogue.made import MADE
from barrio.core.catalogue.model import Catalogue
from barrio.core.checks.attached import check_attached
from barrio.core.checks.brief import check_brief
from barrio.core.checks.claims import check_claims
from barrio.core.checks.derived import Derived, derive
from barrio.core.checks.impossible import contradictions, impossible
from barrio.core.checks.ladder import check_ladder
from barrio.core.checks.place import check_place
from barrio.core.checks.pools import check_pools_of
from barrio.core.checks.structure import check_structure
from barrio.core.errors import Fault, Refused
from barrio.core.ledger.allocate import allocate
from barrio.core.ledger.demand import FURTHER, demands_of, pools_of
from barrio.core.ledger.pool import Pool
from barrio.core.ledger.vlans import racks_choose
from barrio.core.ledger.wanted import Allocation, ByKey, Demand, Holdings, Taken
from barrio.core.model.build import Ends, build, plug, shared_anew
from barrio.core.model.carried import made_anew
from barrio.core.model.devices import DEVICES
from barrio.core.model.shared import Origins
from barrio.core.model.switch import SwitchModel
from barrio.core.office import BARE, Office
from barrio.core.render.engine import FilePlan, Stale, files_of
from barrio.core.render.target import Target
from barrio.core.render.traced import TracedLine
from barrio.core.settings.ladder import Ladder
from barrio.core.structure.expand import expand
from barrio.core.structure.parts import LATER, Structure, Switch
from barrio.core.targets.choice import chosen, refused, rendered, traced
from barrio.core.targets.report import cut_off, read_back


@dataclass(frozen=True, slots=True)
class Stock:
    """What one fabric draws from: the pools there are, and what is taken from them."""

    pools: Mapping[str, Pool] = field(default_factory=dict)
    holdings: Holdings = field(default_factory=Holdings)


class _Drawing:
    """What draws numbers: a brief, the pools it draws from, and what it wants of them."""

    brief: Brief
    pools: Mapping[str, Pool]
    demands: tuple[Demand, ...]

    @property
    def scopes(self) -> frozenset[str]:
        """The scopes that numbers are drawn from."""
        return frozenset(self.pools[name].scope for _, name in self.brief.numbers)

    @property
    def spaces(self) -> dict[str, str]:
        """The space in which the numbers of each use differ."""
        return {demand.use: demand.space for demand in self.demands}


@dataclass(frozen=True)
class Asked(_Drawing):
    """What a brief asks of the catalogue and the pools, before any number is drawn. `brief` is as it reads with what the office says.

    `previous` is what was compiled before, and `touched` the fields of the brief that are other than there; nothing when switches and
    cables could be others too.
    """

    brief: Brief
    ladder: Ladder
    targets: Mapping[str, Target]
    catalogue: Catalogue
    structure: Structure
    attachments: Attachments
    pools: Mapping[str, Pool]
    demands: tuple[Demand, ...]
    findings: tuple[Fault, ...]
    previous: Compiled | None = None
    touched: frozenset[str] | None = None


@dataclass(frozen=True)
class Compiled(_Drawing):
    """One compiled fabric. `models`, `targets` and files go by switch key; `demands` are the numbers it wanted, and
    `pinned` what the Ledger fixed by hand. `without_files` are the switches that their target refuses, with the reason;
    `origins` say where the values that a switch shares stand; `site_wide` are the identifiers that no other fabric may have,
    `twice` the findings of those that stand for two things."""

    brief: Brief
    ladder: Ladder
    targets: Mapping[str, Target]
    catalogue: Catalogue
    structure: Structure
    attachments: Attachments
    pools: Mapping[str, Pool]
    allocation: Allocation
    ends: tuple[Ends, ...]
    models: Mapping[str, SwitchModel]
    findings: tuple[Fault, ...]
    demands: tuple[Demand, ...] = ()
    pinned: ByKey = field(default_factory=dict)
    without_files: Mapping[str, Fault] = field(default_factory=dict)
    origins: Mapping[str, Origins] = field(default_factory=dict)
    site_wide: Derived = field(default_factory=dict)
    twice: tuple[Fault, ...] = ()
    _files: dict[str, Mapping[str, str]] = field(default_factory=dict, repr=False, compare=False)
    _stale: dict[str, Stale] = field(default_factory=dict, repr=False, compare=False)

    def files(self, switch_key: str) -> Mapping[str, str]:
        """The files of one switch, by path; rendered once. Raises `Refused`: `target.*` when the target cannot carry it, and
        `template.*` when a template of one's own comes to no good end."""
        if switch_key in self.without_files:
            raise Refused([self.without_files[switch_key]])
        found = self._files.get(switch_key)
        if found is None:
            found = self._files[switch_key] = rendered(
                self.models[switch_key], self.targets[switch_key], self._stale.pop(switch_key, None)
            )
        return found

    def take_files(self, files: Mapping[str, Mapping[str, str]]) -> None:
        """Take files by switch key that this very program rendered of this very fabric before, in place of rendering them again."""
        for key, of_switch in files.items():
            self._files.setdefault(key, of_switch)

    @property
    def rendered(self) -> int:
        """How many switches have their files at hand."""
        return len(self._files)

    def plans(self, switch_key: str) -> tuple[FilePlan, ...]:
        """The files that a switch gets, without their text."""
        return tuple(files_of(self.models[switch_key], self.targets[switch_key]))

    def traced(self, switch_key: str, path: str) -> tuple[TracedLine, ...]:
        """A file rendered once more, slowly, to say where each line comes from. Raises as `files` does, and `KeyError` without such a file."""
        if switch_key in self.without_files:
            raise Refused([self.without_files[switch_key]])
        return traced(self.models[switch_key], path, self.targets[switch_key])

    def render_all(self) -> None:
        """Render the files of every switch that is to be staged."""
        for switch in self.staged:
            self.files(switch.key)

    @property
    def staged(self) -> tuple[Switch, ...]:
        """The switches that are to stand there now: all but those planned for later."""
        return tuple(switch for switch in self.structure.switches if switch.state != LATER)

    @cached_property
    def leads(self) -> tuple[Lead, ...]:
        """All cables with their ends, in the order of their labels."""
        return leads(self.brief, self.structure, self.ends, self.allocation.numbers, self.attachments)

    @cached_property
    def laid(self) -> Laid:
        """All cables with their ways, worked out when somebody looks at them."""
        return lay(self.brief, self.structure, self.leads)

    @property
    def noticed(self) -> tuple[Fault, ...]:
        """Every finding, with those about cables, which wait until somebody looks."""
        return self.findings + cable_faults(self.laid)

    @property
    def cables(self) -> tuple[Cable, ...]:
        """The cabling plan, in the order of the cables' labels."""
        return self.laid.cables

    @cached_property
    def seats(self) -> Seats:
        """Every place for a host, leaf by leaf."""
        return Seats(self.structure, self.attachments)

    def read_back(self) -> tuple[Fault, ...]:
        """What independent readers find in the files (`readback.*`); switches that their target refuses are left out."""
        return read_back(self._written, lambda model: self.files(model.key))

    def cut_off(self) -> tuple[Fault, ...]:
        """By which lines nobody would reach a switch any more (`lockout`); files with any do not leave. Raises as `files` does."""
        return cut_off(self._written, lambda model: self.files(model.key))

    @property
    def _written(self) -> list[tuple[SwitchModel, Target]]:
        there = (one.key for one in self.staged if one.key not in self.without_files)
        return [(self.models[key], self.targets[key]) for key in there]

    @property
    def extent(self) -> str:
        """How many switches and cables there are to be now, and how many later, in words: one count for all who tell."""
        switches, cables = len(self.staged), len(self.cables)
        later = len(self.structure.switches) - switches
        links = sum(cable.use in ("fabric", "outside") for cable in self.cables)
        more = len(self.ends) + len(self.structure.outside) - links
        now = f"{_counted(switches, 'switch', 'switches')}, {_counted(cables, 'cable', 'cables')}"
        then = [_counted(later, "switch", "switches")] * bool(later) + [_counted(more, "cable", "cables")] * bool(more)
        return f"{now} ({' and '.join(then)} more planned for later)" if then else now

    def switch(self, name: str) -> Switch | None:
        """The switch with this name or key."""
        found = self.structure.by_key.get(name)
        return found or next((switch for switch in self.structure.switches if switch.name == name), None)


def _counted(count: int, one: str, many: str) -> str:
    return f"{count} {one if count == 1 else many}"


def compile(
    brief: Brief,
    stock: Stock | None = None,
    catalogue: Catalogue = MADE,
    previous: Compiled | None = None,
    office: Office = BARE,
) -> Compiled:
    """The fabric that a brief describes, with every number drawn.

    Raises `Refused` with all faults found at the first stage that has any: structure, pools, numbers.
    """
    stock = stock or Stock()
    return complete(ask(brief, stock.pools, catalogue, previous, office), stock.holdings)


def ask(
    brief: Brief,
    pools: Mapping[str, Pool],
    catalogue: Catalogue = MADE,
    previous: Compiled | None = None,
    office: Office = BARE,
) -> Asked:
    """The first half of `compile`: all that can be said before anybody's numbers are looked at."""
    ladder = Ladder(brief, office.given)
    brief = ladder.whole
    touched = _touched(brief, catalogue, previous, office)
    was = previous if touched is not None else None
    structure = was.structure if was else expand(brief, catalogue)
    if was is not None and touched is not None and not touched & OF_HOSTS:
        attachments = was.attachments
    else:
        attachments = attach(brief, structure, (was.brief, was.attachments) if was else None)
    findings = (
        check_brief(brief)
        + check_structure(brief, structure)
        + check_place(brief, structure)
        + tuple(check_attached(brief, structure, attachments))
        + check_ladder(ladder, structure, catalogue)
        + tuple(check_claims(brief, structure, attachments))
    )
    blocking = [finding for finding in findings if finding.code in BLOCKING]
    if touched is None or not touched <= OF_HOSTS:
        blocking += impossible(ladder, structure, DEVICES)
    if blocking:
        raise Refused(blocking)
    targets = chosen(ladder, structure, office.target)
    drawn_from = pools_of(brief, pools)
    drawn_alike = attachments.carried == was.attachments.carried or not racks_choose(brief) if was else False
    same_hosts = was is not None and ("hosts" not in brief.cabling.plans or attachments is was.attachments)
    if was and was.pools == drawn_from and drawn_alike and same_hosts:
        demands = was.demands
    else:
        demands = tuple(demands_of(brief, structure, drawn_from, attachments))
    return Asked(
        brief, ladder, targets, catalogue, structure, attachments, drawn_from, demands, findings, previous, touched
    )


def complete(asked: Asked, holdings: Holdings) -> Compiled:
    """The second half of `compile`: numbers drawn beside what is taken, and a model for every switch."""
    brief, structure, pools = asked.brief, asked.structure, asked.pools
    attachments, touched = asked.attachments, asked.touched
    was = asked.previous if touched is not None else None
    if was and asked.demands is was.demands and holdings.are(was.allocation.numbers) and holdings.pinned == was.pinned:
        allocation = Allocation(was.allocation.numbers)
    else:
        allocation = allocate(asked.demands, holdings)
    numbers = allocation.numbers
    if (
        touched is not None
        and was is not None
        and pools == was.pools
        and _printed(numbers) == _printed(was.allocation.numbers)
    ):
        ends, origins, models = was.ends, was.origins, was.models
        leaves = differing(was.attachments, attachments) if attachments is not was.attachments else ()
        if leaves:
            models = made_anew(brief, structure, numbers, DEVICES, attachments, models, leaves)
        if not touched <= OF_HOSTS:
            models, origins = shared_anew(asked.ladder, structure, numbers, pools, models)
    else:
        was = None
        ends = plug(brief, structure, numbers)
        models, origins = build(asked.ladder, structure, allocation, pools, ends, DEVICES, attachments)
    against = contradictions(brief, allocation.numbers, models)
    if against:
        raise Refused(against)
    without = refused(brief, structure, attachments, asked.targets)
    findings = asked.findings + tuple(dict.fromkeys(without.values()))
    if was is not None and touched is not None and touched <= OF_ALL:
        site_wide, twice = was.site_wide, was.twice
    else:
        site_wide, twice = derive(models)
    findings += check_pools_of(brief, pools) + twice
    files, stale = _kept(asked.previous, models, asked.targets) if asked.previous else ({}, {})
    compiled = Compiled(
        brief, asked.ladder, asked.targets, asked.catalogue, structure, attachments, pools, allocation, ends, models, findings, asked.demands, holdings.pinned, without,
        origins, site_wide, twice, files, stale,
    )  # fmt: skip
    hosts_alike = was is not None and ("hosts" not in brief.cabling.plans or attachments is was.attachments)
    for name in ("leads", "laid"):
        if was is not None and hosts_alike and name in was.__dict__:
            compiled.__dict__[name] = was.__dict__[name]
    return compiled


def _printed(numbers: ByKey) -> dict[str, Mapping[str, Taken]]:
    """The numbers that files print: all but those of further cables."""
    return {use: held for use, held in numbers.items() if use != FURTHER}


def _kept(
    before: Compiled, models: Mapping[str, SwitchModel], targets: Mapping[str, Target]
) -> tuple[dict[str, Mapping[str, str]], dict[str, Stale]]:
    """What is kept of the files that were rendered before: those of switches that are what they were, and those of switches that share other
    values and are else the same."""
    files: dict[str, Mapping[str, str]] = {}
    stale: dict[str, Stale] = {}
    shared: dict[tuple[int, int], frozenset[str]] = {}
    for key, model in models.items():
        was, known = before.models.get(key), before._stale.get(key)
        if key in before._files:
            known = Stale(before._files[key], frozenset())
        if was is None or known is None or targets[key] != before.targets[key]:
            continue
        if model is not was and model != was:
            if replace(was, common=model.common) != model:
                continue
            pair = id(was.common), id(model.common)
            if pair not in shared:
                names = (one.name for one in fields(model.common))
                shared[pair] = frozenset(
                    name for name in names if getattr(was.common, name) != getattr(model.common, name)
                )
            known = Stale(known.files, known.changed | shared[pair])
        if known.changed:
            stale[key] = known
        else:
            files[key] = known.files
    return files, stale


OF_HOSTS = frozenset({"hosts", "plugs", "sets", "default_plug", "leaf_plugs"})
"""The fields of a brief that say who is attached how, and nothing else."""
OF_ALL = frozenset({"title", "services", "rungs", "additions", "target", "variables", "vars", "claims"})
"""The fields of a brief that say what switches share with others, or nothing of them at all."""


def _touched(brief: Brief, catalogue: Catalogue, previous: Compiled | None, office: Office) -> frozenset[str] | None:
    """The fields of a brief that are other than before, when they change no switch and no cable."""
    if previous is None or catalogue != previous.catalogue:
        return None
    others = frozenset(one for one in Brief.model_fields if getattr(brief, one) != getattr(previous.brief, one))
    if office.given != previous.ladder.given:
        others |= {"rungs"}
    return others if others <= OF_HOSTS | OF_ALL else None


BLOCKING = frozenset({"mtu.overlay", "routing.overlay", "routing.tunnel-ends"})
"""Findings that stop a compile: the fabric would not carry what it promises."""
