"""Why a value is what it is: find the rule for its path. The rules are in the modules named after what they explain."""

from __future__ import annotations

import re

from barrio.core.because import attach, hosts, ports, segments, shared, switch
from barrio.core.because.chain import Step
from barrio.core.because.place import RULES, Place
from barrio.core.brief.document import Document
from barrio.core.compiled import Compiled

RULE_MODULES = (switch, shared, ports, attach, hosts, segments)
"""Importing them registers their rules."""


def of_value(document: Document, compiled: Compiled, path: str) -> tuple[Step, ...]:
    """The chain of reasons for the value at a path, nearest reason first.

    Raises `KeyError` when no value has this path.
    """
    found = re.fullmatch(r"switches/([^/]+)/(.+)", path)
    device = compiled.switch(found[1]) if found else None
    if found is None or device is None:
        raise KeyError(path)
    model = compiled.models[device.key]
    for pattern, rule in RULES:
        match = pattern.fullmatch(found[2])
        if match:
            try:
                return tuple(rule(Place(document, compiled, model, match.groupdict(), found[2])))
            except StopIteration:
                raise KeyError(path) from None
    raise KeyError(path)
