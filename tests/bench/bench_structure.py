"""Structure and sums, cold, against a plain loop over the same links: printed by `make bench`.

The baseline makes the same number of links as tuples of names, in nested loops, and nothing else: no ports, no keys, no sums.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from typing import Any

from barrio.core import compile
from barrio.core.brief.document import read
from barrio.core.catalogue.made import MADE
from barrio.core.proposals import fat_tree
from barrio.core.structure.expand import expand
from barrio.core.sums import add_up

TWO_TIERS = """
fabric: wide
spines: {count: 32, model: lonja-k1152, racks: s01..s16}
racks:
  - {racks: r0001..r0512, leaves: 2, model: lonja-t64}
"""


def timed(action: Callable[[], Any]) -> float:
    """The median of five runs, in seconds."""
    runs = []
    for _ in range(5):
        start = time.perf_counter()
        action()
        runs.append(time.perf_counter() - start)
    return statistics.median(runs)


def plain(uppers: int, lowers: int, times: int) -> list[tuple[str, str, int]]:
    return [
        (f"lower-{lower}", f"upper-{upper}", part)
        for part in range(times)
        for lower in range(lowers)
        for upper in range(uppers)
    ]


def main() -> None:
    cases = (("32x1024", TWO_TIERS, (32, 1024, 1)), ("fat tree, k=48", fat_tree(48, "cantera-c48", MADE), (24, 24, 96)))
    for name, text, shape in cases:
        base = timed(lambda shape=shape: plain(*shape))  # type: ignore[misc]
        brief = read(text).brief
        sums = timed(lambda brief=brief: add_up(brief, expand(brief, MADE)))  # type: ignore[misc]
        links = timed(lambda brief=brief: expand(brief, MADE).links)  # type: ignore[misc]
        cold = timed(lambda text=text: add_up(found := read(text).brief, expand(found, MADE)))  # type: ignore[misc]
        whole = timed(lambda brief=brief: compile(brief))  # type: ignore[misc]
        count = len(expand(brief, MADE).links)
        print(f"{name}: {count:,} links")
        print(f"  baseline, a plain loop      {base * 1000:7.0f} ms")
        for label, seconds in (
            ("switches and all sums", sums),
            ("the same from the text", cold),
            ("switches and every link", links),
            ("every number and model too", whole),
        ):
            print(f"  {label:<27} {seconds * 1000:7.0f} ms  {seconds / base:5.2f} × baseline")


if __name__ == "__main__":
    main()
