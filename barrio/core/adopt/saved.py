"""Saved outputs, as a network is often handed over: a folder for each switch, or one file of what somebody's session with it printed."""

from __future__ import annotations

import json
import re
from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping
from typing import Any

from barrio.core.adopt.running import FRR, INTERFACES, Running
from barrio.core.cabling.heard import Heard, read_heard
from barrio.core.errors import Refused, refuse
from barrio.core.observe.rows import KINDS

MOST_TEXT = 4 * 1024 * 1024
"""Bytes of one file that are read."""
_PROMPT = re.compile(
    r"^(?:\[[^\]\n]{0,40}\] ?)?(?:[\w.-]+@)?([\w.-]+?)(?:[:~][^\n#$>]*)? ?[#$>] +(\S[^\n]*)$", re.MULTILINE
)
_CONFIGURATION = re.compile(r"show running-config")
_HEARS = re.compile(r"lldp(?:cli|ctl)\b")
_LINKS = re.compile(r"\bip\b.* (?:-j|-json)\b.*\blink\b")
_FILE = re.compile(r"(?:sudo )?cat (?:-- )?/?((?:etc|usr)/\S+)$")
_ROOTS = ("etc/", "usr/", "var/")
_TABLE = "table of "
"""Before the kind of a table that a command printed."""


def read_saved(files: Mapping[str, bytes], any_file: bool = False) -> list[Running]:
    """The switches of a folder, by their names: those of which files of routing or of interfaces are there, or neighbours; or `any_file` of them.

    Understood are files under `<switch>/etc/…`, at any depth, and what it holds beside them under `<switch>/tables/` (`rows.KINDS`); a file that a
    session was written to, with its prompts; and in a folder or under a name of their own the running configuration of FRRouting, an interfaces file, and the JSON of lldpcli and of `ip -j link`, told by what they say.
    Raises `Refused` (`adopt.saved`) where nothing of a switch is among them.
    """
    found: dict[str, dict[str, str]] = defaultdict(dict)
    for path, content in files.items():
        if len(content) > MOST_TEXT or b"\0" in content[:4096]:
            continue
        text = content.decode("utf-8", errors="replace").replace("\r\n", "\n").replace("\r", "\n")
        for switch, name, part in _told(path, text):
            found[switch][name] = part
    switches = [
        _running(name, said)
        for name, said in sorted(found.items())
        if any_file or FRR in said or INTERFACES in said or "lldp" in said
    ]
    if not switches:
        raise refuse(
            "adopt.saved",
            "Nothing of a switch was found. Give a folder for each, with its etc/frr/frr.conf and etc/network/interfaces, or a file of each session.",
        )
    return switches


def _told(path: str, text: str) -> Iterator[tuple[str, str, str]]:
    """What a file tells: the switch, the file or the answer, and its text."""
    rooted = re.match(rf"(?:.*/)?([^/]+)/((?:{'|'.join(root[:-1] for root in _ROOTS)})/.+)$", path)
    if rooted:
        yield rooted[1], rooted[2], text
        return
    table = re.match(rf"(?:.*/)?([^/]+)/tables/({'|'.join(KINDS)})\.\w+$", path)
    if table:
        yield table[1], f"{_TABLE}{table[2]}", text
        return
    stem = re.sub(r"\.(txt|log|conf|cfg|json)$", "", path.rsplit("/", 1)[-1])
    commands = [one for one in _PROMPT.finditer(text) if _kind_of_command(one[2])]
    if commands:
        yield from _session(text, stem)
        return
    kind = _kind(text)
    if kind:
        # leaf-1/running-config.txt, or leaf-1.txt, or leaf-1-lldp.json
        folder = path.rsplit("/", 2)[-2] if path.count("/") else ""
        named = re.match(
            r"(.+?)[._-](?:running|config|configuration|frr|interfaces|lldp|links?|run)(?:[._-].*)?$", stem
        )
        generic = re.fullmatch(
            r"(?:running|show|config|configuration|frr|interfaces|lldp|links?|ip|run|neighbors?)([._-].*)?", stem
        )
        yield (folder if generic and folder else named[1] if named else stem), kind, text


def _session(text: str, stem: str) -> Iterator[tuple[str, str, str]]:
    """The commands of a session with what each printed."""
    prompts = list(_PROMPT.finditer(text))
    for place, one in enumerate(prompts):
        end = prompts[place + 1].start() if place + 1 < len(prompts) else len(text)
        kind = _kind_of_command(one[2])
        if kind:
            name = one[1] if one[1] not in ("root", "localhost") else stem
            yield name.split(".")[0], kind, text[one.end() + 1 : end]


def _kind_of_command(command: str) -> str:
    file = _FILE.search(command)
    if file:
        return file[1]
    if _CONFIGURATION.search(command):
        return FRR
    table = next((name for name, kind in KINDS.items() if command in (kind.command, kind.typed)), "")
    if table and table != "neighbours":
        return f"{_TABLE}{table}"
    return "lldp" if _HEARS.search(command) else "links" if _LINKS.search(command) else ""


_SAYS: tuple[tuple[str, Callable[[str], bool]], ...] = (
    ("lldp", lambda text: text.lstrip()[:1] in ("{", "[") and '"lldp"' in text),
    ("links", lambda text: text.lstrip()[:1] == "[" and '"ifname"' in text),
    (FRR, lambda text: bool(re.search(r"^(frr version|frr defaults|router bgp \d+)", text, re.MULTILINE))),
    (INTERFACES, lambda text: bool(re.search(r"^iface \S+", text, re.MULTILINE))),
)


def _kind(text: str) -> str:
    return next((kind for kind, says in _SAYS if says(text)), "")


def _running(name: str, said: dict[str, str]) -> Running:
    lldp = said.pop("lldp", "")
    heard = tuple(_heard(lldp, name))
    ports = _ports(said.pop("links", ""))
    told = re.search(r"^hostname (\S+)", said.get(FRR, ""), re.MULTILINE)
    tables = {kind: said.pop(f"{_TABLE}{kind}") for kind in KINDS if f"{_TABLE}{kind}" in said}
    tables |= {"neighbours": lldp} if '"lldp"' in lldp else {}
    own = said.get("etc/hostname", "").strip() or (told[1] if told else "") or name
    rows = tuple(Heard(one.at._replace(system=own), one.far, one.speed, one.line) for one in heard)
    return Running(own, dict(said), rows, ports, tables=tables)


def _heard(text: str, name: str) -> Iterator[Heard]:
    if text.strip():
        try:
            yield from read_heard(text.encode(), name).rows
        except Refused:
            return


def _ports(text: str) -> dict[str, int | None]:
    """The ports of a front, by what the kernel lists as devices of their own."""
    try:
        devices: Any = json.loads(text) if text.strip() else []
    except ValueError:
        return {}
    found: dict[str, int | None] = {}
    for one in devices if isinstance(devices, list) else ():
        name = one.get("ifname") if isinstance(one, dict) else None
        if (
            isinstance(name, str)
            and one.get("link_type", "ether") == "ether"
            and "linkinfo" not in one
            and re.fullmatch(r"[a-z]+\d[\w/]*", name)
        ):
            found[name] = None
    for name in ("eth0", "mgmt0"):
        found.pop(name, None)
    return found
