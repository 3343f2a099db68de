"""A hall of simulated switches, in a Barrio that was started for a demo."""

from __future__ import annotations

from fastapi import APIRouter, Request
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Reading, Staging
from barrio.core.errors import Refused
from barrio.jobs import halls, queue
from barrio.store.jobs import Job

router = APIRouter(prefix="/api/v1/fabrics/{name}/staging/simulated", tags=["staging"], responses=ERRORS)


class HallView(BaseModel):
    """Whether switches of this fabric may be simulated here, and why not where that is so."""

    may: bool
    why: str = ""


@router.get("", operation_id="getSimulated")
def get_simulated(name: str, at: Reading) -> HallView:
    """Whether a hall of simulated switches may be switched on."""
    try:
        halls.checked(at, name)
    except Refused as error:
        return HallView(may=False, why=str(error))
    return HallView(may=True)


@router.post("", operation_id="simulateHall", status_code=202)
def simulate_hall(name: str, request: Request, at: Staging) -> Job:
    """Switch on a hall of simulated switches: they boot with nothing on them, find this Barrio by DHCP, and are staged."""
    halls.checked(at, name)
    host, port = request.scope["server"]
    place = f"[{host}]" if ":" in host else host
    return queue.ask(at, "simulated hall", name, {"address": f"{request.url.scheme}://{place}:{port}"})
