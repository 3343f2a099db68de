"""What the files do to packets: a fabric with everything switched on, on a whole kernel, asked by hosts.

Two spines, a pair with a shared host, a single leaf and a border leaf, two systems outside (`whole.py`). One lab serves all claims; those
that break something come last and mend it again.
"""

from __future__ import annotations

import re
import time
from concurrent.futures import ThreadPoolExecutor

import pytest

from barrio.core.adopt.adopting import adopt
from barrio.core.adopt.saved import read_saved
from barrio.rehearsal import outside
from barrio.rehearsal.applying import apply, standing
from barrio.rehearsal.asking.control import changes_on_reload
from barrio.rehearsal.ground import wait_until
from barrio.rehearsal.hosts import Host
from tests.core.restyled import restyled
from tests.rehearsal import frames
from tests.rehearsal.snapshots import saved
from tests.rehearsal.whole import FIREWALL, PATIENCE, ROUTER, Fabric


def test_only_what_no_kernel_of_its_own_has_is_left_out(fabric: Fabric) -> None:
    left = {entry.device for node in fabric.lab.nodes.values() for entry in node.left_out}
    assert left <= {"table inet own"} | {
        f"net.ipv{four}.neigh.default.gc_thresh{n}" for four in (4, 6) for n in (1, 2, 3)
    }


@pytest.mark.parametrize("one", ["single", "twin", "unbonded", "far"])
@pytest.mark.parametrize("target", ["10.72.1.11", "10.72.1.12", "10.72.1.21"])
def test_hosts_of_a_segment_reach_each_other_wherever_they_are_and_once(fabric: Fabric, one: str, target: str) -> None:
    assert fabric.reaches(one, target)
    assert fabric.hosts[one].answers(target, 5) == (5, 0), "each request is answered, and none twice"


@pytest.mark.parametrize(
    ("one", "target"),
    [
        ("buoy", "10.72.1.11"), ("buoy", "10.72.1.12"), ("buoy", "10.72.1.14"), ("bonded", "10.72.2.21"),
        ("single", "10.72.2.21"), ("twin", "10.72.2.21"),
    ],
)  # fmt: skip
def test_segments_of_a_vrf_reach_each_other_at_full_size(fabric: Fabric, one: str, target: str) -> None:
    """Also where the host answers to the other leaf of its pair, and where it had not spoken before."""
    assert fabric.reaches(one, target)
    assert fabric.reaches(one, target, size=9000 - 28)


def test_ipv6_hosts_learn_their_gateway_and_reach_each_other(fabric: Fabric) -> None:
    assert fabric.reaches("far", "fd72:0:0:1::11")
    auto = fabric.hosts["auto"]
    there = wait_until(lambda: "default via fe80::5eff:fe00:101" in auto.ask("ip", "-6", "route").out, 40)
    assert there and "fd72::1:" in auto.ask("ip", "-6", "address", "show", "dev", "p0.101").out


def test_a_tenant_reaches_neither_tunnel_ends_nor_loopbacks_nor_management(fabric: Fabric) -> None:
    """10.255.30.53 is the switches' name server: the rule for their own questions does not catch a tenant's packets."""
    assert fabric.reaches("far", "10.72.1.1") and fabric.reaches("dish", "10.72.3.1")
    targets = ("10.0.32.1", "10.0.0.1", "10.255.0.3", "10.255.30.53")
    with ThreadPoolExecutor() as pool:
        asked = {
            (host, target): pool.submit(fabric.hosts[host].ping, target, tries=2)
            for host in ("far", "dish")
            for target in targets
        }
    assert [at for at, answer in asked.items() if answer.result()] == []


@pytest.mark.long
def test_vrfs_do_not_reach_each_other(fabric: Fabric) -> None:
    assert fabric.reaches("dish", "10.72.3.1")
    assert not fabric.hosts["dish"].ping("10.72.1.11", tries=2)
    assert not fabric.hosts["far"].ping("10.72.3.21", tries=2)


