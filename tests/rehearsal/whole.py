"""A small fabric with everything switched on, for the lab on a whole kernel: 2 spines, 4 leaves, hosts, systems outside."""

from __future__ import annotations

import re
import time
from collections.abc import Callable

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.catalogue.made import MADE
from barrio.core.catalogue.model import PortGroup, SwitchType
from barrio.rehearsal.ground import wait_until
from barrio.rehearsal.hosts import Plugged
from barrio.rehearsal.lab import Lab
from tests.conftest import KEY

SMALL_LEAF = SwitchType(
    id="lonja-e6", maker="Lonja", name="E6", tiers=["leaf"], power=90,
    groups=[
        PortGroup(prefix="h", count=6, speeds=[25], use="host", connector="SFP28"),
        PortGroup(prefix="u", count=4, speeds=[100], use="fabric", connector="QSFP28"),
    ],
)  # fmt: skip

PATIENCE = 180
"""Seconds after which something that a lab waits for will not come; as a rule it takes a few, on a machine without time many."""
SLOW = "bfd: {interval: 3000, multiplier: 10}, timers: {keepalive: 20, hold: 90}"
"""Words for an underlay whose sessions outlive a machine that has no time for them for some seconds."""

BRIEF = """
fabric: whole
spines: {count: 2, racks: w0}
racks:
  - {racks: w1, leaves: 2, model: lonja-e6, pairing: multihoming, lags: h1..h2}
  - {racks: w2, leaves: 1, model: lonja-e6}
  - {racks: b1, leaves: 1, model: lonja-e6, role: border}
underlay: {addressing: unnumbered, SLOW}
overlay: {startup_delay: 5, storm: 200}
vrfs:
  tides: {imports: {radar: [sweep]}, routes: {10.97.0.0/16: 10.72.2.61}, aggregates: [10.72.0.0/16]}
  radar: {imports: {tides: [10.72.2.0/24]}}
segments:
  tide-grid: {vrf: tides, vlan: 101, v4: 10.72.1.0/24, v6: "fd72:0:0:1::/64"}
  buoys: {vrf: tides, vlan: 102, v4: 10.72.2.0/24, secondary: [10.73.2.0/24], multicast: snoop}
  sweep: {vrf: radar, vlan: 103, v4: 10.72.3.0/24, untagged: true, racks: w2, relay: {servers: [10.72.1.53], vrf: tides}}
  crates:
    {vrf: tides, scope: leaf, v4: 10.72.5.0/24, v6: "fd72:0:0:5::/64", ra: managed, relay: {servers: [10.72.1.53, "fd72:0:0:1::53"]}}
  still: {vrf: tides, vlan: 107, v4: 10.72.7.0/24, state: paused}
  copy: {vlan: 104, racks: "w1, w2"}
  anchors: {scope: leaf}
plugs:
  idle: {untagged: still}
  rack: {tagged: [tide-grid, buoys, copy]}
  dual: {lag: lacp, tagged: [tide-grid, buoys, copy]}
  mixed: {tagged: [tide-grid, buoys, copy], untagged: sweep}
hosts:
  bonded: {at: w1 h1, plug: dual}
  unbonded: {at: w1 h2, plug: dual}
  single: {at: w1/a h3, plug: rack}
  twin: {at: w1/b h3, plug: rack, storm: 0.01%}
  far: {at: w2 h1, plug: mixed}
  buoy: {at: w2 h2, plug: mixed}
  dish: {at: w2 h3, plug: mixed}
  meter: {at: w2 h4, untagged: tide-grid, macs: 2, storm: 20}
  double: {at: w2 h5..h6, lag: lacp, untagged: buoys}
  auto: {at: b1 h1, tagged: [tide-grid, buoys], only_macs: ["02:00:00:00:09:02", "02:00:00:00:09:05"]}
  pier: {at: b1 h2, untagged: buoys, tagged: [anchors]}
  keeper: {at: b1 h3, untagged: tide-grid}
  dock: {at: b1 h4, untagged: crates}
  asleep-a: {at: w1/a h6, plug: idle}
  asleep-b: {at: w1/b h6, plug: idle}
  crane: {at: w1 h5, lag: lacp, untagged: crates}
outside:
  harbour-router:
    asn: 64600
    default: in
    accept: [10.99.0.0/16]
    links: [{switch: leaf/b1/a, port: h6, vrfs: {tides: {vlan: 301, v6: auto}}}]
  port-firewall:
    asn: 64601
    accept: [10.98.0.0/16]
    links: [{switch: leaf/b1/a, port: h5, vrfs: {tides: {}}}]
services:
  domain: whole.example
  dns: [10.255.30.53]
  ntp: [10.255.30.21]
  syslog: [10.255.30.14]
  banner: "Puerto Azulejo; authorised people only"
  sign_in_from: [10.255.0.0/19]
  snmp: {users: [monitor]}
  users:
    ines: {keys: ["KEY"]}
    teo: {role: operator, keys: ["KEY"]}
""".replace("KEY", KEY).replace("SLOW", SLOW)

