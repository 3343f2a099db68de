"""A hall of simulated switches: network namespaces with nothing on them but Debian's programs and the agent, cabled as the plan has it.

Each boots by itself, asks a real DHCP server on the management network for an address and for Barrio, knocks, and is staged with the programs that a
switch runs: ifupdown2, FRRouting, lldpd, nftables, sshd, chrony, rsyslog. The hall stands on a kernel that has every kind of device; the management network
on this machine's own, beside it, from which a gate leads to Barrio.
"""

from __future__ import annotations

import json
import os
import shutil
import tempfile
from collections.abc import Collection, Iterable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from types import TracebackType

from barrio.core.staging.floor import Bare, Floor
from barrio.rehearsal import trimming
from barrio.rehearsal.apart import Apart, memory_for
from barrio.rehearsal.cords import Cords, ip
from barrio.rehearsal.ground import Done, Ground, NoLab
from barrio.rehearsal.kernel import lacks, whole_ground
from barrio.rehearsal.room import Here
from barrio.staging.gate import Gate
from barrio.staging.kea import own_leases

_HERE = Path(__file__).parent
OFFICE = "office"
"""The namespace of the management network."""
_ETC = (
    "passwd group shadow gshadow nsswitch.conf ld.so.cache ld.so.conf ld.so.conf.d hosts host.conf resolv.conf services protocols networks "
    "iproute2 frr ssh chrony rsyslog.d lldpd.d dhcp network sudoers sudoers.d pam.d security sysctl.d tmpfiles.d default login.defs os-release "
    "debian_version fstab sysctl.conf issue issue.net environment bash.bashrc xattr.conf localtime timezone machine-id profile modprobe.d"
)
"""Of this machine's /etc what a simulated switch comes with, apart from what packages would have run for each port that comes up."""


_PATH = "/usr/local/sbin:/usr/sbin:/usr/bin:/sbin:/bin"


@dataclass
class Simulated:
    """A switch of the hall: `process` is the first of its own, while its power is on."""

    bare: Bare
    mac: str
    namespace: str
    ground: Ground
    cabled: tuple[str, ...] = ()
    faults: set[str] = field(default_factory=set)
    process: int = 0
    _outer: int = 0

    @property
    def serial(self) -> str:
        return f"SIM-{self.bare.name.upper()}"

    @property
    def folder(self) -> Path:
        return self.ground.folder / self.bare.name

    def given(self) -> dict[str, str]:
        """What is on it when it comes out of its box: who it says it is, and ports that are up and ask for nothing but an address to be managed by."""
        front = "".join(f"\nauto {port}\niface {port}\n" for port in self.cabled)
        words = {
            "trust": "/etc/barrio-agent.pem",
            "serial": f"{self.serial}-X" if "wrong serial" in self.faults else self.serial,
            "model": "a-model-that-nobody-planned" if "wrong model" in self.faults else self.bare.model,
            "airflow": "sideways" if "wrong airflow" in self.faults else self.bare.airflow,
            "ports": self.bare.front,
        }
        managed = self.bare.management
        return {
            "etc/barrio-agent.json": json.dumps(words),
            "etc/barrio-faults": "\n".join(sorted(self.faults)),
            "etc/network/interfaces": f"auto lo\niface lo inet loopback\n\nauto {managed}\niface {managed} inet dhcp\n{front}",
            "etc/rsyslog.conf": 'module(load="imuxsock")\n$IncludeConfig /etc/rsyslog.d/*.conf\n',
            "etc/frr/daemons": "zebra=yes\nbgpd=no\nvtysh_enable=yes\n",
            "etc/frr/frr.conf": "log syslog informational\n",
            "etc/lldpd.d/00-bare.conf": "configure lldp tx-interval 3\n",
            "etc/hostname": "localhost\n",
            "etc/nftables.conf": "flush ruleset\n",
        }

    def switch_on(self) -> None:
        """Begin to boot. Raises `NoLab`."""
        for path, text in self.given().items():
            self.ground.write(self.folder / "given" / path, text)
        ip(self.ground, f"link set {self.bare.management} address {self.mac}", namespace=self.namespace)
        own = ["unshare", "--mount", "--uts", "--pid", "--fork", "--kill-child", "--mount-proc"]
        words = ["nsenter", f"--net=/run/netns/{self.namespace}", *own, "sh", "-e", str(self.ground.folder / "bare.sh")]
        log = self.folder / "boot.log"
        self._outer = self.ground.start(
            *words, str(self.folder), str(self.ground.run_folder / self.bare.name), str(self.ground.folder), log=log
        )
        done = self.ground.run(
            "sh", "-c", f"for i in $(seq 50); do pgrep -P {self._outer} -o && exit; sleep 0.1; done; exit 1"
        )
        if done.code:
            raise NoLab(f"{self.bare.name} did not boot: {(self.ground.read(log) or '').strip()[-300:]}")
        self.process = int(done.out.split()[0])

    def mend(self) -> None:
        """Take away the faults that were ordered of it, as whoever stands beside it would."""
        if "crossed" in self.faults:
            one, other = self.cabled[:2]
            names = [(one, "aside"), (other, one), ("aside", other)]
            lines = [
                f"link set {one} down",
                f"link set {other} down",
                *(f"link set {was} name {now}" for was, now in names),
            ]
            ip(self.ground, *lines, f"link set {one} up", f"link set {other} up", namespace=self.namespace)
        self.faults.clear()
        self.ask("sh", "-c", "true > /etc/barrio-faults; systemctl restart barrio-agent")

    def ask(self, *command: str, timeout: float = 120) -> Done:
        """A command on the switch, as one who is signed in there gives it, whatever comes of it."""
        within = ["nsenter", f"--target={self.process}", "--net", "--mount", "--uts", "--pid"]
        within += ["env", f"PATH={_PATH}", f"BARRIO_HALL={self.ground.folder}"]
        return self.ground.run(*within, *command, timeout=timeout)

    def file(self, path: str) -> str | None:
        """What stands in a file of the switch; nothing where there is none."""
        done = self.ask("cat", f"/{path}")
        return None if done.code else done.out


