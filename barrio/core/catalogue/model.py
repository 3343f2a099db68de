"""What the hardware is: switch models with the ports of their front, in their real rows.

A port group is a block of like ports. On the front they fill columns from the left, top row first, in `rows` rows. Speeds
are in Gbit/s, power in watts, weight in kilograms. A port may be broken out into lanes, each a port of its own; on some
fronts that leaves the neighbours dark, since they share the same lanes of the chip.
"""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from barrio.core.printed.text import OneLine

MOST_PORTS = 20_000
"""Names of ports and of lanes that one front may have."""

PortUse = Literal["fabric", "host", "any"]
Tier = Literal["leaf", "spine", "super-spine"]
Airflow = Literal["front to back", "back to front", "side to side"]
Speed = Annotated[int, Field(ge=1, le=3200)]


class Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, hide_input_in_errors=True)


class Breakout(Part):
    """One way to split a port: `lanes` ports of `speed` each; the `uses_up` ports after it on the front go dark."""

    lanes: int = Field(ge=2, le=8)
    speed: Speed
    uses_up: int = Field(0, ge=0, le=3)

    @property
    def text(self) -> str:
        return f"{self.lanes}x{self.speed}"


class PortGroup(Part):
    """A block of like ports. `{n}` in `pattern` counts from `first`; `{port}` and `{lane}` name a lane of a breakout."""

    prefix: Annotated[str, Field(pattern=r"^[a-z]{1,6}$")]
    count: int = Field(ge=1, le=2048)
    speeds: list[Speed] = Field(min_length=1, max_length=12)
    use: PortUse
    connector: OneLine = Field(max_length=20)
    rows: int = Field(2, ge=1, le=8)
    first: int = Field(1, ge=0, le=1)
    pattern: Annotated[str, Field(pattern=r"^[a-z][a-z0-9/]{0,8}\{n\}[a-z0-9/]{0,4}$")] | None = None
    lane_pattern: Annotated[str, Field(pattern=r"^\{port\}[a-z/]{0,2}\{lane\}$")] = "{port}s{lane}"
    first_lane: int = Field(0, ge=0, le=1)
    breakouts: list[Breakout] = Field([], max_length=12)

    def name(self, number: int) -> str:
        """The name of the port with this number."""
        return self.pattern.replace("{n}", str(number)) if self.pattern else f"{self.prefix}{number}"

    @cached_property
    def ports(self) -> tuple[str, ...]:
        return tuple(map(self.name, range(self.first, self.first + self.count)))

    def lanes(self, port: str, breakout: Breakout) -> tuple[str, ...]:
        """The names of the lanes of a broken-out port."""
        count = range(self.first_lane, self.first_lane + breakout.lanes)
        return tuple(self.lane_pattern.replace("{port}", port).replace("{lane}", str(lane)) for lane in count)


class Tables(Part):
    """How much the forwarding chip holds: IP routes, VNIs, and the width of one ECMP group."""

    routes: int = Field(128_000, ge=1)
    vnis: int = Field(4_000, ge=0)
    ecmp: int = Field(64, ge=1, le=4096)


class SwitchType(Part):
    id: Annotated[str, Field(pattern=r"^[a-z][a-z0-9-]{0,40}$")]
    maker: Annotated[OneLine, Field(min_length=1, max_length=40)]
    name: Annotated[OneLine, Field(min_length=1, max_length=40)]
    tiers: list[Tier] = Field(min_length=1, max_length=3)
    groups: list[PortGroup] = Field(min_length=1, max_length=12)
    reserved: list[str] = Field([], max_length=256)
    units: int = Field(1, ge=1, le=48)
    airflow: Airflow = "front to back"
    also_airflow: list[Airflow] = Field([], max_length=2)
    power: int = Field(ge=0, le=200_000)
    weight: float = Field(9, gt=0, le=2000)
    tables: Tables = Tables()
    reboots_for: list[Literal["breakout", "speed"]] = Field([], max_length=2)

    @model_validator(mode="after")
    def _ports_are_named_once(self) -> SwitchType:
        count = sum(group.count * (1 + sum(one.lanes for one in group.breakouts)) for group in self.groups)
        if count > MOST_PORTS:
            raise ValueError(f"its ports and their lanes have {count:,} names, and {MOST_PORTS:,} is the most")
        seen: set[str] = set()
        for group in self.groups:
            names = set(group.ports)
            for breakout in group.breakouts:
                for port in group.ports:
                    names.update(group.lanes(port, breakout))
            twice = seen & names
            if twice:
                raise ValueError(f"port {min(twice)} is named by two groups; give one of them another prefix")
            long = next((name for name in sorted(names) if len(name) > 15), None)
            if long:
                raise ValueError(f"port name {long} is over 15 characters, the most that Linux takes")
            seen |= names
        for port in self.reserved:
            if port not in seen:
                raise ValueError(f"reserved port {port} is not on the front")
        return self

    @property
    def title(self) -> str:
        return f"{self.maker} {self.name}"

    @property
    def airflows(self) -> tuple[Airflow, ...]:
        """The airflows that it can be ordered with."""
        return (self.airflow, *self.also_airflow)

    @cached_property
    def group_of(self) -> dict[str, PortGroup]:
        """The group of each port, in the order of the front."""
        return {port: group for group in self.groups for port in group.ports}


class Catalogue(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    models: tuple[SwitchType, ...]

    @cached_property
    def _by_id(self) -> dict[str, SwitchType]:
        return {entry.id: entry for entry in self.models}

    def find(self, model: str) -> SwitchType | None:
        return self._by_id.get(model)

    def ids(self, tier: str) -> tuple[str, ...]:
        return tuple(entry.id for entry in self.models if tier in entry.tiers)

    def with_models(self, more: Iterable[SwitchType]) -> Catalogue:
        """This catalogue with more models; one with an id that is there already takes its place.

        >>> Catalogue(models=()).with_models([]).models
        ()
        """
        changed = {entry.id: entry for entry in more}
        if not changed:
            return self
        kept = tuple(changed.pop(entry.id, entry) for entry in self.models)
        return Catalogue(models=kept + tuple(changed.values()))
