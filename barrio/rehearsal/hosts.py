"""Hosts of a lab: machines in namespaces of their own, with bonds, VLANs and addresses as real ones have them."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from barrio.core.rehearse.stations import Machine, Station
from barrio.rehearsal.ground import Done, Ground


@dataclass(frozen=True, slots=True)
class Plugged:
    """A machine on ports of leaves. Several ports are a bond by LACP; `vlan` is the tag that it uses, or none.

    `addresses` carry their length; `gateways` are where it sends what is not beside it. MTU is in bytes.
    """

    ports: tuple[tuple[str, str], ...]
    addresses: tuple[str, ...] = ()
    gateways: tuple[str, ...] = ()
    vlan: int | None = None
    mtu: int = 9000
    bonded: bool = True

    @property
    def device(self) -> str:
        """The device that carries its addresses."""
        return f"{self._base}.{self.vlan}" if self.vlan else self._base

    @property
    def _base(self) -> str:
        return "bond0" if len(self.ports) > 1 and self.bonded else "p0"

    def commands(self) -> Iterator[str]:
        """What `ip` is told inside the machine."""
        yield "link set lo up"
        if self._base == "bond0":
            yield "link add bond0 type bond mode 802.3ad miimon 50 lacp_rate fast xmit_hash_policy layer3+4"
            for at in range(len(self.ports)):
                yield f"link set p{at} master bond0"
        for at in range(len(self.ports)):
            yield f"link set p{at} mtu {self.mtu} up"
        yield f"link set {self._base} mtu {self.mtu} up"
        if self.vlan:
            yield f"link add link {self._base} name {self.device} type vlan id {self.vlan}"
            yield f"link set {self.device} mtu {self.mtu} up"
        for address in self.addresses:
            yield f"address add {address} dev {self.device}{' nodad' if ':' in address else ''}"
        for gateway in self.gateways:
            yield f"route add {'::/0' if ':' in gateway else 'default'} via {gateway}"


@dataclass(frozen=True)
class Host:
    """A plugged machine on its ground."""

    namespace: str
    plugged: Plugged
    ground: Ground

    def ask(self, *command: str, timeout: float = 60) -> Done:
        return self.ground.run("nsenter", f"--net=/run/netns/{self.namespace}", *command, timeout=timeout)

    def ping(self, target: str, size: int = 56, tries: int = 1, seconds: float = 2) -> bool:
        """Whether a packet of this payload reaches the target unfragmented, and its answer comes back."""
        words = ["ping", "-n", "-M", "do", "-s", str(size), "-c", str(tries), "-i", "0.2", "-W", str(seconds), target]
        return self.ask(*words).code == 0

    def answers(self, target: str, tries: int) -> tuple[int, int]:
        """Of so many echo requests: how many were answered, and how many answers came more than once."""
        words = ["ping", "-n", "-c", str(tries), "-i", "0.2", "-W", "2", target]
        said = self.ask(*words).out
        received = re.search(r"(\d+) received", said)
        doubled = re.search(r"\+(\d+) duplicates", said)
        return int(received[1]) if received else 0, int(doubled[1]) if doubled else 0


@dataclass(frozen=True, slots=True)
class Seat:
    """A station on its ground: the namespace that it has, and the device that carries its addresses there; `base` is where the machine's ports are."""

    station: Station
    base: str
    namespace: str
    device: str
    ground: Ground

    def commands(self) -> Iterator[str]:
        """What `ip` is told there."""
        yield "link set lo up"
        yield f"link set {self.device} mtu {self.station.mtu} up"
        for address in (self.station.v4, self.station.v6):
            if address:
                yield f"address add {address} dev {self.device}{' nodad' if ':' in address else ''}"
        if self.station.gateway4:
            yield f"route add default via {self.station.gateway4}"
        if self.station.gateway6:
            yield f"route add ::/0 via {self.station.gateway6}"

    def ask(self, *command: str, timeout: float = 60) -> Done:
        return self.ground.run("nsenter", f"--net=/run/netns/{self.namespace}", *command, timeout=timeout)


def seated(machine: Machine, base: str, ground: Ground) -> list[Seat]:
    """Where the stations of a machine are: what it speaks without a tag in its own namespace, each tagged segment in one beside it."""
    device = "bond0" if machine.lag != "none" else "p0"
    return [
        Seat(
            one,
            base,
            base if one.vlan is None else f"{base}v{one.vlan}",
            device if one.vlan is None else f"v{one.vlan}",
            ground,
        )
        for one in machine.stations
    ]


def base_commands(machine: Machine, seats: Sequence[Seat]) -> Iterator[str]:
    """What `ip` is told inside a machine before its stations are: its ports, the bond of them, and the tags."""
    device, ports = "p0", [f"p{at}" for at in range(len(machine.ports))]
    yield "link set lo up"
    if machine.lag != "none":
        device = "bond0"
        mode = "802.3ad lacp_rate fast" if machine.lag == "lacp" else "balance-xor"
        yield f"link add bond0 type bond mode {mode} miimon 50 xmit_hash_policy layer3+4"
        yield from (f"link set {port} master bond0" for port in ports)
    yield f"link set {device} address {machine.mac}"
    yield from (f"link set {port} mtu {machine.mtu} up" for port in ports)
    yield f"link set {device} mtu {machine.mtu} up"
    for seat in seats:
        if seat.station.vlan is not None:
            yield f"link add link {device} name {seat.device} netns {seat.namespace} type vlan id {seat.station.vlan}"