def _cabled(floor: Floor, bare: Bare) -> tuple[str, ...]:
    """The ports of a switch that a cable is in."""
    ends = [end for cable in floor.cables for end in (cable.one, cable.other)]
    return tuple(port for name, port in ends if name == bare.name)


def _furnish(ground: Ground, trust: bytes) -> None:
    for name in ("agent.py", "faults.py", "faulty.py", "init.py", "bare.sh", "trimmed.py"):
        shutil.copy(_HERE / name, ground.folder / name)
    shutil.copy(trimming.__file__, ground.folder / "trimming.py")
    ground.write(ground.folder / "lacks", "\n".join(sorted(lacks(ground))))
    ground.network(1, "ifquery", "--version")
    etc, left = ground.folder / "etc", "--exclude=if-*.d --exclude=interfaces.d --exclude=ssh_host_*"
    words = (
        f"mkdir -p {etc} && cd /etc && tar {left} --ignore-failed-read -cf - {_ETC} 2>/dev/null | tar -C {etc} -xf -"
    )
    done = ground.run("sh", "-c", words)
    # Whoever works at this machine has no account on the switches.
    people = "; ".join(f"sed -i '/^[^:]*:[^:]*:[1-5][0-9]\\{{3,4\\}}:/d' {etc}/{one}" for one in ("passwd", "group"))
    ground.run("sh", "-c", people)
    if done.code:
        raise NoLab(f"The switches could not be given Debian's settings: {done.err.strip()[-300:]}")
    (ground.folder / "etc/barrio-agent.pem").write_bytes(trust)


