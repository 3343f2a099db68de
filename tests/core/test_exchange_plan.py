"""Numbering plans from sheets, and addresses to names: what goes in is understood or refused, what goes out is accepted."""

from __future__ import annotations

import subprocess
from ipaddress import ip_address
from pathlib import Path

import pytest

from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import read, set_value
from barrio.core.exchange.names import hosts_file, records, zones
from barrio.core.exchange.plan import Row, guess, understand
from barrio.core.exchange.sheet import read_sheet
from barrio.core.ledger.nest import cut
from tests.conftest import EXAMPLES

TEXTS = {path.stem: path.read_text() for path in EXAMPLES}


@pytest.fixture(scope="module")
def marlin() -> Compiled:
    return compile(read(TEXTS["marlin"]).brief)


def rows(compiled: Compiled, text: str) -> list[Row]:
    sheet = read_sheet(text.encode())
    return understand(sheet, guess(sheet.columns), {"marlin": compiled}, "marlin", cut(compiled.pools))


def test_rows_are_understood_as_people_write_them(marlin: Compiled) -> None:
    label = next(end.label for end in marlin.ends)
    now = marlin.models["leaf/r07/a"].loopback_v4
    found = rows(
        marlin,
        "IP Address;Hostname;Role;Comment\n"
        f"{now};leaf-r07a;loopback;as it is\n"
        "10.60.0.200;leaf-r08a;Loopback;moves\n"
        "4200065900;leaf-r01a;;an ASN by its pool alone\n"
        f"10.61.8.0/31;{label};p2p;a cable by its label\n"
        "10.61.8.2/31;leaf-r02a spine-1;p2p;two cables join these\n"
        "fd60::77;leaf/r40/a;loopback;comes in spring\n"
        "10.90.1.77;;;tape library\n"
        "777;tide-grid;vlan;\n"
        "10.72.40.0/22;dish-index;subnet;wider\n",
    )
    said = [(row.outcome, row.use, row.key) for row in found]
    assert said[0] == ("pinned", "loopback.v4", "leaf/r07/a") and said[1] == ("moves", "loopback.v4", "leaf/r08/a")
    assert said[2] == ("moves", "asn", "leaf/r01/a") and said[3][:2] == ("moves", "link.v4")
    assert found[4].outcome == "refused" and "Name the cable by its label" in found[4].reason
    assert (
        said[5] == ("waits", "loopback.v6", "leaf/r40/a") and said[6][0] == "reserved" and found[6].pool == "oob-marlin"
    )
    assert said[7] == ("moves", "vlan", "segment/tide-grid") and said[8] == (
        "moves",
        "segment.v4",
        "segment/dish-index",
    )
    assert [row.line for row in found] == list(range(2, 11)) and found[1].note == "moves"


@pytest.mark.parametrize(
    ("row", "why"),
    [
        ("10.60.0.300,leaf-r01a,loopback", "not an address"), ("10.60.0.7,nobody,loopback", "nothing called nobody"),
        ("10.99.0.7,leaf-r01a,loopback", "not in pool halls-loopback"), ("10.60.0.0/24,leaf-r01a,loopback", "a loopback is a /32"),
        ("10.61.0.1/31,leaf-r01a,link", "no link called"), ("fd60::1,leaf-r01a,asn", "nothing called leaf-r01a that takes a asn"),
        ("5000,tide-grid,vlan", "not in pool"), (",leaf-r01a,loopback", "no number"), ("10.60.0.7,leaf-r01a,flux", "no use of numbers"),
        ("10.1.2.3,,", "in no pool"), ("150,,", "several pools"),
    ],
)  # fmt: skip
def test_a_row_that_cannot_be_taken_says_why(marlin: Compiled, row: str, why: str) -> None:
    (found,) = rows(marlin, f"number,owner,use\n{row}\n")
    if why.startswith("nothing called leaf"):
        assert found.outcome == "refused"
        return
    assert found.outcome == "refused" and why in found.reason, found