def test_what_a_vrf_imports_by_name_it_reaches_and_nothing_beside(fabric: Fabric) -> None:
    """Radar takes the buoys from tides, which takes the sweep; on the border leaf radar is for that alone."""
    assert fabric.reaches("dish", "10.72.2.61") and fabric.reaches("pier", "10.72.3.21")
    assert fabric.reaches("dish", "10.72.2.21"), "on its own leaf too"
    known = fabric.lab.node("leaf-w2").run("ip", "route", "show", "vrf", "radar")
    assert "10.72.2.0/24" in known and "10.72.1." not in known and "\ndefault" not in known and "10.99." not in known
    rd = next(part.rd for part in fabric.lab.compiled.models["leaf/b1/a"].vrfs if part.label == "tides")
    told = fabric.lab.node("border-b1").run("vtysh", "-c", f"show bgp l2vpn evpn route rd {rd} type 5")
    assert "[10.72.2.0]" in told and "[10.72.3.0]" not in told, "what was taken is not told again"


def test_what_is_behind_a_host_is_reached_from_other_leaves(fabric: Fabric) -> None:
    assert fabric.reaches("far", "10.97.0.1")
    assert not fabric.hosts["dish"].ping("10.97.0.1", tries=2), "nobody said so for radar"


def test_a_second_prefix_of_a_segment_has_a_gateway_too(fabric: Fabric) -> None:
    assert fabric.reaches("buoy", "10.73.2.1") and fabric.reaches("far", "10.73.2.21")


def test_a_segment_whose_vlan_each_rack_chooses_is_one_segment(fabric: Fabric) -> None:
    numbers = fabric.lab.compiled.allocation.numbers
    assert len({numbers[f"vlan.rack-{rack}"]["segment/crates"] for rack in ("w1", "b1")}) == 2
    assert wait_until(lambda: fabric.heard("crane", "p0", lambda: fabric.send("dock", frames.UNTAGGED, "p0")) == 5, 60)


@pytest.mark.long
@pytest.mark.parametrize("host", ["dock", "crane"])
def test_hosts_are_given_addresses_by_a_server_in_another_segment(fabric: Fabric, host: str) -> None:
    """On the server's own leaf and on another; the crane's port waits for LACP, which a machine that starts from the network does not speak.

    IPv6 hosts are told to ask, and make no address of their own.
    """
    fabric.serve_dhcp("keeper")
    before = fabric.asked_dhcp("keeper")
    given = r"fixed-address 10\.72\.5\.1\d\d;"
    assert re.search(given, fabric.asks_dhcp(host, "-4", given))
    assert wait_until(lambda: "default via fe80::" in fabric.hosts[host].ask("ip", "-6", "route").out, 40)
    given = r"iaaddr fd72:0:0:5::1[0-9a-f]{2} "
    assert re.search(given, fabric.asks_dhcp(host, "-6", given))
    assert "fd72:0:0:5:" not in fabric.hosts[host].ask("ip", "-6", "address").out
    assert 2 <= fabric.asked_dhcp("keeper") - before <= fabric.asked_dhcp(host), (
        "one leaf hands a question on, however many have the segment"
    )


def test_dhcp_servers_may_be_in_another_vrf_than_whoever_asks(fabric: Fabric) -> None:
    """Radar's hosts are given addresses by a server in tides, and reach it no more than before."""
    fabric.serve_dhcp("keeper")
    given = r"fixed-address 10\.72\.3\.1\d\d;"
    assert re.search(given, fabric.asks_dhcp("dish", "-4", given))
    assert not fabric.hosts["dish"].ping("10.72.1.53", tries=2)


@pytest.mark.long
@pytest.mark.parametrize("group", ["239.1.2.3", "ff15::123"])
def test_a_group_reaches_those_who_joined_it_on_whichever_leaf(fabric: Fabric, group: str) -> None:
    """The meter's neighbour on the speaker's own leaf is in the segment too, and hears nothing, once it is known who listens."""
    for host, device in (("pier", "p0"), ("double", "bond0")):
        assert fabric.reaches(host, "10.72.2.21"), "what it says at once is heard"
        fabric.begin(host, "python3", "-c", frames.JOIN, group, device)

    def heard(host: str, device: str) -> int:
        speak = lambda: fabric.send("buoy", frames.TO_GROUP, "p0.102", group)  # noqa: E731
        return fabric.heard(host, device, speak, "udp port 5555")

    assert wait_until(lambda: heard("far", "p0") == 0, 60)
    assert heard("pier", "p0") == 5 and heard("double", "bond0") == 5


def test_a_paused_segment_is_silent_and_keeps_its_numbers(fabric: Fabric) -> None:
    compiled = fabric.lab.compiled
    assert compiled.allocation.numbers["vlan"]["segment/still"].low == 107
    leaf = fabric.lab.node("leaf-w1b")
    assert " UP " in leaf.run("ip", "-br", "link", "show", "h6") and "107" not in leaf.run("bridge", "vlan", "show")
    with ThreadPoolExecutor() as pool:
        asked = [pool.submit(fabric.hosts["asleep-a"].ping, one, tries=2) for one in ("10.72.7.1", "10.72.7.12")]
    assert not any(answer.result() for answer in asked)


