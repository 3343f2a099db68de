"""The parts of a switch's model that say who is at its edge: host ports, the LAGs of them, and hosts' limits."""

from __future__ import annotations

from dataclasses import dataclass

from barrio.core.printed import Device, Mac, Made, Name, Printed


@dataclass(frozen=True, slots=True)
class HostPort:
    """A port for hosts, and which host is at it. `bond` is the LAG it is in; what a LAG carries stands there. `tagged` and `untagged` are
    the VLANs on it, `free` says that no host is at it and it is shut for that, `open` that it joins the bridge by itself."""

    label: Device
    host: Name | None
    bond: Made | None
    tagged: tuple[int, ...]
    untagged: int | None
    mtu: int
    forced_speed: int | None
    fec: Made | None
    free: bool
    shut: str | None

    @property
    def open(self) -> bool:
        return self.bond is None and not self.shut


@dataclass(frozen=True, slots=True)
class HostLag:
    """A LAG of a host's ports on this leaf. `segment_id` is its Ethernet segment's when the other leaf of the pair has the rest of it.

    `odd` says whether that id is odd: the first leaf of a pair is the preferred forwarder of odd ones, the second of even ones. `paired`
    says that both leaves answer it as one, `static` that no LACP is spoken, `slow` that it is spoken every 30 s.
    """

    label: Made
    host: Name | None
    members: tuple[Device, ...]
    paired: bool
    segment_id: int | None
    odd: bool
    static: bool
    slow: bool
    tagged: tuple[int, ...]
    untagged: int | None
    mtu: int


@dataclass(frozen=True, slots=True)
class EdgeLimit:
    """What a host has of limits of its own: `storm` is how many frames for all it may send a second (0: as many as it likes; nothing: what
    all may), `share` the same in bytes a second, and `burst` how many of these it may send at once; `macs` is how many addresses may stand
    behind it, `only` which alone. `place` counts them from 1."""

    label: Printed
    place: int
    storm: int | None
    share: int | None
    burst: int | None
    macs: int | None
    only: tuple[Mac, ...]
