"""A value and its origin, written down as it is chosen, so that whoever asks later reads it instead of choosing again.

A rung is a place that may say a value. The widest is Barrio's own (its path is empty), closer ones are paths of the brief; the
closest that says anything wins, and those it beat are kept.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import Any, Generic, NamedTuple, TypeVar

from barrio.core.brief.model import Brief
from barrio.core.printed import Name

T = TypeVar("T")


class Rung(NamedTuple, Generic[T]):
    """What one place says: `path` is where in the brief, or empty for Barrio's own."""

    value: T
    path: str


@dataclass(frozen=True, slots=True)
class Resolved(Generic[T]):
    """The value that won, where it stands, what it beat, and, where it adds to wider values, which these are; both closest first. `why` is the reason that was
    given for it."""

    value: T
    path: str
    beaten: tuple[Rung[T], ...] = ()
    upon: tuple[Rung[T], ...] = ()
    why: str = ""


def closest(*rungs: tuple[T | None, str]) -> Resolved[T]:
    """The closest rung that says anything, from rungs named from the widest to the closest.

    Raises `ValueError` when none does.

    >>> closest((1, "uplinks_per_spine"), (None, "racks[0].uplinks_per_spine"))
    Resolved(value=1, path='uplinks_per_spine', beaten=(), upon=(), why='')
    >>> closest(("skiff-48", "racks[0].model"), ("skiff-96", 'models."leaf/r01/a"')).beaten
    (Rung(value='skiff-48', path='racks[0].model'),)
    """
    said = [Rung(value, path) for value, path in reversed(rungs) if value is not None]
    if not said:
        raise ValueError("no rung says anything")
    return Resolved(said[0].value, said[0].path, tuple(said[1:]))


def setting(brief: Brief, path: str) -> Resolved[Any]:
    """A setting of the whole fabric by its dotted path: the brief's, over Barrio's own where the two differ.

    >>> setting(Brief(fabric=Name("tern")), "underlay.mtu")
    Resolved(value=9216, path='underlay.mtu', beaten=(), upon=(), why='')
    """
    value, own = _at(brief, path), _own(path)
    return Resolved(value, path, (Rung(own, ""),) if own is not None and own != value else ())


@cache
def _own(path: str) -> object:
    return None if path == "fabric" else _at(Brief(fabric=Name("x")), path)


def _at(brief: Brief, path: str) -> Any:
    part: Any = brief
    for name in path.split("."):
        part = getattr(part, name, None)
    return part
