"""People, events and jobs: what a permission costs, how long signing in takes, how soon all pages know, how many jobs are done.

Each beside a plain baseline where there is one: a lookup in a dict, a bare hash, a request that needs nobody, a bare insert.
"""

from __future__ import annotations

import logging
import statistics
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path
from urllib.request import Request, urlopen

import httpx2
import structlog
from argon2 import PasswordHasher

from barrio.app.desk import Actor, Desk
from barrio.app.house import House
from barrio.app.rights import Grant, Right, Role
from barrio.dev.cluster import Cluster
from barrio.jobs import kinds, queue
from barrio.jobs.worker import Worker
from tests.database import Databases
from tests.processes import Server

PAGES, JOBS = 200, 200


def median(work: Callable[[], object], times: int) -> float:
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        taken.append(time.perf_counter() - began)
    return statistics.median(taken)


def permission() -> None:
    grants = frozenset(Grant(role, f"fabric-{n}") for role in Role for n in range(40) if role is not Role.KEEPER)
    actor, table = Actor("x", grants), {(Right.EDIT, "fabric-39"): True}
    many = 2_000
    asked = median(lambda: [actor.may(Right.EDIT, "fabric-39") for _ in range(many)], 9) / many
    plain = median(lambda: [table[Right.EDIT, "fabric-39"] for _ in range(many)], 9) / many
    print(
        f"  a permission, among {len(grants)} roles   {asked * 1e6:8.1f} µs   {asked / plain:.0f} × a lookup in a dict"
    )


def signing_in(server: Server) -> None:
    hasher = PasswordHasher(time_cost=2, memory_cost=48 * 1024, parallelism=2)
    bare = median(lambda: hasher.hash("four words for a harbour"), 7)
    said = {"name": "olmo", "password": "four words for a harbour"}
    with httpx2.Client(base_url=server.address, headers={"Origin": server.address}, timeout=30) as client:
        whole = median(lambda: client.post("/api/v1/session", json=said).raise_for_status(), 9)
        client.get("/api/v1/session").raise_for_status()
        known = median(lambda: client.get("/api/v1/jobs"), 60)
        nobody = median(lambda: client.get("/api/v1/health"), 60)
    print(f"  signing in                     {whole * 1e3:8.1f} ms   {whole / bare:.2f} × a bare hash")
    print(f"  a request of somebody known    {known * 1e3:8.1f} ms   {known / nobody:.2f} × one that needs nobody")


def events(server: Server) -> None:
    heard: list[float] = []
    ready = threading.Barrier(PAGES + 1)

    def page() -> None:
        # As bare as can be: two hundred clients in one process would be measured otherwise.
        shown = "; ".join(f"{name}={value}" for name, value in server.cookies.items())
        with urlopen(Request(f"{server.address}/api/v1/events", headers={"Cookie": shown}), timeout=60) as lines:
            next(line for line in lines if line.startswith(b"data:"))
            ready.wait()
            next(line for line in lines if line.strip() == b"event: pools")
            heard.append(time.perf_counter())

    pages = [threading.Thread(target=page, daemon=True) for _ in range(PAGES)]
    for one in pages:
        one.start()
    ready.wait()
    with server.client() as client:
        began = time.perf_counter()
        client.post("/api/v1/pools", json={"name": "bench", "ranges": ["10.250.0.0/24"]}).raise_for_status()
        saved = time.perf_counter()
    for one in pages:
        one.join(30)
    soonest, last = min(heard) - began, max(heard) - began
    print(
        f"  an event to {len(heard)} open pages       {last * 1e3:8.1f} ms to the last, {soonest * 1e3:.1f} to the first; "
        f"{last / (saved - began):.2f} × the save that it tells of"
    )


def jobs(server: Server) -> None:
    with server.client() as client:
        client.post(
            "/api/v1/fabrics", json={"text": "fabric: gull\nspines: {count: 2}\nracks: [{racks: r1}]\n"}
        ).raise_for_status()
        plain = median(lambda: client.get("/api/v1/fabrics/gull/bundle.zip"), 9)
        began = time.perf_counter()
        last = 0
        for _ in range(JOBS):
            last = client.post("/api/v1/fabrics/gull/jobs", json={"kind": "bundle"}).json()["id"]
        asked = time.perf_counter() - began
        while client.get(f"/api/v1/jobs/{last}").json()["state"] != "done":
            time.sleep(0.02)
        done = time.perf_counter() - began
    print(
        f"  {JOBS} jobs                       {JOBS / asked:8.1f} a second asked for, {JOBS / done:.1f} a second done; "
        f"{done / JOBS / plain:.2f} × the same bundle waited for"
    )


def queue_alone(folder: Path) -> None:
    """Jobs that are nothing to do, asked for by four at once and done by one worker, beside bare rows that come and go."""
    cluster = Cluster(folder / "queue")
    cluster.start()
    pool = Databases(cluster).fresh("fabric: gull\nspines: {count: 2}\nracks: [{racks: r1}]\n")
    house = House(pool)
    nothing = kinds.Outcome("nothing", "x.json", "application/json", b"{}")
    kinds.KINDS["nothing"] = kinds.Kind("Nothing", Right.READ, lambda *_: nothing, lambda *_: 0)
    many = 100

    def ask() -> None:
        for _ in range(many):
            queue.ask(Desk(house), "nothing", "gull", {})

    def bare() -> None:
        for state in ("insert into bare values (1)", "update bare set x = 2", "delete from bare"):
            with house.alone() as connection:
                connection.execute(state.encode())

    with house.alone() as connection:
        connection.execute("create table bare (x int)")
    plain = median(bare, 200)
    began = time.perf_counter()
    askers = [threading.Thread(target=ask) for _ in range(4)]
    for asker in askers:
        asker.start()
    for asker in askers:
        asker.join()
    asked = time.perf_counter() - began
    began = time.perf_counter()
    worker = Worker(house).start()
    left = 1
    while left:
        time.sleep(0.02)
        with house.alone() as connection:
            (left,) = connection.execute("select count(*) from jobs where state <> 'done'").fetchone() or (0,)
    done = time.perf_counter() - began
    worker.close()
    pool.close()
    cluster.stop()
    print(
        f"  {4 * many} jobs of nothing            {4 * many / asked:8.1f} a second asked for, {4 * many / done:.1f} a second done; "
        f"{done / (4 * many) / plain:.2f} × a bare row that comes, changes and goes"
    )


def main() -> None:
    print("People, events, jobs")
    structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(logging.WARNING))
    permission()
    with tempfile.TemporaryDirectory(prefix="barrio-bench-") as folder:
        Path(folder).chmod(0o755)
        server = Server(Path(folder) / "data")
        queue_alone(Path(folder))
        server.start()
        server.client().close()
        signing_in(server)
        events(server)
        jobs(server)
        server.end()
        server.wait_until_gone()


if __name__ == "__main__":
    main()
