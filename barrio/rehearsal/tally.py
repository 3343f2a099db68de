"""What became of a flow, from when its packets were sent and which of them arrived, as `flows.py` prints it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

MOST_SILENCES = 60
TENTH = 0.1


def told(
    sent_in: Sequence[tuple[float, int]], arrived_in: Sequence[tuple[int, int]], rate: int, by: float = 0.0
) -> dict[str, Any]:
    """What a flow comes to, of so many packets a second: how many were `sent`, `received` and `doubled`; its longest `silences`, each from when to when and how
    many packets long; and `heard`, the share that arrived of what was sent in each tenth of a second. Times are moved `by` so many seconds."""
    sent = [begins + at / rate + by for begins, length in sent_in for at in range(int(length))]
    arrived = [count for count, length in arrived_in for _ in range(int(length))][: len(sent)]
    arrived += [0] * (len(sent) - len(arrived))
    silences: list[list[float]] = []
    since = 0
    for serial in range(len(sent) + 1):
        there = serial == len(sent) or arrived[serial]
        if not there:
            since += 1
        elif since:
            ends = sent[serial] if serial < len(sent) else sent[-1]
            silences.append([round(sent[serial - since], 4), round(ends, 4), since])
            since = 0
    longest = sorted(silences, key=lambda one: -one[2])[:MOST_SILENCES]
    return {
        "sent": len(sent), "received": sum(1 for one in arrived if one), "doubled": sum(one - 1 for one in arrived if one > 1),
        "silences": sorted(longest), "heard": _heard(sent, arrived),
    }  # fmt: skip


def _heard(sent: Sequence[float], arrived: Sequence[int]) -> list[float]:
    share: dict[int, int] = {}
    came: dict[int, int] = {}
    for at, there in zip(sent, arrived, strict=True):
        share[int(at / TENTH)] = share.get(int(at / TENTH), 0) + 1
        came[int(at / TENTH)] = came.get(int(at / TENTH), 0) + bool(there)
    return [round(came[at] / share[at], 3) if at in share else -1 for at in range(max(share, default=-1) + 1)]
