"""One booted switch of a lab: its namespaces, its own files at the places where programs look for them, its daemons."""

from __future__ import annotations

import signal
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath

from barrio.core.structure.parts import Switch
from barrio.rehearsal.ground import Done, Ground, NoLab
from barrio.rehearsal.trimming import LeftOut, loadable, rehearsable

DAEMONS = ("zebra", "staticd", "bfdd", "ospfd", "ospf6d", "isisd", "bgpd")
"""The daemons that a rehearsal can start, in the order in which it does; a switch's own file says which of them run."""

_HOLD = """
hostname "$1"
mount -t sysfs sys /sys
mkdir -p "$3/frr" "$3/network" && chown frr:frr "$3/frr"
mkdir -p /run/frr /run/network
mount --bind "$2/etc/frr" /etc/frr
mount --bind "$3/frr" /run/frr
mount --bind "$3/network" /run/network
mount -t tmpfs tables /etc/iproute2/rt_tables.d
mkdir "$3/nothing"
for hooks in /etc/network/if-*.d; do mount --bind "$3/nothing" "$hooks"; done
touch "$3/held"
exec sleep infinity
"""
"""Holds the switch's namespaces, with its own /etc/frr, and /run of the programs that keep theirs there; what packages of this machine would do to
its interfaces is not done to the switch's."""

_DARK = """
ip -j link | python3 -S -E -c 'import json, sys; [print("link set", one["ifname"], "down") for one in json.load(sys.stdin)]' | ip -force -batch -
ip -j -d link | python3 -S -E -c 'import json, sys
kind = lambda one: one.get("linkinfo", {}).get("info_kind", "")
[print("link del", one["ifname"]) for one in json.load(sys.stdin) if kind(one) not in ("", "veth", "tun")]' | ip -force -batch -
ip address flush scope global
ip -4 route flush table all
ip -6 route flush table all
nft flush ruleset
tc qdisc show | sed -n 's/^qdisc [a-z]* [0-9a-f]*: dev \\([^ ]*\\).*/\\1/p' | sort -u | while read -r port; do tc qdisc del dev "$port" clsact; tc qdisc del dev "$port" root; done
rm -rf /run/network/* /run/frr/*
true
"""
"""Leaves a switch dark: its ports are down, and what its files made is gone."""


