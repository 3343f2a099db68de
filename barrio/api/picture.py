"""What the picture shows: the Weave, and racks with their loads."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Reading
from barrio.api.paging import PAGED, Paged
from barrio.app import drafts
from barrio.app.drafts import Opened
from barrio.core import Compiled
from barrio.core.sizing.racks import HEIGHT, rack_loads
from barrio.core.structure.parts import Switch
from barrio.core.structure.ports import names_of

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["picture"], responses=ERRORS)


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


@router.get("/weave", operation_id="getWeave")
def get_weave(name: str, at: Reading) -> WeaveView:
    return weave_view(drafts.load(at, name))


def weave_view(opened: Opened) -> WeaveView:
    draft, compiled = opened.draft, opened.compiled
    structure, brief = compiled.structure, compiled.brief
    plans = {switch.plan.front: switch.plan for switch in structure.switches}
    places = {front: place for place, front in enumerate(plans)}
    groups = {f"racks[{index}].racks": index for index in range(len(brief.racks))}
    used: dict[str, int] = {}
    for end in compiled.ends:
        used[end.link.upper.key] = used.get(end.link.upper.key, 0) + 1

    def thread(switch: Switch) -> Thread:
        return _thread(compiled, switch, places[switch.plan.front], groups.get(switch.origin, -1), used)

    return WeaveView(
        version=draft.version,
        pods=list(structure.pods) if structure.supers else [],
        supers=[thread(switch) for switch in structure.supers],
        spines=[thread(switch) for switch in structure.spines],
        leaves=[thread(switch) for switch in structure.leaves],
        fronts=[Front(up=list(names_of(plan.up)), down=list(names_of(plan.down))) for plan in plans.values()],
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
        used=sum(not port.free and not port.shut for port in model.host_ports) if switch.is_leaf else used.get(switch.key, 0),
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


@router.get("/racks", operation_id="listRacks", responses=PAGED)
def list_racks(name: str, at: Reading, page: Paged) -> list[RackView]:
    return list(page.of(rack_views(drafts.load(at, name).compiled)))


def rack_views(compiled: Compiled) -> list[RackView]:
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
