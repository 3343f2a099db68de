"""Faults that can be ordered of a simulated switch, and what its commands answer then.

It stands alone (standard library only), since it also runs on a simulated switch.
"""

from __future__ import annotations

import json
from collections.abc import Collection, Sequence
from typing import Any

FAULTS = (
    "wrong serial", "wrong model", "wrong airflow", "no DHCP", "power", "cut off", "download", "parser", "apply", "lock-out", "crossed", "slow", "silent", "no routes",
)  # fmt: skip
MOMENTS = (
    "software fetched",
    "software installed",
    "fetched",
    "prepared",
    "committing",
    "half in place",
    "in place",
    "committed",
    "half back",
)
"""The moments of a task at which its power can go."""
SLOW = 0.2
"""Seconds that each command of a slow one takes more."""


def answers(faults: Collection[str], words: Sequence[str]) -> dict[str, Any] | None:
    """What a command answers by an ordered fault; nothing where it has none."""
    said = {"command": " ".join(words), "code": 1, "seconds": 0.0}
    if "parser" in faults and words[0] == "vtysh" and "--dryrun" in words:
        return {**said, "output": "line 1: % Unknown command: routr bgp"}
    if "no routes" in faults and "route" in words:
        return {**said, "output": "Cannot open netlink socket: Operation not permitted"}
    if "apply" in faults and words[0] == "ifreload":
        return {**said, "code": 0, "output": "error: u1: cmd failed with Operation not supported"}
    return None


def somebody_else() -> str:
    """What lldpcli says of a switch that is plugged in elsewhere."""
    far = {"chassis": [{"name": [{"value": "somebody-else"}]}], "port": [{"id": [{"value": "p1"}]}]}
    return json.dumps({"lldp": [{"interface": [{"name": "u1", **far}]}]})
