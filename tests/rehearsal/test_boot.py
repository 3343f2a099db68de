"""The generated files on real daemons: zebra, bgpd, bfdd and lldpd in one network namespace a switch."""

from __future__ import annotations

import re
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from ruamel.yaml import YAML

from barrio.core import Compiled, compile
from barrio.core.brief.document import apply, read
from barrio.rehearsal.asking.beside import lldp_neighbours
from barrio.rehearsal.asking.control import changes_on_reload
from barrio.rehearsal.ground import wait_until
from barrio.rehearsal.hosts import Host, Plugged
from barrio.rehearsal.lab import Lab
from tests.rehearsal.asked import (
    bfd_up,
    established,
    evpn_next_hops,
    open_segment,
    paths_to,
    pings,
    planned_sessions,
    sessions,
)
from tests.rehearsal.whole import PATIENCE, SLOW

LONG = pytest.mark.long
EXAMPLES = Path(__file__).parents[2] / "examples"

SMALL = """
fabric: small
spines: {{count: 2, racks: x00}}
racks:
  - {{racks: x01..x02, leaves: {leaves}}}
uplinks_per_spine: {lanes}
underlay: {{addressing: {addressing}, asn: {asn}, SLOW}}
services: {{domain: small.example}}
""".replace("SLOW", SLOW.replace("{", "{{").replace("}", "}}"))


def tern() -> Compiled:
    said = (EXAMPLES / "tern.yaml").read_text()
    slow = [(f"underlay.{field}", value) for field, value in YAML(typ="safe").load(f"{{{SLOW}}}").items()]
    return compile(read(apply(said, slow)).brief)


@pytest.fixture(scope="module")
def lab():
    with Lab(tern()) as running:
        yield running


def claim_sessions_as_planned(lab: Lab) -> None:
    planned = planned_sessions(lab)

    wait_until(lambda: established(lab) == planned, PATIENCE)
    assert established(lab) == planned


def claim_every_leaf_reaches_every_other(lab: Lab) -> None:
    models = lab.compiled.models
    leaves = [node for node in lab.nodes.values() if not node.switch.is_spine]
    lanes = lab.compiled.brief.uplinks_per_spine
    spines = lab.compiled.brief.spines.count

    def missing() -> list[str]:
        found = []
        for node in leaves:
            for other in leaves:
                if other is node:
                    continue
                model = models[other.switch.key]
                for prefix in filter(None, (model.loopback_v4, f"{model.vtep}/32", model.loopback_v6)):
                    paths = paths_to(node, prefix)
                    if paths != spines * lanes:
                        found.append(f"{node.switch.name} has {paths} paths to {prefix}")
        return found

    wait_until(lambda: not missing(), PATIENCE)
    assert missing() == []
    # A spine between them may learn of a loopback a moment after both leaves did.
    for node in leaves:
        for other in leaves:
            source, target = models[node.switch.key], models[other.switch.key]
            ends = [(source.router_id, target.router_id)]
            if source.loopback_v6 and target.loopback_v6:
                ends.append((source.loopback_v6[:-4], target.loopback_v6[:-4]))
            for one, far in ends:
                assert wait_until(lambda node=node, one=one, far=far: pings(node, one, far), PATIENCE), (one, far)


def test_every_planned_session_is_established_with_the_planned_as_on_both_ends(lab: Lab) -> None:
    claim_sessions_as_planned(lab)
    for node in lab.nodes.values():
        assert {session.families for session in sessions(node)} == {frozenset({"ipv4Unicast", "l2VpnEvpn"})}


def test_every_leaf_has_every_other_leafs_loopback_by_as_many_paths_as_there_are_spines(lab: Lab) -> None:
    claim_every_leaf_reaches_every_other(lab)


def test_bfd_watches_every_link(lab: Lab) -> None:
    for node in lab.nodes.values():
        ports = len(lab.compiled.models[node.switch.key].fabric_ports)
        assert wait_until(lambda node=node, ports=ports: bfd_up(node) == ports, PATIENCE)


def test_lldp_hears_what_the_cabling_plan_says(lab: Lab) -> None:
    planned: dict[str, set[tuple[str, str, str]]] = {name.switch.name: set() for name in lab.nodes.values()}
    for cable in lab.compiled.cables:
        planned[cable.a.switch].add((cable.a.port, cable.b.switch, cable.b.port))
        planned[cable.b.switch].add((cable.b.port, cable.a.switch, cable.a.port))
    for node in lab.nodes.values():
        wait_until(lambda node=node: lldp_neighbours(node) == planned[node.switch.name], PATIENCE)
        assert lldp_neighbours(node) == planned[node.switch.name]


