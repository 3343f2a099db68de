"""The application over a database of the test's own, empty or with Marlin in it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

import pytest
from fastapi.testclient import TestClient

from barrio.api.app import make_app
from barrio.app.house import House
from barrio.store.database import Connections
from tests.conftest import EXAMPLES
from tests.signed import BEARER

MARLIN, PELICAN, TERN = (path.read_text() for path in EXAMPLES)


APP = make_app(None)
"""One application for all tests of a worker: making it takes longer than most of them."""


@contextmanager
def client_of(house: House) -> Iterator[TestClient]:
    APP.state.house = house
    with TestClient(APP, base_url="http://127.0.0.1:8710", raise_server_exceptions=False, headers=BEARER) as client:
        yield client


@pytest.fixture
def api(connections: Connections) -> Iterator[TestClient]:
    with client_of(House(connections)) as client:
        yield client


@pytest.fixture
def marlin_house(house_of: Callable[..., House]) -> House:
    """A house with Marlin in it."""
    return house_of(MARLIN)


@pytest.fixture
def marlin(marlin_house: House) -> Iterator[TestClient]:
    """The application over `marlin_house`."""
    with client_of(marlin_house) as client:
        yield client
