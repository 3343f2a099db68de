"""Checks of identifiers that are worked out from numbers: system MACs, ESIs, route distinguishers and route targets.

Each is a function of numbers that the ledger keeps apart. Two alike mean that two bases of the brief meet, or that numbers
came from scopes that were meant to lie apart; so they are counted from the models, as they are printed.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from barrio.core.errors import Fault
from barrio.core.model.switch import SwitchModel

Derived = dict[tuple[str, str], str]
"""What an identifier stands for, by its kind and value."""


def derive(models: Mapping[str, SwitchModel]) -> tuple[Derived, tuple[Fault, ...]]:
    """The identifiers that must differ from those of other fabrics (system MACs of pairs, and route targets), and a finding
    `derived.twice` for each identifier that stands for two things."""
    found: Derived = {}
    faults: dict[tuple[str, str], Fault] = {}
    for kind, value, owner in _identifiers(models):
        first = found.setdefault((kind, value), owner)
        if first != owner:
            words = (
                f"{kind} {value} would stand for {first} and for {owner}. Draw their numbers from pools of one scope, or move "
                "the base that the brief gives."
            )
            faults.setdefault((kind, value), Fault("derived.twice", words, _PATHS.get(kind, "numbers")))
    wide = {
        (kind, value): owner
        for (kind, value), owner in found.items()
        if kind in _PATHS and owner != "the gateways of the fabric"
    }
    return wide, tuple(faults.values())


_PATHS = {"System MAC": "overlay.pair_mac", "Route target": "overlay.route_target_as"}


def _identifiers(models: Mapping[str, SwitchModel]) -> Iterator[tuple[str, str, str]]:
    """Every identifier as (kind, value, what it stands for)."""
    for model in models.values():
        if model.pair is not None:
            pair = " and ".join(sorted((model.name, model.pair.peer)))
            yield "System MAC", model.pair.mac, f"the pair {pair}"
            for lag in model.host_lags:
                if lag.segment_id is not None:
                    yield "ESI", f"{model.pair.mac} {lag.segment_id}", f"{lag.label} of the pair {pair}"
        for segment in model.segments:
            yield "Route target", segment.route_target, f"segment {segment.label}"
            yield "Route distinguisher", segment.rd, f"segment {segment.label} on {model.name}"
        for vrf in model.vrfs:
            yield "Route target", vrf.route_target, f"VRF {vrf.label}"
            yield "Route distinguisher", vrf.rd, f"VRF {vrf.label} on {model.name}"
    for model in models.values():
        yield "System MAC", model.common.gateway_mac, "the gateways of the fabric"
        return