def test_the_fabric_mtu_is_on_every_link(lab: Lab) -> None:
    node, other = lab.node("leaf-t01"), lab.node("leaf-t04")
    target = lab.compiled.models[other.switch.key].router_id
    source = lab.compiled.models[node.switch.key].router_id
    full = str(lab.compiled.brief.underlay.mtu - 28)
    across = ("ping", "-M", "do", "-s", full, "-c", "1", "-I", source, target)
    assert wait_until(lambda: " 1 received" in node.run(*across, check=False), PATIENCE)
    for end in lab.compiled.ends:
        lower, upper = lab.nodes[end.link.lower.key], lab.nodes[end.link.upper.key]
        found = upper.run("ip", "-6", "-o", "addr", "show", "dev", end.upper_port, "scope", "link").split()
        far, most = found[found.index("inet6") + 1].split("/")[0], lab.compiled.brief.underlay.mtu - 48
        for size, heard in ((most, " 1 received"), (most + 1, " 0 received")):
            asked = ("ping", "-6", "-M", "do", "-s", str(size), "-c", "1", "-W", "5", "-I", end.lower_port, far)
            assert heard in lower.run(*asked, check=False), (end.label, size)


def test_what_is_not_rehearsed_is_named_and_nothing_else_is_missing(lab: Lab) -> None:
    for node in lab.nodes.values():
        text = lab.compiled.files(node.switch.key)["etc/network/interfaces"]
        planned = {line.split()[1] for line in text.splitlines() if line.startswith("iface ")}
        left = {entry.device for entry in node.left_out if "." not in entry.device}
        there = {line.split(": ")[1].split("@")[0] for line in node.run("ip", "-o", "link").splitlines()}
        assert planned - left <= there
        assert all(entry.reason for entry in node.left_out)


def claim_nothing_changes_on_reload(lab: Lab) -> None:
    for node in lab.nodes.values():
        assert changes_on_reload(node) == [], node.switch.name


def test_loading_the_same_file_again_would_change_nothing(lab: Lab) -> None:
    claim_nothing_changes_on_reload(lab)


def test_two_hosts_in_one_segment_on_different_leaves_reach_each_other_at_full_size(lab: Lab) -> None:
    """EVPN tells every leaf the tunnel ends of the others, past the spines; frames of the hosts' MTU pass."""
    models = lab.compiled.models
    leaves = [node for node in lab.nodes.values() if not node.switch.is_spine]
    open_segment(lab, "cold-store")
    segment = next(part for part in models["leaf/t01/a"].segments if part.label == "cold-store")
    for node in leaves:
        others = frozenset(str(models[other.switch.key].vtep) for other in leaves if other is not node)
        wait_until(lambda node=node, others=others: evpn_next_hops(node, segment.vni) == others, PATIENCE)
        assert evpn_next_hops(node, segment.vni) == others
    mtu = lab.compiled.brief.overlay.host_mtu
    one = plug_host(lab, "leaf-t01", segment.vlan, "10.72.0.11/24", mtu)
    plug_host(lab, "leaf-t04", segment.vlan, "10.72.0.14/24", mtu)
    assert wait_until(lambda: one.ping("10.72.0.14"), PATIENCE)
    assert one.ping("10.72.0.14", mtu - 28)
    assert not one.ping("10.72.0.14", mtu - 27), "a larger one does not"


def plug_host(lab: Lab, leaf: str, vlan: int, address: str, mtu: int) -> Host:
    """A host on the plain bridge that stands in for a segment."""
    host = lab.plug(Plugged(((leaf, "host0"),), (address,), mtu=mtu))
    lab.node(leaf).run("ip", "link", "set", "host0", "master", f"br{vlan}", "mtu", str(mtu), "up")
    return host


