"""The ports that a kind of rack names for LAGs, told by the numbers of Ethernet segments (RFC 7432): those ports count from 1, all others far beyond."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator, Mapping

from barrio.core.adopt.running import Known
from barrio.core.adopt.shape import Shape
from barrio.core.brief.ranges import contract_ports
from barrio.core.exchange.tiers import natural
from barrio.core.model.hosts import BEYOND

_SEGMENT = re.compile(r"evpn mh es-id (\d+)")


def lags_of(known: Mapping[str, Known], shape: Shape) -> dict[int, str]:
    """The named ports, by the place of their kind of rack, where some segment shows that not every port is named."""
    numbered: dict[int, dict[int, str]] = defaultdict(dict)
    beyond: set[int] = set()
    for name, key in shape.keys.items():
        if shape.tier[name] != "leaf" or "pairing" not in shape.edits["racks"][shape.group_of[key]]:
            continue
        place = shape.group_of[key]
        for number, port in _segments(known[name]):
            if number >= BEYOND:
                beyond.add(place)
            else:
                numbered[place][number] = port
    return {
        place: contract_ports(sorted(numbered[place].values(), key=natural))
        for place in beyond
        if sorted(numbered[place]) == list(range(1, len(numbered[place]) + 1)) and numbered[place]
    }


def _segments(one: Known) -> Iterator[tuple[int, str]]:
    """The Ethernet segments of a leaf, with the first port of each."""
    for block, lines in one.text.blocks.items():
        device = one.devices.get(block.removeprefix("interface "))
        ports = sorted(device.words("bond-slaves"), key=natural) if device else []
        for line in lines:
            told = _SEGMENT.fullmatch(line)
            if told and ports:
                yield int(told[1]), ports[0]
