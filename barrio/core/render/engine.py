"""Models → files, on the fast path: plain values in, text out.

The templates that ship are our own code, so they run in an ordinary environment, and refuse undefined names. They can print
printed types and numbers only (`barrio.core.printed`); free text passes through the filter `plain`. Lines end with a line feed, and every file with
exactly one. Templates of an office's own run in Jinja2's immutable sandbox, may print any text of one line, and are rendered in a process of
their own (`Contained`), never here. `barrio.core.render.trace` renders the same templates slowly, to say where each line comes from.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, fields, is_dataclass
from functools import cache, partial
from types import SimpleNamespace
from typing import Any

from jinja2 import BaseLoader, Environment, FunctionLoader, PackageLoader, StrictUndefined, Undefined
from jinja2.ext import Extension
from jinja2.sandbox import ImmutableSandboxedEnvironment
from jinja2.utils import missing

from barrio.core.errors import nearest
from barrio.core.model.switch import Relay, SwitchModel, UserModel
from barrio.core.printed import plain, printable
from barrio.core.printed.text import one_line
from barrio.core.render.filters import FILTERS
from barrio.core.render.target import FileKind, Target


@dataclass(frozen=True, slots=True)
class FilePlan:
    """A file that a switch gets: its path, its kind, and the user or relay it is for, if it is one of theirs."""

    path: str
    kind: FileKind
    owner: UserModel | Relay | None = None

    @property
    def given(self) -> dict[str, Any]:
        """What its template sees beside the switch."""
        return {self.kind.each: self.owner} if self.kind.each else {}


def own_printable(value: object) -> object:
    """The value, if a template of one's own may print it: a whole number or a text of one line. Raises `TypeError` otherwise."""
    if value.__class__ is int or isinstance(value, Undefined):  # what is not there says so itself, with its name
        return value
    if isinstance(value, str):
        return one_line(value)
    if value is None:
        raise TypeError("a template prints what has no value here; ask for it with if first")
    raise TypeError(
        f"a template prints one value after another, and this is a {type(value).__name__}; say which part of it"
    )


def _there(encode: Callable[[Any], Any], value: Any) -> Any:
    if getattr(value, "raw", value) is None:
        raise TypeError("what has no value here is to be plain text; ask for it with if first")
    return encode(value)


class Nowhere(StrictUndefined):
    """What a template of one's own names and is not there; it says so with the nearest name that is."""

    @property
    def _undefined_message(self) -> str:
        name, of = str(self._undefined_name), self._undefined_obj
        of = getattr(of, "raw", of)
        if isinstance(of, SimpleNamespace):
            return f"no variable {name} is declared.{nearest(name, vars(of))}"
        if not is_dataclass(of):
            known = ["sw", "vars", "user", "relay"] if of is missing else []
            return super()._undefined_message if known == [] else f"there is no {name}.{nearest(name, known)}"
        parts = [one.name for one in fields(of)]
        kind = re.sub(r"(?<!^)(?=[A-Z])", " ", type(of).__name__.removesuffix("Model")).lower()
        return f"a {kind} has no {name}.{nearest(name, parts)}"


def _own(templates: Mapping[str, str], name: str) -> tuple[str, str, None] | None:
    """A template of one's own, which errors call by its name."""
    return (templates[name], name, None) if name in templates else None


def environment(
    target: Target,
    finalize: Callable[[Any], Any] | None = None,
    encode: Callable[[Any], Any] = plain,
    extensions: Sequence[type[Extension]] = (),
) -> Environment:
    """The templates of a target; `finalize` sees every value on its way out, `encode` makes plain words of free text."""
    shipped = bool(target.templates.package)
    loader: BaseLoader = (
        PackageLoader(target.templates.package, "templates")
        if shipped
        else FunctionLoader(partial(_own, target.templates.own))
    )
    made = (Environment if shipped else ImmutableSandboxedEnvironment)(
        loader=loader,
        undefined=StrictUndefined if shipped else Nowhere,
        finalize=finalize or (printable if shipped else own_printable),
        trim_blocks=True,
        lstrip_blocks=True,
        keep_trailing_newline=True,
        auto_reload=False,
        extensions=extensions,
    )
    made.filters["plain"] = encode
    made.filters.update(FILTERS)
    if not shipped:
        made.filters["plain"] = partial(_there, encode)
    return made


def variables_of(switch: SwitchModel) -> SimpleNamespace:
    """The variables of one's own, as templates see them: `vars.name`."""
    return SimpleNamespace(**{one.label: one.value for one in switch.common.variables})


@cache
def _fast(target: Target) -> Environment:
    return environment(target)


def files_of(switch: SwitchModel, target: Target) -> Iterator[FilePlan]:
    """The files that a switch gets, in the target's order, users by name."""
    for kind in target.files:
        if not kind.is_for(switch):
            continue
        if kind.each:
            owners: Sequence[UserModel | Relay] = switch.relays if kind.each == "relay" else switch.common.users
            for owner in owners:
                yield FilePlan(kind.path.format(**{kind.each: owner.label}), kind, owner)
        else:
            yield FilePlan(kind.path, kind)


@cache
def _shared_in(target: Target, template: str) -> frozenset[str]:
    """The fields of `Common` that a template of a target that ships asks for, with those that it includes."""
    loaded = _fast(target)
    assert loaded.loader is not None
    source = loaded.loader.get_source(loaded, template)[0]
    inner = (_shared_in(target, name) for name in re.findall(r'{% include "([^"]+)"', source))
    return frozenset(re.findall(r"\bcommon\.(\w+)", source)).union(*inner)


@dataclass(frozen=True, slots=True)
class Stale:
    """The files of a switch as they were before `changed` fields of what it shares became other; nothing else of it did."""

    files: Mapping[str, str]
    changed: frozenset[str]

    def holds(self, plan: FilePlan, target: Target) -> bool:
        """Whether a file is what it was."""
        if plan.path not in self.files or (plan.owner is not None and "users" in self.changed):
            return False
        return not self.changed & _shared_in(target, plan.kind.template)


def render(switch: SwitchModel, target: Target, stale: Stale | None = None) -> dict[str, str]:
    """Every file of a switch, by path; what is known of before and holds still is taken from there."""
    templates = _fast(target)
    return {
        plan.path: (
            stale.files[plan.path]
            if stale and stale.holds(plan, target)
            else templates.get_template(plan.kind.template).render(sw=switch, **plan.given)
        )
        for plan in files_of(switch, target)
    }