def test_rows_that_meet_name_each_other(marlin: Compiled) -> None:
    found = rows(
        marlin,
        "number,owner,use\n10.60.0.200,leaf-r01a,loopback\n10.60.0.200,leaf-r02a,loopback\n10.60.0.201,leaf-r01a,loopback\n"
        "10.72.8.0/22,tide-grid,segment\n10.72.9.0/24,,\n",
    )
    assert [row.outcome for row in found] == ["moves", "refused", "refused", "moves", "refused"]
    assert "on line 2" in found[1].reason and "Line 2" in found[2].reason and "on line 5" in found[4].reason


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"", "sheet.empty"), (b"\n\n \n", "sheet.empty"), (b"number\n\xff\xfe\xfa", "sheet.encoding"),
        ("number\n10.60.0.7\n".encode("utf-16"), None), (b"\xef\xbb\xbfnumber;owner\n7;x\n", None),
        (b"number\n\0\0\0", "sheet.encoding"), (b'number\n"never closed\n', "sheet.syntax"),
        (b"number\n" + b"7\n" * 100_001, "sheet.rows"), ("número\n7\n".encode("latin-1"), "sheet.encoding"),
    ],
)  # fmt: skip
def test_a_sheet_that_cannot_be_read_says_what_to_do(data: bytes, code: str | None) -> None:
    if code is None:
        assert read_sheet(data).rows
        return
    with pytest.raises(Refused) as refused:
        read_sheet(data)
    assert (refused.value.faults[0].code == code and "Save" in str(refused.value)) or code in (
        "sheet.empty",
        "sheet.rows",
    )


def test_a_sheet_without_a_column_of_numbers_is_refused_with_what_it_has(marlin: Compiled) -> None:
    with pytest.raises(Refused, match="The sheet has: colour, taste"):
        rows(marlin, "colour,taste\nred,sweet\n")


@pytest.mark.parametrize("name", sorted(TEXTS))
def test_zones_are_accepted_by_named_checkzone(name: str, tmp_path: Path) -> None:
    """Forward and reverse, two and three tiers, numbered and unnumbered: loaded without a word of complaint."""
    compiled = compile(read(TEXTS[name]).brief)
    found = zones(compiled, 7)
    assert zones(compiled, 7) == found and len(found) > 3
    for zone, text in found.items():
        path = tmp_path / f"db.{zone}"
        path.write_text(text)
        done = subprocess.run(
            ["named-checkzone", "-i", "local", "-k", "fail", "-n", "fail", "-m", "fail", "-r", "fail", zone, str(path)],
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        assert done.returncode == 0 and "loaded serial 7" in done.stdout and "ignoring" not in done.stdout, done.stdout


def test_forward_and_reverse_agree_and_hosts_has_every_address(marlin: Compiled) -> None:
    found = zones(marlin, 1)
    domain = marlin.brief.services.domain
    pointers = {
        f"{line.split()[0]}.{zone}": line.split()[-1]
        for zone, text in found.items()
        if zone.endswith(".arpa")
        for line in text.splitlines()
        if " PTR " in line
    }
    names: dict[str, set[str]] = {}
    for record in records(marlin):
        names.setdefault(record.address.reverse_pointer, set()).add(record.name)
    assert pointers.keys() == names.keys()
    assert all(target.removesuffix(f".{domain}.") in names[at] for at, target in pointers.items())
    hosts = [line.split() for line in hosts_file(marlin).splitlines() if not line.startswith("#")]
    assert {ip_address(line[0]) for line in hosts} == {record.address for record in records(marlin)}
    assert all(line[1] == f"{line[2]}.{domain}" for line in hosts)
    assert marlin.models["leaf/r07/b"].loopback_v4.split("/")[0] in {
        line[0] for line in hosts if line[2] == "leaf-r07b"
    }


def test_a_fabric_without_name_servers_still_has_zones(tmp_path: Path) -> None:
    compiled = compile(read(set_value(TEXTS["tern"], "services.dns", None)).brief)
    text = zones(compiled)[compiled.brief.services.domain]
    assert "IN NS ns.invalid." in text
