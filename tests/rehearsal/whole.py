"""A small fabric with everything switched on, for the lab on a whole kernel: 2 spines, 4 leaves, hosts, systems outside."""

from __future__ import annotations

import re
import time
from collections.abc import Callable

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.catalogue.made import MADE
from barrio.core.catalogue.model import PortGroup, SwitchType
from barrio.rehearsal.hosts import Plugged
from barrio.rehearsal.lab import Lab
from barrio.rehearsal.questions import wait_until
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
vrfs: {tides: {}, radar: {}}
segments:
  tide-grid: {vrf: tides, vlan: 101, v4: 10.72.1.0/24, v6: "fd72:0:0:1::/64"}
  buoys: {vrf: tides, vlan: 102, v4: 10.72.2.0/24}
  sweep: {vrf: radar, vlan: 103, v4: 10.72.3.0/24, untagged: true, racks: w2}
  copy: {vlan: 104, racks: "w1, w2"}
plugs:
  rack: {tagged: [tide-grid, buoys, copy]}
  dual: {lag: lacp, tagged: [tide-grid, buoys, copy]}
  mixed: {tagged: [tide-grid, buoys, copy], untagged: sweep}
hosts:
  bonded: {at: w1 h1, plug: dual}
  unbonded: {at: w1 h2, plug: dual}
  single: {at: w1/a h3, plug: rack}
  twin: {at: w1/b h3, plug: rack}
  far: {at: w2 h1, plug: mixed}
  buoy: {at: w2 h2, plug: mixed}
  dish: {at: w2 h3, plug: mixed}
  meter: {at: w2 h4, untagged: tide-grid, macs: 2, storm: 20}
  double: {at: w2 h5..h6, lag: lacp, untagged: buoys}
  auto: {at: b1 h1, tagged: [tide-grid, buoys]}
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
    "buoy": Plugged((("leaf-w2", "h2"),), ("10.72.2.21/24",), ("10.72.2.1",), BUOYS),
    "dish": Plugged((("leaf-w2", "h3"),), ("10.72.3.21/24",), ("10.72.3.1",)),
    "auto": Plugged((("border-b1", "h1"),), (), (), GRID),
    "meter": Plugged((("leaf-w2", "h4"),), ("10.72.1.31/24",), ("10.72.1.1",)),
    "double": Plugged((("leaf-w2", "h5"), ("leaf-w2", "h6")), ("10.72.2.31/24",), ("10.72.2.1",)),
    "stranger": Plugged(((PAIR[0], "h4"),), ("10.72.1.41/24",), ("10.72.1.1",)),
}


def whole() -> Compiled:
    return compile(read(BRIEF).brief, catalogue=MADE.with_models([SMALL_LEAF]))


class Fabric:
    """The running lab, its hosts by name."""

    def __init__(self, lab: Lab) -> None:
        self.lab = lab
        self.hosts = dict(zip((*HOSTS, ROUTER, FIREWALL), lab.hosts, strict=True))

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
