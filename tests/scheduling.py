"""Which worker runs which test: labs are one unit and begin first, all other tests go one by one to whoever is free."""

from __future__ import annotations

from typing import Any

import pytest
from xdist.scheduler import LoadScopeScheduling

LABS = ("tests/rehearsal/", "tests/jobs/test_lending.py", "tests/staging/test_whole.py")
"""Where labs are booted that take all of a processor."""


class LabsFirst(LoadScopeScheduling):
    """A lab boots once for its claims, and two labs never boot side by side, where they would take each other's time."""

    def _split_scope(self, nodeid: str) -> str:
        return "labs" if nodeid.startswith(LABS) else nodeid


@pytest.hookimpl(optionalhook=True)
def pytest_xdist_make_scheduler(config: pytest.Config, log: Any) -> LabsFirst:
    return LabsFirst(config, log)
