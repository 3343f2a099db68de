"""The compile as a whole: structure, same bytes, reasons for every line, and clear refusals."""

from __future__ import annotations

import doctest
import importlib
import io
import json
import pkgutil
import re
import tarfile
import zipfile
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given

import barrio.core
from barrio.core import Refused, because, compile
from barrio.core.because import of_line, of_number, of_value
from barrio.core.because.lines import of_traced
from barrio.core.brief.document import MOST_BYTES, Document, apply, locate, read, set_value
from barrio.core.brief.model import Brief
from barrio.core.bundle import as_tar_gz, as_zip, bundle_files
from barrio.core.settings.known import SETTINGS
from barrio.core.sums import add_up
from tests.conftest import EXAMPLES, briefs, tries


@tries(40)
@given(data=briefs(peer_links=True))
def test_each_port_is_used_once_and_each_link_has_two_ends(data: dict[str, Any]) -> None:
    compiled = compile(Brief.model_validate(data))
    ports = [(end.link.upper.key, end.upper_port) for end in compiled.ends]
    ports += [(end.link.lower.key, end.lower_port) for end in compiled.ends]
    assert len(set(ports)) == len(ports) == 2 * len(compiled.ends)
    assert len(compiled.ends) == _links(data)
    described = {
        (model.name, port.label): (port.peer, port.peer_port)
        for model in compiled.models.values()
        for port in model.fabric_ports
    }
    assert all(described[peer] == end for end, peer in described.items()), "descriptions name the other end"


def _links(data: dict[str, Any]) -> int:
    """The number of links in closed form: leaves × spines × lanes in every pod, then up, then peer links."""
    spines, default, total = data["spines"]["count"], data["uplinks_per_spine"], 0
    pods = len(data["pods"].split(", ")) if "pods" in data else 1
    for group in data["racks"]:
        racks = len(group["racks"].split(", ")) * pods
        total += racks * group["leaves"] * spines * (group.get("uplinks_per_spine") or default)
        total += racks * 2 if group.get("pairing") == "peer-link" else 0
    if "super_spines" in data:
        total += pods * spines * data["super_spines"]["per_plane"] * data["super_spines"]["links"]
    return total


@tries(40)
@given(data=briefs())
def test_traced_text_equals_rendered_text_and_every_value_has_a_reason(data: dict[str, Any]) -> None:
    compiled = compile(Brief.model_validate(data))
    document = Document("", compiled.brief, {})
    for key, model in compiled.models.items():
        for path, text in compiled.files(key).items():
            lines = compiled.traced(model.key, path)
            assert "".join(f"{line.text}\n" for line in lines) == text
            printed = {span.path for line in lines for span in line.spans}
            read_by = {at for line in lines for condition in line.conditions for at in condition.paths}
            for value in printed | read_by:
                chain = of_value(document, compiled, value)
                assert chain, value
                assert not any("{" in step.title + step.detail for step in chain), f"{value}: a reason with a gap in it"
                assert any(step.kind in ("brief", "catalogue") for step in chain), f"{value} leads to nothing asked for"


def test_a_line_answers_with_its_template_its_ledger_entry_its_rfc_and_its_brief_line() -> None:
    document, compiled = _example("marlin")
    text = compiled.files("leaf/r07/b")["etc/network/interfaces"].splitlines()
    number = next(index for index, line in enumerate(text, 1) if line.strip().endswith("/31"))
    reason = of_line(document, compiled, "leaf-r07b", "etc/network/interfaces", number)
    template = (
        (Path(barrio.core.__file__).parent / "targets/linux_frr/templates/interfaces.j2").read_text().splitlines()
    )
    assert template[reason.line.template_line - 1] == "    address {{ port.v4 }}"
    ((path, printed, chain),) = reason.values
    assert printed in text[number - 1] and path.endswith("/v4")
    assert [step.kind for step in chain] == ["rule", "ledger", "rule", "brief", "brief"]
    assert chain[2].detail == "RFC 3021"
    addressing = chain[-1].refs
    assert document.text.splitlines()[int(addressing["line"]) - 1].strip() == "addressing: dual"
    assert any("IPv4 /31" in step.title for step in reason.steps if step.kind == "condition")


