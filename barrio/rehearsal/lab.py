"""A lab: every switch of a compiled fabric booted in a network namespace, from the files that Barrio rendered.

Links are veth pairs with the planned port names. In each namespace ifupdown2 brings up the interfaces file, then the
routing daemons that the switch's own file names run, vtysh loads frr.conf, and lldpd announces. Where the kernel has VRFs, an
out-of-band network joins the management ports. Everything started here ends with the
ground. Of a slice only some switches are booted; their ports to others hear nothing.
"""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Collection, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import count
from types import TracebackType

from barrio.core import Compiled
from barrio.core.rehearse.claimed import played, reaches_of
from barrio.core.rehearse.stations import Machine, Station, machines
from barrio.core.structure.parts import Switch
from barrio.rehearsal.ground import Ground, Here, NoLab
from barrio.rehearsal.hosts import Host, Plugged, Seat, base_commands, seated
from barrio.rehearsal.kernel import DEVICES, lacks
from barrio.rehearsal.node import Node

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
        keys: Collection[str] | None = None, machines: Sequence[Machine] = (),
    ) -> None:  # fmt: skip
        self.compiled = compiled
        self._planned, self.machines = tuple(hosts), tuple(machines)
        self.ground: Ground = ground or Here()
        self.missing = lacks(self.ground)
        self.hosts: list[Host] = []
        self.stem = f"barrio{os.getpid()}-{next(_serial)}-"
        self._spaces = count(0)
        self.oob, self.aside = f"{self.stem}oob", f"{self.stem}aside"
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
        folders = self.ground.folder / switch.name, self.ground.run_folder / switch.name
        return Node(switch, f"{self.stem}{next(self._spaces)}", *folders, self.ground)

    @property
    def has_oob(self) -> bool:
        return "VRF" not in self.missing

    def node(self, name: str) -> Node:
        return next(node for node in self.nodes.values() if name in (node.switch.name, node.switch.key))

    def ip(self, *lines: str, namespace: str = "") -> None:
        """Commands of `ip`, one a line, all in one process. Raises `NoLab` with the first that fails."""
        words = ["ip", *(["-n", namespace] if namespace else []), "-batch", "-"]
        done = self.ground.run(*words, given="\n".join(lines) + "\n")
        if done.code:
            raise NoLab(f"ip: {done.err.strip()}")

    def plug(self, host: Plugged) -> Host:
        """A machine on ports of leaves, in a namespace of its own."""
        made = Host(f"{self.stem}h{len(self.hosts)}", host, self.ground)
        self.hosts.append(made)
        ends = [
            f"link add name p{at} netns {made.namespace} type veth peer name {port} netns {self.node(leaf).namespace}"
            for at, (leaf, port) in enumerate(host.ports)
        ]
        self.ip(f"netns add {made.namespace}", *ends)
        self.ip(*host.commands(), namespace=made.namespace)
        return made

    def __enter__(self) -> Lab:
        try:
            self._cable()
            with ThreadPoolExecutor(self.ground.at_once) as pool:
                list(pool.map(self._boot, self.nodes.values()))
        except BaseException:
            self._end()
            raise
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._end()

    def _cable(self) -> None:
        lines = [f"netns add {node.namespace}" for node in self.nodes.values()]
        lines.append(f"netns add {self.aside}")
        for end in self.compiled.ends:
            upper, lower = (self.nodes.get(one.key) for one in (end.link.upper, end.link.lower))
            if upper and lower:
                lines.append(
                    f"link add name {end.upper_port} netns {upper.namespace} type veth "
                    f"peer name {end.lower_port} netns {lower.namespace}"
                )
            for node, port in ((upper, end.upper_port), (lower, end.lower_port)):
                if node and not (upper and lower):
                    lines.append(self._idle(node, port))
        if not self.missing & DEVICES:
            lines += self._idle_ports()
        self.ip(*lines)
        for host in self._planned:
            self.plug(host)
        if not self.missing & DEVICES:
            for machine in self.machines:
                self._seat(machine)
            self._lend()
        if self.has_oob:
            self._out_of_band()

    def _idle_ports(self) -> Iterator[str]:
        """Ports that no cable of the lab is in: they exist on a switch all the same, and hear nothing."""
        taken = {end for host in self._planned for end in host.ports} | {
            end for one in self.machines for end in one.ports
        }
        for key, model in self.models.items():
            node = self.nodes[key]
            for label in (*(port.label for port in model.host_ports), *(port.label for port in model.outside_ports)):
                if (node.switch.name, label) not in taken:
                    yield self._idle(node, label)

    def _idle(self, node: Node, port: str) -> str:
        far = f"s{node.switch.index}{port}"
        return f"link add name {port} netns {node.namespace} type veth peer name {far} netns {self.aside}"

    def _seat(self, machine: Machine) -> None:
        """A host on its ports, with a namespace for each segment that it is in."""
        base = f"{self.stem}m{len(self.seats)}"
        seats = seated(machine, base, self.ground)
        ends = [
            f"link add name p{at} netns {base} type veth peer name {port} netns {self.node(leaf).namespace}"
            for at, (leaf, port) in enumerate(machine.ports)
        ]
        self.ip(*(f"netns add {name}" for name in dict.fromkeys([base, *(one.namespace for one in seats)])), *ends)
        self.ip(*base_commands(machine, seats), namespace=base)
        for one in seats:
            self.ip(*one.commands(), namespace=one.namespace)
        self.seats |= {one.station: one for one in seats}

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
        lines = [f"netns add {self.oob}", f"link add name br0 netns {self.oob} type bridge"]
        lines += [
            f"link add name m{node.switch.index} netns {self.oob} type veth "
            f"peer name {self.models[key].management.interface} netns {node.namespace}"
            for key, node in self.nodes.items()
        ]
        self.ip(*lines)
        inside = [f"link set m{node.switch.index} master br0 up" for node in self.nodes.values()]
        inside += [f"address add {gateway}/{length} dev br0" for gateway, length in sorted(gateways)]
        inside += [f"address add {server}/32 dev lo" for server in sorted(servers)]
        self.ip(*inside, "link set br0 up", "link set lo up", namespace=self.oob)

    def join(self, compiled: Compiled, key: str) -> Node:
        """Put a switch more beside those that run, of a fabric that they are to become: with its ports, and nothing in them yet."""
        switch = compiled.structure.by_key[key]
        node = self.nodes[key] = self._node(switch)
        model = self.models[key] = compiled.models[key]
        self.state[key] = Booting(switch.name, switch.rack)
        ports = [*(port.label for port in model.host_ports), *(port.label for port in model.outside_ports)]
        whole = not self.missing & DEVICES
        self.ip(f"netns add {node.namespace}", *(self._idle(node, label) for label in ports if whole))
        if self.has_oob:
            far = f"mx{len(self.nodes)}"
            self.ip(
                f"link add name {far} netns {self.oob} type veth peer name {model.management.interface} netns {node.namespace}"
            )
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
                        self.ground.run("ip", "-n", self.nodes[switch.key].namespace, "link", "del", label)
                        touched.setdefault(switch.name, []).append(label)
                touched.setdefault(switch.name, []).append(port)
            there = [self.nodes[switch.key].namespace if switch.key in here else self.aside for switch, _ in ends]
            names = [port if switch.key in here else f"far{switch.index}{port}" for switch, port in ends]
            self.ip(f"link add name {names[0]} netns {there[0]} type veth peer name {names[1]} netns {there[1]}")
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
        return node is None or self.ground.run("ip", "-n", node.namespace, "link", "show", port).code == 0

    def _boot(self, node: Node, files: dict[str, str] | None = None) -> None:
        state, began = self.state[node.switch.key], time.monotonic()
        node.folder.mkdir(parents=True)
        self.ground.run("mkdir", "-p", str(node.run_folder))
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
        self.ground.close()
