"""A lab: every switch of a compiled fabric booted in a network namespace, from the files that Barrio rendered.

Links are veth pairs with the planned port names. In each namespace ifupdown2 brings up the interfaces file, then the
routing daemons that the switch's own file names run, vtysh loads frr.conf, and lldpd announces. Where the kernel has VRFs, an
out-of-band network joins the management ports. Everything started here ends with the
ground. Of a slice only some switches are booted; their ports to others hear nothing.
"""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Collection, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import count
from types import MappingProxyType, TracebackType

from barrio.core import Compiled
from barrio.core.rehearse.claimed import played, reaches_of
from barrio.core.rehearse.stations import Machine, Station, machines
from barrio.core.structure.parts import Switch
from barrio.rehearsal.cords import Cords, ip
from barrio.rehearsal.ground import Ground, NoLab
from barrio.rehearsal.hosts import Host, Plugged, Seat, base_commands, seated
from barrio.rehearsal.kernel import DEVICES, lacks
from barrio.rehearsal.node import Node
from barrio.rehearsal.room import Here

_serial = count(1)


@dataclass
class Booting:
    """How far a switch is: in a word, and in how many seconds it came up."""

    name: str
    rack: str
    words: str = "waits"
    seconds: float = 0.0
    failed: bool = False


def _place(one: Station) -> tuple[object, ...]:
    """How a host is in a segment, apart from which of its addresses it has."""
    return one.host, one.segment, one.vrf, one.leaves, one.vlan, one.gateway4, one.gateway6, one.mtu


