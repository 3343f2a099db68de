"""What cables are made of: assemblies, optics and cords, with the lengths that are in stock, and which fits which port.

Lengths and reaches are in metres, diameters in millimetres, power in watts for each end; a price is a number without a currency, the same
for all parts of a list, `price` for a piece and `per_metre` for its length. Parts without a price are chosen by their kind.
"""

from __future__ import annotations

from functools import cached_property
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from barrio.core.catalogue.model import Part, Speed
from barrio.core.printed.text import OneLine

CableKind = Literal["DAC", "copper", "power", "AOC", "SR optics", "DR optics"]
RANK: dict[CableKind, int] = {"DAC": 0, "copper": 1, "power": 1, "AOC": 2, "SR optics": 3, "DR optics": 4}
"""The order from the plainest to the most costly, when parts have no price."""

Medium = Literal["OM4 duplex", "OM4 MPO-12", "OS2 duplex", "OS2 MPO-12", "copper pairs"]
PartId = Annotated[str, Field(pattern=r"^[a-z][a-z0-9.-]{0,40}$")]
Plug = Annotated[OneLine, Field(min_length=1, max_length=20)]
Length = Annotated[float, Field(gt=0, le=2000)]

_TAKES = {
    "SFP28": ("SFP28", "SFP+", "SFP"),
    "SFP56": ("SFP56", "SFP28", "SFP+"),
    "QSFP28": ("QSFP28", "QSFP+"),
    "QSFP56": ("QSFP56", "QSFP28", "QSFP+"),
    "QSFP-DD": ("QSFP-DD", "QSFP56", "QSFP28", "QSFP+"),
}
"""The plugs that a cage takes beside its own kind: SFF-8402, SFF-8665 and the QSFP-DD specification keep the older ones fitting."""


def takes(connector: str) -> tuple[str, ...]:
    """The plugs that fit a port, its own kind first.

    >>> takes("QSFP28"), takes("RJ45")
    (('QSFP28', 'QSFP+'), ('RJ45',))
    """
    return _TAKES.get(connector, (connector,))


class Assembly(Part):
    """A cable with its plugs on: `plug` at one end and, with legs, `legs` times `far` at the other. `speed` is that of a leg."""

    id: PartId
    maker: Plug
    kind: CableKind
    plug: Plug
    far: Plug | None = None
    legs: Annotated[int, Field(ge=1, le=8)] = 1
    speed: Speed
    lengths: Annotated[list[Length], Field(min_length=1, max_length=60)]
    diameter: Annotated[float, Field(gt=0, le=60)]
    power: Annotated[float, Field(ge=0, le=60)] = 0
    price: Annotated[float, Field(ge=0)] | None = None
    per_metre: Annotated[float, Field(ge=0)] = 0


class Optic(Part):
    """What goes into a port and takes a cord. With `lanes`, each of them is a link of `speed`."""

    id: PartId
    maker: Plug
    kind: CableKind
    plug: Plug
    medium: Medium
    speed: Speed
    lanes: Annotated[int, Field(ge=1, le=8)] = 1
    reach: Length
    power: Annotated[float, Field(ge=0, le=60)] = 0
    price: Annotated[float, Field(ge=0)] | None = None


class Cord(Part):
    """What lies between two optics, or between a port and a panel; `legs` over one are fanned out. A `trunk` lies between two panels, with as
    many fibres as it has positions, and is made to the metre."""

    id: PartId
    maker: Plug
    medium: Medium
    plug: Plug
    far: Plug | None = None
    legs: Annotated[int, Field(ge=1, le=8)] = 1
    lengths: Annotated[list[Length], Field(min_length=1, max_length=60)]
    diameter: Annotated[float, Field(gt=0, le=60)]
    price: Annotated[float, Field(ge=0)] | None = None
    per_metre: Annotated[float, Field(ge=0)] = 0
    trunk: bool = False


class PartList(BaseModel):
    """All parts that may be chosen from."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, hide_input_in_errors=True)

    assemblies: Annotated[list[Assembly], Field(max_length=400)] = []
    optics: Annotated[list[Optic], Field(max_length=400)] = []
    cords: Annotated[list[Cord], Field(max_length=400)] = []

    @model_validator(mode="after")
    def _named_once(self) -> PartList:
        ids = [part.id for part in self.all]
        twice = next((one for at, one in enumerate(ids) if one in ids[:at]), None)
        if twice:
            raise ValueError(f"two parts are called {twice}; give one another id")
        return self

    @property
    def all(self) -> tuple[Assembly | Optic | Cord, ...]:
        return (*self.assemblies, *self.optics, *self.cords)

    @cached_property
    def by_id(self) -> dict[str, Assembly | Optic | Cord]:
        return {part.id: part for part in self.all}

    def with_parts(self, more: PartList) -> PartList:
        """This list with more parts; one with an id that is there already takes its place."""
        new = more.by_id
        return PartList(
            assemblies=[part for part in self.assemblies if part.id not in new] + more.assemblies,
            optics=[part for part in self.optics if part.id not in new] + more.optics,
            cords=[part for part in self.cords if part.id not in new] + more.cords,
        )
