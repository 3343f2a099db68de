"""How switches come to Barrio: DHCP servers are told what the plan says, and a rule lets in only whom it names."""

from __future__ import annotations

import json
import subprocess
import time
from ipaddress import IPv4Network
from pathlib import Path

import pytest

from barrio.app import arriving, poolchanges, rollcall, stagings
from barrio.core import Refused
from barrio.core.staging.boxes import box
from barrio.core.staging.ways import Ways, ways
from barrio.staging import agent as program
from barrio.staging import kea
from barrio.staging.agent import named_by_dhcp
from tests.cli import barrio
from tests.processes import until
from tests.staging.conftest import NAMES, Hall, number

agent_file = Path(program.__file__)
ADDRESS = "https://barrio.example:8443"


def mac(name: str) -> str:
    return f"02:ba:00:00:00:{NAMES.index(name):02x}"


def test_dhcp_servers_give_each_switch_its_address_of_the_plan_and_say_where_barrio_is(hall: Hall) -> None:
    with pytest.raises(Refused, match="Say first at which address the switches of tern reach Barrio"):
        arriving.dhcp_of(hall.desk, "tern", "kea4")
    for name in NAMES[:5]:
        rollcall.bind(hall.desk, "tern", name, box(number(name), mac(name)))
    arriving.say(hall.desk, "tern", ways(ADDRESS, "nobody", ""))
    [network] = json.loads(arriving.dhcp_of(hall.desk, "tern", "kea4").text)["Dhcp4"]["subnet4"]
    lend = list(IPv4Network(network["subnet"]).subnets(new_prefix=26))[-1]
    with pytest.raises(Refused, match="Reserve it in the pool oob-tern first"):
        arriving.say(hall.desk, "tern", ways(ADDRESS, "nobody", str(lend)))
    poolchanges.reserve(hall.desk, "oob-tern", str(lend), "boxes that nobody knows")
    arriving.say(hall.desk, "tern", ways(ADDRESS, "nobody", str(lend)))
    written = {program: arriving.dhcp_of(hall.desk, "tern", program).text for program in ("kea4", "kea6", "dnsmasq")}
    with hall.desk.reading() as tx:
        compiled = rollcall.newest(tx, "tern")
    planned = {str(one.name): str(compiled.models[one.key].management.ip) for one in compiled.staged}
    [subnet] = json.loads(written["kea4"])["Dhcp4"]["subnet4"]
    kept = {one["hostname"]: (one["hw-address"], one["ip-address"]) for one in subnet["reservations"]}
    assert kept == {name: (mac(name), planned[name]) for name in NAMES[:5]}, "whose MAC nobody knows has no place yet"
    assert subnet["pools"] == [{"pool": f"{lend[0]} - {lend[-2]}"}]
    for name in NAMES[:5]:
        assert f"dhcp-host={mac(name)},{planned[name]},{name}," in written["dnsmasq"]
    # Each is read by the program that it is for.
    kea.check("kea4", written["kea4"])
    kea.check("kea6", written["kea6"].replace("eth0", "lo"))
    done = subprocess.run(
        ["/usr/sbin/dnsmasq", "--test", "-C", "-"],
        input=written["dnsmasq"],
        text=True,
        capture_output=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    with pytest.raises(kea.NoKea, match="does not take it"):
        kea.check("kea4", written["kea4"].replace(str(lend[-2]), "10.77.0.1"))
    told = arriving.dhcp_of(hall.desk, "tern", "kea4", "eth1").text
    assert json.loads(told)["Dhcp4"]["interfaces-config"]["interfaces"] == ["eth1"]


@pytest.mark.parametrize(
    ("said", "words"),
    [
        (("http://barrio.example", "nobody", ""), "is no address of a boot server"),
        (("https://barrio.example/path", "nobody", ""), "is no address of a boot server"),
        ((ADDRESS, "everybody", ""), "is no rule"),
        ((ADDRESS, "nobody", "10.0.0.1/8"), "is no IPv4 prefix"),
    ],
)
def test_ways_that_are_none_say_why(said: tuple[str, str, str], words: str) -> None:
    with pytest.raises(Refused, match=words):
        ways(*said)


def test_an_agent_reads_where_barrio_is_from_what_dhclient_keeps(tmp_path: Path) -> None:
    assert named_by_dhcp(tmp_path) == ""
    uri = ADDRESS.encode()
    told = ":".join(f"{one:x}" for one in len(uri).to_bytes(2, "big") + uri)
    (tmp_path / "dhclient.eth0.leases").write_text(
        f'lease {{\n  interface "eth0";\n  option unknown-143 0:3:66:6f:6f;\n}}\nlease {{\n  option unknown-143 {told};\n}}\n'
    )
    assert named_by_dhcp(tmp_path) == ADDRESS, "what was told last"


def test_a_rule_lets_in_who_is_bound_as_planned_and_nobody_else(hall: Hall) -> None:
    hall.bind()
    arriving.say(hall.desk, "tern", Ways(ADDRESS, "serial"))
    hall.light("leaf-t01")
    hall.light("leaf-t02", "wrong model")
    hall.light("leaf-t09", serial="X-9")
    until(lambda: len(hall.knocking()) == 2, 20)
    assert {one.knock.serial for one in hall.knocking()} == {number("leaf-t02"), "X-9"}
    # The serial of one that is in already is no way in.
    hall.light("leaf-t01", serial=number("leaf-t01").lower(), folder="another")
    until(lambda: len(hall.knocking()) == 3, 20)
    stagings.begin(hall.desk, "tern", stagings.Wanted(switches=("leaf-t01",)))
    hall.done()
    [one] = [one for one in rollcall.roll(hall.desk, "tern") if one.knock]
    assert one.switch.name == "leaf-t01" and one.knock and one.knock.state == "admitted"


def test_a_rule_that_asks_for_the_place_lets_in_only_who_is_plugged_in_there(hall: Hall) -> None:
    hall.bind()
    arriving.say(hall.desk, "tern", Ways(ADDRESS, "serial and place"))
    with hall.desk.reading() as tx:
        compiled = rollcall.newest(tx, "tern")
    far = {
        name: (str(end.link.upper.name), str(end.upper_port))
        for name in ("leaf-t01", "leaf-t02")
        for end in compiled.ends
        if end.link.lower.name == name
    }
    hall.light("leaf-t01", hears=far["leaf-t01"])
    hall.light("leaf-t02", hears=far["leaf-t01"])
    until(lambda: len(hall.knocking()) == 1 and len(list(hall.folder.iterdir())) == 2, 20)
    [outside] = hall.knocking()
    assert (outside.knock.serial, outside.planned_there) == (number("leaf-t02"), "leaf-t01")


def test_on_the_command_line(hall: Hall, tmp_path: Path) -> None:
    def said(*words: str, code: int = 0) -> str:
        return barrio("stage", *words, "--at", hall.address, code=code)

    assert "no address yet" in said("ways", "tern")
    assert "Say first at which address" in said("dhcp", "tern", "kea4", code=2)
    assert "Let in without being asked about: serial." in said(
        "ways", "tern", "--address", ADDRESS, "--admits", "serial"
    )
    assert ADDRESS in said("ways", "tern", "--lend", ""), "what is not said stays"
    said("dhcp", "tern", "dnsmasq", "--out", str(tmp_path / "d.conf"))
    assert "dhcp-option-force=143," in (tmp_path / "d.conf").read_text()
    assert "There is no configuration for bootp" in said("dhcp", "tern", "bootp", code=2)
    assert "--interface" in said("dhcp", "tern", "kea4", "--serve", code=2)


def test_a_medium_finds_its_switch_by_serial_and_its_sums_and_bytes_stay(hall: Hall, tmp_path: Path) -> None:
    with pytest.raises(Refused, match="Say first at which address"):
        arriving.medium(hall.desk, "tern", "leaf-t01", "", {})
    arriving.say(hall.desk, "tern", ways(ADDRESS, "nobody", ""))
    hall.bind()
    barrio("stage", "medium", "tern", "--out", tmp_path / "m", "--at", hall.address)
    root, serial = tmp_path / "switch", tmp_path / "serial"
    serial.write_text(f"{number('leaf-t02').lower()}\n")

    def install(*words: str) -> subprocess.CompletedProcess[str]:
        surroundings = {"PATH": "/usr/bin:/bin", "ROOT": str(root), "SERIAL_FILE": str(serial)}
        script = str(tmp_path / "m/install.sh")
        return subprocess.run(["sh", script, *words], env=surroundings, capture_output=True, text=True, check=False)

    assert "leaf-t02 knocks once its management port is up" in install().stdout
    words = json.loads((root / "etc/barrio-agent.json").read_text())
    assert words == {"server": ADDRESS, "serial": number("leaf-t02")}
    with hall.desk.reading() as tx:
        compiled = rollcall.newest(tx, "tern")
    management = next(one.management for one in compiled.models.values() if one.name == "leaf-t02")
    assert f"address {management.address}" in (root / "etc/network/interfaces").read_text()
    assert (root / "usr/local/sbin/barrio-agent").read_bytes() == agent_file.read_bytes()
    for path, text in hall.wanted("leaf-t02").items():
        assert (tmp_path / "m/switches/leaf-t02/files" / path).read_text() == text
    assert "There is no switch leaf-t99" in install("leaf-t99").stderr
    serial.write_text("X-9\n")
    assert "Nothing here is for serial number X-9" in install().stderr
    (tmp_path / "m/switches/leaf-t02/files/etc/hosts").write_text("other\n")
    assert install("leaf-t02").returncode != 0, "what was changed on the way is not taken"
    # The image has the same, under a label, and the same bytes each time.
    for name in ("one.iso", "two.iso"):
        barrio("stage", "medium", "tern", "--switch", "leaf-t02", "--out", tmp_path / name, "--at", hall.address)
        time.sleep(1.1)
    assert (tmp_path / "one.iso").read_bytes() == (tmp_path / "two.iso").read_bytes()
    assert (tmp_path / "one.iso").read_bytes()[32808:32840] == b"TERN_LEAF_T02".ljust(32)
    listed = subprocess.run(
        ["xorriso", "-indev", f"stdio:{tmp_path / 'one.iso'}", "-find", "/", "-type", "f"],
        capture_output=True,
        text=True,
        check=True,
    ).stdout
    assert "'/switches/leaf-t02/files/etc/frr/frr.conf'" in listed and "leaf-t01" not in listed
    page = barrio("stage", "by-hand", "tern", "leaf-t02", "--at", hall.address)
    order = [page.index(one) for one in ("sshd -t", "install -D", "systemctl restart frr", "lldpcli show", "sync")]
    assert order == sorted(order) and "u1: spine-1" in page
