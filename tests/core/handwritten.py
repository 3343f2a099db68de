"""A fabric as somebody else wrote it by hand: other names, another order, other words, tabs; two spines and two racks of leaf pairs."""

from __future__ import annotations

import json

from barrio.core.adopt.running import Running
from barrio.core.cabling.heard import Heard, Port

TORS = ("tor-11-1", "tor-11-2", "tor-12-1", "tor-12-2")
CORES = ("core-1", "core-2")
VLANS = {210: ("10.40.10", "STAFF"), 220: ("10.40.20", "CAMERAS")}


def fabric() -> list[Running]:
    """All six switches, with what they hear by LLDP."""
    return [_core(number) for number in (1, 2)] + [_tor(place) for place in range(4)]


def _link(core: int, tor: int) -> int:
    """The last byte of the lower address of a link."""
    return (core - 1) * 32 + tor * 2


def _heard(name: str, port: str, far: str, far_port: str) -> Heard:
    return Heard(Port(name, port), Port(far, far_port))


def _core(number: int) -> Running:
    name = f"core-{number}"
    sessions, stanzas, heard = [], [], []
    for tor, other in enumerate(TORS):
        byte = _link(number, tor)
        sessions.append(
            f" neighbor 172.20.4.{byte + 1} remote-as {65101 + tor}\n neighbor 172.20.4.{byte + 1} peer-group TORS"
        )
        stanzas.append(f"auto fab{tor + 1}\niface fab{tor + 1}\n\tmtu 9100\n\taddress 172.20.4.{byte}/31\n")
        heard.append(_heard(name, f"fab{tor + 1}", other, f"up{number}"))
    frr = "\n".join([
        "frr version 8.4.4", "frr defaults traditional", f"hostname {name}", "log syslog informational", "service integrated-vtysh-config", "!",
        "router bgp 65001", f" bgp router-id 172.20.0.{number}", " no bgp ebgp-requires-policy", " no bgp default ipv4-unicast", " neighbor TORS peer-group",
        " neighbor TORS timers 10 30", *sessions, " !", " address-family ipv4 unicast", f"  network 172.20.0.{number}/32",
        "  neighbor TORS activate", "  maximum-paths 2", " exit-address-family", " !", " address-family l2vpn evpn",
        "  neighbor TORS activate", " exit-address-family", "exit", "!", "end", "",
    ])  # fmt: skip
    files = {
        "etc/frr/frr.conf": frr,
        "etc/network/interfaces": _lo(f"172.20.0.{number}") + _mgmt(number) + "".join(stanzas),
    }
    return Running(name, files | _services(), tuple(heard), {f"fab{port}": 100 for port in range(1, 17)})


def _tor(place: int) -> Running:
    name, own, tunnel = TORS[place], f"172.20.0.{11 + place}", f"172.20.1.{11 + place}"
    ups, heard = [], []
    sessions = []
    for core in (1, 2):
        byte = _link(core, place)
        sessions.append(f" neighbor 172.20.4.{byte} remote-as 65001\n neighbor 172.20.4.{byte} peer-group CORES")
        ups.append(f"auto up{core}\niface up{core}\n\taddress 172.20.4.{byte + 1}/31\n\tmtu 9100\n")
        heard.append(_heard(name, f"up{core}", f"core-{core}", f"fab{place + 1}"))
    hosts = [
        f"auto lan{port}\niface lan{port}\n\talias {'desk' if port < 5 else 'cam'}-{place * 10 + port:02d}\n\tbridge-access {210 if port < 5 else 220}\n"
        for port in range(1, 9)
    ]  # fmt: skip
    tunnels = [
        f"auto vx{vlan}\niface vx{vlan}\n\tvxlan-id {10000 + vlan}\n\tvxlan-local-tunnelip {tunnel}\n\tbridge-access {vlan}\n\tvxlan-learning off\n\tbridge-learning off\n"
        for vlan in (*VLANS, 900)
    ]  # fmt: skip
    gateways = [
        f"auto gw{vlan}\niface gw{vlan}\n\talias {words}\n\tvlan-id {vlan}\n\tvlan-raw-device br0\n\tvrf office\n\tmtu 9000\n"
        f"\thwaddress 02:00:5e:00:0a:01\n\taddress {net}.1/24\n"
        for vlan, (net, words) in VLANS.items()
    ]  # fmt: skip
    ports = " ".join([*(f"lan{port}" for port in range(1, 9)), *(f"vx{vlan}" for vlan in (*VLANS, 900))])
    bridge = f"auto br0\niface br0\n\tbridge-vlan-aware yes\n\tbridge-ports {ports}\n\tbridge-vids 210 220 900\n\thwaddress 02:40:00:00:01:{place:02x}\n"
    vrf = f"auto office\niface office\n\tvrf-table auto\n\nauto l3\niface l3\n\tvlan-id 900\n\tvlan-raw-device br0\n\tvrf office\n\thwaddress 02:40:00:00:01:{place:02x}\n"
    frr = "\n".join([
        "Building configuration...", "", "Current configuration:", "!", "frr version 8.4.4", "frr defaults traditional", f"hostname {name}", "!",
        "vrf office", " vni 10900", "exit-vrf", "!",
        f"router bgp {65101 + place}", f" bgp router-id {own}", " no bgp ebgp-requires-policy", " no bgp default ipv4-unicast", " bgp bestpath as-path multipath-relax",
        " neighbor CORES peer-group", " neighbor CORES timers 10 30", *sessions, " !", " address-family ipv4 unicast", f"  network {own}/32",
        f"  network {tunnel}/32", "  neighbor CORES activate", "  maximum-paths 2", " exit-address-family", " !", " address-family l2vpn evpn",
        "  neighbor CORES activate", "  advertise-all-vni", " exit-address-family", "exit", "!",
        f"router bgp {65101 + place} vrf office", " !", " address-family ipv4 unicast", "  redistribute connected", " exit-address-family",
        " !", " address-family l2vpn evpn", "  advertise ipv4 unicast", " exit-address-family", "exit", "!", "end", "",
    ])  # fmt: skip
    text = _lo(own, tunnel) + _mgmt(10 + place) + "".join([*ups, *hosts, *tunnels, bridge, vrf, *gateways])
    files = {"etc/frr/frr.conf": frr, "etc/network/interfaces": text}
    fronts = {f"lan{port}": 25 for port in range(1, 25)} | {f"up{port}": 100 for port in range(1, 5)}
    return Running(name, files | _services(), tuple(heard), fronts)


def _lo(*addresses: str) -> str:
    return "# by hand\nauto lo\niface lo inet loopback\n" + "".join(f"\taddress {one}/32\n" for one in addresses) + "\n"


def _mgmt(number: int) -> str:
    return (
        "auto mgmt\niface mgmt\n\tvrf-table auto\n\nauto eth0\niface eth0\n\tvrf mgmt\n"
        f"\taddress 192.168.90.{number}/24\n\tgateway 192.168.90.254\n\n"
    )


def _services() -> dict[str, str]:
    return {
        "etc/chrony/chrony.conf": "pool 192.168.90.5 iburst\nmakestep 1 3\n",
        "etc/resolv.conf": "domain office.example\nnameserver 192.168.90.6\n",
        "etc/rsyslog.d/remote.conf": "*.* @@192.168.90.7:514\n",
    }


def links_json(running: Running) -> str:
    """What `ip -j link` says of a front."""
    return json.dumps([{"ifname": port, "link_type": "ether"} for port in running.ports])
