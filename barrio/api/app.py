"""The application: routers, guard, problems, and the built front end."""

from __future__ import annotations

from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, PlainTextResponse, Response
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from barrio.api import (
    adopting,
    arriving,
    asking,
    boot,
    cablework,
    cabling,
    catalogue,
    comparing,
    crossings,
    draining,
    drift,
    editions,
    events,
    fabrics,
    faces,
    following,
    gits,
    growth,
    halls,
    handover,
    holding,
    hostsheets,
    images,
    jobs,
    lines,
    numbers,
    office,
    outlets,
    output,
    paper,
    people,
    picture,
    pools,
    problems,
    racksheets,
    record,
    rehearsals,
    reshape,
    reviews,
    ripple,
    search,
    segments,
    session,
    settings,
    sheets,
    sides,
    staging,
    starts,
    switches,
    sztp,
    ways,
    whois,
)  # fmt: skip
from barrio.api.desk import Mine
from barrio.api.guard import Guard
from barrio.api.measures import Measures
from barrio.api.openapi import described
from barrio.app.house import House
from barrio.core.brief.schema import brief_schema
from barrio.places import FRONT
from barrio.store.database import steps_missing
from barrio.store.errors import Unreachable

_POLICY = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self'; frame-ancestors 'none'"


class Health(BaseModel):
    """Whether Barrio can be worked with; `why` says what hinders it."""

    ok: bool
    why: str = ""


ROUTERS = (
    fabrics, output, crossings, switches, cabling, cablework, paper, racksheets, lines, comparing, picture, faces, reshape, settings, starts, catalogue, office, pools, growth, numbers, whois, sheets, hostsheets,
    segments, search, session, ways, people, record, events, jobs, editions, ripple, reviews, outlets, gits, sides, rehearsals, staging, arriving, draining, drift, adopting, asking, following, holding, halls, handover, images, boot, sztp,
)  # fmt: skip


BESIDE = (fabrics.ended_router, reviews.waiting_router, images.boot)
"""Routes that stand beside those of their fabrics."""


def make_app(house: House | None, web: Path = FRONT, public: str = "", log_all: bool = False) -> FastAPI:
    """The application over a house; without one, only its OpenAPI document is of use. `public` is the address that it is known by."""
    app = FastAPI(title="Barrio", version="0.1.0", docs_url=None, redoc_url=None, openapi_url="/api/v1/openapi.json")
    app.state.house = house
    problems.install(app)
    for module in ROUTERS:
        app.include_router(module.router)
    for router in BESIDE:
        app.include_router(router)

    @app.get("/api/v1/health", operation_id="getHealth")
    def get_health(response: Response) -> Health:
        """503 while the database is lost."""
        why = house.pulse.why if house and house.pulse else ""
        response.status_code = 503 if why else 200
        return Health(ok=not why, why=why)

    @app.get("/api/v1/ready", operation_id="getReady")
    def get_ready(response: Response) -> Health:
        """Whether this server can take work: its database is there, with the schema that it knows. 503 when not."""
        why = not_ready(house)
        response.status_code = 503 if why else 200
        return Health(ok=not why, why=why)

    @app.get("/api/v1/metrics", operation_id="getMetrics", response_class=PlainTextResponse)
    def get_metrics(request: Request, at: Mine) -> PlainTextResponse:
        """Figures of this server, of drift, stagings and jobs, in Prometheus' text format; for whoever is signed in, or a token of any role."""
        return PlainTextResponse(
            request.scope["measures"].text(at), media_type="text/plain; version=0.0.4; charset=utf-8"
        )

    @app.get("/schemas/brief.json", include_in_schema=False)
    def get_brief_schema() -> dict[str, object]:
        return brief_schema()

    @app.get("/{path:path}", include_in_schema=False)
    def get_web(path: str) -> Response:
        return _page(web, path)

    app.add_middleware(Guard, public=public)
    app.add_middleware(Measures, every=log_all)
    app.openapi = lambda: described(app, [app.router, *(module.router for module in ROUTERS), *BESIDE])  # type: ignore[method-assign]
    return app


def not_ready(house: House | None) -> str:
    """Why a house cannot take work; nothing when it can."""
    if house is None:
        return "There is no database."
    if house.pulse and house.pulse.why:
        return house.pulse.why
    try:
        with house.alone() as connection:
            missing = steps_missing(connection)
    except Unreachable as error:
        return str(error)
    return f"The database has not had the step {missing[0]} yet." if missing else ""


def _page(web: Path, path: str) -> Response:
    """A file of the front end, or its one page for every address that is a screen."""
    if path.startswith("api/"):
        raise HTTPException(404, f"There is nothing at /{path[:100]}.")
    headers = {
        "Content-Security-Policy": _POLICY,
        "Referrer-Policy": "no-referrer",
    }
    place = (web / path).resolve() if len(path) < 200 else web
    if path and place.is_relative_to(web.resolve()) and place.is_file():
        cache = "public, max-age=31536000, immutable" if path.startswith("assets/") else "no-cache"
        return FileResponse(place, headers=headers | {"Cache-Control": cache})
    index = web / "index.html"
    if not index.is_file():
        raise HTTPException(503, "The front end is not built. Run “make demo”, or “npm run build” in web/.")
    return FileResponse(index, headers=headers | {"Cache-Control": "no-cache"})
