"""The lab that several files of claims share."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from barrio.rehearsal import outside
from barrio.rehearsal.ground import wait_until
from barrio.rehearsal.kernel import whole_ground
from barrio.rehearsal.lab import Lab
from tests.rehearsal.asked import established, planned_sessions
from tests.rehearsal.whole import FIREWALL, HOSTS, PATIENCE, ROUTER, Fabric, whole


@pytest.fixture(scope="package")
def fabric() -> Iterator[Fabric]:
    """The fabric with everything switched on, on a whole kernel: it boots once for all claims about it."""
    compiled = whole()
    plugged = [*HOSTS.values(), outside.plugs(compiled, ROUTER), outside.plugs(compiled, FIREWALL)]
    with Lab(compiled, whole_ground(), plugged) as lab:
        found = Fabric(lab)
        outside.start(compiled, found.hosts[ROUTER], ROUTER, ["0.0.0.0/0", "10.99.1.0/24", "10.66.0.0/16"])
        outside.start(compiled, found.hosts[FIREWALL], FIREWALL, ["0.0.0.0/0", "10.98.1.0/24", "10.72.9.0/24"])
        planned = planned_sessions(lab)
        assert wait_until(lambda: planned <= established(lab), PATIENCE)
        yield found
