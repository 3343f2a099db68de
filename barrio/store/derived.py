"""Identifiers that are worked out from numbers and must differ across fabrics, kept beside the ledger."""

from __future__ import annotations

from barrio.core import Compiled
from barrio.core.errors import refuse
from barrio.store.database import Connection

_POOLS = {"System MAC": "pairs", "Route target": "vni"}
_PATHS = {"System MAC": "overlay.pair_mac", "Route target": "overlay.route_target_as"}


def write(connection: Connection, compiled: Compiled, before: Compiled | None) -> None:
    """Write what changed. Raises `Refused` (`derived.taken`) when another fabric of the scope has one of them."""
    fabric = compiled.brief.fabric
    now = _rows(compiled)
    if before is not None and now == _rows(before):
        return
    connection.execute("delete from derived where fabric = %s", [fabric])
    kinds, values = [kind for _, kind, _ in now], [value for _, _, value in now]
    taken = connection.execute(
        "select derived.kind, derived.value, fabric, owner from derived "
        "join unnest(%s::text[], %s::text[], %s::text[]) as mine (scope, kind, value) using (scope, kind, value) limit 1",
        [[scope for scope, _, _ in now], kinds, values],
    ).fetchone()
    if taken:
        kind, value, other, owner = taken
        raise refuse(
            "derived.taken",
            f"{kind} {value} stands for {owner} in {other} already. Give this fabric another {_PATHS[kind]}, or draw its "
            "numbers from the same scope.",
            _PATHS[kind],
        )
    with connection.cursor().copy("copy derived (scope, kind, value, fabric, owner) from stdin") as copy:
        for (scope, kind, value), owner in now.items():
            copy.write_row((scope, kind, value, fabric, owner))


def _rows(compiled: Compiled) -> dict[tuple[str, str, str], str]:
    numbers = compiled.brief.numbers
    scopes = {kind: compiled.pools[getattr(numbers, name)].scope for kind, name in _POOLS.items()}
    return {(scopes[kind], kind, value): owner for (kind, value), owner in compiled.site_wide.items()}
