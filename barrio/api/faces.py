"""The face of a switch: its ports as one stands before them, and what is plugged in."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Reading
from barrio.app import drafts
from barrio.core import Compiled
from barrio.core.printed import Device
from barrio.core.structure.parts import Switch
from barrio.store.errors import Missing

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["picture"], responses=ERRORS)


class FacePort(BaseModel):
    """A port as one sees it; `use` is uplink, downlink, peer, host, outside, reserved or dark; `peer` who is plugged in."""

    name: str
    use: str
    peer: str
    cable: str
    speed: int
    shut: str
    why: str


class Hole(BaseModel):
    """A hole of the front: one port, or the lanes of a breakout."""

    name: str
    ports: list[FacePort]
    breakouts: list[str]


class FaceGroup(BaseModel):
    rows: int
    connector: str
    holes: list[Hole]


class FaceView(BaseModel):
    switch: str
    key: str
    model: str
    own_plan: bool
    groups: list[FaceGroup]


@router.get("/switches/{switch}/face", operation_id="getFace")
def get_face(name: str, switch: str, at: Reading) -> FaceView:
    return face_view(drafts.load(at, name).compiled, switch)


def face_view(compiled: Compiled, switch: str) -> FaceView:
    """The face of a switch. Raises `Missing`."""
    found = found_in(compiled, switch)
    return FaceView(
        switch=found.name,
        key=found.key,
        model=found.type.title,
        own_plan=found.key in compiled.brief.ports,
        groups=[
            FaceGroup(rows=group.rows, connector=group.connector, holes=holes)
            for group, holes in _holes(compiled, found)
        ],
    )


def found_in(compiled: Compiled, switch: str) -> Switch:
    """A switch by its name or key. Raises `Missing`."""
    found = compiled.switch(switch)
    if found is None:
        raise Missing(f"{compiled.brief.fabric} has no switch called {switch}.")
    return found


def _holes(compiled: Compiled, switch: Switch) -> list[tuple[Any, list[Hole]]]:
    plugged = _plugged(compiled, switch)
    plan = switch.plan
    uses: dict[str, str] = {
        port.name: use
        for use, ports in (
            ("uplink", plan.up), ("downlink", plan.down), ("peer", plan.peer), ("host", plan.hosts), ("reserved", plan.reserved),
        )
        for port in ports
    }  # fmt: skip
    lanes: dict[str, list[str]] = {}
    for port in plan.by_name.values():
        lanes.setdefault(port.parent, []).append(port.name)
    found = []
    for group in switch.type.groups:
        holes = []
        for name in group.ports:
            ports = [
                plugged.get(Device(port))
                or FacePort(name=port, use=uses.get(port, "free"), peer="", cable="", speed=0, shut="", why="")
                for port in lanes.get(name, [])
            ]
            if not ports:
                dark = name in plan.dark
                use, why = ("dark", "used up by the breakout beside it") if dark else ("free", "")
                ports = [FacePort(name=name, use=use, peer="", cable="", speed=0, shut="", why=why)]
            holes.append(Hole(name=name, ports=ports, breakouts=[one.text for one in group.breakouts]))
        found.append((group, holes))
    return found


def _plugged(compiled: Compiled, switch: Switch) -> dict[str, FacePort]:
    model = compiled.models[switch.key]
    speeds = {end.label: end.link.speed for end in compiled.ends if switch in (end.link.upper, end.link.lower)}
    ports: dict[str, FacePort] = {}
    above = {
        end.label: "uplink" if end.link.lower is switch else "downlink"
        for end in compiled.ends
        if switch in (end.link.upper, end.link.lower)
    }
    for port in model.fabric_ports:
        ports[port.label] = FacePort(
            name=port.label, use=above[port.cable], peer=f"{port.peer} {port.peer_port}", cable=port.cable,
            speed=speeds[port.cable], shut=port.shut or "", why="",
        )  # fmt: skip
    for peer in model.pair.ports if model.pair else ():
        ports[peer.label] = FacePort(
            name=peer.label, use="peer", peer=f"{model.pair.peer if model.pair else ''} {peer.peer_port}", cable=peer.cable,
            speed=speeds.get(peer.cable, 0), shut="", why="",
        )  # fmt: skip
    for out in model.outside_ports:
        ports[out.label] = FacePort(
            name=out.label, use="outside", peer=f"{out.system} {out.far_port}".strip(), cable=out.cable, speed=0,
            shut=out.shut or "", why="",
        )  # fmt: skip
    for host in model.host_ports:
        if host.host or (host.shut and not host.free):
            ports[host.label] = FacePort(
                name=host.label, use="host", peer=host.host or "", cable="", speed=0, shut=host.shut or "", why=""
            )
    return ports
