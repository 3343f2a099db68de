"""What devices made of ports, VLANs and VNIs are called in the model, as a Linux system takes them. A target may print other names."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cached_property

from barrio.core.printed import Made


@dataclass(frozen=True)
class Devices:
    """Each name as a pattern with {} for what it is made of: a host port's name, a VLAN, a VNI, and a port with a VLAN.

    `own` are the names of devices that every switch has.

    >>> Devices("bond-{}", "vlan{}", "vni{}", "{}.{}", frozenset({"lo"})).svi(101)
    'vlan101'
    """

    lag_name: str
    svi_name: str
    tunnel_name: str
    tagged_name: str
    own: frozenset[str]

    def lag(self, port: str) -> Made:
        """The LAG of a host port."""
        return Made(self.lag_name.format(port))

    def svi(self, vlan: int) -> Made:
        """The routed device of a VLAN."""
        return Made(self.svi_name.format(vlan))

    def tunnel(self, vni: int) -> Made:
        """The tunnel of a VNI."""
        return Made(self.tunnel_name.format(vni))

    def tagged(self, port: str, vlan: int) -> Made:
        """The part of a port that carries one tag."""
        return Made(self.tagged_name.format(port, vlan))

    def taken(self, name: str) -> bool:
        """Whether a device of some switch could have this name, so that a VRF must not."""
        return name in self.own or self._made.fullmatch(name) is not None

    @cached_property
    def _made(self) -> re.Pattern[str]:
        """Names that could come of a number, or of a port whose name is letters and a number."""
        of = {self.lag_name: r"[a-z]*\d+", self.svi_name: r"\d+", self.tunnel_name: r"\d+"}
        return re.compile("|".join(re.escape(name).replace(r"\{\}", part) for name, part in of.items()))


DEVICES = Devices(
    lag_name="bond-{}",
    svi_name="vlan{}",
    tunnel_name="vni{}",
    tagged_name="{}.{}",
    own=frozenset({"lo", "mgmt", "bridge", "peer", "default", "all", "bond0"}),
)
"""The names in every model, whatever a switch's files are written in."""