def test_every_template_line_of_an_example_is_the_line_it_says() -> None:
    """The literal part of each traced line stands in the template line that it names."""
    _, compiled = _example("marlin")
    folder = Path(barrio.core.__file__).parent / "targets/linux_frr/templates"
    for path in compiled.files("leaf/r11/a"):
        for line in compiled.traced("leaf/r11/a", path):
            first = (line.text[: line.spans[0].start] if line.spans else line.text).split(" ")[0]
            source = (folder / line.template).read_text().splitlines()[line.template_line - 1]
            assert first in source, (path, line)


PUNCTUATION = re.compile(r"\s*(!|exit.*|end|\\}|)")


IGP = {
    "underlay.addressing": "dual",
    "overlay.protocol": "ibgp",
    "underlay.graceful_restart": True,
    "underlay.hello": 5,
}


@pytest.mark.parametrize(
    ("name", "edits"),
    [
        ("marlin", {"racks[0].pairing": "multihoming", "underlay.asn": "per-pair", "spines.count": 3}),
        ("marlin", {**IGP, "underlay.protocol": "ospf", "racks[0].pairing": "multihoming"}),
        ("marlin", {**IGP, "underlay.protocol": "isis", "racks[0].pairing": "multihoming", "spines.count": 3}),
        ("pelican", {"overlay.protocol": "ebgp"}),
        ("pelican", {}),
        ("tern", {}),
    ],
)  # fmt: skip
def test_every_line_of_every_file_says_why_it_is_there(name: str, edits: dict[str, Any]) -> None:
    """A line that prints no value has a reason in its template; only punctuation has none."""
    text = _example(name)[0].text
    for path, value in edits.items():
        text = set_value(text, path, value)
    document = read(text)
    compiled = compile(document.brief)
    mute = set()
    first = {switch.role: switch.key for switch in reversed(compiled.structure.switches)}
    for key in first.values():
        for path in compiled.files(key):
            for line in compiled.traced(key, path):
                steps = of_traced(document, compiled, key, line).steps
                if not line.spans and not PUNCTUATION.fullmatch(line.text) and not any(s.kind == "rule" for s in steps):
                    mute.add((line.template, line.template_line, line.text))
    assert mute == set()