def test_a_host_port_carries_its_segments_and_no_other_vlan(fabric: Fabric) -> None:
    """Not the VLANs of VRFs' tunnels, where a host could speak into a VRF, and nothing untagged where nothing is."""
    vrf = next(part for part in fabric.lab.compiled.models["leaf/w2/a"].vrfs if part.label == "tides")
    leaf = fabric.lab.node("leaf-w2")
    vlans = {line.split()[0] for line in leaf.run("bridge", "vlan", "show", "dev", "h1").splitlines()[1:]}
    assert vlans == {"h1", "102", "103", "104"}
    assert re.findall(r"\b10[1-4]\b", leaf.run("bridge", "vlan", "show", "dev", "h4")) == ["101"], (
        "a host of one segment"
    )
    assert fabric.heard("far", "p0", lambda: fabric.send("buoy", frames.TAGGED, "p0", "102")) == 5
    assert fabric.heard("far", "p0", lambda: fabric.send("buoy", frames.TAGGED, "p0", str(vrf.vlan))) == 0
    assert fabric.heard("twin", "p0", lambda: fabric.send("single", frames.UNTAGGED, "p0")) == 0
    assert "1" not in re.findall(r"\b\d+\b", leaf.run("bridge", "vlan", "show"))


def test_a_port_that_no_host_is_attached_to_passes_nothing(fabric: Fabric) -> None:
    """Somebody has plugged in a machine where the brief knows none; it speaks untagged, and tags every VLAN there is."""
    assert " DOWN " in fabric.lab.node("leaf-w1a").run("ip", "-br", "link", "show", "h4")
    assert not fabric.hosts["stranger"].ping("10.72.1.1", tries=2)
    assert fabric.heard("stranger", "p0", lambda: fabric.send("single", frames.UNTAGGED, "p0.101")) == 0


def test_a_lag_on_one_leaf_goes_on_when_one_of_its_links_goes(fabric: Fabric) -> None:
    assert fabric.reaches("double", "10.72.2.21") and fabric.reaches("double", "10.72.1.21", size=9000 - 28)
    leaf = fabric.lab.node("leaf-w2")
    assert leaf.run("cat", "/sys/class/net/bond-h5/bonding/slaves").split() == ["h5", "h6"]
    for down, up in (("h5", "h6"), ("h6", "h5")):
        leaf.run("ip", "link", "set", down, "down")
        leaf.run("ip", "link", "set", up, "up")
        assert fabric.reaches("double", "10.72.2.21", 20), f"over {up} alone"
    leaf.run("ip", "link", "set", "h6", "up")


def test_behind_a_host_are_as_many_addresses_as_its_plug_says(fabric: Fabric) -> None:
    """Its own and one more are taken up; those that come after are heard by nobody."""
    assert fabric.reaches("meter", "10.72.1.21")
    assert fabric.heard("far", "p0.101", lambda: fabric.send("meter", frames.MANY, "p0")) == 1
    assert fabric.reaches("meter", "10.72.1.21"), "and its own address goes on"
    behind = fabric.lab.node("leaf-w2").run("bridge", "fdb", "show", "brport", "h4")
    assert sum("02:00:00:00:09:" in line for line in behind.splitlines()) == 1


def test_behind_a_host_are_the_addresses_that_its_plug_names_and_no_others(fabric: Fabric) -> None:
    assert fabric.heard("far", "p0.101", lambda: fabric.send("auto", frames.MANY, "p0.101")) == 2


def test_a_storm_is_cut_off_where_the_plug_says(fabric: Fabric) -> None:
    def heard(host: str, storm: str, device: str) -> int:
        before = _received(fabric.hosts["single"], "p0.101")
        fabric.send(host, storm, device)
        time.sleep(1)
        return _received(fabric.hosts["single"], "p0.101") - before

    assert 10 <= heard("meter", frames.STORM, "p0") <= 80, "20 a second are let through, after a burst of 20"
    assert 60 <= heard("twin", frames.FLOOD, "p0.101") <= 350, "2.5 Mbit/s of the 25 Gbit/s, after ten large packets"


