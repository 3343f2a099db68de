"""Drawings in: GraphML and DOT files of who is linked to whom, with what their labels say of names, speeds, AS numbers and addresses.

A drawing is read leniently: what a node or an edge says and nobody understands is noted, and the rest is taken. Sheets of links and RFC 8345 documents
are drawings too, which say nothing but links.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from ipaddress import ip_address, ip_interface, ip_network
from xml.etree.ElementTree import Element, ParseError

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring

from barrio.core.errors import refuse
from barrio.core.exchange.dot import Edge, Node, dot
from barrio.core.exchange.links import MOST_BYTES, PlainLink, check_links, read_links

MOST_NOTES = 60


@dataclass(frozen=True, slots=True)
class DrawnNode:
    """A node: what it is called, and what it says of its AS, its loopbacks and its model; nothing where it says nothing."""

    name: str
    asn: int | None = None
    loopbacks: tuple[str, ...] = ()
    model: str = ""


@dataclass(frozen=True, slots=True)
class Drawing:
    """A drawing: nodes by name, links, the subnet of a link where one is said, by its row, and notes on what was not understood."""

    nodes: Mapping[str, DrawnNode]
    links: tuple[PlainLink, ...]
    subnets: Mapping[int, str]
    notes: tuple[str, ...]


def is_drawing(content: bytes) -> bool:
    """Whether content begins as GraphML, DOT, RFC 8345's JSON, or a sheet of links does."""
    return kind_of(content) != ""


def kind_of(content: bytes) -> str:
    """`graphml`, `dot`, or `links`; nothing for an archive.

    >>> kind_of(b"graph x { a -- b }"), kind_of(b"<graphml/>"), kind_of(b"leaf-1,u1,spine-1,p1")
    ('dot', 'graphml', 'links')
    """
    head = content[:2000].lstrip(b"\xef\xbb\xbf \t\r\n")
    if head[:2] in (b"PK", b"\x1f\x8b") or b"\0" in head:
        return ""
    if head[:1] == b"<":
        return "graphml"
    text = re.sub(rb"//[^\n]*|#[^\n]*|/\*.*?\*/", b"", head, flags=re.DOTALL).lstrip()
    if re.match(rb"(strict\s+)?(di)?graph\b[^,;\n]*\{", text, re.IGNORECASE):
        return "dot"
    first = head.split(b"\n", 1)[0]
    return "links" if head[:1] == b"{" or max(first.count(b","), first.count(b";")) >= 3 else ""


def read_drawing(content: bytes) -> Drawing:
    """A drawing, whatever its form.

    Raises `Refused`: `drawing.syntax` with the line, `drawing.empty`, `import.*` as `read_links`.
    """
    kind = kind_of(content)
    if kind in ("links", ""):
        links = read_links(content)
        return Drawing({name: DrawnNode(name) for one in links for name in (one.a, one.b)}, tuple(links), {}, ())
    if len(content) > MOST_BYTES:
        raise refuse("import.too-large", f"This is {len(content) / 1e6:.0f} MB; the most is {MOST_BYTES // 2**20} MB.")
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = content[: error.start].count(b"\n") + 1
        raise refuse("import.encoding", f"Line {line} is not UTF-8. Save the drawing as UTF-8.", line=line) from None
    return _Understanding(*(_graphml(text) if kind == "graphml" else dot(text))).drawing()


# GraphML


def _graphml(text: str) -> tuple[list[Node], list[Edge]]:
    try:
        root = fromstring(text, forbid_dtd=True)
    except ParseError as error:
        raise refuse("drawing.syntax", f"This is not GraphML: {error}.", line=error.position[0]) from None
    except DefusedXmlException:
        raise refuse("drawing.syntax", "This has a document type of its own, which GraphML has not.") from None
    keys = {one.get("id", ""): one.get("attr.name", "") for one in root.iter() if _local(one) == "key"}
    nodes, edges = [], []
    for one in root.iter():
        if _local(one) == "node":
            nodes.append(Node(one.get("id", ""), _data(one, keys)))
        elif _local(one) == "edge":
            ports = (one.get("sourceport", ""), one.get("targetport", ""))
            edges.append(Edge(one.get("source", ""), one.get("target", ""), _data(one, keys), ports))
    return nodes, edges


def _local(one: Element) -> str:
    return str(one.tag).rpartition("}")[2]


