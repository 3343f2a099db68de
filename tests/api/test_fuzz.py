"""Requests that nobody would make: every route of the OpenAPI document, with what its schema allows and what it does not."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from schemathesis import GenerationMode

from barrio.api.app import make_app
from barrio.app import drafts
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.store.database import Connections
from tests.api.conftest import MARLIN
from tests.signed import BEARER

pytestmark = pytest.mark.long


@schemathesis.serializer("application/zip", "application/gzip")
def as_it_is(_: object, value: object) -> bytes:
    """An archive that nobody packed: whatever bytes the schema gives."""
    return value if isinstance(value, bytes) else str(value).encode(errors="replace")


DOCUMENT = make_app(None).openapi()
SCHEMA = schemathesis.openapi.from_dict(DOCUMENT)
ENDLESS = "GET /api/v1/events"
"""An answer that goes on until its reader leaves."""
OPERATIONS = {one.ok().label: one.ok() for one in SCHEMA.get_all_operations() if one.ok().label != ENDLESS}


@pytest.fixture
def fuzzed(connections: Connections) -> Iterator[TestClient]:
    house = House(connections)
    drafts.create(Desk(house), MARLIN)
    with TestClient(
        make_app(house), base_url="http://127.0.0.1:8710", raise_server_exceptions=False, headers=BEARER
    ) as client:
        yield client


@pytest.mark.parametrize("mode", [GenerationMode.POSITIVE, GenerationMode.NEGATIVE], ids=["allowed", "not allowed"])
@pytest.mark.parametrize("label", OPERATIONS)
def test_no_request_breaks_barrio_and_every_refusal_is_a_problem_document(
    fuzzed: TestClient, label: str, mode: GenerationMode
) -> None:
    operation = OPERATIONS[label]
    if mode is GenerationMode.NEGATIVE and not _forbids(label):
        mode = GenerationMode.POSITIVE

    @given(case=operation.as_strategy(generation_mode=mode))
    @settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck), database=None)
    def asked(case: schemathesis.Case) -> None:
        parts = case.as_transport_kwargs(base_url="http://127.0.0.1:8710")
        url = str(parts.pop("url"))
        if "{name}" in label and len(url) % 2:
            url = url.replace(f"/fabrics/{_quoted(case)}", "/fabrics/marlin", 1)
        kept = {name: value for name, value in parts.items() if name in ("params", "json", "data", "content")}
        try:
            request = fuzzed.build_request(parts["method"], url, **kept)
        except (TypeError, ValueError):
            return  # what no program could send
        answer = fuzzed.send(request)
        assert answer.status_code < 500, answer.text
        if answer.status_code >= 400:
            assert answer.headers["content-type"] == "application/problem+json", answer.text
            assert answer.json()["request"]

    asked()


def _forbids(label: str) -> bool:
    """Whether a route says that something is not allowed: not when it takes nothing, or any
    text at all in its address or any bytes as its body."""
    method, path = label.split(" ")
    said = DOCUMENT["paths"][path][method.lower()]
    bodies = said.get("requestBody", {}).get("content", {})
    return any(one.get("schema", {}).get("format") != "binary" for one in bodies.values()) or any(
        one["schema"].keys() - {"type", "title"} for one in said.get("parameters", ())
    )


def _quoted(case: schemathesis.Case) -> str:
    return case.formatted_path.split("/fabrics/", 1)[-1].split("/", 1)[0]
