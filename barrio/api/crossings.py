"""Where two switches meet: their links, and why those are there."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Reading
from barrio.app import drafts
from barrio.core import because
from barrio.core.because import Step
from barrio.store.errors import Missing

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["picture"], responses=ERRORS)


class LinkView(BaseModel):
    label: str
    key: str
    upper_port: str
    lower_port: str
    speed: int
    kind: str
    v4: str | None
    v6: str | None
    state: str


class Printed(BaseModel):
    """A line of a file that prints a value."""

    switch: str
    file: str
    line: int


class CrossingView(BaseModel):
    """What is between two switches that are linked, with the reasons for the first of their links."""

    upper: str
    lower: str
    upper_asn: int
    lower_asn: int
    state: str
    links: list[LinkView]
    because_of: str
    because: list[Step]
    printed_on: list[Printed]


@router.get("/crossing", operation_id="getCrossing")
def get_crossing(name: str, one: str, other: str, at: Reading) -> CrossingView:
    opened = drafts.load(at, name)
    compiled, names = opened.compiled, {one, other}
    found = [end for end in compiled.ends if {end.link.upper.name, end.link.lower.name} == names]
    if not found:
        raise Missing(f"{one[:60]} and {other[:60]} do not meet in {name}.")
    link = found[0].link
    model, below = compiled.models[link.upper.key], compiled.models[link.lower.key]
    kinds = {cable.label: cable.kind for cable in compiled.cables}
    ports = {port.label: port for port in model.fabric_ports}
    links = [
        LinkView(
            label=end.label,
            key=end.link.key,
            upper_port=end.upper_port,
            lower_port=end.lower_port,
            speed=end.link.speed,
            kind=kinds.get(end.label, "not laid yet"),
            v4=ports[end.upper_port].v4 if end.upper_port in ports else None,
            v6=ports[end.upper_port].v6 if end.upper_port in ports else None,
            state=compiled.structure.state_of(end.link)[0],
        )
        for end in found
    ]
    text: str
    chain: tuple[Step, ...]
    if link.kind == "peer":
        text, chain = found[0].label, because.of_cable(opened.draft.document, compiled, found[0].label)
    else:
        first = ports[found[0].upper_port]
        value = "v4" if first.v4 else "v6" if first.v6 else "cable"
        text = str(getattr(first, value))
        path = f"switches/{link.upper.name}/fabric_ports/{first.label}/{value}"
        chain = because.of_value(opened.draft.document, compiled, path)
    printed = because.printed_on(compiled, (link.upper.name, link.lower.name), text.split("/", maxsplit=1)[0])
    return CrossingView(
        upper=link.upper.name, lower=link.lower.name, upper_asn=model.asn, lower_asn=below.asn,
        state=compiled.structure.state_of(link)[0], links=links, because_of=text, because=list(chain),
        printed_on=[Printed(switch=name, file=file, line=line) for name, file, line in printed],
    )  # fmt: skip
