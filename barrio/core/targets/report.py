"""The files of a fabric, read back by whoever knows their language, and compared across languages."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from fnmatch import fnmatchcase
from xml.etree import ElementTree

from barrio.core.errors import Fault, Refused
from barrio.core.model.switch import SwitchModel
from barrio.core.render.engine import files_of
from barrio.core.render.facts import Facts, agree
from barrio.core.render.target import Target
from barrio.core.targets.complete import missing

MOST = 50
"""Findings that are told; one wrong value may show in many places."""


def read_back(
    switches: Sequence[tuple[SwitchModel, Target]], texts: Callable[[SwitchModel], Mapping[str, str]]
) -> tuple[Fault, ...]:
    """What the files contradict, and what they leave out; at most `MOST` findings (`readback.*`, `template.*`)."""
    found: list[Fault] = []
    regular: dict[str, dict[str, str]] = {}
    by_target: dict[Target, dict[str, Mapping[str, str]]] = {}
    for model, target in switches:
        try:
            files = texts(model)
        except Refused as error:
            found += error.faults
            continue
        by_target.setdefault(target, {})[model.name] = files
        regular[model.name] = at_every_boot(model, target, files)
        found += [
            Fault("readback.format", f"In the files of {model.name}: {words}.")
            for words in _malformed(model, target, files)
        ]
        for _, what, value in missing(model, regular[model.name], target.left_out):
            found.append(
                Fault("readback.missing", f"In the files of {model.name}: {what}, {value}, is in none of them.")
            )
            if len(found) > MOST:
                break
    mixed = len(by_target) > 1
    names = frozenset(name for files in by_target.values() for name in files)
    facts: dict[str, Facts] = {}
    for target, read in by_target.items():
        if target.read_back is not None:
            found += target.read_back(read, names - read.keys())
        if target.facts is not None and (mixed or target.read_back is None):
            for name in read:
                try:
                    facts[name] = target.facts(name, regular[name])
                except (ValueError, KeyError, IndexError) as error:
                    found.append(Fault("readback.unreadable", f"In the files of {name}: {error}."))
    found += _compared(facts, names)
    return tuple(dict.fromkeys(found))[:MOST]


def _malformed(model: SwitchModel, target: Target, files: Mapping[str, str]) -> Iterator[str]:
    """The files that are not of the format that their target says."""
    for plan in files_of(model, target):
        text = files.get(plan.path, "")
        try:
            if plan.kind.format == "json":
                json.loads(text)
            elif plan.kind.format == "xml":
                if "<!" in text.replace("<!--", ""):
                    raise ValueError("it declares types or entities")
                ElementTree.fromstring(text)
        except (ValueError, ElementTree.ParseError, RecursionError) as error:
            yield f"{plan.path} is no {plan.kind.format.upper()}: {error}"


REACHED = ("management/address", "management/gateway", "common/users/*")
"""What has to be in the text of a language that nobody here reads, so that people reach the switch."""


def cut_off(
    switches: Sequence[tuple[SwitchModel, Target]], texts: Callable[[SwitchModel], Mapping[str, str]]
) -> tuple[Fault, ...]:
    """By which lines nobody would reach a switch any more (`lockout`); at most `MOST`. Raises `Refused` as rendering does."""
    found: list[Fault] = []
    for model, target in switches:
        files = texts(model)
        if target.cut_off is not None:
            words = list(target.cut_off(model.name, files))
        else:
            unsaid = [
                one for one in lacking(model, target, files) if any(fnmatchcase(one[0], path) for path in REACHED)
            ]
            words = [f"{what}, {value}, is in no file" for _, what, value in unsaid]
            words += [] if model.common.users else ["nobody may sign in"]
        found += [Fault("lockout", f"Nobody would reach {model.name} with these files: {one}.") for one in words]
        if len(found) > MOST:
            break
    return tuple(found[:MOST])


def lacking(model: SwitchModel, target: Target, files: Mapping[str, str]) -> Iterator[tuple[str, str, str]]:
    """What of the model is in no file that a switch reads at every boot: (path, what it is, value)."""
    return missing(model, at_every_boot(model, target, files), target.left_out)


def at_every_boot(model: SwitchModel, target: Target, files: Mapping[str, str]) -> dict[str, str]:
    """The files of a switch without those that it has use for at its first boot alone."""
    first = {plan.path for plan in files_of(model, target) if plan.kind.first}
    return {path: text for path, text in files.items() if path not in first}


def _compared(facts: Mapping[str, Facts], everyone: frozenset[str]) -> Iterator[Fault]:
    """What switches contradict each other in. Where nobody reads the language of some, their ends are missed at none of the others."""
    for name, code, words in agree(facts, whole=len(facts) == len(everyone)):
        yield Fault(f"readback.{code}", f"In the files of {name}: {words}.")
