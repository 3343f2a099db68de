"""The files read back by a reader that knows nothing of how they were made, and its worth shown by changing them."""

from __future__ import annotations

import random
import re
from collections.abc import Mapping
from typing import Any

import pytest
from hypothesis import given

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.brief.model import Brief
from barrio.core.targets.linux_frr.readback import read_back
from tests.conftest import EXAMPLES, briefs, tries
from tests.rehearsal.whole import whole

Files = dict[str, dict[str, str]]
FILES = ("etc/frr/frr.conf", "etc/network/interfaces")


def files_of(compiled: Compiled) -> Files:
    return {switch.name: dict(compiled.files(switch.key)) for switch in compiled.staged}


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_the_examples_read_back_without_a_finding(path: Any) -> None:
    assert read_back(files_of(compile(read(path.read_text()).brief))) == ()


@tries(100)
@given(data=briefs())
def test_every_design_reads_back_without_a_finding(data: dict[str, Any]) -> None:
    assert read_back(files_of(compile(Brief.model_validate(data)))) == ()


DUAL = """
fabric: dual
spines: {count: 2, racks: x0}
racks: [{racks: x1..x2, leaves: 2, pairing: multihoming, lags: h1..h2, model: lonja-t64}, {racks: x3, leaves: 1}]
underlay: {addressing: dual, asn: per-pair}
vrfs: {tides: {}}
segments: {one: {vrf: tides, v4: auto, v6: auto}, two: {vrf: tides, v4: auto, racks: "x1, x3"}, three: {}}
services: {dns: [10.90.0.53, fd90::53]}
"""
_VALUE = re.compile(
    r"[0-9a-f]{2}(?::[0-9a-f]{2}){5}|[0-9a-f]*:[0-9a-f:]+(?:/\d+)?|\d+\.\d+\.\d+\.\d+(?:/\d+)?|\b\d+\b|\b[a-z][a-z0-9.-]*\d+\b"
)
NO_MATTER = {
    r"^\s*#|^!|^hostname|^auto ": "comments, and names that only mark a stanza",
    r"description|alias (?!\S+ \S+, cable)": "words for people; those that name the other end of a cable are checked",
    r"^\s+(ip|ipv6) prefix-list|prefix-list \S+-(in|own)": "what a system outside may tell is known to the brief alone",
    r"neighbor \d\S+ (remote-as|maximum-prefix)": "where it is of a system outside: its AS is not in any file",
    r"\(dns\)|rule (add|del)": "servers that only the brief knows",
    r"^zebra ": "how many messages zebra takes at once, the same on every leaf",
    r"nd ra-interval|gateway ": "one of several routers' addresses, all of them in reach",
}
"""Lines of which a change is not held against the reader, and why."""


def _lines(files: Files) -> list[tuple[str, str, int, re.Match[str]]]:
    """Every value that stands in a line which matters."""
    skip = re.compile("|".join(NO_MATTER))
    return [
        (name, path, number, value)
        for name, said in files.items()
        for path in FILES
        for number, line in enumerate(said[path].split("\n"))
        if line.strip() and not (skip.search(line) and not _inside(line))
        for value in _VALUE.finditer(line)
    ]


def _inside(line: str) -> bool:
    """A neighbour of the fabric: those are not excused."""
    return bool(re.search(r"neighbor (10\.[014]\.|fd)\S* remote-as 42", line))


def _changed(files: Files, at: tuple[str, str, int, re.Match[str]], chance: random.Random) -> tuple[Files, str]:
    """The files with one value changed to a like one, and what was changed."""
    name, path, number, value = at
    lines = files[name][path].split("\n")
    old = value[0]
    digits = [place for place, char in enumerate(old) if char.isdigit()]
    place = chance.choice(digits)
    new = old[:place] + str((int(old[place]) + chance.randint(1, 8)) % 10) + old[place + 1 :]
    line = lines[number]
    lines[number] = line[: value.start()] + new + line[value.end() :]
    changed = {**files, name: {**files[name], path: "\n".join(lines)}}
    return changed, f"{name} {path}: {line.strip()} → {lines[number].strip()}"


