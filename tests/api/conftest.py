"""The application over a database of the test's own, empty or with Marlin in it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import pytest
from fastapi.testclient import TestClient

from barrio.app.house import House
from barrio.store.database import Connections
from tests.application import client_of
from tests.conftest import EVERYTHING, EXAMPLES

collect_ignore = [] if EVERYTHING else ["test_fuzz.py"]
"""What is long in any case, and takes some seconds only to be read."""

MARLIN, PELICAN, TERN = (path.read_text() for path in EXAMPLES)


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