def _data(one: Element, keys: Mapping[str, str]) -> dict[str, str]:
    """What a node or an edge says: its data by name, and labels wherever a drawing program puts them."""
    said: dict[str, str] = {}
    for data in one:
        if _local(data) != "data":
            continue
        labels = [each.text or "" for each in data.iter() if _local(each) in ("NodeLabel", "EdgeLabel")]
        if labels or len(data):
            said["label"] = "\n".join([said.get("label", ""), *labels]).strip()
        elif (data.text or "").strip():
            said[keys.get(data.get("key", ""), "") or data.get("key", "")] = (data.text or "").strip()
    return {name: value for name, value in said.items() if value}


# What labels and attributes mean

_NAMES = ("name", "hostname", "label", "xlabel", "headlabel", "taillabel", "description")
_MEANS = {
    "asn": "asn", "as": "asn", "as_number": "asn", "loopback": "loopback", "loopback_v4": "loopback", "loopback_v6": "loopback", "router_id": "loopback",
    "ip": "loopback", "address": "loopback", "model": "model", "hardware": "model", "type": "model",
    "source_port": "a_port", "target_port": "b_port", "tailport": "a_port", "headport": "b_port", "speed": "speed", "bandwidth": "speed",
    "subnet": "subnet", "prefix": "subnet", "network": "subnet", "role": "", "tier": "", "pod": "", "rack": "",
}  # fmt: skip
_LOOKS = re.compile(
    r"(shape|style|color|colour|fill.*|font.*|pen.*|pos|x|y|z|r|g|b|width|height|size|weight|rank.*|dir|len|constraint|group|url|tooltip|id|class|image|margin|"
    r"label.*|arrow.*|lp|peripheries|layer|splines|key|minlen|d\d+)",
    re.IGNORECASE,
)
"""Attributes that say how something looks and where it stands."""
_ASN = re.compile(r"\bASN?\s*[:=]?\s*(\d{1,10})\b", re.IGNORECASE)
_ADDRESS = re.compile(
    r"(?<![\w.:])((?:\d{1,3}\.){3}\d{1,3}|[\da-fA-F]{0,4}(?::[\da-fA-F]{0,4}){2,7})(/\d{1,3})?(?![\w.:])"
)
_SPEED = re.compile(r"\b(?:(\d+)\s*[x×*]\s*)?(\d+)\s*(?:G|Gb|Gbit|Gbps|GE|Gbit/s)\b", re.IGNORECASE)
_COUNT = re.compile(r"^\s*(\d+)\s*[x×*]?\s*(?:links?)?\s*$", re.IGNORECASE)
_PORT = r"[A-Za-z]+[\w/.-]*\d"
_PORTS = re.compile(rf"^\s*({_PORT})\s*(?:-|–|—|--|<->|↔|to|:|\|)\s*({_PORT})\s*$")


