"""The Ladder: what each rung says of a setting, and what holds for a switch in the end.

From the widest to the closest: Barrio's own, the fabric, and then the rungs of the brief: a role, a model, a pod, a kind of rack, a rack, one
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
from barrio.core.settings.known import SETTINGS, Setting, known, value_in
from barrio.core.settings.resolved import Resolved, Rung

KINDS = ("fabric", "role", "model", "pod", "kind", "rack", "switch")
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
        return ("fabric", *(f"{kind} {name}" for kind, name in zip(KINDS[1:], self, strict=True) if name))


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
    """All rungs of a brief, read once. Raises `Refused` with everything wrong with what they say (`setting.*`, `brief.*`)."""

    def __init__(self, brief: Brief) -> None:
        self._brief = brief
        faults: list[Fault] = []
        self.said: dict[str, dict[str, Said]] = {}
        for rung, entries in brief.rungs.items():
            for name, value in entries.items():
                path = f"rungs.{quoted(rung)}.{quoted(name)}"
                try:
                    said = _read(known(name, path), rung, value, path)
                    if rung == "fabric" and said.value is not None:
                        words = f"For the whole fabric, say {name} itself; the rung “fabric” does nothing but hold it."
                        raise refuse("setting.fabric", words, path)
                    self.said.setdefault(rung, {})[name] = said
                except Refused as error:
                    faults += error.faults
        if faults:
            raise Refused(faults)
        self._briefs: dict[tuple[str, ...], Brief] = {}

    def speaking(self, standing: Standing) -> tuple[str, ...]:
        """The rungs that a switch is on and that say anything; switches with the same ones are given the same."""
        return tuple(rung for rung in standing.rungs if rung in self.said) if self.said else ()

    def climb(self, rungs: tuple[str, ...], name: str) -> Resolved[Any]:
        """What holds of a setting on these rungs, what it beat, and what it was added to."""
        value = value_in(self._brief, name)
        own = SETTINGS[name].default
        path, why = name, ""
        beaten, upon = ([Rung(own, "")] if value != own else []), list[Rung[Any]]()
        for said in self.steps(rungs, name):
            if said.value is None:
                continue
            why = said.why
            if said.adds:
                upon.insert(0, Rung(value, path))
                value = _added(value, said.value)
            else:
                beaten.insert(0, Rung(value, path))
                value = said.value
                upon = []
            path = said.path
        return Resolved(value, path, tuple(beaten), tuple(upon), why)

    def steps(self, rungs: tuple[str, ...], name: str) -> Iterator[Said]:
        """What these rungs say of a setting, from the widest to the closest."""
        return (self.said[rung][name] for rung in rungs if name in self.said.get(rung, {}))

    def as_said(self, rungs: tuple[str, ...]) -> Brief:
        """The brief as it reads for a switch on these rungs: each setting as it holds there."""
        if not rungs:
            return self._brief
        if rungs not in self._briefs:
            parts: dict[str, dict[str, Any]] = {}
            for name in {name for rung in rungs for name in self.said[rung]}:
                part, _, field = name.rpartition(".")
                parts.setdefault(part, {})[field] = self.climb(rungs, name).value
            changed: dict[str, Any] = parts.pop("", {})
            changed |= {part: getattr(self._brief, part).model_copy(update=fields) for part, fields in parts.items()}
            self._briefs[rungs] = self._brief.model_copy(update=changed)
        return self._briefs[rungs]

    @cached_property
    def touched(self) -> tuple[str, ...]:
        """The settings of which some rung says anything, in the order in which all are known."""
        return tuple(name for name in SETTINGS if any(name in entries for entries in self.said.values()))

    def held(self, rungs: tuple[str, ...]) -> Iterator[tuple[str, Said, Said]]:
        """On these rungs, the settings of which something is said that a wider one holds, with both."""
        for name in self.touched:
            holding: Said | None = None
            for said in self.steps(rungs, name):
                if holding is not None:
                    yield name, said, holding
                holding = holding or (said if said.hold else None)


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
    return [*wide, *(one for one in more if one not in wide)]
