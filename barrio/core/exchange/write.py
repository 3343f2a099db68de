"""Structures out: RFC 8345 topology JSON, GraphML, DOT and SVG, each from the compiled fabric."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from xml.sax.saxutils import escape, quoteattr

from barrio.core.compiled import Compiled
from barrio.core.structure.parts import Switch

MOST_DRAWN = 6000
"""Crossings that a picture holds at most; beyond, it would be no picture."""


@dataclass(frozen=True, slots=True)
class _Edge:
    lower: str
    lower_port: str
    upper: str
    upper_port: str
    speed: int
    label: str


def _edges(compiled: Compiled) -> Iterator[_Edge]:
    for end in compiled.ends:
        link = end.link
        yield _Edge(link.lower.name, end.lower_port, link.upper.name, end.upper_port, link.speed, end.label)


def rfc8345(compiled: Compiled) -> str:
    """The topology as RFC 7951 JSON for the modules of RFC 8345: a node a switch, and two links a cable, one each way."""
    ports: dict[str, list[str]] = {switch.name: [] for switch in compiled.structure.switches}
    links: list[dict[str, object]] = []
    for edge in _edges(compiled):
        ports[edge.lower].append(edge.lower_port)
        ports[edge.upper].append(edge.upper_port)
        for way, (a, a_port, b, b_port) in (
            ("up", (edge.lower, edge.lower_port, edge.upper, edge.upper_port)),
            ("down", (edge.upper, edge.upper_port, edge.lower, edge.lower_port)),
        ):
            links.append(
                {
                    "link-id": f"{edge.label}-{way}",
                    "source": {"source-node": a, "source-tp": a_port},
                    "destination": {"dest-node": b, "dest-tp": b_port},
                }
            )
    nodes = [
        {"node-id": name, "ietf-network-topology:termination-point": [{"tp-id": port} for port in held]}
        if held
        else {"node-id": name}
        for name, held in ports.items()
    ]
    network: dict[str, object] = {"network-id": compiled.brief.fabric, "network-types": {}, "node": nodes}
    if links:
        network["ietf-network-topology:link"] = links
    return json.dumps({"ietf-network:networks": {"network": [network]}}, indent=2) + "\n"


_KEYS = (
    ("role", "node"), ("model", "node"), ("rack", "node"), ("pod", "node"), ("loopback", "node"), ("asn", "node"),
    ("source_port", "edge"), ("target_port", "edge"), ("speed", "edge"), ("label", "edge"),
)  # fmt: skip


def graphml(compiled: Compiled) -> str:
    """The fabric as GraphML: an edge a cable, with ports, speed in Gbit/s and label."""
    lines = ['<?xml version="1.0" encoding="UTF-8"?>', '<graphml xmlns="http://graphml.graphdrawing.org/xmlns">']
    for name, of in _KEYS:
        kind = "int" if name in ("asn", "speed") else "string"
        attribute = "long" if name == "asn" else kind
        lines.append(f'  <key id="{name}" for="{of}" attr.name="{name}" attr.type="{attribute}"/>')
    lines.append(f'  <graph id={quoteattr(compiled.brief.fabric)} edgedefault="undirected">')
    for switch in compiled.structure.switches:
        model = compiled.models[switch.key]
        told = (
            ("role", switch.role), ("model", switch.type.title), ("rack", switch.rack), ("pod", switch.pod),
            ("loopback", model.router_id), ("asn", model.asn),
        )  # fmt: skip
        lines.append(f"    <node id={quoteattr(switch.name)}>{_data(told)}</node>")
    for edge in _edges(compiled):
        said = (
            ("source_port", edge.lower_port), ("target_port", edge.upper_port), ("speed", edge.speed), ("label", edge.label),
        )  # fmt: skip
        lines.append(f"    <edge source={quoteattr(edge.lower)} target={quoteattr(edge.upper)}>{_data(said)}</edge>")
    lines += ["  </graph>", "</graphml>", ""]
    return "\n".join(lines)


def _data(told: tuple[tuple[str, object], ...]) -> str:
    return "".join(f'<data key="{name}">{escape(str(value))}</data>' for name, value in told if value != "")


def dot(compiled: Compiled) -> str:
    """The fabric in the DOT language, tiers as ranks; parallel links of a crossing are one edge with their count."""
    lines = [f'graph "{compiled.brief.fabric}" {{', "  rankdir=TB;", "  node [shape=box];"]
    structure = compiled.structure
    for tier in (structure.supers, structure.spines, structure.leaves):
        if tier:
            lines.append("  { rank=same; " + " ".join(f'"{switch.name}";' for switch in tier) + " }")
    counts: dict[tuple[str, str, int], int] = {}
    for edge in _edges(compiled):
        key = (edge.upper, edge.lower, edge.speed)
        counts[key] = counts.get(key, 0) + 1
    for (upper, lower, speed), count in counts.items():
        label = f"{count} × {speed}G" if count > 1 else f"{speed}G"
        lines.append(f'  "{upper}" -- "{lower}" [label="{label}"];')
    lines += ["}", ""]
    return "\n".join(lines)


_PAPER, _INK, _SOFT, _HAIR, _WALNUT, _INDIGO = "#F7F2E8", "#22252B", "#6A6B66", "#DCD3C1", "#6B4A34", "#2F3E8F"


def svg(compiled: Compiled) -> str:
    """The Weave as a picture: spines and super-spines as warp, leaves as weft, a mark at every crossing.

    In three tiers the spines of each pod stand side by side over the pod's own leaves; super-spines cross the spines above.
    """
    return "\n".join(_Picture(compiled).lines()) + "\n"


class _Picture:
    STEP, ROW, LEFT, TOP = 34, 15, 170, 120

    def __init__(self, compiled: Compiled) -> None:
        self.compiled = compiled
        structure = compiled.structure
        self.columns: dict[str, int] = {}
        self.rows: dict[str, int] = {}
        for switch in structure.spines:
            self.columns[switch.key] = len(self.columns)
        for switch in (*structure.supers, *structure.leaves):
            self.rows[switch.key] = len(self.rows)

    def lines(self) -> Iterator[str]:
        width = self.LEFT + self.STEP * len(self.columns) + 40
        height = self.TOP + self.ROW * len(self.rows) + 30
        title = self.compiled.brief.title or self.compiled.brief.fabric
        yield (
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}" width="{width}" height="{height}" '
            f'font-family="Atkinson Hyperlegible Next, sans-serif" font-size="11">'
        )
        yield f"<title>{escape(title)}</title>"
        yield f'<rect width="{width}" height="{height}" fill="{_PAPER}"/>'
        yield f'<text x="16" y="26" font-size="15" font-weight="700" fill="{_INK}">{escape(title)}</text>'
        bottom = self.TOP + self.ROW * len(self.rows)
        for switch in self.compiled.structure.spines:
            x = self._x(switch.key)
            yield f'<path d="M{x} {self.TOP - 8}V{bottom}" stroke="{_INDIGO}" stroke-width="1.2"/>'
            yield (
                f'<text transform="translate({x + 4} {self.TOP - 12}) rotate(-60)" fill="{_INK}">{escape(switch.name)}</text>'
            )
        right = self.LEFT + self.STEP * (len(self.columns) - 1)
        for key in self.rows:
            yield from self._row(self.compiled.structure.by_key[key], right)
        yield from self._crossings()
        yield "</svg>"

    def _x(self, key: str) -> int:
        return self.LEFT + self.STEP * self.columns[key]

    def _y(self, key: str) -> int:
        return self.TOP + self.ROW * self.rows[key] + 6

    def _row(self, switch: Switch, right: int) -> Iterator[str]:
        y = self._y(switch.key)
        colour = _WALNUT if switch.is_leaf else _INDIGO
        dash = ' stroke-dasharray="5 3"' if switch.state else ""
        yield f'<path d="M{self.LEFT - 12} {y}H{right + 12}" stroke="{_HAIR}"/>'
        yield f'<path d="M{self.LEFT - 12} {y}H{self.LEFT - 4}" stroke="{colour}" stroke-width="2"{dash}/>'
        words = f"{switch.name}, {switch.state}" if switch.state else switch.name
        yield f'<text x="{self.LEFT - 18}" y="{y + 4}" text-anchor="end" fill="{_SOFT}">{escape(words)}</text>'

    def _crossings(self) -> Iterator[str]:
        counts: dict[tuple[str, str], int] = {}
        for end in self.compiled.ends:
            if end.link.kind == "fabric":
                top_down = end.link.upper.role == "super-spine"
                pair = (
                    (end.link.lower.key, end.link.upper.key) if top_down else (end.link.upper.key, end.link.lower.key)
                )
                counts[pair] = counts.get(pair, 0) + 1
        if len(counts) > MOST_DRAWN:
            yield f'<text x="16" y="44" fill="{_SOFT}">{len(counts):,} crossings, too many to draw each</text>'
            return
        for (spine, row), count in counts.items():
            x, y, half = self._x(spine), self._y(row), 3 + min(count, 4)
            yield f'<path d="M{x - half} {y}H{x + half}" stroke="{_WALNUT}" stroke-width="{min(1 + count, 5)}"/>'


FORMATS = {
    "rfc8345.json": (rfc8345, "application/yang-data+json"),
    "graphml": (graphml, "application/graphml+xml"),
    "dot": (dot, "text/vnd.graphviz"),
    "svg": (svg, "image/svg+xml"),
}
"""The formats a structure can be had in: name after the fabric's, writer, media type."""
