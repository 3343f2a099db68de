"""A lab: every switch of a compiled fabric booted in a network namespace, from the files that Barrio rendered.

Links are veth pairs with the planned port names. In each namespace ifupdown2 brings up the interfaces file, then the
routing daemons that the switch's own file names run, vtysh loads frr.conf, and lldpd announces. Needs root. Everything started here is ended here, by
process id, and the namespaces go with it.
"""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from itertools import count
from pathlib import Path
from types import TracebackType

from barrio.core import Compiled
from barrio.core.model.switch import SegmentModel
from barrio.core.structure.parts import Switch
from barrio.rehearsal.kernel import LeftOut, lacks, rehearsable

_DAEMONS = ("zebra", "staticd", "bfdd", "ospfd", "ospf6d", "isisd", "bgpd")
"""The daemons that a rehearsal can start, in the order in which it does; a switch's own file says which of them run."""
_BARE_PATH = "/usr/sbin:/usr/bin:/sbin:/bin"
_serial = count(1)


@dataclass
class Node:
    """One booted switch."""

    switch: Switch
    namespace: str
    folder: Path
    left_out: tuple[LeftOut, ...] = ()
    processes: list[subprocess.Popen[bytes]] = field(default_factory=list)

    @property
    def within(self) -> list[str]:
        """The words before a command that run it on the switch: in its namespace, under its host name."""
        named = ["unshare", "--uts", "sh", "-c", 'hostname "$0" && exec "$@"', self.switch.name]
        return ["ip", "netns", "exec", self.namespace, *named]

    def run(self, *command: str, check: bool = True) -> str:
        """The output of a command in the switch's namespace."""
        done = subprocess.run(
            [*self.within, *command],
            capture_output=True,
            text=True,
            check=False,
            env={**os.environ, "PATH": _BARE_PATH},
        )
        if check and done.returncode:
            raise RuntimeError(f"{self.switch.name}: {' '.join(command)}: {done.stdout}{done.stderr}")
        return done.stdout

    def vtysh(self, command: str) -> str:
        return self.run("vtysh", "--vty_socket", str(self.folder / "run"), "-c", command)

    def lldp(self) -> str:
        return self.run("lldpcli", "-u", str(self.folder / "lldpd.socket"), "-f", "json0", "show", "neighbors")


@dataclass(frozen=True)
class Host:
    """A machine on a segment, in a namespace of its own."""

    namespace: str

    def ping(self, target: str, size: int = 56) -> bool:
        """Whether a packet of this payload reaches the target unfragmented, and its answer comes back."""
        command = [
            "ip",
            "netns",
            "exec",
            self.namespace,
            "ping",
            "-M",
            "do",
            "-s",
            str(size),
            "-c",
            "1",
            "-W",
            "2",
            target,
        ]
        return subprocess.run(command, capture_output=True, check=False).returncode == 0


