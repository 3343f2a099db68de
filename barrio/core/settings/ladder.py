"""The Ladder: what each rung says of a setting, and what holds for a switch in the end.

From the widest to the closest: Barrio's own, the office, the fabric, and then the rungs of the brief: a role, a model, a pod, a kind of rack, a rack, one
switch. The closest that speaks wins. It says a value, or what it adds to the wider one; and a rung may *hold* what is so far, with a reason,
so that no closer one may say anything else.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any, NamedTuple

from barrio.core.brief.model import Brief
from barrio.core.brief.reader import quoted
from barrio.core.errors import Fault, Refused, refuse
from barrio.core.settings.given import NOTHING, Given
from barrio.core.settings.known import SETTINGS, VARIABLE, Setting, is_said, known, of_variable, value_in
from barrio.core.settings.resolved import Resolved, Rung

KINDS = ("office", "fabric", "role", "model", "pod", "kind", "rack", "switch")
"""The kinds of rung, from the widest to the closest."""


class Standing(NamedTuple):
    """Where a switch stands: the name of its rung of each kind, empty where it has none."""

    role: str
    model: str
    pod: str
    kind: str
    rack: str
    switch: str

    @property
    def rungs(self) -> tuple[str, ...]:
        """The rungs that it is on, from the widest to the closest."""
        return ("office", "fabric", *(f"{kind} {name}" for kind, name in zip(KINDS[2:], self, strict=True) if name))


@dataclass(frozen=True, slots=True)
class Said:
    """What one rung says of one setting: a value, or what it adds; or nothing but that it holds. `path` is where in the brief."""

    rung: str
    path: str
    value: Any
    adds: bool = False
    why: str = ""
    hold: str = ""


class Ladder:
    """All rungs that a fabric's switches stand on, read once. Raises `Refused` with everything wrong with what they say (`setting.*`,
    `variable.*`, `brief.*`)."""

    def __init__(self, brief: Brief, given: Given = NOTHING) -> None:
        self.brief, self.given = brief, given
        variables = {**given.variables, **brief.variables}
        of_own = {f"{VARIABLE}{name}": of_variable(name, one) for name, one in variables.items()}
        # Those that are said of files as they are come last.
        self.settings: dict[str, Setting] = dict(
            sorted((SETTINGS | of_own).items(), key=lambda item: item[0].startswith("additions."))
        )
        self.said: dict[str, dict[str, Said]] = {}
        self._vars: dict[str, Any] = {}
        faults = [
            Fault(
                "variable.twice",
                f"The office declares {name} already. Give this one another name.",
                f"variables.{name}",
            )
            for name in given.variables.keys() & brief.variables.keys()
        ]
        for name, value in given.settings.items():
            self._take("office", name, value, f"office.{quoted(name)}", faults)
        for name, value in brief.vars.items():
            try:
                path = f"vars.{name}"
                self._vars[name] = known(f"{VARIABLE}{name}", path, self.settings).read(value, path)
            except Refused as error:
                faults += error.faults
        for rung, entries in brief.rungs.items():
            for name, value in entries.items():
                self._take(rung, name, value, f"rungs.{quoted(rung)}.{quoted(name)}", faults)
        if faults:
            raise Refused(faults)
        self._briefs: dict[tuple[str, ...], Brief] = {}

    def _take(self, rung: str, name: str, value: object, path: str, faults: list[Fault]) -> None:
        try:
            setting = known(name, path, self.settings)
            said = _read(setting, rung, value, path)
            if setting.whole and rung not in ("office", "fabric"):
                words = (
                    f"All switches of a fabric have to agree on {name}. Say it for the whole fabric, or in the office."
                )
                raise refuse("setting.whole", words, path)
            if rung == "fabric" and said.value is not None and not said.adds:
                words = f"For the whole fabric, say {name} itself; the rung “fabric” holds it, or adds to what the office says."
                raise refuse("setting.fabric", words, path)
            self.said.setdefault(rung, {})[name] = said
        except Refused as error:
            faults += error.faults

    def speaking(self, standing: Standing) -> tuple[str, ...]:
        """The rungs that a switch is on and that say anything; switches with the same ones are given the same."""
        return tuple(rung for rung in standing.rungs if rung in self.said) if self.said else ()

    def own(self, name: str) -> Any:
        """What Barrio says of a setting by itself, or whoever declared a variable."""
        return self.settings[name].default

    def of_fabric(self, name: str) -> Any:
        """What the brief says for the whole fabric; nothing when it leaves that to wider rungs."""
        if name.startswith(VARIABLE):
            return self._vars.get(name.removeprefix(VARIABLE))
        value = value_in(self.brief, name)
        return value if value != self.own(name) or is_said(self.brief, name) else None

    def climb(self, rungs: tuple[str, ...], name: str) -> Resolved[Any]:
        """What holds of a setting on these rungs, what it beat, and what it was added to."""
        own = self.own(name)
        found: Resolved[Any] = Resolved(own, name)
        widest = self.said.get("office", {}).get(name) if "office" in rungs else None
        if widest is not None and widest.value is not None:
            found = _upon(found, widest)
        of_all = self.of_fabric(name)
        if of_all is not None and (of_all != found.value or found.path == name):
            beaten = (
                (Rung(found.value, found.path if found.path != name else ""),) if of_all != found.value else ()
            ) + found.beaten
            found = Resolved(of_all, name, beaten)
        for said in self.steps(rungs, name):
            if said.value is not None and said is not widest:
                found = _upon(found, said)
        return found

    def speakers(self, rungs: tuple[str, ...], name: str) -> Iterator[tuple[str, bool]]:
        """The rungs that give a setting a value on the way to a switch, from the widest, and whether they add to what is so far."""
        of_all = self.of_fabric(name)
        told = False
        for said in self.steps(rungs, name):
            if not told and said.rung != "office" and of_all is not None:
                told = True
                yield "fabric", False
            if said.value is not None:
                yield said.rung, said.adds
        if not told and of_all is not None:
            yield "fabric", False

    def steps(self, rungs: tuple[str, ...], name: str) -> Iterator[Said]:
        """What these rungs say of a setting, from the widest to the closest."""
        return (self.said[rung][name] for rung in rungs if name in self.said.get(rung, {}))

    def as_said(self, rungs: tuple[str, ...]) -> Brief:
        """The brief as it reads for a switch on these rungs: each setting as it holds there."""
        if not rungs:
            return self.brief
        if rungs not in self._briefs:
            parts: dict[str, dict[str, Any]] = {}
            for name in {name for rung in rungs for name in self.said[rung] if not name.startswith(VARIABLE)}:
                part, _, field = name.rpartition(".")
                parts.setdefault(part, {})[field] = self.climb(rungs, name).value
            changed: dict[str, Any] = parts.pop("", {})
            changed |= {part: getattr(self.brief, part).model_copy(update=fields) for part, fields in parts.items()}
            self._briefs[rungs] = self.brief.model_copy(update=changed)
        return self._briefs[rungs]

    @property
    def whole(self) -> Brief:
        """The brief as it reads for the whole fabric, with what the office says where it says nothing."""
        return self.as_said(tuple(rung for rung in ("office", "fabric") if rung in self.said))

    @property
    def variables(self) -> tuple[str, ...]:
        """The names of all variables, as the office and the brief declare them."""
        return tuple(name.removeprefix(VARIABLE) for name in self.settings if name.startswith(VARIABLE))

    @cached_property
    def touched(self) -> tuple[str, ...]:
        """The settings of which some rung says anything, in the order in which all are known."""
        return tuple(name for name in self.settings if any(name in entries for entries in self.said.values()))

    def held(self, rungs: tuple[str, ...]) -> Iterator[tuple[str, Said, Said]]:
        """On these rungs, the settings of which something is said that a wider one holds, with both."""
        for name in self.touched:
            holding: Said | None = None
            for said in self.steps(rungs, name):
                if holding is not None:
                    yield name, said, holding
                holding = holding or (said if said.hold else None)


def _upon(wide: Resolved[Any], said: Said) -> Resolved[Any]:
    """A value with what a closer rung says put in its place, or added to it. Wider than the office is nobody but Barrio."""
    below = Rung(wide.value, "" if said.rung == "office" else wide.path)
    if said.adds:
        return Resolved(_added(wide.value, said.value), said.path, wide.beaten, (below, *wide.upon), said.why)
    return Resolved(said.value, said.path, (below, *wide.beaten), (), said.why)


_WORDS = frozenset({"value", "add", "why", "hold"})


def _read(setting: Setting, rung: str, said: object, path: str) -> Said:
    """What a rung says, from the brief: a plain value, or `value` or `add` with `why` and `hold`."""
    if not isinstance(said, Mapping) or not said.keys() <= _WORDS or not said:
        return Said(rung, path, setting.read(said, path))
    why, hold = (_text(said.get(word, ""), f"{path}.{word}") for word in ("why", "hold"))
    if "value" in said and "add" in said:
        words = f"{setting.name} has a value and adds to the wider one. Say one of the two."
        raise refuse("setting.both", words, path)
    if "add" in said:
        if not setting.many:
            words = f"{setting.name} is one {setting.kind}, to which nothing can be added. Give it a value."
            raise refuse("setting.add", words, f"{path}.add")
        return Said(rung, path, setting.read(said["add"], f"{path}.add"), True, why, hold)
    if "value" not in said and not hold:
        words = f"{setting.name} is given no value here. Say value or add, or hold what it is so far."
        raise refuse("setting.nothing", words, path)
    value = setting.read(said["value"], f"{path}.value") if "value" in said else None
    return Said(rung, path, value, False, why, hold)


def _text(value: object, path: str) -> str:
    if not isinstance(value, str) or "\n" in value or len(value) > 200:
        raise refuse("setting.words", "A reason is one line of text, of 200 characters at most.", path)
    return value


def _added(wide: Any, more: Any) -> Any:
    """A list with what is not in it yet at its end, or a table with entries added or put in the place of theirs.

    >>> _added([1, 2], [2, 3]), _added({"a": 1}, {"b": 2})
    ([1, 2, 3], {'a': 1, 'b': 2})
    """
    if isinstance(wide, Mapping):
        return {**wide, **more}
    wide = wide or []
    return [*wide, *(one for one in more if one not in wide)]