class _Understanding:
    """What the nodes and edges of a drawing say, as far as it is understood."""

    def __init__(self, nodes: list[Node], edges: list[Edge]) -> None:
        self.written, self.edges = nodes, edges
        self.notes: Counter[str] = Counter()
        self.nodes: dict[str, DrawnNode] = {}
        self.names: dict[str, str] = {}

    def drawing(self) -> Drawing:
        for one in self.written:
            self._node(one)
        links: list[PlainLink] = []
        subnets: dict[int, str] = {}
        free: Counter[str] = Counter()
        for edge in self.edges:
            for a, a_port, b, b_port, subnet in self._links(edge, free):
                row = len(links) + 1
                links.append(PlainLink(a, a_port, b, b_port, row))
                if subnet:
                    subnets[row] = subnet
        if not links:
            raise refuse("drawing.empty", "There is no link in this drawing. An edge joins two switches.")
        check_links(links)
        notes = [
            f"Not understood: {words}{f' ({count} times)' if count > 1 else ''}."
            for words, count in self.notes.most_common(MOST_NOTES)
        ]
        return Drawing(self.nodes, tuple(links), subnets, tuple(notes))

    def _node(self, one: Node) -> None:
        name, asn, model = "", None, ""
        loopbacks: list[str] = []
        for key, value in one.said.items():
            means = _MEANS.get(key.lower())
            if key.lower() in _NAMES:
                for line in _lines(value):
                    rest, numbers, addresses = _taken(line)
                    asn = numbers[0] if numbers else asn
                    loopbacks += addresses
                    if rest and not name and key.lower() != "description":
                        name = rest
                    elif rest and rest != name:
                        self._note(f"“{rest[:40]}” of a node")
            elif means == "asn" and value.strip().lower().removeprefix("as").strip().isdigit():
                asn = int(value.strip().lower().removeprefix("as"))
            elif means == "loopback" and _taken(value)[2]:
                loopbacks += _taken(value)[2]
            elif means == "model":
                model = value
            elif means != "":
                self._unknown(key, "a node")
        name = name or one.id
        if name in self.nodes:
            raise refuse("drawing.twice", f"Two nodes are called {name[:60]}. Rename one.")
        self.names[one.id] = name
        self.nodes[name] = DrawnNode(name, asn, tuple(dict.fromkeys(loopbacks)), model)

    def _links(self, edge: Edge, free: Counter[str]) -> Iterator[tuple[str, str, str, str, str]]:
        for end in (edge.a, edge.b):
            if end not in self.names:
                self.names[end] = end
                self.nodes.setdefault(end, DrawnNode(end))
        a, b = self.names[edge.a], self.names[edge.b]
        if a == b:
            self._note(f"a link of {a[:60]} to itself")
            return
        count, subnet = 1, ""
        ports = {"a_port": edge.ports[0], "b_port": edge.ports[1]}
        for key, value in edge.said.items():
            means = _MEANS.get(key.lower())
            if means in ("a_port", "b_port"):
                ports[means] = value
            elif means == "subnet" and _subnet(value):
                subnet = _subnet(value)
            elif means == "speed":
                continue
            elif key.lower() in _NAMES:
                for line in _lines(value):
                    count, subnet = self._label(line, count, subnet, ports)
            else:
                self._unknown(key, "an edge")
        for number in range(min(count, 64)):
            named = number == 0
            yield (
                a, (named and ports["a_port"]) or self._free(a, free), b, (named and ports["b_port"]) or self._free(b, free),
                subnet if count == 1 else "",
            )  # fmt: skip

    def _label(self, line: str, count: int, subnet: str, ports: dict[str, str]) -> tuple[int, str]:
        """What one line of an edge's label says: how often, its subnet, its ports."""
        speed = _SPEED.search(line)
        if speed:
            count = int(speed[1] or count)
            line = _SPEED.sub("", line)
        found = _subnet(line)
        if found:
            subnet, line = found, _ADDRESS.sub("", line)
        line = line.strip(" ,;–—-|/")
        both = _PORTS.match(line)
        if both:
            ports["a_port"], ports["b_port"] = both[1], both[2]
        elif often := _COUNT.match(line):
            count = int(often[1])
        elif line and not re.fullmatch(r"[\w-]*-\d+", line):
            # What is left may be a cable's label; anything else is named.
            self._note(f"“{line[:40]}” of an edge")
        return count, subnet

    def _free(self, name: str, free: Counter[str]) -> str:
        free[name] += 1
        return f"drawn-{free[name]}"

    def _unknown(self, key: str, of: str) -> None:
        if not _LOOKS.fullmatch(key):
            self._note(f"what {of} says of “{key[:40]}”")

    def _note(self, words: str) -> None:
        self.notes[words] += 1


def _lines(value: str) -> list[str]:
    return [line.strip() for line in re.split(r"\n|\\[nlr]", value) if line.strip()]


def _taken(line: str) -> tuple[str, list[int], list[str]]:
    """What is left of a line, and the AS numbers and addresses in it."""
    numbers = [int(one) for one in _ASN.findall(line) if 0 < int(one) < 1 << 32]
    rest = _ASN.sub("", line) if numbers else line
    addresses = []
    for found in _ADDRESS.finditer(rest):
        try:
            addresses.append(str(ip_address(found[1])))
        except ValueError:
            continue
    if addresses:
        rest = _ADDRESS.sub("", rest)
    return rest.strip(" ,;()[]–—|·"), numbers, addresses


def _subnet(text: str) -> str:
    """The subnet of a link: as a prefix of two or four addresses, or as the two addresses of one."""
    networks = set()
    for found in _ADDRESS.finditer(text):
        try:
            if found[2]:
                networks.add(ip_interface(found[0]).network)
            else:
                address = ip_address(found[1])
                networks.add(ip_network(f"{address}/{31 if address.version == 4 else 127}", strict=False))
        except ValueError:
            continue
    return str(next(iter(networks))) if len(networks) == 1 and next(iter(networks)).num_addresses <= 4 else ""
