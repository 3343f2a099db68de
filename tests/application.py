"""The application over a house, called in this process."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from fastapi.testclient import TestClient

from barrio.api.app import make_app
from barrio.app.house import House
from tests.signed import BEARER

APP = make_app(None)
"""One application for all tests of a worker: making it takes longer than most of them."""


@contextmanager
def client_of(house: House) -> Iterator[TestClient]:
    APP.state.house = house
    with TestClient(APP, base_url="http://127.0.0.1:8710", raise_server_exceptions=False, headers=BEARER) as client:
        yield client
