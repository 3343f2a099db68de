"""What a server says of itself: a line in the log for each request, and figures for whoever watches it (Prometheus text format).

A line names the request's number, who asked, the route and how long it took, and nothing that was sent. Slow requests are named always.
"""

from __future__ import annotations

import time

import structlog
from prometheus_client import CollectorRegistry, Counter, Gauge, Histogram, generate_latest
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from barrio.api.problems import REQUEST
from barrio.app.desk import Desk
from barrio.store import figures

log = structlog.get_logger()
SLOW = 1.0
"""Seconds from which on a request is named in the log, whatever else is."""
STREAMS = "/api/v1/events"


class Measures:
    """ASGI middleware around one application. With `every` all requests are logged, else only slow and broken ones."""

    def __init__(self, app: ASGIApp, every: bool = False) -> None:
        self.app, self._every = app, every
        self.registry = CollectorRegistry()
        names = ("method", "route", "status")
        self._seconds = Histogram(
            "barrio_request_seconds", "How long requests took", names[:2], registry=self.registry,
            buckets=(0.005, 0.02, 0.05, 0.1, 0.3, 1, 3, 10),
        )  # fmt: skip
        self._count = Counter("barrio_requests", "Requests that were answered", names, registry=self.registry)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or not scope["path"].startswith("/api/"):
            await self.app(scope, receive, send)
            return
        scope["measures"] = self
        began, status, number = time.perf_counter(), [500], [""]

        async def counted(message: Message) -> None:
            if message["type"] == "http.response.start":
                status[0], number[0] = message["status"], REQUEST.get()
            await send(message)

        try:
            await self.app(scope, receive, counted)
        finally:
            self._note(scope, status[0], number[0], time.perf_counter() - began)

    def _note(self, scope: Scope, status: int, number: str, seconds: float) -> None:
        route = getattr(scope.get("route"), "path", "") or "elsewhere"
        self._count.labels(scope["method"], route, status).inc()
        if route == STREAMS:
            return
        self._seconds.labels(scope["method"], route).observe(seconds)
        if self._every or seconds >= SLOW or status >= 500:
            log.info(
                "slow request" if seconds >= SLOW else "request", request=number, actor=scope.get("actor", ""), method=scope["method"],
                route=route, status=status, ms=round(1000 * seconds, 1),
            )  # fmt: skip

    def text(self, desk: Desk) -> bytes:
        """The figures of this server, and of what somebody may read of what is kept, as Prometheus reads them."""
        return generate_latest(self.registry) + generate_latest(_kept(desk))


def _kept(desk: Desk) -> CollectorRegistry:
    """Drift, stagings and jobs, as they stand now."""
    registry = CollectorRegistry()

    def gauge(name: str, words: str, *labels: str) -> Gauge:
        return Gauge(name, words, labels, registry=registry)

    switches = gauge("barrio_switches_looked", "Switches whose files and state were looked at", "fabric")
    other = gauge("barrio_switches_not_as_meant", "Switches that run otherwise than their edition", "fabric")
    age = gauge("barrio_looked_seconds", "Since the switch seen longest ago was seen", "fabric")
    steps = gauge("barrio_staging_switches", "Switches of the staging under way", "fabric", "state")
    work = gauge("barrio_jobs", "Jobs that are kept", "kind", "state")
    with desk.reading() as tx:
        for one in figures.looked(tx.connection):
            if desk.may_read(one.fabric):
                switches.labels(one.fabric).set(one.switches)
                other.labels(one.fabric).set(one.other)
                age.labels(one.fabric).set(one.oldest)
        for fabric, state, count in figures.staged(tx.connection):
            if desk.may_read(fabric):
                steps.labels(fabric, state).set(count)
        for kind, state, count in figures.jobs(tx.connection):
            work.labels(kind, state).set(count)
    return registry
