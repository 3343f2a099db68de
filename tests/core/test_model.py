"""What a fabric's files say, read back independently of the code that wrote them."""

from __future__ import annotations

import csv
import io
import re
from collections import Counter, defaultdict
from ipaddress import IPv4Network, ip_address, ip_interface
from typing import Any

import pytest
from hypothesis import given

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.brief.model import Brief
from barrio.core.bundle import CABLING_COLUMNS, cabling_csv, numbers_csv
from barrio.core.catalogue.made import MADE
from barrio.core.model.devices import Devices
from barrio.core.structure.expand import expand
from barrio.core.sums import add_up, effect
from tests.conftest import EXAMPLES, briefs, tries

FRR, INTERFACES = "etc/frr/frr.conf", "etc/network/interfaces"


def stanzas(text: str) -> dict[str, dict[str, list[str]]]:
    """An interfaces file as device → attribute → values, by its own small grammar."""
    devices: dict[str, dict[str, list[str]]] = {}
    for line in text.splitlines():
        words = line.split()
        if line.startswith("iface "):
            current = devices[words[1]] = defaultdict(list)
        elif line.startswith("    "):
            current[words[0]].append(" ".join(words[1:]))
    return devices


def neighbours(text: str) -> dict[str, tuple[int, str]]:
    """The fabric sessions of an frr.conf: neighbour → (its ASN, its description of switch and port)."""
    asns = {found[1]: int(found[2]) for found in re.finditer(r"^ neighbor (\S+) remote-as (\d+)$", text, re.M)}
    told = {found[1]: found[2] for found in re.finditer(r"^ neighbor (\S+) description (\S+ \S+)$", text, re.M)}
    return {name: (asn, told[name]) for name, asn in asns.items() if name in told}


def own_asn(text: str) -> int:
    found = re.search(r"^ neighbor fabric local-as (\d+) ", text, re.M) or re.search(r"^router bgp (\d+)$", text, re.M)
    assert found
    return int(found[1])


@tries(25)
@given(data=briefs())
def test_both_ends_of_every_session_name_each_other(data: dict[str, Any]) -> None:
    """Read from the files alone: addresses, ASNs and descriptions of the two ends fit."""
    compiled = compile(Brief.model_validate(data))
    devices = {key: stanzas(compiled.files(key)[INTERFACES]) for key in compiled.models}
    texts = {key: compiled.files(key)[FRR] for key in compiled.models}
    owner = {
        str(ip_interface(address).ip): (key, device)
        for key, found in devices.items()
        for device, attributes in found.items()
        for address in attributes.get("address", [])
        if device not in ("lo", "mgmt")
    }
    by_name = {model.name: key for key, model in compiled.models.items()}
    links = 0
    for key, text in texts.items():
        for neighbour, (asn, description) in neighbours(text).items():
            peer_name, peer_port = description.split()
            peer = by_name[peer_name]
            assert asn == own_asn(texts[peer])
            if data["underlay"]["addressing"] == "unnumbered":
                assert neighbour in devices[key]
            else:
                assert owner[neighbour] == (peer, peer_port), "the neighbour's address stands on the port that is named"
            links += 1
    families = 2 if data["underlay"]["addressing"] == "dual" else 1
    fabric = sum(1 for end in compiled.ends if end.link.kind == "fabric")
    assert links == (2 * fabric * families if data["underlay"]["protocol"] == "ebgp" else 0)


@tries(25)
@given(data=briefs())
def test_every_link_is_one_subnet_of_two_addresses_and_one_mtu(data: dict[str, Any]) -> None:
    compiled = compile(Brief.model_validate(data))
    subnets: dict[Any, list[str]] = defaultdict(list)
    for key, model in compiled.models.items():
        devices = stanzas(compiled.files(key)[INTERFACES])
        for port in model.fabric_ports:
            assert devices[port.label]["mtu"] == [str(compiled.brief.underlay.mtu)]
            for address in devices[port.label].get("address", []):
                if address == model.loopback_v4:
                    assert data["underlay"]["addressing"] == "unnumbered"
                    continue
                subnets[ip_interface(address).network].append(str(ip_interface(address).ip))
    for subnet, addresses in subnets.items():
        assert subnet.prefixlen in (31, 127)
        assert sorted(map(ip_address, addresses), key=int) == [subnet[0], subnet[1]]


