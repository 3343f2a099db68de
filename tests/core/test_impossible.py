"""What cannot work is refused, at its line, with the way out; and what one target cannot carry is said by it alone."""

from __future__ import annotations

import base64
import json
import subprocess
from pathlib import Path

import pytest

from barrio.core import Refused, compile
from barrio.core.brief.document import locate, read
from barrio.core.bundle import bundle_files, inventory
from barrio.core.ledger.refusals import path_of, plural
from barrio.core.sums import add_up
from tests.conftest import EXAMPLES, KEY

BASE = (
    "fabric: x\nspines: {count: 2}\nracks:\n  - {racks: r1..r2, leaves: 1}\n  - {racks: b1, role: border, leaves: 1}\n"
)
LINK = "links: [{switch: leaf/b1/a, port: h48, vrfs: {tides: {}}}]"


def body(kind: str, *parts: bytes) -> str:
    data = b"".join(len(part).to_bytes(4) + part for part in (kind.encode(), *parts))
    return base64.b64encode(data).decode()


def faults(text: str) -> list[tuple[str, int, str]]:
    """The faults of a brief as (code, line, message)."""
    try:
        document = read(text)
        try:
            compile(document.brief)
        except Refused as error:
            raise locate(error, document) from None
    except Refused as error:
        return [(fault.code, fault.line, fault.message) for fault in error.faults]
    return []


@pytest.mark.parametrize(
    ("more", "code", "way_out"),
    [
        ("management: {gateway: 10.1.0.1}", "management.gateway", "Give an address of it"),
        ("management: {gateway: 'fd00::1'}", "management.gateway", "another family"),
        ("management: {gateway: 10.255.0.0}", "management.gateway", "no router's address"),
        (f"vrfs: {{tides: {{}}}}\noutside: {{router: {{asn: 4200000003, {LINK}}}}}", "outside.own-asn", "its own ASN"),
        ("vrfs: {main: {}}", "brief.value-error", "another name"),
        ("vrfs: {local: {}}", "brief.value-error", "another name"),
        ("vrfs: {default: {}}", "brief.value-error", "another name"),
        ("vrfs: {vlan101: {}}", "brief.value-error", "another name"),
        ("vrfs: {tides: {}}\nsegments: {one: {vrf: tides, v4: 127.1.0.0/24}}", "prefix.unusable", "or auto"),
        ("vrfs: {tides: {}}\nsegments: {one: {vrf: tides, v4: 169.254.7.0/24}}", "prefix.unusable", "link-local"),
        ("vrfs: {tides: {}}\nsegments: {one: {vrf: tides, v4: 224.1.0.0/24}}", "prefix.unusable", "multicast"),
        ("vrfs: {tides: {}}\nsegments: {one: {vrf: tides, v4: 0.1.0.0/24}}", "prefix.unusable", "this network"),
        ("vrfs: {tides: {}}\nsegments: {one: {vrf: tides, v6: 'fe80::/64'}}", "prefix.unusable", "link-local"),
        (f"services: {{users: {{root: {{keys: ['{KEY}']}}}}}}", "brief.value-error", "name a person"),
        (f"services: {{users: {{frr: {{keys: ['{KEY}']}}}}}}", "brief.value-error", "name a person"),
        (f"services: {{users: {{daemon: {{keys: ['{KEY}']}}}}}}", "brief.value-error", "name a person"),
        ("services: {dns: [0.0.0.0]}", "server.unusable", "its own address"),
        ("services: {ntp: [224.0.1.1]}", "server.unusable", "its own address"),
        ("services: {syslog: ['::1']}", "server.unusable", "its own address"),
        ("services: {dns: ['fe80::1%eth0']}", "brief.value-error", "not an IPv4 or IPv6 address"),
        (f"vrfs: {{tides: {{}}}}\noutside: {{spine-1: {{asn: 64600, {LINK}}}}}", "name.twice", "another name"),
        ("names: {leaf/r1/a: localhost}", "name.taken", "meaning of its own"),
        ("names: {leaf/r1/a: ns1}", "name.taken", "meaning of its own"),
        (f"services: {{domain: {'.'.join(['a' * 60] * 4)}}}", "name.too-long", "shorter domain"),
        (f"services: {{domain: {'a' * 64}.example}}", "brief.value-error", "at most 63"),
        ("out_of_service: {spine/1: fan, spine/2: fan}", "state.no-way", "Keep one in service"),
        ("overlay: {protocol: ibgp, reflectors: 3}", "routing.reflectors", "Ask for 2"),
    ],
)  # fmt: skip
def test_what_cannot_work_is_refused_at_its_line(more: str, code: str, way_out: str) -> None:
    found = [fault for fault in faults(BASE + more + "\n") if fault[0] == code]
    assert found, faults(BASE + more + "\n")
    assert way_out in found[0][2]
    assert found[0][1] >= 6, "the line of what was added"
    assert not any(mark in found[0][2] for mark in ("..", "addresss", "(25,", "None"))


def test_a_host_name_made_of_long_parts_is_refused() -> None:
    racks = f"r{'a' * 60}"
    (fault,) = faults(f"fabric: x\nspines: {{count: 2}}\nracks: [{{racks: {racks}, leaves: 1}}]\n")
    assert fault[0] == "name.too-long" and "63 at most" in fault[2]


