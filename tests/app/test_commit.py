"""The connection is lost in the very moment of a commit: what came to pass is found out before anything is said of it."""

from __future__ import annotations

import contextlib
import socket
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import pytest
from psycopg.conninfo import conninfo_to_dict, make_conninfo

from barrio.app import drafts
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.core.brief.document import set_value
from barrio.dev.cluster import Cluster
from barrio.store.database import Connections, connect

SMALL = "fabric: small\nspines: {count: 2}\nracks:\n  - racks: r01..r03\n"


@dataclass
class Wire:
    """A wire to PostgreSQL that breaks once, at the next commit: before it arrives, or before its answer does."""

    port: int
    breaks: Literal["", "before", "after"] = ""

    def __post_init__(self) -> None:
        self.listener = socket.create_server(("127.0.0.1", 0))
        threading.Thread(target=self._accept, daemon=True).start()

    def _accept(self) -> None:
        while True:
            try:
                near, _ = self.listener.accept()
            except OSError:
                return
            far = socket.create_connection(("127.0.0.1", self.port))
            lost = threading.Event()
            threading.Thread(target=self._carry, args=(near, far, lost, True), daemon=True).start()
            threading.Thread(target=self._carry, args=(far, near, lost, False), daemon=True).start()

    def _carry(self, source: socket.socket, sink: socket.socket, lost: threading.Event, outward: bool) -> None:
        with contextlib.suppress(OSError):
            while data := source.recv(65536):
                if outward and self.breaks and b"COMMIT" in data:
                    how, self.breaks = self.breaks, ""
                    if how == "before":
                        break
                    lost.set()
                elif not outward and lost.is_set():
                    break
                sink.sendall(data)
        for end in (source, sink):
            _shut(end)


def _shut(end: socket.socket) -> None:
    with contextlib.suppress(OSError):
        end.shutdown(socket.SHUT_RDWR)
    end.close()


@pytest.fixture
def wire(cluster: Cluster, connections: Connections) -> Iterator[tuple[Wire, Desk]]:
    """A house at the far end of a wire, over the empty database of `connections`."""
    one = Wire(cluster.port)
    conninfo = conninfo_to_dict(connections.conninfo) | {"port": one.listener.getsockname()[1]}
    pool = connect(make_conninfo(**conninfo))
    yield one, Desk(House(pool))
    pool.close()
    one.listener.close()


@pytest.mark.parametrize("breaks", ["before", "after"])
def test_a_save_whose_commit_is_cut_off_is_saved_once_and_said_to_be(
    wire: tuple[Wire, Desk], breaks: Literal["before", "after"]
) -> None:
    line, desk = wire
    drafts.create(desk, SMALL)
    line.breaks = breaks
    saved = drafts.save(desk, "small", 1, lambda text: set_value(text, "spines.count", 3), "3 spines")
    assert line.breaks == "", "the wire did break"
    assert saved.draft.version == 2 and saved.compiled.brief.spines.count == 3
    assert drafts.draft(desk, "small").version == 2
    assert [one.note for one in drafts.history(desk, "small")] == ["3 spines", "made"]