DESIGN = """
fabric: small
spines: {{count: 2, racks: x00}}
racks:
  - {{racks: x01..x02, leaves: 1, model: cantera-l48}}
segments: {{cold-store: {{}}}}
{routing}
"""
THREE_TIERS = """
fabric: tall
pods: p1..p2
super_spines: {{per_plane: 1, model: cantera-c32}}
spines: {{count: 2, racks: x00}}
racks:
  - {{racks: r1, leaves: 1}}
segments: {{cold-store: {{}}}}
{routing}
"""
IBGP = "overlay: {protocol: ibgp}"
DESIGNS = {
    "parallel links": SMALL.format(addressing="ipv4", asn="per-leaf", leaves=1, lanes=2),
    "IPv6 only": SMALL.format(addressing="ipv6", asn="per-leaf", leaves=1, lanes=1),
    "dual, an ASN for each pair": SMALL.format(addressing="dual", asn="per-pair", leaves=2, lanes=1),
    "eBGP with reflectors": DESIGN.format(routing=f"underlay: {{addressing: dual, {SLOW}}}\n{IBGP}"),
    "OSPF, dual": DESIGN.format(
        routing=f"underlay: {{protocol: ospf, addressing: dual, {SLOW}, hello: 3, graceful_restart: true}}\n{IBGP}"
    ),
    "OSPF, unnumbered": DESIGN.format(
        routing=f"underlay: {{protocol: ospf, addressing: unnumbered, {SLOW}, hello: 3}}\n{IBGP}"
    ),
    "IS-IS, dual": DESIGN.format(routing=f"underlay: {{protocol: isis, addressing: dual, {SLOW}, hello: 3}}\n{IBGP}"),
    "IS-IS, unnumbered": DESIGN.format(
        routing=f"underlay: {{protocol: isis, addressing: unnumbered, {SLOW}, hello: 3}}\n{IBGP}"
    ),
    "three tiers": THREE_TIERS.format(routing=f"underlay: {{addressing: unnumbered, {SLOW}}}"),
    "three tiers with reflectors": THREE_TIERS.format(routing=f"underlay: {{addressing: ipv4, {SLOW}}}\n{IBGP}"),
    "three tiers, IS-IS": THREE_TIERS.format(routing=f"underlay: {{protocol: isis, addressing: ipv4, {SLOW}}}\n{IBGP}"),
}
QUICK = ("three tiers with reflectors",)
"""The design that is booted in every run; the others in `make test-all`."""


def claim_boots_and_carries(name: str) -> None:
    with Lab(compile(read(DESIGNS[name]).brief)) as running:
        claim_sessions_as_planned(running)
        claim_every_leaf_reaches_every_other(running)
        if running.compiled.brief.segments:
            claim_evpn_tells_every_tunnel_end(running, "cold-store")
        claim_nothing_changes_on_reload(running)


@pytest.mark.parametrize(
    "names",
    [pytest.param(QUICK, marks=LONG), pytest.param(tuple(name for name in DESIGNS if name not in QUICK), marks=LONG)],
    ids=["quick", "others"],
)
def test_every_design_boots_and_does_what_its_plan_says(names: tuple[str, ...]) -> None:
    """Underlays, routing protocols, reflectors and tiers; three labs at a time, since they mostly wait for timers."""
    with ThreadPoolExecutor(3) as pool:
        claims = {name: pool.submit(claim_boots_and_carries, name) for name in names}
    failed = {name: repr(error) for name, claim in claims.items() if (error := claim.exception())}
    assert failed == {}


def claim_evpn_tells_every_tunnel_end(lab: Lab, label: str) -> None:
    open_segment(lab, label)
    models = lab.compiled.models
    leaves = [node for node in lab.nodes.values() if node.switch.is_leaf]
    for node in leaves:
        segment = next(part for part in models[node.switch.key].segments if part.label == label)
        others = frozenset(str(models[other.switch.key].vtep) for other in leaves if other is not node)
        wait_until(lambda node=node, vni=segment.vni, others=others: evpn_next_hops(node, vni) == others, PATIENCE)
        assert evpn_next_hops(node, segment.vni) == others, node.switch.name


@pytest.mark.long
def test_a_spine_out_of_service_is_left_by_every_path_and_the_rest_goes_on() -> None:
    text = DESIGN.format(routing="out_of_service: {spine/2: waiting for a fan}")
    with Lab(compile(read(text).brief)) as running:
        claim_sessions_as_planned(running)
        leaf = running.node("leaf/x01/a")
        other = running.compiled.models["leaf/x02/a"]
        assert wait_until(lambda: paths_to(leaf, f"{other.vtep}/32") == 1, PATIENCE)
        shut = re.findall(r"neighbor (\S+) shutdown", running.compiled.files("leaf/x01/a")["etc/frr/frr.conf"])
        assert len(shut) == 1
        claim_nothing_changes_on_reload(running)
