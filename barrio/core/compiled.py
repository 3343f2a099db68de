"""What a brief comes to: what it asks of catalogue and pools before any number is drawn, and the fabric that it compiles to."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from barrio.core.attach.attachments import Attachments
from barrio.core.attach.seats import Seats
from barrio.core.brief.model import Brief
from barrio.core.cabling.faults import faults_of as cable_faults
from barrio.core.cabling.lay import Laid, lay
from barrio.core.cabling.plan import Cable, Lead, leads
from barrio.core.catalogue.model import Catalogue
from barrio.core.checks.derived import Derived
from barrio.core.errors import Fault, Refused
from barrio.core.ledger.pool import Pool
from barrio.core.ledger.wanted import Allocation, ByKey, Demand, Holdings
from barrio.core.model.build import Ends
from barrio.core.model.shared import Origins
from barrio.core.model.switch import SwitchModel
from barrio.core.render.engine import FilePlan, Stale, files_of
from barrio.core.render.target import Target
from barrio.core.render.traced import TracedLine
from barrio.core.settings.ladder import Ladder
from barrio.core.structure.parts import LATER, Structure, Switch
from barrio.core.targets.choice import rendered, traced
from barrio.core.targets.report import cut_off, read_back


@dataclass(frozen=True, slots=True)
class Stock:
    """What one fabric draws from: the pools there are, and what is taken from them."""

    pools: Mapping[str, Pool] = field(default_factory=dict)
    holdings: Holdings = field(default_factory=Holdings)


@dataclass(frozen=True)
class _Drawing:
    """What draws numbers: a brief as it reads with what the office says, what it comes to, and the pools it draws from."""

    brief: Brief
    ladder: Ladder
    targets: Mapping[str, Target]
    catalogue: Catalogue
    structure: Structure
    attachments: Attachments
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
    """What a brief asks of the catalogue and the pools, before any number is drawn.

    `previous` is what was compiled before, and `touched` the fields of the brief that are other than there; nothing when switches and
    cables could be others too. `grown` says that racks came or went, and nothing else did.
    """

    findings: tuple[Fault, ...]
    previous: Compiled | None = None
    touched: frozenset[str] | None = None
    grown: bool = False


@dataclass(frozen=True)
class Compiled(_Drawing):
    """One compiled fabric. `models`, `targets` and files go by switch key; `demands` are the numbers it wanted, and
    `pinned` what the Ledger fixed by hand. `without_files` are the switches that their target refuses, with the reason;
    `origins` say where the values that a switch shares stand; `site_wide` are the identifiers that no other fabric may have,
    `twice` the findings of those that stand for two things."""

    allocation: Allocation
    ends: tuple[Ends, ...]
    models: Mapping[str, SwitchModel]
    findings: tuple[Fault, ...]
    pinned: ByKey = field(default_factory=dict)
    without_files: Mapping[str, Fault] = field(default_factory=dict)
    origins: Mapping[str, Origins] = field(default_factory=dict)
    site_wide: Derived = field(default_factory=dict)
    twice: tuple[Fault, ...] = ()
    _files: dict[str, Mapping[str, str]] = field(default_factory=dict, repr=False, compare=False)
    _stale: dict[str, Stale] = field(default_factory=dict, repr=False, compare=False)
    _leads: dict[str, Lead] = field(default_factory=dict, repr=False, compare=False)

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
        found = leads(self.brief, self.structure, self.ends, self.allocation.numbers, self.attachments, self._leads)
        self._leads.clear()
        return found

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