class Hall:
    """Use as a context manager: entering lays the cables and runs the management network, leaving takes everything down. `boot` switches on.

    `server` is Barrio's own address; switches reach it at `address`. Raises `NoLab`.
    """

    def __init__(self, floor: Floor, server: str, faults: Mapping[str, Collection[str]] | None = None) -> None:
        self.floor = floor
        self.gateway = floor.gateways[0].partition("/")[0]
        self.address = f"https://{self.gateway}"
        self._aside = Path(tempfile.mkdtemp(prefix="barrio-hall-"))
        self._gate = Gate(self._aside, self.gateway, server)
        self.office: Ground = Here(wired=True)
        self.grounds: list[Ground] = []
        try:
            self._stand(len(floor.switches))
        except BaseException:
            self.close()
            raise
        self._cords = Cords([*self.grounds, self.office])
        self._kea = 0
        self.switches = {
            one.name: Simulated(one, f"02:ba:00:00:{at >> 8:02x}:{at & 255:02x}", f"s{at}", self._ground_of(at), _cabled(floor, one), set((faults or {}).get(one.name, ())))
            for at, one in enumerate(floor.switches)
        }  # fmt: skip

    def _stand(self, switches: int) -> None:
        """The kernels on which the switches stand: a kernel of its own has one processor, so that two boot them in half the time."""
        self.grounds.append(whole_ground(memory_for(switches), wired=True))
        if isinstance(self.grounds[0], Apart) and (os.cpu_count() or 1) > 1 and switches > 1:
            self.grounds.append(whole_ground(memory_for(switches), wired=True))

    def _ground_of(self, at: int) -> Ground:
        return self.grounds[at % len(self.grounds)]

    def __enter__(self) -> Hall:
        try:
            self._furnish()
            self._cable()
            self._manage()
        except BaseException:
            self.close()
            raise
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        """End everything in the hall."""
        for ground in (*self.grounds, self.office):
            ground.close()
        self._forget()

    def _forget(self) -> None:
        self._gate.close()
        shutil.rmtree(self._aside, ignore_errors=True)

    def _furnish(self) -> None:
        """What every switch has: the agent, what stands for systemd, and Debian's own settings."""
        shutil.copy(_HERE / "forward.py", self.office.folder / "forward.py")
        for ground in self.grounds:
            _furnish(ground, self._gate.trust)

    def _cable(self) -> None:
        self._cords.space(OFFICE, self.office)
        for number, ground in enumerate(self.grounds):
            self._cords.space(f"aside{number}", ground)
        for one in self.switches.values():
            self._cords.space(one.namespace, one.ground)
        laid = set[tuple[str, str]]()
        for cable in self.floor.cables:
            ends = self._crossed(cable.one, cable.other)
            self._cords.cable(*((self.switches[name].namespace, port) for name, port in ends))
            laid |= set(ends)
        for at, one in enumerate(self.switches.values()):
            for port in one.bare.ports:
                if (one.bare.name, port) not in laid:
                    self._cords.cable((one.namespace, port), (f"aside{self.grounds.index(one.ground)}", f"s{at}{port}"))
            self._cords.cable((OFFICE, f"m{at}"), (one.namespace, one.bare.management))
        self._cords.lay()

    def _crossed(self, one: tuple[str, str], other: tuple[str, str]) -> tuple[tuple[str, str], tuple[str, str]]:
        """The ends of a cable as somebody plugged it in: at a switch that is `crossed` the first two are the wrong way round."""
        for name in (one[0], other[0]):
            mine = [cable for cable in self.floor.cables if name in (cable.one[0], cable.other[0])][:2]
            if "crossed" in self.switches[name].faults and len(mine) == 2:
                ports = [end for cable in mine for end in (cable.one, cable.other) if end[0] == name]
                swap = {ports[0]: ports[1], ports[1]: ports[0]}
                return swap.get(one, one), swap.get(other, other)
        return one, other

    def _manage(self) -> None:
        """The management network: a bridge with the gateway's address, and what leads from there to Barrio."""
        lines = ["link add name br0 type bridge", "link set lo up", "link set br0 up"]
        lines += [f"link set m{at} master br0 up" for at in range(len(self.switches))]
        lines += [f"address add {one} dev br0" for one in self.floor.gateways]
        lines += [f"address add {one}/32 dev lo" for one in self.floor.servers]
        ip(self.office, *lines, namespace=OFFICE)
        # Whoever is asked for the time there tells the machine's.
        clock = "local stratum 3\nallow\ncmdport 0\npidfile /run/office-clock.pid\n"
        self.office.write(self.office.folder / "clock.conf", clock)
        words = ["/usr/sbin/chronyd", "-n", "-x", "-f", str(self.office.folder / "clock.conf")]
        self.office.start("nsenter", f"--net=/run/netns/{OFFICE}", *words, log=self.office.folder / "clock.log")
        forward = [
            "python3",
            "-S",
            "-E",
            str(self.office.folder / "forward.py"),
            self.gateway,
            "443",
            str(self._gate.path),
        ]
        self.office.start("nsenter", f"--net=/run/netns/{OFFICE}", *forward, log=self.office.folder / "forward.log")

    def serve(self, text: str) -> None:
        """Run Kea on the management network with a configuration, in place of the one before; those that were ordered no DHCP are not in it."""
        silent = {one.mac for one in self.switches.values() if "no DHCP" in one.faults}
        said = json.loads(text)
        for subnet in said["Dhcp4"]["subnet4"]:
            subnet["reservations"] = [one for one in subnet["reservations"] if one["hw-address"] not in silent]
        text = json.dumps(said)
        folder = self.office.folder / "kea"
        self.office.write(folder / "kea.conf", own_leases(text, folder))
        self.silence()
        words = [
            "env",
            f"KEA_PIDFILE_DIR={folder}",
            "KEA_LOCKFILE_DIR=none",
            "kea-dhcp4",
            "-c",
            str(folder / "kea.conf"),
        ]
        self._kea = self.office.start("nsenter", f"--net=/run/netns/{OFFICE}", *words, log=folder / "log")

    def silence(self) -> None:
        """DHCP answers nobody until it is served again."""
        if self._kea:
            self.office.stop(self._kea)
            self._kea = 0

    def boot(self, names: Iterable[str] = ()) -> None:
        """Switch on these, or all."""
        wanted = set(names) or self.switches.keys()
        with ThreadPoolExecutor(4) as pool:
            list(
                pool.map(lambda one: one.switch_on(), [self.switches[name] for name in self.switches if name in wanted])
            )
