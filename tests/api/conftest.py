"""The application over a database of the test's own, and Marlin in it."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from barrio.api.app import make_app
from barrio.app.house import House
from barrio.store.database import Connections
from tests.conftest import EXAMPLES

MARLIN = next(path.read_text() for path in EXAMPLES if path.stem == "marlin")


@pytest.fixture
def api(connections: Connections) -> Iterator[TestClient]:
    with TestClient(
        make_app(House(connections)), base_url="http://127.0.0.1:8710", raise_server_exceptions=False
    ) as client:
        yield client


@pytest.fixture
def marlin(api: TestClient) -> TestClient:
    assert api.post("/api/v1/fabrics", json={"text": MARLIN}).status_code == 201
    return api