@pytest.mark.long
def test_a_broadcast_reaches_a_shared_host_once_and_never_comes_back(fabric: Fabric) -> None:
    """From afar, from the other leaf's own host, and from the shared host itself."""
    assert fabric.reaches("far", "10.72.1.11")
    assert fabric.heard("bonded", "bond0.101", lambda: fabric.send("far", frames.UNTAGGED, "p0.101")) == 5
    assert fabric.heard("bonded", "bond0.101", lambda: fabric.send("single", frames.UNTAGGED, "p0.101")) == 5
    assert fabric.heard("bonded", "bond0.101", lambda: fabric.send("twin", frames.UNTAGGED, "p0.101")) == 5
    assert fabric.heard("bonded", "bond0.101", lambda: fabric.send("bonded", frames.UNTAGGED, "bond0.101")) == 0


def test_one_leaf_of_the_pair_forwards_broadcasts_to_each_shared_host(fabric: Fabric) -> None:
    def waiting(leaf: str) -> str:
        return fabric.lab.node(leaf).run("nft", "list", "set", "bridge", "edge", "waiting")

    assert wait_until(lambda: "bond-h1" not in waiting("leaf-w1a") and "bond-h1" in waiting("leaf-w1b"), PATIENCE)
    # Nobody is plugged into h2 of the second leaf, so the first forwards there, though the second is preferred.
    assert wait_until(lambda: "bond-h2" not in waiting("leaf-w1a") and "bond-h2" in waiting("leaf-w1b"), PATIENCE)


ASKED = (
    ("border-b1", "show evpn vni"),
    ("border-b1", "show bgp vrf all summary"),
    ("border-b1", "show bgp l2vpn evpn route type 5"),
    ("leaf-w2", "show ip route vrf tides"),
)


def test_the_router_mac_is_the_planned_one_and_other_leaves_know_it(fabric: Fabric) -> None:
    for key in ("leaf/w1/a", "leaf/b1/a"):
        mac = fabric.lab.compiled.models[key].router_mac
        assert mac in fabric.lab.node(key).run("ip", "link", "show", "bridge")
    border = fabric.lab.compiled.models["leaf/b1/a"].router_mac
    known = lambda: fabric.lab.node("leaf-w2").run("vtysh", "-c", "show evpn rmac vni all")  # noqa: E731
    # Only who uses a route of the border leaf needs its MAC, and it has none to use before it is told one.
    said = lambda: [fabric.lab.node(name).run("vtysh", "-c", what) for name, what in ASKED]  # noqa: E731
    assert wait_until(lambda: border in known(), PATIENCE), [known(), *said()]


def test_vrfs_know_two_ways_to_a_shared_host_whatever_the_number_of_spines(fabric: Fabric) -> None:
    assert fabric.reaches("bonded", "10.72.1.1")
    route = lambda: fabric.lab.node("border-b1").run("ip", "route", "show", "vrf", "tides", "10.72.1.11")  # noqa: E731
    assert wait_until(lambda: route().count("via 10.0.32.") == 2, PATIENCE), route()


def test_systems_outside_are_told_the_vrfs_prefixes_and_give_only_what_is_allowed(fabric: Fabric) -> None:
    own = {"10.72.0.0/16", "10.73.2.0/24", "10.97.0.0/16"}
    router, firewall = fabric.hosts[ROUTER], fabric.hosts[FIREWALL]
    assert wait_until(lambda: outside.routes(router) == own | {"fd72:0:0:1::/64", "fd72:0:0:5::/64"}, PATIENCE), (
        outside.routes(router)
    )
    assert outside.routes(firewall) == own, "and neither learns what the other told"
    learnt = fabric.lab.node("leaf-w2").run("ip", "route", "show", "vrf", "tides")
    assert "\ndefault" in f"\n{learnt}" and "10.99.1.0/24" in learnt and "10.98.1.0/24" in learnt
    assert "10.66.0.0/16" not in learnt and "10.72.9.0/24" not in learnt


def test_the_switchs_own_questions_go_over_management(fabric: Fabric) -> None:
    leaf = fabric.lab.node("leaf-w2")
    assert leaf.run("ip", "route", "get", "10.255.30.53").split("dev ")[1].startswith("eth0")
    assert leaf.run("ip", "rule").count("10.255.30.53") == 1
    leaf.run("ifup", "eth0", "--interfaces", str(leaf.folder / "interfaces"))
    assert leaf.run("ip", "rule").count("10.255.30.53") == 1, "and once only, however often the port comes up"
    assert leaf.ask("ping", "-c", "1", "-W", "2", "-I", "mgmt", "10.255.30.53").code == 0


