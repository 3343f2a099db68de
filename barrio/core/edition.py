"""What an edition keeps: all that goes into a compile, as one text, and what came out of it, as files.

The same inputs compile to the same bytes; where they do not, another program reads them, and `differences` says in which files.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import timedelta
from functools import cache
from importlib.resources import files
from importlib.resources.abc import Traversable
from typing import Any

from barrio.core.brief.document import read
from barrio.core.catalogue.made import MADE
from barrio.core.catalogue.model import SwitchType
from barrio.core.compile import compile
from barrio.core.compiled import Compiled, Stock
from barrio.core.ledger.pool import Family, Kind, Plan, Pool, Range, Reserved
from barrio.core.ledger.wanted import ByKey, Holdings, Taken
from barrio.core.office import read_office
from barrio.core.render.target import Contained


@dataclass(frozen=True)
class Inputs:
    """All that a compile reads. `models` are the switch models that the fabric uses, `office` the office's files, `numbers` what is held and
    `pinned` what a person fixed."""

    brief: str
    models: tuple[SwitchType, ...]
    office: Mapping[str, str]
    pools: Mapping[str, Pool]
    numbers: ByKey
    pinned: ByKey

    def text(self) -> str:
        """The inputs as one text, the same for the same inputs."""
        return json.dumps(
            {
                "brief": self.brief,
                "models": [one.model_dump(mode="json") for one in self.models],
                "office": dict(self.office),
                "pools": {name: _pool_as_json(pool) for name, pool in self.pools.items()},
                "numbers": _numbers_as_json(self.numbers),
                "pinned": _numbers_as_json(self.pinned),
            },
            sort_keys=True, ensure_ascii=False, separators=(",", ":"),
        )  # fmt: skip

    def compiled(self, contained: Contained | None = None, previous: Compiled | None = None) -> Compiled:
        """The fabric that these inputs describe. Raises `Refused` when this program does not take them any more."""
        return compile(
            read(self.brief).brief,
            Stock(self.pools, Holdings(held=self.numbers, pinned=self.pinned)),
            MADE.with_models(self.models),
            previous,
            read_office(self.office, contained, patient=True),
        )


def inputs_of(brief: str, compiled: Compiled, office: Mapping[str, str]) -> Inputs:
    """What a compiled fabric was made of."""
    models = {switch.type.id: switch.type for switch in compiled.structure.switches}
    return Inputs(
        brief, tuple(models[name] for name in sorted(models)), office, compiled.pools, compiled.allocation.numbers, compiled.pinned
    )  # fmt: skip


def read_inputs(text: str) -> Inputs:
    """Inputs from their text. Raises `ValueError` or `KeyError` for a text that `Inputs.text` did not write."""
    said = json.loads(text)
    return Inputs(
        said["brief"],
        tuple(SwitchType.model_validate(one) for one in said["models"]),
        said["office"],
        {name: _pool(name, one) for name, one in said["pools"].items()},
        _numbers(said["numbers"]),
        _numbers(said["pinned"]),
    )


def digest_of(text: str) -> bytes:
    """What a text is known by: its SHA-256 (FIPS 180-4)."""
    return hashlib.sha256(text.encode()).digest()


def differences(kept: Mapping[str, bytes], made: Mapping[str, bytes]) -> list[str]:
    """The paths whose bytes are other than kept, or that only one side has; both go from path to SHA-256."""
    return sorted(path for path in kept.keys() | made.keys() if kept.get(path) != made.get(path))


@cache
def program() -> str:
    """What the program that compiles is known by: a digest over its own source, templates and tables."""
    whole = hashlib.sha256()
    for path, text in _sources(files("barrio.core"), ""):
        whole.update(f"{path}\0".encode() + text + b"\0")
    return whole.hexdigest()[:16]


def _sources(folder: Traversable, at: str) -> Iterator[tuple[str, bytes]]:
    for one in sorted(folder.iterdir(), key=lambda entry: entry.name):
        path = f"{at}/{one.name}"
        if one.is_dir() and one.name != "__pycache__":
            yield from _sources(one, path)
        elif one.is_file() and one.name.endswith((".py", ".j2", ".yaml")):
            yield path, one.read_bytes()


def _numbers_as_json(numbers: ByKey) -> dict[str, dict[str, list[int]]]:
    return {use: {key: [taken.low, taken.size] for key, taken in keys.items()} for use, keys in numbers.items() if keys}


def _numbers(said: Mapping[str, Mapping[str, list[int]]]) -> ByKey:
    return {use: {key: Taken(low, size) for key, (low, size) in keys.items()} for use, keys in said.items()}


def _pool_as_json(pool: Pool) -> dict[str, Any]:
    return {
        "ranges": [[one.family.value, one.low, one.high] for one in pool.ranges],
        "kind": pool.kind.value,
        "plan": pool.plan.value,
        "scope": pool.scope,
        "parent": pool.parent,
        "private_to": pool.private_to,
        "reserved": [[one.family.value, one.low, one.high, one.note] for one in pool.reserved],
        "rest": pool.rest.total_seconds(),
        "warn": pool.warn,
    }


def _pool(name: str, said: Mapping[str, Any]) -> Pool:
    return Pool(
        name,
        tuple(Range(Family(family), low, high) for family, low, high in said["ranges"]),
        Kind(said["kind"]),
        Plan(said["plan"]),
        said["scope"],
        said["parent"],
        said["private_to"],
        tuple(Reserved(Family(family), low, high, note) for family, low, high, note in said["reserved"]),
        timedelta(seconds=said["rest"]),
        said["warn"],
    )