@tries(25)
@given(data=briefs(peer_links=True))
def test_what_must_be_unique_is_and_what_must_be_shared_is(data: dict[str, Any]) -> None:
    """Router ids and tunnel ends differ; route targets and gateways of a segment are the same on every leaf."""
    compiled = compile(Brief.model_validate(data))
    models = list(compiled.models.values())
    tunnel_ends: dict[str, set[str]] = defaultdict(set)
    for model in models:
        if model.vtep:
            linked = model.pair is not None and not model.pair.multihoming
            tunnel_ends[model.vtep].add(model.rack if linked else model.key)
    assert all(len(owners) == 1 for owners in tunnel_ends.values()), "one leaf, or the two that a peer link joins"
    everyone = [model.router_id for model in models] + list(tunnel_ends)
    everyone += [model.management.ip for model in models]
    assert len(set(everyone)) == len(everyone)
    pairs: dict[str, set[tuple[str, int]]] = defaultdict(set)
    for model in models:
        if model.pair:
            pairs[model.rack].add((model.pair.mac, model.pair.domain))
    assert all(len(said) == 1 for said in pairs.values()), "both leaves of a pair say the same"
    assert len(set().union(*pairs.values())) == len(pairs), "and no other pair does"
    distinguishers = [part.rd for model in models for part in (*model.segments, *model.vrfs)]
    assert len(set(distinguishers)) == len(distinguishers)
    shared: dict[str, set[tuple[object, ...]]] = defaultdict(set)
    vlans: dict[tuple[str, str], set[int]] = defaultdict(set)
    for model in models:
        assert len({part.vlan for part in model.segments}) == len(model.segments), "no VLAN twice on a switch"
        for part in model.segments:
            shared[part.label].add((part.vni, part.route_target, part.gateway_v4, part.gateway_v6))
            vlans[part.label, model.rack if part.local else "the fabric"].add(part.vlan)
    assert all(len(said) == 1 for said in shared.values())
    assert all(len(said) == 1 for said in vlans.values()), (
        "one VLAN in the fabric, or one in each rack where leaves choose"
    )
    everywhere = {label: vlan for (label, where), (vlan,) in vlans.items() if where == "the fabric"}
    assert len(set(everywhere.values())) == len(everywhere)
    if data["underlay"]["protocol"] != "ebgp":
        assert len({model.asn for model in models}) == 1
        return
    owners: dict[int, set[str]] = defaultdict(set)
    for switch in compiled.structure.switches:
        above = "super-spines" if switch.role == "super-spine" else f"spines of {switch.pod}"
        own = switch.key if data["underlay"]["asn"] == "per-leaf" else switch.rack
        owners[compiled.models[switch.key].asn].add(own if switch.is_leaf else above)
    assert all(len(found) == 1 for found in owners.values())
    assert len(set().union(*owners.values())) == len(owners)


@tries(25)
@given(data=briefs())
def test_every_device_that_a_file_speaks_of_is_there(data: dict[str, Any]) -> None:
    """Bridge ports, VRFs and raw devices exist; each VLAN of the bridge has its tunnel; each tunnel its VNI in BGP."""
    compiled = compile(Brief.model_validate(data))
    for key, model in compiled.models.items():
        devices = stanzas(compiled.files(key)[INTERFACES])
        names = set(devices)
        bridge = devices.get("bridge", {})
        assert set(" ".join(bridge.get("bridge-ports", [])).split()) <= names
        for attributes in devices.values():
            assert set(attributes.get("vrf", [])) | set(attributes.get("vlan-raw-device", [])) <= names
        vids = set(" ".join(bridge.get("bridge-vids", [])).split())
        tunnels = {name: attributes for name, attributes in devices.items() if "vxlan-id" in attributes}
        peer = {str(model.pair.vlan)} if model.pair and model.pair.vlan else set()
        assert {attributes["bridge-access"][0] for attributes in tunnels.values()} == vids - peer
        for attributes in devices.values():
            assert set(" ".join(attributes.get("bond-slaves", [])).split()) <= names
        assert all(attributes["vxlan-local-tunnelip"] == [str(model.vtep)] for attributes in tunnels.values())
        told = set(re.findall(r"^ +vni (\d+)$", compiled.files(key)[FRR], re.M))
        assert told == {attributes["vxlan-id"][0] for attributes in tunnels.values()}
        assert len(names) == len(
            [line for line in compiled.files(key)[INTERFACES].splitlines() if line.startswith("iface ")]
        )


@tries(25)
@given(data=briefs())
def test_a_vrf_is_on_a_leaf_just_when_a_segment_or_an_outside_link_of_it_is(data: dict[str, Any]) -> None:
    """Or when one that is there takes routes from it."""
    compiled = compile(Brief.model_validate(data))
    for model in compiled.models.values():
        wanted = {part.vrf for part in model.segments if part.vrf} | {part.vrf for part in model.outside}
        wanted |= {other for name in wanted for other in compiled.brief.vrfs[name].imports}
        assert {vrf.label for vrf in model.vrfs} == wanted
        assert model.is_leaf or not (model.segments or model.host_ports)


