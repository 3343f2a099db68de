"""What the picture shows: the Weave, racks with their loads, the faces of switches; and edits made on it."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from barrio.api import views
from barrio.api.fabrics import ERRORS, Store
from barrio.api.people import Who
from barrio.core import Compiled
from barrio.core.brief import reshape
from barrio.core.brief.document import read, set_value
from barrio.core.errors import refuse
from barrio.core.sizing.racks import HEIGHT, rack_loads
from barrio.core.structure.parts import Switch
from barrio.core.structure.ports import names_of
from barrio.store.drafts import Missing

router = APIRouter(prefix="/api/fabrics/{name}", tags=["picture"])


class Front(BaseModel):
    """The ports of a port plan in the order in which they fill; positions in the Weave count in these lists."""

    up: list[str]
    down: list[str]


class Thread(BaseModel):
    """A switch as the Weave draws it.

    `front` counts in the Weave's fronts. `at` are the positions of its end of its links: a leaf's on the spines above it, one
    a parallel link. `used` and `ports` count its downlinks, or a leaf's host ports that carry a segment.
    """

    key: str
    name: str
    model: str
    rack: str
    role: str
    pod: str
    plane: int
    group: int
    lanes: int
    loopback: str
    asn: int
    state: str
    why: str
    front: int
    at: list[int]
    used: int
    ports: int


class WeaveView(BaseModel):
    """The picture's data, small enough for a thousand leaves: crossings follow from pods, planes and lanes.

    `uplinks` holds, for each group of racks, the positions of leaf uplinks by spine and lane. `marked` are links and ports that
    are out of service or planned later, by key. `fresh` are switches that the last change brought.
    """

    version: int
    pods: list[str]
    supers: list[Thread]
    spines: list[Thread]
    leaves: list[Thread]
    fronts: list[Front]
    uplinks: list[list[list[int]]]
    marked: dict[str, str]
    full_racks: list[str]
    fresh: list[str]


@router.get("/weave", operation_id="getWeave", responses=ERRORS)
def get_weave(name: str, store: Store) -> WeaveView:
    draft = store.draft(name)
    compiled = store.compiled(draft)
    structure, brief = compiled.structure, compiled.brief
    fronts: dict[int, int] = {}
    shown: list[Front] = []
    for switch in structure.switches:
        if id(switch.plan) not in fronts:
            fronts[id(switch.plan)] = len(shown)
            shown.append(Front(up=list(names_of(switch.plan.up)), down=list(names_of(switch.plan.down))))
    groups = {id(group): index for index, group in enumerate(brief.racks)}
    used: dict[str, int] = {}
    for end in compiled.ends:
        used[end.link.upper.key] = used.get(end.link.upper.key, 0) + 1

    def thread(switch: Switch) -> Thread:
        return _thread(compiled, switch, fronts[id(switch.plan)], groups.get(id(switch.group), -1), used)

    return WeaveView(
        version=draft.version,
        pods=list(structure.pods) if structure.supers else [],
        supers=[thread(switch) for switch in structure.supers],
        spines=[thread(switch) for switch in structure.spines],
        leaves=[thread(switch) for switch in structure.leaves],
        fronts=shown,
        uplinks=[_uplinks(compiled, index) for index in range(len(brief.racks))],
        marked={key: state for key, (state, _) in structure.marked.items()},
        full_racks=[load.rack for load in rack_loads(structure) if load.units > HEIGHT],
        fresh=draft.fresh,
    )


def _thread(compiled: Compiled, switch: Switch, front: int, group: int, used: dict[str, int]) -> Thread:
    structure, numbers = compiled.structure, compiled.allocation.numbers
    model = compiled.models[switch.key]
    at: list[int] = []
    lanes = 0
    if switch.is_leaf:
        lanes = structure.lanes_of(switch)
        held = numbers[f"port.spine.{switch.pod}" if switch.pod else "port.spine"]
        at = [held[f"{switch.key}~{lane}"].low - 1 for lane in range(1, lanes + 1)]
    return Thread(
        key=switch.key, name=switch.name, model=switch.type.title, rack=switch.rack, role=switch.role, pod=switch.pod,
        plane=switch.plane, group=group, lanes=lanes, loopback=model.router_id, asn=model.asn, state=switch.state,
        why=switch.why, front=front, at=at,
        used=(len(model.host_ports) if model.segments else 0) if switch.is_leaf else used.get(switch.key, 0),
        ports=len(model.host_ports) if switch.is_leaf else len(switch.plan.down),
    )  # fmt: skip


def _uplinks(compiled: Compiled, index: int) -> list[list[int]]:
    group = compiled.brief.racks[index]
    use = f"port.leaf.{group.kind}" if group.kind else "port.leaf"
    held = compiled.allocation.numbers.get(use, {})
    return [
        [held[f"spine/{spine}~{lane}"].low - 1 for lane in range(1, compiled.brief.lanes_of(group) + 1)]
        for spine in range(1, compiled.brief.spines.count + 1)
        if f"spine/{spine}~1" in held
    ]


class RackSwitch(BaseModel):
    name: str
    model: str
    role: str
    unit: int
    units: int
    power: int
    state: str


class RackView(BaseModel):
    """A rack at a glance: what stands in it from the top down, with its loads."""

    rack: str
    pod: str
    units: int
    height: int
    power: int
    weight: float
    state: str
    switches: list[RackSwitch]


@router.get("/racks", operation_id="listRacks", responses=ERRORS)
def list_racks(name: str, store: Store) -> list[RackView]:
    compiled = store.compiled(store.draft(name))
    return [
        RackView(
            rack=load.rack, pod=load.pod, units=load.units, height=HEIGHT, power=load.power, weight=load.weight,
            state=load.state,
            switches=[
                RackSwitch(
                    name=switch.name, model=switch.type.title, role=switch.role, unit=switch.unit,
                    units=switch.type.units, power=switch.type.power, state=switch.state,
                )
                for switch in load.switches
            ],
        )
        for load in rack_loads(compiled.structure)
    ]  # fmt: skip


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


@router.get("/switches/{switch}/face", operation_id="getFace", responses=ERRORS)
def get_face(name: str, switch: str, store: Store) -> FaceView:
    compiled = store.compiled(store.draft(name))
    found = _found(compiled, switch, name)
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


def _found(compiled: Compiled, switch: str, name: str) -> Switch:
    found = compiled.switch(switch)
    if found is None:
        raise Missing(f"{name} has no switch called {switch}.")
    return found


def _holes(compiled: Compiled, switch: Switch) -> list[tuple[Any, list[Hole]]]:
    plugged = _plugged(compiled, switch)
    plan = switch.plan
    uses = {
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
                plugged.get(port)
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
        if host.shut:
            ports[host.label] = FacePort(
                name=host.label, use="host", peer="", cable="", speed=0, shut=host.shut, why=""
            )
    return ports


class Reshape(BaseModel):
    """A change made on the picture to racks, or marks on things by key."""

    version: int
    action: Literal["remove", "copy", "change", "mark"]
    racks: list[str] = Field([], max_length=4096)
    keys: list[str] = Field([], max_length=2000)
    fields: dict[str, str | int | None] = Field({}, max_length=12)
    state: Literal["out_of_service", "planned_later", ""] = ""
    why: str = Field("", max_length=120)


class Ports(BaseModel):
    """Ports of a front that get another use, or a breakout."""

    version: int
    switch: str
    ports: list[str] = Field(min_length=1, max_length=2048)
    use: str = Field(max_length=20)
    scope: Literal["switch", "kind"]


@router.post("/reshape", operation_id="reshape", responses=ERRORS)
def post_reshape(name: str, asked: Reshape, store: Store, who: Who) -> views.FabricView:
    def change(text: str) -> str:
        brief = read(text).brief
        if asked.action == "remove":
            edits = reshape.remove_racks(brief, asked.racks)
        elif asked.action == "copy":
            edits = reshape.copy_racks(brief, asked.racks)
        elif asked.action == "change":
            edits = reshape.change_racks(brief, asked.racks, dict(asked.fields))
        else:
            edits = reshape.mark(brief, asked.keys, asked.state, asked.why)
        return _with(text, edits)

    draft = store.save(name, asked.version, change, _said(asked), who)
    return views.fabric_view(draft, store.compiled(draft))


def _said(asked: Reshape) -> str:
    things = asked.racks or asked.keys
    named = f"{things[0]} and {len(things) - 1} more" if len(things) > 2 else " and ".join(things)
    if asked.action == "mark":
        word = {"out_of_service": "out of service", "planned_later": "planned later", "": "in service"}[asked.state]
        return f"{named} {word}"
    if asked.action == "change":
        said = ", ".join(f"{field.replace('_', ' ')} {value}" for field, value in asked.fields.items())
        return f"racks {named}: {said}"[:200]
    return f"{ {'remove': 'no', 'copy': 'copies of'}[asked.action] } racks {named}"


@router.post("/ports", operation_id="planPorts", responses=ERRORS)
def plan_ports(name: str, asked: Ports, store: Store, who: Who) -> views.FabricView:
    compiled = store.compiled(store.draft(name))
    switch = _found(compiled, asked.switch, name)

    def change(text: str) -> str:
        edits = reshape.plan_ports_of(read(text).brief, switch, asked.ports, asked.use, asked.scope)
        if not edits:
            raise refuse("ports.same", "These ports have that use already.", "use")
        return _with(text, edits)

    whose = asked.switch if asked.scope == "switch" else f"all like {asked.switch}"
    draft = store.save(name, asked.version, change, f"ports {asked.ports[0]}… {asked.use} on {whose}"[:200], who)
    return views.fabric_view(draft, store.compiled(draft))


def _with(text: str, edits: reshape.Edits) -> str:
    for path, value in edits:
        text = set_value(text, path, value)
    return text
