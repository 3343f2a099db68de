"""Hosts of a lab: machines in namespaces of their own, with bonds, VLANs and addresses as real ones have them."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

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
