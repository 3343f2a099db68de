"""What a renumbering would do: the numbers that today's plans would give, for those who ask to see them.

Nothing moves by itself when a plan changes. `renumbering` answers which keys would move and where to; the answer is given
back to `allocate` as `Holdings.moves` when somebody wants it done.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

from barrio.core.ledger.allocate import allocate
from barrio.core.ledger.runs import Runs
from barrio.core.ledger.wanted import Demand, Holdings, Taken


def renumbering(demands: Sequence[Demand], holdings: Holdings, uses: Collection[str]) -> dict[str, dict[str, Taken]]:
    """The numbers that keys of these uses would move to, as if none of them had one yet.

    Pinned keys stay. Numbers that rest stay out of it, and so do live ones, since the edition still has them.
    Raises `Refused` as `allocate` does, when the plan cannot be followed.
    """
    by_use = {demand.use: demand for demand in demands}
    others = dict(holdings.others)
    for use in uses:
        if use in by_use:
            space = by_use[use].space
            resting = holdings.resting.get(use, {}).values()
            live = [taken for key, taken in holdings.held.get(use, {}).items() if (use, key) in holdings.live]
            kept = [(taken.low, taken.high) for taken in (*resting, *live)]
            others[space] = Runs.of([*others.get(space, ()), *kept])
    fresh = replace(
        holdings,
        held={use: entries for use, entries in holdings.held.items() if use not in uses},
        resting={use: entries for use, entries in holdings.resting.items() if use not in uses},
        others=others,
        moves={},
    )
    wished = allocate(demands, fresh).numbers
    return {
        use: {key: taken for key, taken in wished[use].items() if holdings.held.get(use, {}).get(key, taken) != taken}
        for use in uses
        if use in wished
    }
