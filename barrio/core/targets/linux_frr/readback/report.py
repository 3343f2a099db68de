"""The files of a fabric, read back: findings in the words of the other checks."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from functools import partial

from barrio.core.errors import Fault
from barrio.core.targets.linux_frr.readback.across import across
from barrio.core.targets.linux_frr.readback.odd import odd_ones
from barrio.core.targets.linux_frr.readback.read import SwitchText, read_switch
from barrio.core.targets.linux_frr.readback.within import within

MOST = 50
"""Findings that are told; one wrong value may show in many places."""


def read_back(files: Mapping[str, Mapping[str, str]], elsewhere: frozenset[str] = frozenset()) -> tuple[Fault, ...]:
    """What the files of a fabric contradict, by switch name and path; at most `MOST` findings `readback.*`. `elsewhere` are switches of the
    fabric whose files are in another language.

    Pure text: nothing of the templates or the model is asked. A file that cannot be read is a finding too.
    """
    fabric: dict[str, SwitchText] = {}
    found: list[Fault] = []
    for name, said in files.items():
        try:
            fabric[name] = read_switch(name, said)
        except (ValueError, IndexError, KeyError) as error:
            found.append(_fault(name, "unreadable", str(error)))
    found += [_fault(name, code, words) for name, code, words in _findings(fabric, elsewhere)]
    return tuple(dict.fromkeys(found))[:MOST]


def _findings(fabric: Mapping[str, SwitchText], elsewhere: frozenset[str]) -> Iterator[tuple[str, str, str]]:
    for name, switch in fabric.items():
        try:
            yield from ((name, code, words) for code, words in within(switch))
        except (ValueError, IndexError, KeyError) as error:
            yield name, "unreadable", f"{type(error).__name__}: {error}"
    checks: list[Callable[[Mapping[str, SwitchText]], Iterator[tuple[str, str, str]]]] = [
        partial(across, elsewhere=elsewhere)
    ]
    if not elsewhere:  # who is the odd one out is seen where all are
        checks.append(odd_ones)
    for check in checks:
        try:
            yield from check(fabric)
        except (ValueError, IndexError, KeyError) as error:
            yield next(iter(fabric), ""), "unreadable", f"{type(error).__name__}: {error}"


def _fault(switch: str, code: str, words: str) -> Fault:
    return Fault(f"readback.{code}", f"In the files of {switch}: {words}.")