@pytest.mark.parametrize(
    ("kind", "parts", "says"),
    [
        ("ssh-ed25519", [b"x" * 31], "no whole key"),
        ("ssh-rsa", [b"\x01\x00\x01", (1 << 1023).to_bytes(128)], "1024 bits"),
        ("ecdsa-sha2-nistp256", [b"nistp384", b"\x04" + b"x" * 64], "no whole key"),
        ("ssh-dss", [b"x" * 20] * 4, "do not take"),
    ],
)
def test_a_key_whose_body_is_no_key_of_that_kind_is_refused(kind: str, parts: list[bytes], says: str) -> None:
    text = f"{BASE}services: {{users: {{ines: {{keys: ['{kind} {body(kind, *parts)}']}}}}}}\n"
    ((code, line, message),) = faults(text)
    assert (code, line) == ("brief.value-error", 6) and says in message
    other = f"{BASE}services: {{users: {{ines: {{keys: ['ssh-rsa {body('ssh-ed25519', b'x' * 32)}']}}}}}}\n"
    assert "another kind" in faults(other)[0][2]


@pytest.mark.parametrize("kind", ["ed25519", "rsa", "ecdsa"])
def test_keys_that_are_made_today_are_taken(kind: str, tmp_path: Path) -> None:
    subprocess.run(["ssh-keygen", "-q", "-t", kind, "-N", "", "-C", "ines@azulejo", "-f", tmp_path / "key"], check=True)
    key = (tmp_path / "key.pub").read_text().strip()
    document = read(f"{BASE}services: {{users: {{ines: {{keys: ['{key}']}}}}}}\n")
    assert document.brief.services.users["ines"].keys == [key]


def test_a_pin_that_is_taken_names_the_line_of_its_field() -> None:
    text = f"{BASE}vrfs: {{tides: {{}}}}\nsegments:\n  one: {{vrf: tides, v4: 10.72.0.0/24}}\n  two: {{vrf: tides, v4: 10.72.0.0/25}}\n"
    found = [fault for fault in faults(text) if fault[0] == "pin.taken"]
    assert found and found[0][1] == 9, faults(text)
    assert path_of("segment.v4", "segment/two") == "segments.two.v4"
    assert [plural(noun) for noun in ("IPv6 address", "segment prefix", "ASN")] == [
        "IPv6 addresses", "segment prefixes", "ASNs",
    ]  # fmt: skip


def test_a_peer_link_is_refused_by_the_target_and_its_structure_stays() -> None:
    """Ports, cables, domain and MAC are there for targets of one's own; the fabric is still saved."""
    document = read("fabric: x\nracks: [{racks: r1, pairing: peer-link}, {racks: r2, leaves: 1}]\n")
    compiled = compile(document.brief)
    (finding,) = [one for one in compiled.findings if one.code == "target.peer-link"]
    assert "multihoming" in finding.message and finding.path == "racks[0].pairing"
    pair = compiled.models["leaf/r1/a"].pair
    assert (
        pair
        and len(pair.ports) == 2
        and pair.mac
        and len([c for c in compiled.cables if "r1/b~" in c.link or "~leaf" in c.link]) >= 2
    )
    assert compiled.files("leaf/r2/a") and compiled.read_back() is not None
    for ask in (lambda: compiled.files("leaf/r1/a"), lambda: bundle_files(document, compiled)):
        with pytest.raises(Refused, match="multihoming"):
            ask()


def test_a_port_of_a_peer_link_that_is_out_of_service_is_shut() -> None:
    text = "fabric: x\nracks: [{racks: r1, pairing: peer-link}]\nout_of_service: {leaf/r1/a: fan}\n"
    models = compile(read(text).brief).models
    for key in ("leaf/r1/a", "leaf/r1/b"):
        pair = models[key].pair
        assert pair and all(port.shut and "fan" in port.shut for port in pair.ports)


def test_reflectors_have_no_session_with_what_is_not_in_service() -> None:
    text = "fabric: x\nracks: [{racks: r1..r3, leaves: 1}]\noverlay: {protocol: ibgp}\nout_of_service: {leaf/r2/a: fan}\nplanned_later: {leaf/r3/a: spring}\n"
    compiled = compile(read(text).brief)
    frr = compiled.files("spine/1")["etc/frr/frr.conf"]
    shut = {
        name: f"neighbor {compiled.models[f'leaf/{name}/a'].router_id} shutdown" in frr for name in ("r1", "r2", "r3")
    }
    assert shut == {"r1": False, "r2": True, "r3": True}


def test_all_who_count_cables_count_the_same() -> None:
    document = read(next(path for path in EXAMPLES if path.stem == "pelican").read_text())
    compiled = compile(document.brief)
    manifest = json.loads(bundle_files(document, compiled)["manifest.json"])
    count = manifest["counts"]["cables"]
    assert count == len(compiled.cables) == add_up(compiled.brief, compiled.structure).cables
    assert f"{manifest['counts']['switches']} switches, {count} cables" in compiled.extent


@pytest.mark.parametrize("plan", ["per-leaf", "per-rack", "per-pair"])
@pytest.mark.parametrize("overlay", ["ebgp", "ibgp"])
def test_the_inventory_names_the_as_that_the_outside_peers_with(plan: str, overlay: str) -> None:
    text = f"{BASE}underlay: {{asn: {plan}}}\noverlay: {{protocol: {overlay}}}\nvrfs: {{tides: {{}}}}\noutside: {{router: {{asn: 64600, {LINK}}}}}\n"
    compiled = compile(read(text).brief)
    roles = inventory(compiled)["roles"]
    assert isinstance(roles, dict)
    (told,) = roles["border"]["border-b1"]["outside"]
    frr = compiled.files("leaf/b1/a")["etc/frr/frr.conf"]
    assert f"router bgp {told['our_asn']} vrf tides\n" in frr
    assert f"neighbor {told['their_v4']} remote-as {told['their_asn']}" in frr