@dataclass
class Node:
    """One booted switch. `folder` holds its files, `run_folder` its sockets."""

    switch: Switch
    namespace: str
    folder: Path
    run_folder: Path
    ground: Ground
    left_out: tuple[LeftOut, ...] = ()
    processes: list[int] = field(default_factory=list)
    routing: dict[str, int] = field(default_factory=dict)
    holder: int = 0
    files: dict[str, str] = field(default_factory=dict)
    """Those of its plan that it has."""

    @property
    def within(self) -> list[str]:
        """The words before a command that run it on the switch: in its namespaces, under its host name."""
        return ["nsenter", f"--target={self.holder}", "--net", "--mount", "--uts"]

    def ask(self, *command: str, timeout: float = 120) -> Done:
        """A command on the switch, whatever comes of it."""
        return self.ground.run(*self.within, *command, timeout=timeout)

    def run(self, *command: str, check: bool = True) -> str:
        """The output of a command on the switch. Raises `NoLab` when it fails, unless told not to look."""
        done = self.ask(*command)
        if check and done.code:
            raise NoLab(f"{self.switch.name}: {' '.join(command)}: {done.out}{done.err}")
        return done.out

    def vtysh(self, command: str) -> str:
        return self.run("vtysh", "-c", command)

    def lldp(self) -> str:
        return self.run("lldpcli", "-u", str(self.run_folder / "lldpd"), "-f", "json0", "show", "neighbors")

    def boot(self, files: dict[str, str], missing: frozenset[str]) -> None:
        """Bring the switch up from its files: settings, interfaces, filters, routing, LLDP, in that order."""
        self.wake(files)
        self._begin(files, missing)

    def _begin(self, files: dict[str, str], missing: frozenset[str]) -> None:
        self.settings(files["etc/sysctl.d/90-fabric.conf"])
        self._interfaces(files["etc/network/interfaces"], missing)
        self._filters(files["etc/nftables.conf"], missing)
        self._routing(files["etc/frr/daemons"])
        self.announce()
        if "VRF" not in missing:
            self._relays(files)
        if "usr/local/sbin/fabric-guard" in files and "VLAN-aware bridge" not in missing:
            self.start("python3", "-E", str(self.folder / "usr/local/sbin/fabric-guard"))

    def wake(self, files: dict[str, str]) -> None:
        """Put its files in place, and hold the namespaces in which its programs run."""
        for path, text in files.items():
            self.ground.write(self.folder / path, text)
        self.files = dict(files)
        self._hold()

    def _hold(self) -> None:
        held = ["nsenter", f"--net=/run/netns/{self.namespace}", "unshare", "--mount", "--uts", "sh", "-c", _HOLD, "sh"]
        self.holder = self.start(*held, self.switch.name, str(self.folder), str(self.run_folder), inside=False)
        self._await(self.run_folder / "held", "its namespaces")

    def settings(self, text: str) -> None:
        """Apply the sysctl file without the keys that a namespace of this kernel does not have, and name those."""
        keys = [line.split(" = ")[0] for line in text.splitlines() if " = " in line]
        tests = "; ".join(f"[ -e /proc/sys/{key.replace('.', '/')} ] || echo {key}" for key in keys)
        unknown = self.run("sh", "-c", tests + "; true").split()
        trimmed = self.folder / "sysctl"
        kept = [line for line in text.splitlines() if " = " in line and line.split(" = ")[0] not in unknown]
        self.replace({"sysctl": "\n".join(kept) + "\n"})
        self.run("sysctl", "-q", "-p", str(trimmed))
        self.left_out += tuple(LeftOut(key, "this kernel has no such setting in a namespace") for key in unknown)

    def _interfaces(self, text: str, missing: frozenset[str]) -> None:
        kept, left = rehearsable(text, missing)
        self.left_out += left
        trimmed = self.folder / "interfaces"
        self.replace({"interfaces": kept})
        bring_up = ("ifup", "--all", "--interfaces", str(trimmed))
        done = self.ground.network(self.holder, *bring_up)
        if "recv() error" in done.err:
            # The kernel broke off its list of devices, since another switch made some meanwhile. Looked at again it is whole.
            done = self.ground.network(self.holder, *bring_up)
        if done.code or "error:" in done.err:
            raise NoLab(f"{self.switch.name}: ifup did not take the interfaces file whole: {done.err.strip()}")

    def _filters(self, text: str, missing: frozenset[str]) -> None:
        kept, left = loadable(text, missing)
        self.left_out += left
        trimmed = self.folder / "nftables"
        self.replace({"nftables": kept})
        self.run("nft", "-f", str(trimmed))

    def restart_routing(self, wanted: str) -> None:
        """End FRRouting, and start the daemons that a switch's file says afresh."""
        for process in reversed(self.routing.values()):
            self.ground.stop(process)
            self.processes.remove(process)
        self.run("sh", "-c", "rm -f /run/frr/*.vty /run/frr/*.api")
        self.routing.clear()
        self._routing(wanted)

    def _routing(self, wanted: str) -> None:
        for daemon in (daemon for daemon in DAEMONS if f"\n{daemon}=yes\n" in wanted):
            self._start_daemon(daemon)
        self._load()

    def _start_daemon(self, daemon: str) -> None:
        self.routing[daemon] = self.start(
            f"/usr/lib/frr/{daemon}", "-u", "frr", "-g", "frr", "--log", "file:/run/frr/log", "-P", "0"
        )
        self._await(self.run_folder / "frr" / f"{daemon}.vty", daemon)

    def _load(self) -> None:
        # vtysh reports success whatever it was given; what it says of a line it did not take starts with a percent sign.
        said = self.run("sh", "-c", "vtysh -b 2>&1")
        if "% " in said:
            raise NoLab(f"{self.switch.name}: frr.conf was not taken whole: {said.strip()}")

    def kill(self, daemon: str) -> None:
        """Kill a routing daemon, as a fault of its own would."""
        process = self.routing.pop(daemon)
        self.ground.stop(process, signal.SIGKILL)
        self.processes.remove(process)

    def revive(self, daemon: str) -> None:
        """Start a daemon that was killed, as watchfrr does on a switch, and give it its part of frr.conf."""
        self.run("sh", "-c", f"rm -f /run/frr/{daemon}.vty /run/frr/{daemon}.pid")
        self._start_daemon(daemon)
        self._load()

    def power_off(self) -> None:
        """Take a switch's light and everything that it made, as when its power goes. Its ports stay, and are dark."""
        for process in self.processes:
            if process != self.holder:
                self.ground.stop(process, signal.SIGKILL)
        self.processes = [self.holder]
        self.routing.clear()
        self.run("sh", "-c", _DARK, check=False)

    def replace(self, files: dict[str, str]) -> None:
        """Other files in place of those that it has, written from the switch's own side and in place: a kernel of its own has read them before, and sees
        no change made behind it."""
        for path, text in files.items():
            done = self.ground.run(
                "sh", "-c", 'mkdir -p "$(dirname "$1")" && cat > "$1"', "sh", str(self.folder / path), given=text
            )
            if done.code:
                raise NoLab(f"{self.switch.name}: {path} could not be written: {done.err.strip()}")

    def power_on(self, files: dict[str, str], missing: frozenset[str]) -> None:
        """Start a switch from its files again."""
        self.left_out, self.files = (), dict(files)
        self._begin(files, missing)

    def announce(self) -> None:
        """Begin to say by LLDP who it is, and to hear who others are."""
        config = self.folder / "etc/lldpd.d/fabric.conf"
        self.start("/usr/sbin/lldpd", "-d", "-u", str(self.run_folder / "lldpd"), "-O", str(config))
        self._await(self.run_folder / "lldpd", "lldpd")

    def _relays(self, files: dict[str, str]) -> None:
        """Begin the DHCP relays, as their units say."""
        for path, text in files.items():
            if PurePosixPath(path).name.startswith("fabric-relay-"):
                said = next(line for line in text.splitlines() if line.startswith("ExecStart="))
                self.start(*said.removeprefix("ExecStart=").split())

    def start(self, *command: str, inside: bool = True) -> int:
        """Begin a process that stays, on the switch or beside it; its number."""
        words = [*self.within, *command] if inside else list(command)
        process = self.ground.start(*words, log=self.folder / "daemons.log")
        self.processes.append(process)
        return process

    def _await(self, path: Path, what: str) -> None:
        if not self.ground.exists(path, 30):
            said = self.ground.read(self.folder / "daemons.log") or ""
            raise NoLab(f"{self.switch.name}: {what} did not start. {said[-300:]}")