def missed(files: Files, changes: int, seed: int) -> list[str]:
    """The changes of a value that the reader did not notice."""
    chance = random.Random(seed)
    places = _lines(files)
    found = []
    for _ in range(changes):
        changed, words = _changed(files, chance.choice(places), chance)
        if not read_back(changed):
            found.append(words)
    return found


def fabrics() -> Mapping[str, Files]:
    return {"whole": files_of(whole()), "dual": files_of(compile(read(DUAL).brief))}


@pytest.mark.parametrize("changes", [60, pytest.param(1500, marks=pytest.mark.long)])
@pytest.mark.parametrize("name", ["whole", "dual"])
def test_a_change_of_any_value_is_noticed(name: str, changes: int) -> None:
    """At least 99 of 100 that matter; `NO_MATTER` lists the rest with why."""
    escaped = missed(fabrics()[name], changes, 7)
    assert len(escaped) <= changes / 100, "\n".join(escaped)


def test_what_cannot_be_read_is_said(tmp_path: Any) -> None:
    files = files_of(whole())
    for path, text in (
        (FILES[1], "iface lo\n    address 10.0.0.999/32\n"),
        (FILES[1], "what is this\n"),
        (FILES[0], " neighbor x\n"),
    ):
        broken = {**files, "leaf-w2": {**files["leaf-w2"], path: text}}
        assert any(fault.code.startswith("readback.") for fault in read_back(broken))


CUT_OFF = [
    ("etc/network/interfaces", "    gateway 10.255.0.1\n", "", "no gateway is no way out of 10.255.0.0/19"),
    ("etc/network/interfaces", "gateway 10.255.0.1", "gateway 10.254.0.1", "line 19: 10.254.0.1 is no way out"),
    ("etc/network/interfaces", "    gateway 10.255.0.1\n    vrf mgmt\n", "    gateway 10.255.0.1\n", "gives no port an address in mgmt"),
    ("etc/ssh/sshd_config", "ListenAddress 10.255.0.6", "ListenAddress 10.255.0.7", "line 3: SSH listens on no address"),
    ("etc/ssh/sshd_config", "PubkeyAuthentication yes", "PubkeyAuthentication no", "PubkeyAuthentication is no, and has to be yes"),
    ("etc/ssh/sshd_config", "Port 22", "Port 23", "Port is 23, and has to be 22"),
    ("etc/ssh/sshd_config", "authorized_keys/%u", "keys/%u", "AuthorizedKeysFile is /etc/ssh/keys/%u"),
    ("etc/ssh/authorized_keys/ines", "ssh-ed25519", "# ssh-ed25519", "so that ines cannot sign in"),
    ("etc/ssh/authorized_keys/ines", "ssh-ed25519", 'expiry-time="20261231" ssh-ed25519', "nobody may become root by a key that does not end"),
    ("etc/sysusers.d/fabric.conf", "m ines sudo\n", "", "nobody may become root"),
    ("etc/sysusers.d/fabric.conf", 'u teo - "teo"', '# "teo"', "teo may sign in, and has no account"),
    ("etc/sudoers.d/fabric", "%sudo ALL", "# ALL", "the group sudo may not become root"),
    ("etc/nftables.conf", '"mgmt", "eth0"', '"mgmt"', "is not let to the rules for it"),
    ("etc/nftables.conf", "tcp dport 22", "tcp dport 2", "SSH is let in from nowhere"),
]  # fmt: skip


@pytest.mark.parametrize(("path", "old", "new", "words"), CUT_OFF)
def test_what_would_cut_us_off_is_found_by_file_and_line(path: str, old: str, new: str, words: str) -> None:
    said = files_of(whole())["leaf-w2"]
    assert old in said[path]
    found = read_back({"leaf-w2": {**said, path: said[path].replace(old, new)}})
    assert any(one.code == "readback.lockout" and words in one.message for one in found), found
    assert not any(one.code == "readback.lockout" for one in read_back({"leaf-w2": said}))
