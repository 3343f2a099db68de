"""A house with somebody at its door and somebody at work in it; each file says which fabrics stand there."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from barrio.app.house import House
from barrio.jobs.worker import Worker
from tests.application import client_of


@pytest.fixture
def api(house: House) -> Iterator[TestClient]:
    with client_of(house) as client:
        yield client


@pytest.fixture
def working(house: House) -> Iterator[Worker]:
    one = Worker(house).start()
    yield one
    one.close()