@pytest.mark.long
def test_loading_the_same_files_again_changes_nothing(fabric: Fabric) -> None:
    for name in ("leaf-w1a", "border-b1", "spine-1"):
        assert changes_on_reload(fabric.lab.node(name)) == [], name


@pytest.mark.long
def test_what_runs_is_adopted_with_the_files_that_run(fabric: Fabric) -> None:
    """As the daemons tell it: their own running configuration, LLDP and devices, into an empty Barrio."""
    found = adopt(read_saved(saved(fabric.lab)), "whole")
    for key, node in fabric.lab.nodes.items():
        assert found.compiled.files(found.keys[str(node.switch.name)]) == fabric.lab.compiled.files(key), key
    lines = [line for one in found.left.values() for line in one.lines]
    # Another claim gives one switch a host key of the lab.
    assert not [line for line in lines if line.path != "etc/ssh/sshd_config"] and not found.oddities


@pytest.mark.long
def test_files_in_another_hand_change_nothing_where_they_are_loaded_nor_do_those_of_barrio_after_them(
    fabric: Fabric,
) -> None:
    for name in ("leaf-w1a", "border-b1"):
        node = fabric.lab.node(name)
        model, own = fabric.lab.compiled.models[node.switch.key], fabric.lab.compiled.files(node.switch.key)
        before = standing(node, model)
        for files in (restyled(own, 1), own):
            apply(node, files, fabric.lab.missing)
            later = standing(node, model)
            assert not before.restarted(later) and not before.went_down(later), name


def test_a_host_that_floods_takes_a_small_part_of_the_others(fabric: Fabric) -> None:
    before = _received(fabric.hosts["single"], "p0.101")
    fabric.send("far", frames.STORM, "p0.101")
    time.sleep(1)
    heard = _received(fabric.hosts["single"], "p0.101") - before
    assert 100 <= heard <= 800, "200 a second are let through, after a burst of 200"


def _received(host: Host, device: str) -> int:
    return int(host.ask("cat", "/proc/net/dev").out.split(f"{device}:")[1].split()[1])


def test_a_host_port_that_hears_a_bpdu_is_shut(fabric: Fabric) -> None:
    leaf = fabric.lab.node("leaf-w2")
    assert " UP " in leaf.run("ip", "-br", "link", "show", "h3")
    fabric.send("dish", frames.BPDU, "p0")
    assert wait_until(lambda: " DOWN " in leaf.run("ip", "-br", "link", "show", "h3"), 5)
    leaf.run("ip", "link", "set", "h3", "up")
    assert fabric.reaches("dish", "10.72.3.1")


def test_a_shared_host_goes_on_within_a_second_when_a_leaf_of_its_pair_dies(fabric: Fabric) -> None:
    """All links of the leaf that forwards go at once, as when its power does; ten requests a second from afar."""
    ports = ("u1", "u2", "h1", "h2", "h3")
    dying = fabric.lab.node("leaf-w1a")
    assert fabric.reaches("far", "10.72.1.11")
    with ThreadPoolExecutor() as pool:
        words = ["ping", "-n", "-i", "0.1", "-c", "100", "-W", "1", "10.72.1.11"]
        asked = pool.submit(fabric.hosts["far"].ask, *words)
        time.sleep(3)
        dying.run("sh", "-c", f"for port in {' '.join(ports)}; do ip link set $port down; done")
        said = asked.result().out
    answered = {int(number) for number in re.findall(r"icmp_seq=(\d+) ttl", said)}
    gaps = _longest_gap(answered, 100)
    assert gaps < 10, f"{gaps} requests in a row had no answer"
    assert max(answered) > 95, "and it goes on"
    waiting = lambda: fabric.lab.node("leaf-w1b").run("nft", "list", "set", "bridge", "edge", "waiting")  # noqa: E731
    assert wait_until(lambda: "bond-h1" not in waiting(), PATIENCE), "the other leaf forwards broadcasts now"
    assert fabric.heard("bonded", "bond0.101", lambda: fabric.send("far", frames.UNTAGGED, "p0.101")) == 5
    dying.run("sh", "-c", f"for port in {' '.join(ports)}; do ip link set $port up; done")


def _longest_gap(answered: set[int], of: int) -> int:
    longest = run = 0
    for number in range(1, of + 1):
        run = 0 if number in answered else run + 1
        longest = max(longest, run)
    return longest
