"""What is taken away of a fabric: structure, bundle, cabling plan, numbers, brief, address records."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter, Response

from barrio.api.boot import AGENT
from barrio.api.desk import ERRORS, Reading, Sealing
from barrio.api.downloads import attachment, download
from barrio.app import drafts, output
from barrio.app.cabling import standing
from barrio.core import bundle
from barrio.core.exchange import names
from barrio.core.exchange.write import FORMATS

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["output"], responses=ERRORS)
CSV = "text/csv; charset=utf-8; header=present"


@router.get(
    "/topology.{kind}", operation_id="getTopology", **download(*dict.fromkeys(media for _, media in FORMATS.values()))
)
def get_topology(name: str, kind: Literal["rfc8345.json", "graphml", "dot", "svg"], at: Reading) -> Response:
    """The structure as RFC 8345 JSON, GraphML, DOT or SVG."""
    write, media = FORMATS[kind]
    return attachment(write(drafts.load(at, name).compiled).encode(), media, f"{name}.{kind}")


@router.get("/bundle.{kind}", operation_id="getBundle", **download("application/zip", "application/gzip"))
def get_bundle(name: str, kind: Literal["zip", "tar.gz"], at: Reading) -> Response:
    """Every file that leaves Barrio, in one archive."""
    files = output.bundle(at, name)
    if kind == "zip":
        return attachment(bundle.as_zip(files), "application/zip", f"{name}.zip")
    return attachment(bundle.as_tar_gz(files), "application/gzip", f"{name}.tar.gz")


@router.post(
    "/bundle-for-switches.{kind}",
    operation_id="takeBundleForSwitches",
    **download("application/zip", "application/gzip"),
)
def take_bundle_for_switches(name: str, kind: Literal["zip", "tar.gz"], at: Sealing) -> Response:
    """The same with secrets in the files, and the agent, for whoever brings them to the switches; kept nowhere on the way."""
    files = output.for_switches(at, name, {f"agent/{path}": data for path, data in AGENT.items()})
    packed, media = (
        (bundle.as_zip(files), "application/zip") if kind == "zip" else (bundle.as_tar_gz(files), "application/gzip")
    )
    answer = attachment(packed, media, f"{name}-for-switches.{kind}")
    answer.headers["Cache-Control"] = "no-store"
    return answer


@router.get("/cabling.csv", operation_id="getCablingCsv", **download("text/csv"))
def get_cabling_csv(name: str, at: Reading) -> Response:
    return attachment(bundle.cabling_csv(standing(at, name).laid), CSV, f"{name}-cabling.csv")


@router.get("/numbers.csv", operation_id="getNumbersCsv", **download("text/csv"))
def get_numbers_csv(name: str, at: Reading) -> Response:
    return attachment(bundle.numbers_csv(drafts.load(at, name).compiled), CSV, f"{name}-numbers.csv")


@router.get("/brief.yaml", operation_id="getBriefYaml", **download("application/yaml"))
def get_brief_yaml(name: str, at: Reading) -> Response:
    """The brief as it stands, also one that cannot be read any more."""
    return attachment(drafts.draft(at, name).text, "application/yaml", f"{name}.yaml")


@router.get("/names.{kind}", operation_id="exportNames", **download("application/zip", "text/plain"))
def export_names(name: str, kind: Literal["zip", "hosts"], at: Reading) -> Response:
    """Address records: DNS zones, forward and reverse, in one archive; or a hosts file."""
    found = drafts.load(at, name)
    if kind == "hosts":
        return attachment(names.hosts_file(found.compiled), "text/plain; charset=utf-8", f"{name}.hosts")
    zones = names.zones(found.compiled, found.draft.version)
    files = {f"db.{zone}": text.encode() for zone, text in zones.items()}
    return attachment(bundle.as_zip(files), "application/zip", f"{name}-zones.zip")
