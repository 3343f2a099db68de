"""The part of the brief that says what stands where: tiers, racks, pairs and port plans."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from barrio.core.brief.place import Face, Unit
from barrio.core.brief.ranges import expand_names
from barrio.core.brief.terms import Name, Part, PortRange, RackRange

Role = Literal["leaf", "border"]
Pairing = Literal["independent", "multihoming", "peer-link"]


class PortPlan(Part):
    """Which ports of a front serve what; what is left out follows the rule of the model.

    `breakouts` splits ports: `{"p1..p8": "4x25"}`. Lanes are then ports of their own, such as `p1s0`.
    """

    uplinks: PortRange | None = None
    downlinks: PortRange | None = None
    peer: PortRange | None = None
    hosts: PortRange | None = None
    reserved: PortRange | None = None
    breakouts: dict[PortRange, Annotated[str, Field(pattern=r"^[2-8]x\d{1,4}$")]] = Field({}, max_length=64)


class Spines(Part):
    """How many spines (in each pod), of which model, and the racks they stand in (filled in turn).

    `growth` is how many more there will be; their ports are kept free. `faces` is the side of the rack that their ports look to.
    """

    count: int = Field(2, ge=1, le=64)
    model: str = "cantera-c32"
    racks: RackRange = "s01"
    growth: int = Field(0, ge=0, le=64)
    faces: Face = "front"
    ports: PortPlan = PortPlan()


class SuperSpines(Part):
    """The third tier: planes, as many as a pod has spines; spine n of every pod meets the super-spines of plane n."""

    per_plane: int = Field(2, ge=1, le=64)
    model: str = "lonja-s64"
    racks: RackRange = "x01"
    links: int = Field(1, ge=1, le=16)
    growth: int = Field(0, ge=0, le=64)
    faces: Face = "front"
    ports: PortPlan = PortPlan()


class RackGroup(Part):
    """Racks of one kind. `leaves` is how many stand in each: 1, 2 for a pair, or more.

    `kind` names the kind, and gives its leaves an order of uplinks of their own; `growth` is how many more racks of it there
    will be; `pods` are the pods that have these racks (all when left out). `pairing` says how the two leaves of a pair share
    their hosts: not at all, by an EVPN Ethernet segment (RFC 7432), or over a peer link. `lags` are the host ports that
    hosts bond over both leaves of a pair (all of them when left out). `default_plug` is what ports without a host carry.
    `faces` is the side of the rack that the ports of its leaves look to, and `units` the unit that each leaf stands in, in their order.
    """

    racks: RackRange
    kind: Name | None = None
    pods: RackRange | None = None
    leaves: int = Field(2, ge=1, le=8)
    model: str = "cantera-l48"
    role: Role = "leaf"
    uplinks_per_spine: int | None = Field(None, ge=1, le=16)
    host_speed: int | None = Field(None, ge=1, le=3200)
    growth: int = Field(0, ge=0, le=4096)
    faces: Face = "front"
    units: list[Unit] = Field([], max_length=8)
    pairing: Pairing = "independent"
    peer_links: int = Field(2, ge=1, le=8)
    keepalive: Literal["management", "peer-link"] = "management"
    lags: PortRange | None = None
    default_plug: Name | None = None
    ports: PortPlan = PortPlan()

    @model_validator(mode="after")
    def _what_needs_what(self) -> RackGroup:
        if self.pairing != "independent" and self.leaves != 2:
            raise ValueError(f"pairing needs two leaves a rack, and there {self._leaves()}; set leaves to 2")
        if self.uplinks_per_spine is not None and self.kind is None:
            raise ValueError("racks with uplinks of their own need a kind, such as kind: storage")
        return self

    def _leaves(self) -> str:
        return "is one" if self.leaves == 1 else f"are {self.leaves}"

    @property
    def rack_names(self) -> tuple[str, ...]:
        """The racks as written; in a fabric with pods each stands in every pod, as `pod-rack`."""
        return expand_names(self.racks)