class Lab:
    """Use as a context manager: entering boots the fabric on a ground, leaving takes it down and the ground with it."""

    def __init__(
        self, compiled: Compiled, ground: Ground | None = None, hosts: Sequence[Plugged] = (),
        keys: Collection[str] | None = None, machines: Sequence[Machine] = (), beside: Sequence[Ground] = (),
        parts: Mapping[str, int] = MappingProxyType({}),
    ) -> None:  # fmt: skip
        self.compiled = compiled
        self._places = compiled.structure.places
        self._planned, self.machines = tuple(hosts), tuple(machines)
        self.ground: Ground = ground or Here()
        self.laid = Cords([self.ground, *beside])
        self._parts = parts
        self.missing = frozenset[str]().union(*map(lacks, self.laid.grounds))
        self.hosts: list[Host] = []
        self.stem = f"barrio{os.getpid()}-{next(_serial)}-"
        self._spaces = count(0)
        self.oob = f"{self.stem}oob"
        self._asides = {one: f"{self.stem}aside{at}" for at, one in enumerate(self.laid.grounds)}
        self.nodes = {
            switch.key: self._node(switch)
            for switch in compiled.structure.switches
            if keys is None or switch.key in keys
        }
        self.models = {key: compiled.models[key] for key in self.nodes}
        self.seats: dict[Station, Seat] = {}
        self.tell: Callable[[], None] = lambda: None
        self.state = {key: Booting(node.switch.name, node.switch.rack) for key, node in self.nodes.items()}
        self.cables = {end.link.key: (end.upper_port, end.lower_port) for end in compiled.ends}

    def _node(self, switch: Switch) -> Node:
        ground = self.laid.grounds[self._parts.get(switch.key, 0)]
        folders = ground.folder / switch.name, ground.run_folder / switch.name
        return Node(switch, f"{self.stem}{next(self._spaces)}", *folders, ground)

    def at(self, namespace: str) -> Ground:
        """The ground that a namespace is on."""
        return self.laid.where.get(namespace, self.ground)

    @property
    def at_once(self) -> int:
        """How many switches are asked side by side."""
        return max(2, sum(ground.at_once for ground in self.laid.grounds))

    @property
    def has_oob(self) -> bool:
        return "VRF" not in self.missing

    def node(self, name: str) -> Node:
        return next(node for node in self.nodes.values() if name in (node.switch.name, node.switch.key))

    def ip(self, *lines: str, namespace: str) -> None:
        """Commands of `ip` in a namespace, one a line, all in one process. Raises `NoLab` with the first that fails."""
        ip(self.at(namespace), *lines, namespace=namespace)

    def plug(self, host: Plugged) -> Host:
        """A machine on ports of leaves, in a namespace of its own."""
        made = self._plug(host)
        self.laid.lay()
        self.ip(*host.commands(), namespace=made.namespace)
        return made

    def _plug(self, host: Plugged) -> Host:
        made = Host(f"{self.stem}h{len(self.hosts)}", host, self._ground_of(host.ports))
        self.hosts.append(made)
        self.laid.space(made.namespace, made.ground)
        self._cable_ports(made.namespace, host.ports)
        return made

    def _ground_of(self, ports: Sequence[tuple[str, str]]) -> Ground:
        """Where a machine is: beside the first switch that it is plugged into."""
        return self.node(ports[0][0]).ground if ports else self.ground

    def _cable_ports(self, namespace: str, ports: Sequence[tuple[str, str]]) -> None:
        for at, (leaf, port) in enumerate(ports):
            self.laid.cable((namespace, f"p{at}"), (self.node(leaf).namespace, port))

    def __enter__(self) -> Lab:
        try:
            self._cable()
            self._boot_all()
        except BaseException:
            self._end()
            raise
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._end()

    def _boot_all(self) -> None:
        """Boot every switch; each ground boots its own, so many side by side."""
        pools = {ground: ThreadPoolExecutor(ground.at_once) for ground in self.laid.grounds}
        try:
            for boots in [pools[node.ground].submit(self._boot, node) for node in self.nodes.values()]:
                boots.result()
        finally:
            for pool in pools.values():
                pool.shutdown(cancel_futures=True)

    def _cable(self) -> None:
        whole = not self.missing & DEVICES
        for ground, name in self._asides.items():
            self.laid.space(name, ground)
        for node in self.nodes.values():
            self.laid.space(node.namespace, node.ground)
        for end in self.compiled.ends:
            upper, lower = (self.nodes.get(one.key) for one in (end.link.upper, end.link.lower))
            if upper and lower:
                self.laid.cable((upper.namespace, end.upper_port), (lower.namespace, end.lower_port))
            for one, port in ((upper, end.upper_port), (lower, end.lower_port)):
                if one and not (upper and lower):
                    self._idle(one, port)
        if whole:
            self._idle_ports()
        hosts = [self._plug(host) for host in self._planned]
        seated = [(machine, self._seat(machine)) for machine in self.machines if whole]
        if self.has_oob:
            self.laid.space(self.oob, self.ground)
            for key, node in self.nodes.items():
                port = self.models[key].management.interface
                self.laid.cable((self.oob, f"m{self._places[node.switch.key]}"), (node.namespace, port))
        self.laid.lay()
        for host in hosts:
            self.ip(*host.plugged.commands(), namespace=host.namespace)
        for machine, seats in seated:
            self._sit(machine, seats)
        if whole:
            self._lend()
        if self.has_oob:
            self._out_of_band()

    def _idle_ports(self) -> None:
        """Ports that no cable of the lab is in: they exist on a switch all the same, and hear nothing."""
        taken = {end for host in self._planned for end in host.ports} | {
            end for one in self.machines for end in one.ports
        }
        for key, model in self.models.items():
            node = self.nodes[key]
            for label in (*(port.label for port in model.host_ports), *(port.label for port in model.outside_ports)):
                if (node.switch.name, label) not in taken:
                    self._idle(node, label)

    def _idle(self, node: Node, port: str) -> None:
        self.laid.cable((node.namespace, port), (self._asides[node.ground], f"s{self._places[node.switch.key]}{port}"))

    def _seat(self, machine: Machine) -> list[Seat]:
        """A host plugged into its ports, with a namespace for each segment that it is in."""
        base, ground = f"{self.stem}m{len(self.seats)}", self._ground_of(machine.ports)
        seats = seated(machine, base, ground)
        for name in dict.fromkeys([base, *(one.namespace for one in seats)]):
            self.laid.space(name, ground)
        self._cable_ports(base, machine.ports)
        self.seats |= {one.station: one for one in seats}
        return seats

    def _sit(self, machine: Machine, seats: Sequence[Seat]) -> None:
        base = seats[0].base
        self.ip(*base_commands(machine, seats), namespace=base)
        for one in seats:
            self.ip(*one.commands(), namespace=one.namespace)

    def _lend(self) -> None:
        """Addresses that claims ask for and that a host of some segment has in the real world."""
        for address, station in played(self.compiled, list(self.seats)).items():
            seat = self.seats[station]
            length = 128 if ":" in address else 32
            self.ip(
                f"address add {address}/{length} dev {seat.device}{' nodad' if length == 128 else ''}",
                namespace=seat.namespace,
            )

    def _out_of_band(self) -> None:
        """The management network: a bridge with the gateway's address, a port to each switch, and whoever is asked there."""
        models = self.models.values()
        gateways = {(model.management.gateway, model.management.address.split("/")[1]) for model in models}
        common = next(iter(models)).common
        servers = {str(text) for text in (*common.dns, *common.ntp, *common.syslog) if text[0].isdigit()}
        servers |= {one.whom for one in reaches_of(self.compiled) if one.managed and isinstance(one.whom, str)}
        lines = ["link add name br0 type bridge"]
        inside = [f"link set m{self._places[node.switch.key]} master br0 up" for node in self.nodes.values()]
        inside += [f"address add {gateway}/{length} dev br0" for gateway, length in sorted(gateways)]
        inside += [f"address add {server}/32 dev lo" for server in sorted(servers)]
        self.ip(*lines, *inside, "link set br0 up", "link set lo up", namespace=self.oob)

    def join(self, compiled: Compiled, key: str) -> Node:
        """Put a switch more beside those that run, of a fabric that they are to become: with its ports, and nothing in them yet."""
        switch = compiled.structure.by_key[key]
        node = self.nodes[key] = self._node(switch)
        model = self.models[key] = compiled.models[key]
        self.state[key] = Booting(switch.name, switch.rack)
        ports = [*(port.label for port in model.host_ports), *(port.label for port in model.outside_ports)]
        whole = not self.missing & DEVICES
        self.laid.space(node.namespace, node.ground)
        for label in ports if whole else ():
            self._idle(node, label)
        far = f"mx{len(self.nodes)}"
        if self.has_oob:
            self.laid.cable((self.oob, far), (node.namespace, model.management.interface))
        self.laid.lay()
        if self.has_oob:
            self.ip(f"link set {far} master br0 up", namespace=self.oob)
        return node

    def boot(self, compiled: Compiled, node: Node) -> None:
        """Boot a switch that joined. Raises `NoLab`."""
        self._boot(node, dict(compiled.files(node.switch.key)))

    def recable(self, after: Compiled, keys: Collection[str]) -> dict[str, list[str]]:
        """Plug the cables of these switches as another fabric has them: those with other ends are pulled and laid anew, new ones are laid. By the name of a
        switch the ports that a hand was on."""
        touched: dict[str, list[str]] = {}
        for end in after.ends:
            ends = ((end.link.upper, end.upper_port), (end.link.lower, end.lower_port))
            here = {switch.key for switch, _ in ends} & self.nodes.keys()
            was = self.cables.get(end.link.key)
            same = was == (end.upper_port, end.lower_port) and all(self._has(switch.key, port) for switch, port in ends)
            if same or not here & set(keys):
                continue
            for (switch, port), old in zip(ends, was or (None, None), strict=True):
                for label in dict.fromkeys((old, port)):
                    if label is not None and switch.key in here and self._has(switch.key, label):
                        self.ip(f"link del {label}", namespace=self.nodes[switch.key].namespace)
                        touched.setdefault(switch.name, []).append(label)
                touched.setdefault(switch.name, []).append(port)
            aside = self._asides[next(self.nodes[key].ground for key in here)]
            there = [self.nodes[switch.key].namespace if switch.key in here else aside for switch, _ in ends]
            names = [
                port if switch.key in here else f"far{after.structure.places[switch.key]}{port}"
                for switch, port in ends
            ]
            self.laid.cable((there[0], names[0]), (there[1], names[1]))
            self.laid.lay()
            self.cables[end.link.key] = (end.upper_port, end.lower_port)
        return touched

    def became(self, after: Compiled) -> None:
        """Stand for another fabric, which was put on the switches: those that are gone are left, and so are hosts that it would attach otherwise."""
        self.compiled = after
        there = {one.key for one in after.staged}
        self.nodes = {key: node for key, node in self.nodes.items() if key in there}
        for key, node in self.nodes.items():
            node.switch = after.structure.by_key[key]
        self.models = {key: after.models[key] for key in self.nodes}
        same = {_place(station) for one in machines(after, self.nodes, 1 << 16)[0] for station in one.stations}
        self.seats = {
            station: seat for station, seat in self.seats.items() if station.silent or _place(station) in same
        }

    def _has(self, key: str, port: str) -> bool:
        """Whether a switch of the lab has a port; one that is not here has all."""
        node = self.nodes.get(key)
        return node is None or node.ground.run("ip", "-n", node.namespace, "link", "show", port).code == 0

    def _boot(self, node: Node, files: dict[str, str] | None = None) -> None:
        state, began = self.state[node.switch.key], time.monotonic()
        node.ground.run("mkdir", "-p", str(node.run_folder))
        state.words = "boots"
        self.tell()
        try:
            node.boot(files or dict(self.compiled.files(node.switch.key)), self.missing)
        except NoLab as error:
            state.words, state.failed = str(error), True
            raise
        state.words, state.seconds = "runs", time.monotonic() - began
        self.tell()

    def _end(self) -> None:
        for ground in self.laid.grounds:
            ground.close()
