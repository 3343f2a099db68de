"""What somebody saves who looks at each running switch: the daemons' own configuration, its files, its neighbours and its devices."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.adopt.running import FRR
from barrio.rehearsal.lab import Lab
from barrio.rehearsal.node import Node


def saved(lab: Lab) -> dict[str, bytes]:
    """A folder for each switch, by path."""
    return {
        f"saved/{node.switch.name}/{path}": text.encode() for node in lab.nodes.values() for path, text in _told(node)
    }


def _told(node: Node) -> Iterator[tuple[str, str]]:
    for path in node.files:
        if path != FRR:
            yield path, node.run("cat", str(node.folder / path))
    yield "running-config.txt", node.vtysh("show running-config")
    yield "lldp.json", node.lldp()
    yield "links.json", node.run("ip", "-j", "-d", "link")