@pytest.mark.parametrize(
    ("name", "edits"), [("tern", {}), ("pelican", {}), ("pelican", {"racks[0].pairing": "peer-link"})]
)
def test_every_number_and_cable_has_a_chain(name: str, edits: dict[str, Any]) -> None:
    text = _example(name)[0].text
    for path, value in edits.items():
        text = set_value(text, path, value)
    document = read(text)
    compiled = compile(document.brief)
    for use, entries in compiled.allocation.numbers.items():
        for key in list(entries)[:: max(1, len(entries) // 25)]:
            assert of_number(document, compiled, use, key), (use, key)
    for cable in compiled.cables[:: max(1, len(compiled.cables) // 40)] + compiled.cables[-2:]:
        kinds = {step.kind for step in because.of_cable(document, compiled, cable.label)}
        assert {"ledger", "brief"} <= kinds


def test_a_pair_and_a_link_to_the_outside_say_why_in_words() -> None:
    document, compiled = _example("pelican")
    mac = of_value(document, compiled, "switches/leaf-p01-r01a/pair/mac")
    assert "system MAC" in mac[0].title and mac[1].kind == "ledger" and mac[2].refs["path"] == "overlay.pair_mac"
    address = of_value(document, compiled, "switches/border-p01-b01a/outside/h48.301/v4")
    assert "lower address" in address[0].title and "office-outside" in address[1].title
    assert address[-1].refs["path"] == "outside.harbour-router.links[0].vrfs.buoys"
    state = of_value(document, compiled, "switches/spine-p03-1/fabric_ports/p8/shut")
    line = int(state[0].refs["line"])
    assert "a fan tray" in document.text.splitlines()[line - 1]
    reflector = of_value(document, compiled, "switches/leaf-p01-r01a/sessions/super-1-1/address")
    assert [step.kind for step in reflector] == ["rule", "ledger", "brief", "brief"]


@pytest.mark.parametrize(
    ("edits", "value", "says"),
    [
        ({"underlay.mtu": 9100}, "common/mtu", "underlay.mtu, in place of Barrio’s own 9216"),
        ({"underlay.mtu": 9216}, "common/mtu", "underlay.mtu"),
        ({}, "common/mtu", "underlay.mtu at its default"),
        ({"underlay.protocol": "ospf"}, "common/ospf", "underlay.protocol, in place of Barrio’s own ebgp"),
        ({}, "hardware", "spines.model"),
        ({'models."spine/p01/1"': "lonja-s64"}, "hardware", 'models."spine/p01/1", in place of cantera-c64 of spines.model'),
        ({}, "fabric_ports/p1/peer", "uplinks_per_spine, at its default"),
        ({}, "fabric_ports/p21/peer", "racks[1].uplinks_per_spine, in place of 1 of uplinks_per_spine"),
        ({'names."spine/p01/1"': "mast"}, "name", 'names."spine/p01/1"'),
    ],
)  # fmt: skip
def test_a_value_says_where_it_stands_and_what_it_stands_in_place_of(
    edits: dict[str, Any], value: str, says: str
) -> None:
    text = _example("pelican")[0].text
    for path, said in edits.items():
        text = set_value(text, path, said)
    document = read(text)
    compiled = compile(document.brief)
    steps = of_value(document, compiled, f"switches/{compiled.structure.spines[0].name}/{value}")
    assert any(step.kind == "brief" and step.detail.endswith(says) for step in steps), [step.detail for step in steps]


def test_every_shared_value_has_its_origin_written_down_as_it_is_made() -> None:
    """The overlay's AS and its filters are explained by the ledger."""
    _, compiled = _example("pelican")
    leaf = compiled.structure.leaves[0].key
    made_of_more = {"overlay_asn", "filter_v4", "filter_v6", "variables"}
    assert set(type(compiled.models[leaf].common).__slots__) - set(compiled.origins[leaf]) == made_of_more


def _example(name: str) -> tuple[Document, barrio.core.Compiled]:
    document = read(next(path for path in EXAMPLES if path.stem == name).read_text())
    return document, compile(document.brief)


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_same_input_same_bytes_in_every_archive_and_the_manifest_holds(path: Path) -> None:
    one, two = (bundle_files(*_example(path.stem)) for _ in range(2))
    assert as_zip(one) == as_zip(two) and as_tar_gz(one) == as_tar_gz(two)
    with zipfile.ZipFile(io.BytesIO(as_zip(one))) as packed:
        assert {name: packed.read(name) for name in packed.namelist()} == one
    with tarfile.open(fileobj=io.BytesIO(as_tar_gz(one))) as packed_tar:
        assert set(packed_tar.getnames()) == set(one)
    manifest = json.loads(one["manifest.json"])
    assert set(manifest["sha256"]) == set(one) - {"manifest.json"}
    inventory = json.loads(one["inventory.json"])
    assert sum(map(len, inventory["roles"].values())) == manifest["counts"]["switches"]
    assert one["cabling.csv"].count(b"\r\n") == manifest["counts"]["cables"] + 1


def test_only_switches_whose_model_changed_are_rendered_again() -> None:
    document, before = _example("marlin")
    before.render_all()
    edited = read(set_value(document.text, 'hosts."forecast-1..forecast-4".tagged', ["buoy-telemetry"])).brief
    after = compile(
        edited,
        barrio.core.Stock(before.pools, barrio.core.ledger.allocate.Holdings(before.allocation.numbers)),
        previous=before,
    )
    same = {key for key in after.models if after._files.get(key) is before._files[key]}
    assert set(after.models) - same == {"leaf/r12/a", "leaf/r12/b"}
    fresh = compile(
        edited, barrio.core.Stock(before.pools, barrio.core.ledger.allocate.Holdings(before.allocation.numbers))
    )
    assert all(after.files(key) == fresh.files(key) for key in fresh.models)


def test_sums_are_what_one_gets_by_hand() -> None:
    compiled = _example("marlin")[1]
    sums = add_up(compiled.brief, compiled.structure)
    assert sums.oversubscription == 48 * 25 / (8 * 100)
    assert (sums.spine_ports_used, sums.spine_ports) == (26 * 2, 64)
    assert sums.cables == 26 * 8 and sums.switches == 30 and sums.host_ports == 26 * 48
    assert sums.bandwidth_left == (0.75, 0.5) and sums.grows_by_leaves == 6


GOOD = "fabric: x\nspines: {count: 2}\nracks:\n  - racks: r01..r03\n"


@pytest.mark.parametrize(
    ("text", "code", "line", "says"),
    [
        ("fabric: x\nspines:\n  count: four\n", "brief.int-type", 3, "whole number"),
        ("fabric: x\nspines: {count: true}\n", "brief.int-type", 2, "whole number"),
        ("fabric: x\nspines: {count: 0}\n", "brief.greater-than-equal", 2, "1 or more"),
        ("fabric: x\nspines: {count: 4000}\n", "brief.less-than-equal", 2, "64 or less"),
        ("fabric: x\nspine: {count: 2}\n", "brief.extra-forbidden", 2, "no field “spine”"),
        ("fabric: x\nracks:\n  - racks: r01\n  - racks: r01\n", "rack.twice", 4, "r01 is named in two groups"),
        ("fabric: x\nracks:\n  - racks: r09..r01\n", "brief.value-error", 3, "runs backwards"),
        ("fabric: x\nfabric: y\n", "yaml.twice", 2, "“fabric” is written twice"),
        ("fabric: x\nspines: {count: 2\n", "yaml.syntax", 3, "not YAML"),
        ("fabric: x\n\tspines: 2\n", "yaml.syntax", 2, "not YAML"),
        ("- a\n- b\n", "yaml.shape", 1, "list of fields"),
        ("fabric: &a x\ntitle: *a\n", "yaml.anchor", 1, "anchors"),
        ("fabric: x\nracks:\n  - racks: r01..r33\n    model: cantera-l48\n", "ports.spine-full", 1, "66 ports on every spine"),
        ("fabric: x\nspines: {count: 9, model: cantera-c64}\nracks:\n  - racks: r01\n", "ports.leaf-full", 4, "need 9 uplinks"),
        ("fabric: x\nspines: {model: cantera-c99}\n", "model.unknown", 2, "cantera-c32"),
        (GOOD + "names: {leaf/r01/a: leaf-r02a}\n", "name.twice", 5, "2 switches would be called leaf-r02a"),
        (GOOD + "segments:\n  a: {vrf: nope}\n", "segment.vrf", 6, "not under “vrfs”"),
        (GOOD + "vrfs:\n  mgmt: {}\n", "brief.value-error", 6, "give the VRF another name"),
        (GOOD + "vrfs: {h7: {}}\n", "name.device", 5, "another device"),
        (GOOD + "management: {interface: u1}\n", "name.device", 5, "another device"),
        (GOOD + "underlay: {mtu: 9000}\n", "mtu.overlay", 5, "need an MTU of 9050"),
        (GOOD + "numbers: {asn: nowhere}\n", "pool.unknown", 5, "No pool is called nowhere"),
        (GOOD + "services: {users: {ines: {keys: [oops]}}}\n", "brief.value-error", 5, "not an SSH public key"),
    ],
)  # fmt: skip
def test_bad_input_names_the_line_the_thing_and_the_way_out(text: str, code: str, line: int, says: str) -> None:
    with pytest.raises(Refused) as refused:
        document = read(text)
        try:
            compile(document.brief)
        except Refused as error:
            raise locate(error, document) from None
    fault = refused.value.faults[0]
    assert fault.code == code, fault
    assert says in fault.message and fault.message.endswith(".")
    assert fault.line == line or code in ("ports.spine-full",), fault
    assert fault.column > 0 or not fault.line or code in {"yaml.shape", "yaml.anchor"}, fault


def test_a_brief_of_five_megabytes_and_a_deep_one_are_refused_at_once() -> None:
    for text, code in (("# " + "x" * 5_000_000, "yaml.too-large"), ("a: " + "[" * 5000, "yaml.depth")):
        with pytest.raises(Refused) as refused:
            read(text)
        assert refused.value.faults[0].code == code
    assert MOST_BYTES < 5_000_000


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_an_edit_changes_one_line_and_keeps_comments_and_order(path: Path) -> None:
    text = path.read_text()
    edited = set_value(text, "spines.count", 3)
    changed = [pair for pair in zip(text.splitlines(), edited.splitlines(), strict=True) if pair[0] != pair[1]]
    assert len(changed) == 1 and changed[0][1] == "  count: 3"
    assert set_value(set_value(text, "underlay.timers.hold", 12), "underlay.timers", None).count("timers") == 0


def test_examples_in_docstrings_run() -> None:
    for module in pkgutil.walk_packages(barrio.core.__path__, "barrio.core."):
        assert doctest.testmod(importlib.import_module(module.name)).failed == 0


SHARED: dict[str, Any] = {
    "services.ntp": ["10.90.0.77"], "services.dns": ["10.90.0.78"], "services.syslog": ["10.90.0.79"], "services.syslog_over": "tcp", "services.syslog_port": 6514,
    "services.syslog_facility": "local3", "services.lldp_interval": 33, "services.ssh_ciphers": ["aes256-ctr"], "services.time_zone": "Europe/Madrid", "services.watchdog": 90,
    "services.packages": ["tcpdump"], "services.banner": "other words", "services.sign_in_from": ["10.90.99.0/24"], "services.software": "12.4", "overlay.storm": 777,
    "overlay.startup_delay": 61, "additions.frr": ["ip prefix-list x seq 5 permit 10.9.9.0/24"], "additions.sysctl": ["net.core.somaxconn = 4096"],
    "services.snmp": {"users": ["watch"]}, "services.users": {"eva": {"keys": ["ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIB1hK4p8w6Qx0m7sV3tZ9rJ2yL5nC8dF1gH6jK3bN4vX"]}},
}  # fmt: skip


QUICK = {"services.ntp", "services.users", "services.syslog_facility", "overlay.storm", "additions.frr"}


@pytest.mark.parametrize("name", [one if one in QUICK else pytest.param(one, marks=pytest.mark.long) for one in SHARED])
def test_when_switches_share_other_values_only_the_files_that_read_them_are_rendered_and_all_are_as_if_compiled_cold(
    name: str,
) -> None:
    document, before = _example("tern")
    before.render_all()
    brief = read(apply(document.text, [(f'rungs."role leaf"."{name}"', SHARED[name])])).brief
    after = compile(brief, previous=before)
    again = compile(
        read(apply(document.text, [(f'rungs."role leaf"."{name}"', SHARED[name]), ("title", "another")])).brief,
        previous=after,
    )
    cold = compile(brief)
    same = 0
    for key in cold.models:
        assert after.files(key) == cold.files(key) and list(after.files(key)) == list(cold.files(key)), key
        assert {path: text for path, text in again.files(key).items() if "another" not in text} == {
            path: text for path, text in cold.files(key).items() if "another" not in again.files(key)[path]
        }
        same += sum(text is before.files(key).get(path) for path, text in after.files(key).items())
    assert cold.read_back() == (), "an exception is nothing odd"
    total = sum(len(cold.files(key)) for key in cold.models)
    assert total - 5 * len(cold.models) <= same <= total, "the rest is as it was, and the very same text"


def test_a_switch_setting_that_is_changed_is_one_of_those_that_are_tried_above() -> None:
    known = {
        name
        for name, one in SETTINGS.items()
        if not one.whole and name != "target" and not name.startswith("additions.")
    }
    assert known == {name for name in SHARED if not name.startswith("additions.")}


def test_a_setting_of_some_switches_of_a_kind_is_nothing_odd_to_the_reader() -> None:
    """Pelican's leaves share hosts by multihoming: all that is said of one pod of them is said of some that are like the others."""
    document, _ = _example("pelican")
    edits = [(f'rungs."pod p01"."{name}"', value) for name, value in SHARED.items()]
    assert compile(read(apply(document.text, edits)).brief).read_back() == ()
