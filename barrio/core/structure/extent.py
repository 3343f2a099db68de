"""How much a brief asks for, counted before anything of it is made."""

from __future__ import annotations

from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import expand_names
from barrio.core.errors import refuse

MOST_SWITCHES = 5_000
MOST_LINKS = 200_000
"""What one fabric may have: some times what one team runs, and little enough to be compiled while one waits."""


def extent(brief: Brief) -> tuple[int, int]:
    """How many switches and links between them a brief asks for, by multiplication alone.

    >>> extent(Brief(fabric="marlin"))
    (2, 0)
    """
    pods = len(expand_names(brief.pods)) if brief.pods else 1
    spines = brief.spines.count
    above = brief.super_spines.per_plane * spines if brief.super_spines else 0
    leaves = links = 0
    for group in brief.racks:
        within = len(expand_names(group.pods)) if group.pods else pods
        here = within * len(expand_names(group.racks)) * group.leaves
        leaves += here
        links += here * spines * brief.lanes_of(group)
    if brief.super_spines:
        links += pods * spines * brief.super_spines.per_plane * brief.super_spines.links
    return above + pods * spines + leaves, links


def check_extent(brief: Brief) -> None:
    """Refuse what is too large for one fabric (`brief.too-large`), whoever asks."""
    switches, links = extent(brief)
    for count, most, things in ((switches, MOST_SWITCHES, "switches"), (links, MOST_LINKS, "links")):
        if count > most:
            raise refuse(
                "brief.too-large",
                f"This brief asks for {count:,} {things}, and one fabric has {most:,} at most. Take fewer racks or pods, or "
                "make several fabrics of it.",
                "pods" if brief.pods else "racks",
            )
