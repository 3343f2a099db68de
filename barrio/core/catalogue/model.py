"""What the hardware is: switch models with the ports of their front, in their real rows.

A port group is a block of like ports. Ports of a group are numbered from 1 and named by its prefix (`h1`, `u8`); on the
front they fill columns from the left, top row first, in `rows` rows. Speeds are in Gbit/s, power in watts.
"""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

PortUse = Literal["fabric", "host"]


class PortGroup(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    prefix: str = Field(pattern=r"^[a-z]{1,4}$")
    count: int = Field(ge=1, le=2048)
    speeds: tuple[int, ...]
    use: PortUse
    connector: str
    rows: int = Field(2, ge=1, le=8)

    @property
    def ports(self) -> tuple[str, ...]:
        return tuple(f"{self.prefix}{number}" for number in range(1, self.count + 1))


class SwitchType(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    id: str
    maker: str
    name: str
    tiers: tuple[Literal["spine", "leaf"], ...]
    groups: tuple[PortGroup, ...]
    units: int = 1
    airflow: str = "front to back"
    power: int

    @property
    def title(self) -> str:
        return f"{self.maker} {self.name}"

    def ports_for(self, use: PortUse) -> tuple[str, ...]:
        return tuple(port for group in self.groups if group.use == use for port in group.ports)

    def fabric_speeds(self) -> frozenset[int]:
        return frozenset(speed for group in self.groups if group.use == "fabric" for speed in group.speeds)

    def host_bandwidth(self) -> int:
        return sum(group.count * max(group.speeds) for group in self.groups if group.use == "host")


class Catalogue(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    models: tuple[SwitchType, ...]

    def find(self, model: str) -> SwitchType | None:
        return next((entry for entry in self.models if entry.id == model), None)

    def ids(self, tier: str) -> tuple[str, ...]:
        return tuple(entry.id for entry in self.models if tier in entry.tiers)
