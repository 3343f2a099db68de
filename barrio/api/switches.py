"""Switches of a fabric: their files with every value marked, and why a line, a value or a cable is there."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from barrio.api.crossings import Printed
from barrio.api.desk import ERRORS, Reading
from barrio.api.faces import found_in
from barrio.api.paging import PAGED, Paged
from barrio.app import drafts, output
from barrio.app.output import ReadBack
from barrio.core import Compiled, because
from barrio.core.because import Step
from barrio.core.because.carriers import carriers_of
from barrio.core.render.traced import TracedLine
from barrio.core.structure.parts import Switch
from barrio.store.errors import Missing

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["switches"], responses=ERRORS)


class SwitchRow(BaseModel):
    key: str
    name: str
    role: str
    rack: str
    unit: int
    model: str
    management: str
    loopback: str
    asn: int
    state: str
    fresh: bool


class FileRow(BaseModel):
    path: str
    name: str
    section: str
    lines: int


class SpanView(BaseModel):
    start: int
    end: int
    path: str
    source: str


class LineView(BaseModel):
    text: str
    spans: list[SpanView]


class FileView(BaseModel):
    path: str
    lines: list[LineView]


class ValueReason(BaseModel):
    path: str
    text: str
    steps: list[Step]


class LineReasonView(BaseModel):
    """Why a line is there; `same_on` are the other switches whose file holds the very same line."""

    text: str
    number: int
    steps: list[Step]
    values: list[ValueReason]
    same_on: list[str]


class Chain(BaseModel):
    """A chain of reasons; for a number also the lines that print it and its cables. `more` switches were not read."""

    title: str
    steps: list[Step]
    printed_on: list[Printed] = []
    cables: list[str] = []
    more: int = 0


@router.get("/switches", operation_id="listSwitches", responses=PAGED)
def list_switches(name: str, at: Reading, page: Paged) -> list[SwitchRow]:
    opened = drafts.load(at, name)
    compiled, fresh = opened.compiled, opened.draft.fresh

    def row(switch: Switch) -> SwitchRow:
        model = compiled.models[switch.key]
        return SwitchRow(
            key=switch.key, name=switch.name, role=switch.role, rack=switch.rack, unit=switch.unit,
            model=switch.type.title, management=model.management.ip, loopback=model.router_id, asn=model.asn,
            state=switch.state, fresh=switch.key in fresh,
        )  # fmt: skip

    return [row(switch) for switch in page.of(compiled.structure.switches)]


@router.get("/readback", operation_id="readBack")
def get_read_back(name: str, at: Reading) -> ReadBack:
    """All files, read back and held against each other."""
    return output.read_back(at, name)


@router.get("/switches/{switch}/files", operation_id="listFiles")
def list_files(name: str, switch: str, at: Reading) -> list[FileRow]:
    compiled = drafts.load(at, name).compiled
    key = found_in(compiled, switch).key
    texts = compiled.files(key)
    return [
        FileRow(
            path=plan.path,
            name=plan.path.rsplit("/", 1)[-1],
            section=plan.kind.section,
            lines=texts[plan.path].count("\n"),
        )
        for plan in compiled.plans(key)
    ]


def traced_in(compiled: Compiled, switch: str, path: str) -> tuple[TracedLine, ...]:
    """A file with where each line comes from. Raises `Missing` without such a switch or file."""
    key = found_in(compiled, switch).key
    try:
        return compiled.traced(key, path)
    except KeyError:
        raise Missing(f"{switch} has no file {path}.") from None


@router.get("/switches/{switch}/file", operation_id="getFile")
def get_file(name: str, switch: str, path: str, at: Reading) -> FileView:
    compiled = drafts.load(at, name).compiled
    lines = [
        LineView(
            text=line.text,
            spans=[
                SpanView(start=span.start, end=span.end, path=span.path, source=_source(span.path))
                for span in line.spans
            ],
        )
        for line in traced_in(compiled, switch, path)
    ]
    return FileView(path=path, lines=lines)


_FROM_LEDGER = (
    "/asn", "/router_id", "/loopback_v4", "/loopback_v6", "/vtep", "/v4", "/v6", "/neighbor", "/neighbor6", "/peer_asn", "/vlan",
    "/vni", "/vxlan", "/svi", "/rd", "/route_target", "/gateway_v4", "/gateway_v6", "/address", "/ip", "/cable",
)  # fmt: skip


def _source(path: str) -> str:
    """Which kind of source colours a value: the ledger, the hardware, or the brief."""
    if path.endswith(_FROM_LEDGER) or "/vlans/" in path or path.endswith("/untagged") or "/tagged/" in path:
        return "ledger"
    if path.endswith("/model") or "/host_ports/" in path or "/bridge_ports/" in path:
        return "catalogue"
    return "brief"


@router.get("/switches/{switch}/because", operation_id="getLineBecause")
def get_line_because(name: str, switch: str, path: str, line: int, at: Reading) -> LineReasonView:
    opened = drafts.load(at, name)
    document, compiled = opened.draft.document, opened.compiled
    found = found_in(compiled, switch)
    try:
        reason = because.of_line(document, compiled, switch, path, line)
    except KeyError:
        raise Missing(f"{switch} has no line {line} in {path}.") from None
    return LineReasonView(
        text=reason.line.text,
        number=line,
        steps=list(reason.steps),
        values=[ValueReason(path=at, text=text, steps=list(chain)) for at, text, chain in reason.values],
        same_on=_same_on(compiled, found, path, reason.line.text),
    )


def _same_on(compiled: Compiled, switch: Switch, path: str, text: str) -> list[str]:
    if not text.strip():
        return []
    alike = [other for other in compiled.structure.switches if other.role == switch.role and other.key != switch.key]
    wanted = f"\n{text}\n"
    return [other.name for other in alike if wanted in f"\n{compiled.files(other.key).get(path, '')}"]


@router.get("/because", operation_id="getBecause")
def get_because(
    name: str, at: Reading, use: str | None = None, key: str = "", path: str = "", cable: str = ""
) -> Chain:
    """The chain of a number in the ledger (use and key), of a value of the model (path), or of a cable (its label)."""
    opened = drafts.load(at, name)
    document, compiled = opened.draft.document, opened.compiled
    try:
        if use is not None:
            steps, found = because.of_number(document, compiled, use, key), carriers_of(compiled, use, key)
            lines = [Printed(switch=on, file=file, line=line) for on, file, line in found.lines]
            return Chain(
                title=f"{use} of {key}", steps=list(steps), printed_on=lines, cables=list(found.cables), more=found.more
            )
        if cable:
            return Chain(title=cable, steps=list(because.of_cable(document, compiled, cable)))
        return Chain(title=path, steps=list(because.of_value(document, compiled, path)))
    except KeyError:
        raise Missing(f"{name} has nothing called {use or cable or path} {key}".rstrip() + ".") from None
