"""A lab: every switch of a compiled fabric booted in a network namespace, from the files that Barrio rendered.

Links are veth pairs with the planned port names. In each namespace ifupdown2 brings up the interfaces file, then the
routing daemons that the switch's own file names run, vtysh loads frr.conf, and lldpd announces. Where the kernel has VRFs, an
out-of-band network joins the management ports. Needs root. Everything started here is ended here, by process id, and the
namespaces go with it.
"""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from itertools import count
from types import TracebackType

from barrio.core import Compiled
from barrio.core.model.switch import SegmentModel
from barrio.rehearsal.ground import Ground, Here
from barrio.rehearsal.hosts import Host, Plugged
from barrio.rehearsal.kernel import DEVICES, LeftOut, lacks
from barrio.rehearsal.node import Node

_serial = count(1)


class Lab:
    """Use as a context manager: entering boots the fabric on a ground, leaving takes it down and the ground with it."""

    def __init__(self, compiled: Compiled, ground: Ground | None = None, hosts: Sequence[Plugged] = ()) -> None:
        self.compiled = compiled
        self._planned = tuple(hosts)
        self.ground: Ground = ground or Here()
        self.missing = lacks(self.ground)
        self.hosts: list[Host] = []
        self.stem = f"barrio{os.getpid()}-{next(_serial)}-"
        self.oob, self.aside = f"{self.stem}oob", f"{self.stem}aside"
        self.nodes = {
            switch.key: Node(
                switch, f"{self.stem}{switch.index}", self.ground.folder / switch.name,
                self.ground.run_folder / switch.name, self.ground,
            )
            for switch in compiled.structure.switches
        }  # fmt: skip

    @property
    def has_oob(self) -> bool:
        return "VRF" not in self.missing

    def node(self, name: str) -> Node:
        return next(node for node in self.nodes.values() if name in (node.switch.name, node.switch.key))

    def ip(self, *lines: str, namespace: str = "") -> None:
        """Commands of `ip`, one a line, all in one process. Raises `RuntimeError` with the first that fails."""
        words = ["ip", *(["-n", namespace] if namespace else []), "-batch", "-"]
        done = self.ground.run(*words, given="\n".join(lines) + "\n")
        if done.code:
            raise RuntimeError(f"ip: {done.err.strip()}")

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

    def open_segment(self, label: str) -> None:
        """Bring up a segment on every leaf that has it, with a plain bridge of its own.

        It stands in for the VLAN-aware bridge where the kernel has none; names, VNI, tunnel address and MTU are the
        model's, and everything the routing daemons do is the same.
        """
        for key, model in self.compiled.models.items():
            for segment in model.segments:
                if segment.label == label:
                    self._stand_in(self.nodes[key], segment, str(model.vtep), model.common.host_mtu)

    def _stand_in(self, node: Node, segment: SegmentModel, vtep: str, mtu: int) -> None:
        bridge = f"br{segment.vlan}"
        self.ip(
            f"link add {bridge} type bridge",
            f"link add {segment.vxlan} type vxlan id {segment.vni} local {vtep} dstport 4789 nolearning",
            f"link set {segment.vxlan} master {bridge} mtu {mtu} up",
            f"link set {bridge} mtu {mtu} up",
            namespace=node.namespace,
        )
        reason = f"a plain bridge carries segment {segment.label} in its place"
        node.left_out += (LeftOut(f"VLAN {segment.vlan} of the bridge", reason),)

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
        for end in self.compiled.ends:
            upper, lower = self.nodes[end.link.upper.key], self.nodes[end.link.lower.key]
            lines.append(
                f"link add name {end.upper_port} netns {upper.namespace} type veth "
                f"peer name {end.lower_port} netns {lower.namespace}"
            )
        if not self.missing & DEVICES:
            lines += [f"netns add {self.aside}", *self._idle_ports()]
        self.ip(*lines)
        for host in self._planned:
            self.plug(host)
        if self.has_oob:
            self._out_of_band()

    def _idle_ports(self) -> Iterator[str]:
        """Ports that no cable of the lab is in: they exist on a switch all the same, and hear nothing."""
        taken = {(self.node(leaf).switch.key, port) for host in self._planned for leaf, port in host.ports}
        for key, model in self.compiled.models.items():
            for label in (*(port.label for port in model.host_ports), *(port.label for port in model.outside_ports)):
                if (key, label) not in taken:
                    far = f"s{self.nodes[key].switch.index}{label}"
                    here = f"link add name {label} netns {self.nodes[key].namespace} type veth"
                    yield f"{here} peer name {far} netns {self.aside}"

    def _out_of_band(self) -> None:
        """The management network: a bridge with the gateway's address, a port to each switch, and whoever is asked there."""
        models = self.compiled.models.values()
        gateways = {(model.management.gateway, model.management.address.split("/")[1]) for model in models}
        common = next(iter(models)).common
        servers = {text for text in (*common.dns, *common.ntp, *common.syslog) if text[0].isdigit()}
        lines = [f"netns add {self.oob}", f"link add name br0 netns {self.oob} type bridge"]
        lines += [
            f"link add name m{node.switch.index} netns {self.oob} type veth "
            f"peer name {self.compiled.models[key].management.interface} netns {node.namespace}"
            for key, node in self.nodes.items()
        ]
        self.ip(*lines)
        inside = [f"link set m{node.switch.index} master br0 up" for node in self.nodes.values()]
        inside += [f"address add {gateway}/{length} dev br0" for gateway, length in sorted(gateways)]
        inside += [f"address add {server}/32 dev lo" for server in sorted(servers)]
        self.ip(*inside, "link set br0 up", "link set lo up", namespace=self.oob)

    def _boot(self, node: Node) -> None:
        node.folder.mkdir(parents=True)
        self.ground.run("mkdir", "-p", str(node.run_folder))
        node.boot(dict(self.compiled.files(node.switch.key)), self.missing)

    def _end(self) -> None:
        if isinstance(self.ground, Here):
            for node in self.nodes.values():
                for process in reversed(node.processes):
                    self.ground.stop(process)
            for namespace in [self.oob, self.aside, *(node.namespace for node in self.nodes.values())]:
                self.ground.run("ip", "netns", "del", namespace)
            for host in self.hosts:
                self.ground.run("ip", "netns", "del", host.namespace)
        self.ground.close()