class Lab:
    """Use as a context manager: entering boots the fabric, leaving takes it down."""

    def __init__(self, compiled: Compiled) -> None:
        self.compiled = compiled
        self.missing = lacks()
        self.hosts: list[Host] = []
        self.folder = Path(tempfile.mkdtemp(prefix="barrio-lab-"))
        self.folder.chmod(0o755)
        stem = f"barrio{os.getpid()}-{next(_serial)}-"
        self.nodes = {
            switch.key: Node(switch, f"{stem}{switch.index}", self.folder / switch.name)
            for switch in compiled.structure.switches
        }

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
        node.run("ip", "link", "add", bridge, "type", "bridge")
        tunnel = f"{segment.vxlan} type vxlan id {segment.vni} local {vtep} dstport 4789 nolearning"
        node.run("ip", "link", "add", *tunnel.split())
        node.run("ip", "link", "set", segment.vxlan, "master", bridge, "mtu", str(mtu), "up")
        node.run("ip", "link", "set", bridge, "mtu", str(mtu), "up")
        reason = f"a plain bridge carries segment {segment.label} in its place"
        node.left_out += (LeftOut(f"VLAN {segment.vlan} of the bridge", reason),)

    def plug_host(self, leaf: str, vlan: int, address: str, mtu: int) -> Host:
        """A host with this address (with its length) on a leaf's segment, opened before."""
        node = self.node(leaf)
        number = len(self.hosts)
        host = Host(f"{node.namespace}-h{number}")
        self.hosts.append(host)
        inner, outer = f"bh{os.getpid() % 100000}i{number}", f"host{number}"
        _ip("netns", "add", host.namespace)
        _ip("link", "add", inner, "type", "veth", "peer", "name", f"{inner}o")
        _ip("link", "set", f"{inner}o", "netns", node.namespace, "name", outer)
        _ip("link", "set", inner, "netns", host.namespace, "name", "eth0")
        node.run("ip", "link", "set", outer, "master", f"br{vlan}", "mtu", str(mtu), "up")
        for words in (f"link set eth0 mtu {mtu} up", f"addr add {address} dev eth0"):
            _ip("-n", host.namespace, *words.split())
        return host

    def node(self, name: str) -> Node:
        return next(node for node in self.nodes.values() if name in (node.switch.name, node.switch.key))

    def __enter__(self) -> Lab:
        try:
            for node in self.nodes.values():
                _ip("netns", "add", node.namespace)
            self._cable()
            with ThreadPoolExecutor(max_workers=4) as pool:
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
        for number, end in enumerate(self.compiled.ends):
            upper, lower = self.nodes[end.link.upper.key], self.nodes[end.link.lower.key]
            # Made under passing names, since both ends may carry the same port name.
            one, two = f"bv{os.getpid() % 100000}a{number}", f"bv{os.getpid() % 100000}b{number}"
            _ip("link", "add", one, "type", "veth", "peer", "name", two)
            _ip("link", "set", one, "netns", upper.namespace, "name", end.upper_port)
            _ip("link", "set", two, "netns", lower.namespace, "name", end.lower_port)

    def _boot(self, node: Node) -> None:
        files = self.compiled.files(node.switch.key)
        (node.folder / "run").mkdir(parents=True)
        for path, text in files.items():
            place = node.folder / path
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_text(text)
        self._sysctl(node)
        self._interfaces(node, files["etc/network/interfaces"])
        self._routing(node)
        self._lldp(node)

    def _sysctl(self, node: Node) -> None:
        """Apply the sysctl file, leaving out the keys that a namespace of this kernel does not have."""
        place = node.folder / "etc/sysctl.d/90-fabric.conf"
        known = set(node.run("sysctl", "-aN").split())
        lines = place.read_text().splitlines()
        kept = [line for line in lines if "=" in line and line.split("=")[0].strip() in known]
        node.left_out += tuple(
            LeftOut(line.split("=")[0].strip(), "this kernel has no such setting in a namespace")
            for line in lines
            if "=" in line and line not in kept
        )
        trimmed = node.folder / "sysctl.conf"
        trimmed.write_text("\n".join(kept) + "\n")
        node.run("sysctl", "-q", "-p", str(trimmed))

    def _interfaces(self, node: Node, text: str) -> None:
        kept, left = rehearsable(text, self.missing)
        node.left_out += left
        trimmed = node.folder / "interfaces"
        trimmed.write_text(kept)
        # ifupdown2 keeps its state in /run/network; each switch gets one of its own.
        state = node.folder / "run-network"
        state.mkdir()
        Path("/run/network").mkdir(exist_ok=True)
        script = 'mount --bind "$1" /run/network && exec ifup --all --interfaces "$2"'
        node.run("unshare", "--mount", "sh", "-c", script, "sh", str(state), str(trimmed))

    def _routing(self, node: Node) -> None:
        shutil.chown(node.folder / "run", "frr", "frr")
        run = str(node.folder / "run")
        common = ["-z", f"{run}/zserv.api", "--vty_socket", run, "-u", "frr", "-g", "frr", "--log", f"file:{run}/log"]
        wanted = (node.folder / "etc/frr/daemons").read_text()
        for daemon in (daemon for daemon in _DAEMONS if f"\n{daemon}=yes\n" in wanted):
            extra = ["--bfdctl", f"{run}/bfdd.sock"] if daemon == "bfdd" else []
            port = ["-p", "179"] if daemon == "bgpd" else []
            self._start(node, f"/usr/lib/frr/{daemon}", "-i", f"{run}/{daemon}.pid", *common, *extra, *port, "-P", "0")
            _wait_for(node.folder / "run" / f"{daemon}.vty", f"{node.switch.name}: {daemon} did not start")
        config = node.folder / "etc/frr"
        # vtysh reports success whatever it was given; what it says of a line it did not take starts with a percent sign.
        said = node.run("sh", "-c", 'vtysh --vty_socket "$0" --config_dir "$1" -b 2>&1', run, str(config))
        if "% " in said:
            raise RuntimeError(f"{node.switch.name}: frr.conf was not taken whole: {said.strip()}")

    def _lldp(self, node: Node) -> None:
        socket = node.folder / "lldpd.socket"
        config = node.folder / "etc/lldpd.d/fabric.conf"
        self._start(node, "/usr/sbin/lldpd", "-d", "-u", str(socket), "-O", str(config))
        _wait_for(socket, f"{node.switch.name}: lldpd did not start")

    def _start(self, node: Node, *command: str) -> None:
        with (node.folder / "daemons.log").open("ab") as log:
            process = subprocess.Popen(
                [*node.within, *command],
                stdout=log,
                stderr=log,
                stdin=subprocess.DEVNULL,
                start_new_session=True,
            )
        node.processes.append(process)

    def _end(self) -> None:
        processes = [process for node in self.nodes.values() for process in reversed(node.processes)]
        for process in processes:
            _signal(process, signal.SIGTERM)
        for process in processes:
            try:
                process.wait(5)
            except subprocess.TimeoutExpired:
                _signal(process, signal.SIGKILL)
                process.wait()
        for namespace in [node.namespace for node in self.nodes.values()] + [host.namespace for host in self.hosts]:
            subprocess.run(["ip", "netns", "del", namespace], capture_output=True, check=False)
        shutil.rmtree(self.folder, ignore_errors=True)


def _signal(process: subprocess.Popen[bytes], number: int) -> None:
    """Signal a process we started with all of its own group."""
    try:
        os.killpg(process.pid, number)
    except ProcessLookupError:
        return


def _ip(*arguments: str) -> None:
    done = subprocess.run(["ip", *arguments], capture_output=True, text=True, check=False)
    if done.returncode:
        raise RuntimeError(f"ip {' '.join(arguments)}: {done.stderr.strip()}")


def _wait_for(path: Path, otherwise: str, seconds: float = 15) -> None:
    until = time.monotonic() + seconds
    while not path.exists():
        if time.monotonic() > until:
            raise RuntimeError(otherwise)
        time.sleep(0.05)
