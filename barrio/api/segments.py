"""What ports carry: ports against segments, window by window; filled in many cells at once, hosts named and taken away."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from barrio.api import views
from barrio.api.desk import ERRORS, Editing, Reading
from barrio.app import drafts
from barrio.app.desk import Desk
from barrio.core import Compiled
from barrio.core.attach.seats import Seat, Show
from barrio.core.brief.document import Edits, apply
from barrio.core.brief.ranges import contract_ports
from barrio.core.edits import attaching
from barrio.core.errors import refuse

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["segments"], responses=ERRORS)
MOST_ROWS, MOST_CELLS = 2_000, 20_000


class SegmentColumn(BaseModel):
    """A segment: its numbers, and how many hosts carry it at how many seats. Without a `vlan`, each rack has one of its own."""

    name: str
    vrf: str
    vlan: int | None
    vni: int
    state: str
    hosts: int
    seats: int


class SeatRow(BaseModel):
    """A port, or the ports that a host bonds. `untagged` and `tagged` are places among the columns; `locked` says what a port is for that no
    host can have. `vlans` are those that its rack chose itself, by segment. Its leaf carries `vnis` of the `most_vnis` that its tables hold."""

    key: str
    rack: str
    leaf: str
    ports: str
    host: str
    team: str
    plug: str
    lag: str
    entry: str
    locked: str
    shut: str
    untagged: int | None
    tagged: list[int]
    vlans: dict[str, int]
    vnis: int
    most_vnis: int


class Carrying(BaseModel):
    """A window of the grid. `total` rows are shown in all; `free` seats and `hosts` are those of the whole fabric."""

    version: int
    columns: list[SegmentColumn]
    rows: list[SeatRow]
    total: int
    free: int
    hosts: int
    racks: list[str]
    teams: list[str]
    plugs: list[str]


class Cell(BaseModel):
    """A row by its key, a segment, and what it is to be there: nothing when `mark` is empty."""

    row: str = Field(max_length=120)
    segment: str = Field(max_length=63)
    mark: Literal["tagged", "untagged", ""]


class Fill(BaseModel):
    version: int
    cells: list[Cell] = Field(min_length=1, max_length=MOST_CELLS)


class Detach(BaseModel):
    """Hosts to take away, with all that only they caused."""

    version: int
    hosts: list[str] = Field(min_length=1, max_length=MOST_CELLS)


class Attach(BaseModel):
    """Hosts to name at rows, in their order; `hosts` is one name or a range of them."""

    version: int
    rows: list[str] = Field(min_length=1, max_length=MOST_CELLS)
    hosts: str = Field(max_length=400)
    plug: str = Field("", max_length=63)
    team: str = Field("", max_length=60)


class Dress(BaseModel):
    """A plug or a team for hosts; nothing when `value` is empty."""

    version: int
    hosts: list[str] = Field(min_length=1, max_length=MOST_CELLS)
    field: Literal["plug", "team"]
    value: str = Field(max_length=63)


Sieve = Annotated[str, Query(max_length=80)]


@router.get("/carrying", operation_id="getCarrying")
def get_carrying(
    name: str, at: Reading, rack: Sieve = "", host: Sieve = "", segment: Sieve = "", team: Sieve = "", find: Sieve = "",
    show: Show = "all", offset: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    limit: Annotated[int, Query(ge=1, le=MOST_ROWS)] = 200,
) -> Carrying:  # fmt: skip
    """Ports against segments. What is shown can be one rack, one host, whoever carries one segment, one team; and words to find."""
    opened = drafts.load(at, name)
    compiled = opened.compiled
    columns = _columns(compiled)
    places = {column.name: place for place, column in enumerate(columns)}
    shown = compiled.seats.shown(rack, host, segment, team, find, show)
    hosts = compiled.attachments.hosts
    return Carrying(
        version=opened.draft.version,
        columns=columns,
        rows=[_row(compiled, seat, places) for seat in shown[offset : offset + limit]],
        total=len(shown),
        free=compiled.seats.free,
        hosts=len(hosts),
        racks=list(dict.fromkeys(leaf.rack for leaf in compiled.structure.leaves)),
        teams=sorted({one.team for one in hosts.values() if one.team}),
        plugs=list(compiled.brief.plugs),
    )


def _columns(compiled: Compiled) -> list[SegmentColumn]:
    """Segments by VRF, those without one last."""
    brief, numbers = compiled.brief, compiled.allocation.numbers
    seats = compiled.seats
    vrfs = [*brief.vrfs, None]
    return [
        SegmentColumn(
            name=name, vrf=segment.vrf or "", vlan=numbers["vlan"][f"segment/{name}"].low if segment.scope == "fabric" else None,
            vni=numbers["vni"][f"segment/{name}"].low, state=segment.state, hosts=seats.hosts.get(name, 0), seats=seats.carrying.get(name, 0),
        )
        for name, segment in sorted(brief.segments.items(), key=lambda one: vrfs.index(one[1].vrf))
    ]  # fmt: skip


def _row(compiled: Compiled, seat: Seat, places: dict[str, int]) -> SeatRow:
    way, host, switch = seat.way, seat.host, compiled.models[seat.leaf.key]
    leaves: dict[str, list[str]] = {}
    for key, port in seat.ports:
        leaves.setdefault(key, []).append(port)
    both = len(leaves) > 1
    return SeatRow(
        key=seat.key, rack=seat.leaf.rack, leaf=f"{seat.leaf.name}+{'+'.join(key[-1] for key in list(leaves)[1:])}" if both else seat.leaf.name,
        ports=contract_ports(next(iter(leaves.values()))), host=host.host if host else "", team=host.team if host else "",
        plug=(way.plug or "") if way else "", lag=way.lag if way and host else "", entry=host.entry if host else "",
        locked="" if seat.use == "host" else _FOR[seat.use] + (f": {seat.shut}" if seat.shut else ""), shut=seat.shut,
        untagged=places[way.untagged] if way and way.untagged else None,
        tagged=[places[name] for name in way.tagged] if way else [],
        vlans={part.label: part.vlan for part in switch.segments if part.local},
        vnis=len(switch.segments) + len(switch.vrfs), most_vnis=seat.leaf.type.tables.vnis,
    )  # fmt: skip


_FOR = {"uplink": "an uplink", "peer": "of the peer link", "outside": "a link outside", "reserved": "reserved"}


@router.post("/carrying", operation_id="fillCarrying")
def fill_carrying(name: str, asked: Fill, at: Editing) -> views.FabricView:
    """Make cells what they say, in one save. 422 with a fault for each that cannot be; nothing is taken half."""
    compiled = drafts.load(at, name).compiled
    cells = [attaching.Cell(*cell.row.rpartition(":")[::2], cell.segment, cell.mark) for cell in asked.cells]
    edits = attaching.fill(compiled.brief, compiled.attachments, cells)
    return _save(at, name, asked.version, edits, _filled(asked.cells))


def _save(at: Desk, name: str, version: int, edits: Edits, note: str) -> views.FabricView:
    """Save edits that were made of a draft; when it is at another version by now, 409."""
    if not edits:
        raise refuse("host.same", "It says so already.", "hosts")
    return views.fabric_view(drafts.save(at, name, version, lambda text: apply(text, edits), note[:200]))


def _filled(cells: Sequence[Cell]) -> str:
    marks = {cell.mark for cell in cells}
    words = {"tagged": "tagged on", "untagged": "untagged on", "": "off"}
    how = words[marks.pop()] if len(marks) == 1 else "on and off"
    rows = len({cell.row for cell in cells})
    return (
        f"{_named(list(dict.fromkeys(cell.segment for cell in cells)))} {how} {rows} {'port' if rows == 1 else 'ports'}"
    )


def _named(names: Sequence[str]) -> str:
    return f"{names[0]} and {len(names) - 1} more" if len(names) > 2 else " and ".join(names)


@router.post("/attach", operation_id="attachHosts")
def attach_hosts(name: str, asked: Attach, at: Editing) -> views.FabricView:
    """Name hosts at ports. 422 where one is already, or the names do not come out even."""
    compiled = drafts.load(at, name).compiled
    rows = [(leaf, port) for leaf, _, port in (row.rpartition(":") for row in asked.rows)]
    edits = attaching.attach(
        compiled.brief, compiled.structure, compiled.attachments, rows, asked.hosts, asked.plug, asked.team
    )
    return _save(at, name, asked.version, edits, f"{asked.hosts} attached")


@router.post("/dress", operation_id="dressHosts")
def dress_hosts(name: str, asked: Dress, at: Editing) -> views.FabricView:
    """Give hosts another plug, or another team."""
    compiled = drafts.load(at, name).compiled
    edits = attaching.dress(compiled.brief, compiled.attachments, asked.hosts, asked.field, asked.value)
    return _save(at, name, asked.version, edits, f"{asked.field} {asked.value or 'none'} on {_named(asked.hosts)}")


@router.post("/detach", operation_id="detachHosts")
def detach_hosts(name: str, asked: Detach, at: Editing) -> views.FabricView:
    compiled = drafts.load(at, name).compiled
    edits = attaching.detach(compiled.brief, compiled.attachments, asked.hosts)
    return _save(at, name, asked.version, edits, f"no {_named(asked.hosts)}")