@tries(25)
@given(data=briefs(peer_links=True))
def test_sums_equal_what_counting_the_model_gives(data: dict[str, Any]) -> None:
    compiled = compile(Brief.model_validate(data))
    sums = add_up(compiled.brief, compiled.structure)
    used = Counter(end.link.upper.key for end in compiled.ends if end.link.lower.is_leaf and end.link.kind == "fabric")
    assert max(used.values()) == sums.spine_ports_used
    assert sums.host_ports == sum(
        len(model.host_ports) + len(model.outside_ports) for model in compiled.models.values()
    )
    assert sums.switches == len(compiled.models)
    assert sums.cables == len(compiled.cables), "one count of cables, whoever tells it"
    kinds = Counter(f"{cable.kind} {cable.speed}G" for cable in compiled.cables)
    assert kinds == Counter(sums.cables_by_kind)
    worst = 0.0
    for leaf in compiled.structure.leaves:
        up = sum(end.link.speed for end in compiled.ends if end.link.lower is leaf and end.link.kind == "fabric")
        worst = max(worst, len(leaf.plan.hosts) * leaf.plan.host_speed(None) / up)
    assert sums.oversubscription == pytest.approx(worst)
    if sums.tiers == 2:
        lanes = compiled.brief.lanes_of(compiled.brief.racks[-1])
        assert sums.spine_ports_used + sums.grows_by_leaves * lanes <= sums.spine_ports


@pytest.mark.parametrize(("spines", "leaves"), [(1, 1), (2, 4), (4, 26), (8, 32)])
def test_a_folded_clos_has_spines_times_leaves_times_lanes_links(spines: int, leaves: int) -> None:
    for lanes in (1, 2):
        data = {
            "fabric": "clos",
            "spines": {"count": spines, "model": "lonja-s64"},
            "racks": [{"racks": f"r01..r{leaves:02d}", "leaves": 1, "model": "lonja-t64"}],
            "uplinks_per_spine": lanes,
        }
        structure = expand(Brief.model_validate(data), MADE)
        assert len(structure.links) == spines * leaves * lanes
        assert len({link.key for link in structure.links}) == len(structure.links)


def test_the_effect_of_a_change_counts_what_came_and_went() -> None:
    text = next(path for path in EXAMPLES if path.stem == "tern").read_text()
    text = text[: text.index("hosts:")] + text[text.index("services:") :]
    before = compile(read(text).brief)
    after = compile(read(text.replace("t01..t04", "t01..t03, t06..t07")).brief)
    counts = effect(before, after)
    assert (counts["switches_added"], counts["switches_removed"]) == (2, 1)
    assert counts["switches_changed"] >= 2, "both spines"


def example(name: str) -> Compiled:
    return compile(read(next(path for path in EXAMPLES if path.stem == name).read_text()).brief)


@pytest.mark.parametrize("name", ["marlin", "tern"])
def test_the_cabling_sheet_reads_back_as_the_plan(name: str) -> None:
    compiled = example(name)
    rows = list(csv.DictReader(io.StringIO(cabling_csv(compiled.laid), newline="")))
    assert tuple(rows[0]) == CABLING_COLUMNS and len(rows) == len(compiled.cables) >= len(compiled.ends)
    ends = [(row[f"{side}_rack"], row[f"{side}_switch"], row[f"{side}_port"]) for row in rows for side in "ab"]
    assert len(set(ends)) == len(ends), "no hole takes two cables"
    for row in rows:
        for own in "ab":
            label = row[f"{own}_label"]
            unit = f".U{row[f'{own}_unit']}" if row[f"{own}_unit"] != "0" else ""
            assert label.startswith(f"{row['label']} | {row[f'{own}_rack']}{unit} {row[f'{own}_switch']}")
            assert row["a_port"] in label and row["b_port"] in label, "each end names both ends"
    units = {(row["a_rack"], row["a_switch"]): row["a_unit"] for row in rows}
    assert len({(rack, unit) for (rack, _), unit in units.items()}) == len(units), "no two leaves in one unit"


def test_the_number_sheet_holds_every_number_once() -> None:
    compiled = example("marlin")
    rows = list(csv.DictReader(io.StringIO(numbers_csv(compiled), newline="")))
    assert len(rows) == sum(map(len, compiled.allocation.numbers.values()))
    loopbacks = {row["number"] for row in rows if row["use"] == "loopback.v4"}
    assert loopbacks == {model.router_id for model in compiled.models.values()}
    assert all(ip_address(number) in IPv4Network("10.60.0.0/22") for number in loopbacks)


def test_every_model_of_the_catalogue_names_its_ports_once() -> None:
    assert len({model.id for model in MADE.models}) == len(MADE.models)
    for model in MADE.models:
        ports = [port for group in model.groups for port in group.ports]
        assert len(set(ports)) == len(ports) and all(len(port) <= 15 for port in ports), model.id
        assert all(group.count % group.rows == 0 for group in model.groups), f"{model.id}: rows are full"


def test_a_target_names_its_devices_and_refuses_a_vrf_that_would_be_one_of_them() -> None:
    devices = Devices("lag{}", "svi.{}", "tun{}", "{}:{}", frozenset({"own"}))
    assert (devices.lag("h1"), devices.svi(7), devices.tunnel(8), devices.tagged("h1", 7)) == (
        "lagh1",
        "svi.7",
        "tun8",
        "h1:7",
    )
    assert all(devices.taken(name) for name in ("own", "lagh1", "lag48", "svi.4094", "tun1"))
    assert not any(devices.taken(name) for name in ("tides", "svi7", "lag", "tun", "tunnel1", "h1"))
