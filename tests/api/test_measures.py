"""What a server says of itself: figures, a line for each request, whether it can take work; and never a secret."""

from __future__ import annotations

import json

import pytest
from fastapi.testclient import TestClient
from structlog.testing import capture_logs

from barrio.api.app import make_app
from barrio.app.house import House
from barrio.store.database import Connections
from tests.signed import BEARER


@pytest.fixture
def logged(connections: Connections) -> TestClient:
    return TestClient(
        make_app(House(connections), log_all=True),
        base_url="http://127.0.0.1:8710",
        headers=BEARER,
        raise_server_exceptions=False,
    )


def test_each_request_has_a_line_with_its_number_actor_route_and_time_and_nothing_that_was_sent(
    logged: TestClient,
) -> None:
    with capture_logs() as lines:
        answer = logged.get("/api/v1/fabrics/MARKED-name?q=MARKED-query")
        logged.post("/api/v1/session", json={"name": "MARKED-name", "password": "MARKED-password"})
    (line, other) = [line for line in lines if line["event"] in ("request", "slow request")]
    assert line["request"] == answer.headers["x-request-id"] and line["actor"] == "Olmo" and line["status"] == 404
    assert line["route"].endswith("/{name}") and line["ms"] > 0 and other["route"].endswith("/session")
    assert "MARKED" not in json.dumps(lines, default=str)


def test_figures_are_in_prometheus_text_and_for_nobody_who_is_not_signed_in(logged: TestClient) -> None:
    logged.get("/api/v1/fabrics")
    text = logged.get("/api/v1/metrics").text
    assert 'barrio_requests_total{method="GET",route="/api/v1/fabrics",status="200"} 1.0' in text
    assert "barrio_request_seconds_bucket" in text
    assert logged.get("/api/v1/metrics", headers={"Authorization": ""}).status_code == 401


def test_a_server_is_ready_once_its_database_has_every_step(logged: TestClient, connections: Connections) -> None:
    assert logged.get("/api/v1/ready").json() == {"ok": True, "why": ""}
    with connections.connection() as connection:
        connection.execute("delete from schema_steps where name = '006_jobs'")
    answer = logged.get("/api/v1/ready")
    assert answer.status_code == 503 and "006_jobs" in answer.json()["why"]
    assert logged.get("/api/v1/health").status_code == 200, "it is alive all the same"
