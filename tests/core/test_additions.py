"""Lines of one's own at named places: in the right file, with their reason, accepted by the file's own parser, and no way to be cut off unseen."""

from __future__ import annotations

import pytest

from barrio.core import Compiled, Refused, compile
from barrio.core.because.lines import of_line
from barrio.core.brief.additions import PLACES
from barrio.core.brief.document import Document, read
from barrio.core.bundle import bundle_files
from barrio.rehearsal.parsers import parsers

BRIEF = """
fabric: quay
racks: [{racks: r01..r02, leaves: 2, pairing: multihoming, model: cantera-l48}]
services:
  ntp: [10.9.0.1]
  syslog: [10.9.0.2]
  users: {ines: {keys: [ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIEmZ7sT1mQ1xqk0f5m0b3Y9b8o4G2v0gkqfN6yH1cD2R]}}
additions:
  sysctl: [net.core.somaxconn = 4096]
  rsyslog: ["*.emerg :omusrmsg:*"]
rungs:
  role spine:
    additions.bgp: {add: [bgp log-neighbor-changes], why: the watch asks for it}
  rack r02:
    additions.frr: {add: [ip prefix-list theirs seq 5 permit 10.9.9.0/24], why: a trial until May}
    additions.interfaces: {add: [auto dummy0, iface dummy0, "    link-type dummy"], why: a trial until May}
    additions.input: {add: [udp dport 4242 counter drop], why: the scanner in the lab}
    additions.sshd: {add: [ClientAliveInterval 60], why: idle sessions end}
    additions.chrony: {add: [maxdistance 2.0], why: the clock is far away}
"""


def quay(brief: str = BRIEF) -> tuple[Document, Compiled]:
    document = read(brief)
    return document, compile(document.brief)


def test_each_place_is_in_its_file_on_the_switches_of_its_rung_and_says_why() -> None:
    document, compiled = quay()
    found = {}
    for key, name in (("spine/1", "spine-1"), ("leaf/r01/a", "leaf-r01a"), ("leaf/r02/a", "leaf-r02a")):
        for path, text in compiled.files(key).items():
            lines = text.split("\n")
            for at, line in enumerate(lines):
                if line.endswith(" added:"):
                    told = lines[at + 1].strip()
                    found[key, path] = told
                    why = of_line(document, compiled, name, path, at + 2)
                    assert any("adds this line" in step.title for _, _, steps in why.values for step in steps), told
    files = {place: file for place, (_, file) in PLACES.items()}
    assert {path for key, path in found if key == "leaf/r02/a"} == set(files.values())
    assert {path for key, path in found if key == "leaf/r01/a"} == {files["sysctl"], files["rsyslog"]}
    assert found["spine/1", files["bgp"]] == "bgp log-neighbor-changes"
    why = of_line(
        document,
        compiled,
        "leaf-r02a",
        files["input"],
        1 + compiled.files("leaf/r02/a")[files["input"]].split("\n").index("        udp dport 4242 counter drop"),
    )
    assert "because the scanner in the lab" in str(why.values)
    assert compiled.read_back() == ()


@pytest.mark.parametrize(
    ("place", "line"),
    [
        ("frr", "end"),
        ("bgp", "exit"),
        ("sysctl", ""),
        ("sshd", "a\nb"),
        ("input", "é"),
        ("frr", "! end of what was added"),
    ],
)
def test_a_line_that_would_end_the_block_or_is_none_is_refused(place: str, line: str) -> None:
    with pytest.raises(Refused) as caught:
        quay(
            BRIEF.replace(
                "sysctl: [net.core.somaxconn = 4096]",
                f"{place}: [{line!r}]" if "\n" not in line else f'{place}: ["a\\nb"]',
            )
        )
    assert caught.value.faults[0].path.startswith(f"additions.{place}")


def test_the_programs_that_read_these_files_take_the_lines() -> None:
    _, compiled = quay()
    with parsers() as programs:
        assert [one for key in ("spine/1", "leaf/r02/a") for one in programs.complaints(compiled.files(key))] == []
        _, wrong = quay(BRIEF.replace("bgp log-neighbor-changes", "bgp log-neighbour-changes"))
        assert [one.path for one in programs.complaints(wrong.files("spine/1"))] == ["etc/frr/frr.conf"]


def test_a_line_by_which_nobody_would_get_in_any_more_is_found() -> None:
    document, compiled = quay(BRIEF.replace("ClientAliveInterval 60", "Port 2222"))
    assert any(one.code == "readback.lockout" and "Port is 2222" in one.message for one in compiled.read_back())
    with pytest.raises(Refused, match=r"etc/ssh/sshd_config, line 17: Port is 2222") as caught:
        bundle_files(document, compiled)
    assert {one.code for one in caught.value.faults} == {"lockout"} and len(caught.value.faults) == 2
