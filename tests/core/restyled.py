"""The same files in somebody else's hand: other order where order says nothing, tabs, no remarks."""

from __future__ import annotations

import random
import re
from collections.abc import Mapping

from barrio.core.adopt.running import FRR, INTERFACES

_MARKS = re.compile(r"[#!] (added:|end of what was added|out of service|planned later)")
"""Remarks that say something which the lines themselves do not."""


def restyled(files: Mapping[str, str], seed: int) -> dict[str, str]:
    """Interfaces and routing written otherwise, the other files as they are."""
    dice = random.Random(seed)
    return dict(files) | {FRR: _routing(files[FRR], dice), INTERFACES: _interfaces(files[INTERFACES], dice)}


def _interfaces(text: str, dice: random.Random) -> str:
    """Stanzas in another order, each device's words too but for those that are carried out one after another."""
    stanzas = []
    for stanza in re.split(r"\n\n+", text.strip()):
        lines = [line for line in stanza.split("\n") if not line.startswith("#") or _MARKS.search(line)]
        head = [line for line in lines if not line.startswith(" ")]
        body = [line.strip() for line in lines if line.startswith(" ")]
        body = [line for line in body if not line.startswith("#") or _MARKS.search(line)]
        if not any(line.startswith(("#", "pre-", "post-", "up ", "down ")) for line in body):
            dice.shuffle(body)
            body.sort(key=lambda line: line.startswith("address"))
            addresses = iter([line.strip() for line in lines if line.strip().startswith("address")])
            body = [next(addresses) if line.startswith("address") else line for line in body]
        if head:
            stanzas.append("\n".join([*head, *("\t" + line for line in body)]))
    dice.shuffle(stanzas)
    return "# by hand\n\n" + "\n\n\n".join(stanzas) + "\n"


def _routing(text: str, dice: random.Random) -> str:
    """Interfaces, lists and maps in another order, without remarks."""
    lines = [line for line in text.split("\n") if not line.strip().startswith("!") or _MARKS.search(line)]
    blocks: list[list[str]] = []
    for line in lines:
        if blocks and (line.startswith(" ") or line in ("exit", "exit-vrf")):
            blocks[-1].append(line)
        elif line:
            blocks.append([line])
    kinds = ("interface ", "ip prefix-list ", "ipv6 prefix-list ", "route-map ")
    for kind in kinds:
        places = [place for place, block in enumerate(blocks) if block[0].startswith(kind)]
        mixed = [blocks[place] for place in places]
        dice.shuffle(mixed)
        for place, block in zip(places, mixed, strict=True):
            blocks[place] = block
    return "\n!\n!\n".join("\n".join(block) for block in blocks) + "\n!\n"