ROUTER, FIREWALL = "harbour-router", "port-firewall"
GRID, BUOYS, SWEEP = 101, 102, 103
PAIR = ("leaf-w1a", "leaf-w1b")
HOSTS = {
    "bonded": Plugged(
        tuple((leaf, "h1") for leaf in PAIR), ("10.72.1.11/24", "fd72:0:0:1::11/64"), ("10.72.1.1",), GRID
    ),
    "unbonded": Plugged(((PAIR[0], "h2"),), ("10.72.1.12/24",), ("10.72.1.1",), GRID),
    "single": Plugged(((PAIR[0], "h3"),), ("10.72.1.13/24",), ("10.72.1.1",), GRID),
    "twin": Plugged(((PAIR[1], "h3"),), ("10.72.1.14/24",), ("10.72.1.1",), GRID),
    "far": Plugged((("leaf-w2", "h1"),), ("10.72.1.21/24", "fd72:0:0:1::21/64"), ("10.72.1.1",), GRID),
    "buoy": Plugged((("leaf-w2", "h2"),), ("10.72.2.21/24", "10.73.2.21/24"), ("10.72.2.1",), BUOYS),
    "dish": Plugged((("leaf-w2", "h3"),), ("10.72.3.21/24",), ("10.72.3.1",)),
    "auto": Plugged((("border-b1", "h1"),), (), (), GRID),
    "meter": Plugged((("leaf-w2", "h4"),), ("10.72.1.31/24",), ("10.72.1.1",)),
    "double": Plugged((("leaf-w2", "h5"), ("leaf-w2", "h6")), ("10.72.2.31/24",), ("10.72.2.1",)),
    "pier": Plugged((("border-b1", "h2"),), ("10.72.2.61/24", "10.97.0.1/32"), ("10.72.2.1",)),
    "keeper": Plugged((("border-b1", "h3"),), ("10.72.1.53/24", "fd72:0:0:1::53/64"), ("10.72.1.1", "fd72:0:0:1::1")),
    "dock": Plugged((("border-b1", "h4"),)),
    "crane": Plugged(((PAIR[0], "h5"),)),
    "asleep-a": Plugged(((PAIR[0], "h6"),), ("10.72.7.11/24",)),
    "asleep-b": Plugged(((PAIR[1], "h6"),), ("10.72.7.12/24",)),
    "stranger": Plugged(((PAIR[0], "h4"),), ("10.72.1.41/24",), ("10.72.1.1",)),
}


def whole() -> Compiled:
    return compile(read(BRIEF).brief, catalogue=MADE.with_models([SMALL_LEAF]))


KEEPER = [
    "--port=0",
    "--no-daemon",
    "--conf-file=/dev/null",
    "--user=root",
    "--interface=p0",
    "--bind-interfaces",
    "--dhcp-authoritative",
    "--log-dhcp",
]
"""How a real DHCP server is told to serve what its ranges say, and nothing else (dnsmasq)."""


RANGES = (
    "10.72.5.100,10.72.5.199,255.255.255.0,1h", "10.72.3.100,10.72.3.199,255.255.255.0,1h",
    "fd72:0:0:5::100,fd72:0:0:5::1ff,64,1h",
)  # fmt: skip


class Fabric:
    """The running lab, its hosts by name."""

    def __init__(self, lab: Lab) -> None:
        self.lab = lab
        self._serving: set[str] = set()
        self.hosts = dict(zip((*HOSTS, ROUTER, FIREWALL), lab.hosts, strict=True))

    def begin(self, host: str, *command: str) -> int:
        """Begin a program on a host that stays, at most as long as the lab; its number."""
        inside = f"--net=/run/netns/{self.hosts[host].namespace}"
        return self.lab.ground.start("nsenter", inside, *command, log=self.lab.ground.folder / f"{host}.log")

    def serve_dhcp(self, host: str) -> None:
        """Begin a DHCP server on a host, once, for all segments that ask it."""
        if host in self._serving:
            return
        self._serving.add(host)
        leases = f"--dhcp-leasefile={self.lab.ground.folder}/leases-of-{host}"
        self.begin(host, "dnsmasq", *KEEPER, leases, *(f"--dhcp-range={one}" for one in RANGES))

    def asked_dhcp(self, host: str) -> int:
        """How many first questions a client on a host has sent, or the server on it has been given."""
        said = (self.lab.ground.folder / f"{host}.log").read_text()
        return len(
            re.findall(r"^DHCPDISCOVER on|^XMT: Solicit on|dnsmasq-dhcp: \d+ DHCP(?:DISCOVER|SOLICIT)", said, re.M)
        )

    def asks_dhcp(self, host: str, family: str, wanted: str) -> str:
        """The lease that a real client on a host is given, once it holds what is wanted, or what it has after a while."""
        lease = self.lab.ground.folder / f"lease-{host}{family}"
        lease.write_text("")
        client = self.begin(
            host, "dhclient", family, "-1", "-d", "-sf", "/bin/true", "--no-pid", "-lf", str(lease), "p0"
        )
        wait_until(lambda: re.search(wanted, lease.read_text()) is not None, 60)
        self.lab.ground.stop(client)
        return lease.read_text()

    def reaches(self, one: str, target: str, seconds: float = 60, size: int = 56) -> bool:
        """Whether a ping comes back within so many seconds of trying."""
        return wait_until(lambda: self.hosts[one].ping(target, size), seconds)

    def heard(self, host: str, device: str, act: Callable[[], object], what: str = "ether proto 0x88b5") -> int:
        """How many such frames a host hears on a device while something happens and for two seconds more."""
        inside = f"--net=/run/netns/{self.hosts[host].namespace}"
        words = ["tcpdump", "--immediate-mode", "-ln", "-Q", "in", "-i", device, *what.split()]
        log = self.lab.ground.folder / f"heard-{time.monotonic_ns()}"
        listener = self.lab.ground.start("nsenter", inside, *words, log=log)
        assert wait_until(lambda: "listening on" in log.read_text(), 60), log.read_text()
        act()
        time.sleep(2)
        self.lab.ground.stop(listener)
        return len(re.findall(r"^\d\d:\d\d:", log.read_text(), re.MULTILINE))

    def send(self, host: str, program: str, device: str, *words: str) -> None:
        done = self.hosts[host].ask("python3", "-c", program, device, *words)
        assert done.code == 0, done.err
