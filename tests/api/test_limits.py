"""Requests that are malformed, foreign or too large: each is answered at once, by a problem document, and harms nobody."""

from __future__ import annotations

import asyncio
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from fastapi.testclient import TestClient
from starlette.concurrency import run_in_threadpool
from starlette.types import Message, Receive, Scope, Send

from barrio.api.leaving import watched
from barrio.app.gate import MOST_WAITING, Busy, Gate
from barrio.app.leaving import Left, while_wanted
from barrio.core import Refused
from barrio.core.brief.document import read
from barrio.core.structure.expand import expand
from barrio.core.structure.extent import extent
from tests.application import client_of

DEEP: Any = "x"
for _ in range(900):
    DEEP = [DEEP]
HUGE = "fabric: huge\npods: p000..p299\nsuper_spines: {per_plane: 2}\nracks:\n  - racks: r0000..r4095\n"
V = "/api/v1"


@pytest.mark.parametrize(
    ("method", "url", "body", "statuses"),
    [
        ("GET", f"{V}/numbers.csv?fabric=%E2%80%AE", None, {200}),
        ("GET", f"{V}/numbers.csv?pool=%0A", None, {400}),
        ("GET", f"{V}/fabrics/%00", None, {400}),
        ("GET", "/%00", None, {400}),
        ("GET", f"/{'x' * 5000}", None, {414}),
        ("GET", f"/{'x' * 3000}", None, {200}),
        ("GET", f"{V}/pools/halls-p2p/entries?offset=9999999999999999999", None, {422}),
        ("PATCH", f"{V}/pools/halls-p2p", {"warn": 5e-324}, {422}),
        ("DELETE", f"{V}/reservations/{2**63}", None, {422}),
        ("DELETE", f"{V}/fabrics/marlin?version={2**63}", None, {422}),
        ("POST", f"{V}/pools/halls-p2p/end-rest", {"reason": "x", "entries": [2**63]}, {422}),
        ("POST", f"{V}/fabrics/marlin/edits", {"version": 1, "edits": [["title", "x"]], "note": "a\0b"}, {422}),
        ("POST", f"{V}/fabrics/marlin/edits", {"version": 1, "edits": [["title", "a\0b"]], "note": "x"}, {422}),
        ("POST", f"{V}/fabrics/marlin/edits", {"version": 2**70, "edits": [["title", "x"]], "note": "x"}, {409, 422}),
        ("POST", f"{V}/fabrics/marlin/pins", {"version": 1, "pins": [{"use": "asn", "key": "a\0", "number": "9"}]}, {422}),
        ("POST", f"{V}/fabrics/marlin/try", {"edits": [["title", DEEP]]}, {200, 422}),
        ("POST", f"{V}/fabrics/marlin/options", {"path": "title", "values": [DEEP]}, {200, 422}),
        ("POST", f"{V}/fabrics", {"text": HUGE}, {422}),
    ],
)  # fmt: skip
def test_a_request_that_nobody_would_make_is_answered_plainly(
    marlin: TestClient, method: str, url: str, body: Any, statuses: set[int]
) -> None:
    answer = marlin.request(method, url, json=body)
    assert answer.status_code in statuses, answer.text
    assert answer.headers["x-content-type-options"] == "nosniff" and answer.headers["x-request-id"]
    if answer.status_code >= 400:
        assert answer.headers["content-type"] == "application/problem+json"
        assert answer.json()["request"] == answer.headers["x-request-id"]
    assert marlin.get(f"{V}/fabrics/marlin").json()["version"] == 1


@pytest.mark.parametrize("site", ["cross-site", "same-site"])
def test_another_sites_page_cannot_ask(marlin: TestClient, site: str) -> None:
    asked = marlin.get(f"{V}/fabrics", headers={"Sec-Fetch-Site": site})
    assert asked.status_code == 403 and asked.json()["type"] == "urn:barrio:problem:foreign-origin"
    assert marlin.get(f"{V}/fabrics", headers={"Sec-Fetch-Site": "same-origin"}).status_code == 200


def test_what_breaks_is_told_with_the_number_of_its_request_and_nothing_of_its_inside() -> None:
    with client_of(None) as api:  # type: ignore[arg-type]
        answer = api.get(f"{V}/fabrics")
    assert answer.status_code == 500 and answer.headers["content-type"] == "application/problem+json"
    assert answer.json()["request"] == answer.headers["x-request-id"] and "NoneType" not in answer.text


def test_what_a_brief_asks_for_is_counted_without_being_made() -> None:
    brief = read(HUGE).brief
    assert extent(brief) == (4 + 300 * 2 + 300 * 4096 * 2, 300 * 4096 * 2 * 2 + 300 * 2 * 2)
    with pytest.raises(Refused, match="2,458,204 switches, and one fabric has 5,000"):
        expand(brief, None)  # type: ignore[arg-type]  # refused before the catalogue is looked at


def test_a_front_with_more_ports_than_any_switch_has_is_refused(api: TestClient) -> None:
    groups = "".join(
        f"  - {{prefix: {letter}, count: 2048, speeds: [100], use: any, connector: Q}}\n" for letter in "abcdefghijkl"
    )
    text = f"id: big\nmaker: A\nname: B\ntiers: [leaf]\npower: 10\ngroups:\n{groups}"
    refused = api.post(f"{V}/catalogue/preview", json={"text": text})
    assert refused.status_code == 422 and "24,576 names" in refused.json()["detail"]


def test_heavy_work_takes_turns_light_work_does_not_and_a_crowd_is_told() -> None:
    gate, most = Gate(room=100, light=10), 0
    inside, free = [0], threading.Event()

    def heavy() -> str:
        nonlocal most
        try:
            with gate.room_for(60):
                inside[0] += 1
                most = max(most, inside[0])
                free.wait(30)
                inside[0] -= 1
        except Busy:
            return "told"
        return "done"

    with ThreadPoolExecutor(20) as pool:
        tasks = [pool.submit(heavy) for _ in range(MOST_WAITING + 4)]
        while sum(task.done() for task in tasks) < 3:
            time.sleep(0.01)
        with gate.room_for(10):
            assert inside[0] == 1
        free.set()
        outcomes = [task.result() for task in tasks]
    assert most == 1 and outcomes.count("told") == 3 and outcomes.count("done") == MOST_WAITING + 1


def test_work_ends_when_whoever_asked_for_it_has_gone() -> None:
    begun, ended = threading.Event(), threading.Event()

    def work() -> None:
        try:
            for _ in while_wanted(range(1_000_000)):
                begun.set()
                time.sleep(0.001)
        except Left:
            ended.set()
            raise

    async def app(scope: Scope, receive: Receive, send: Send) -> None:
        await run_in_threadpool(work)

    async def receive() -> Message:
        await asyncio.to_thread(begun.wait)
        return {"type": "http.disconnect"}

    async def send(message: Message) -> None:
        raise AssertionError("nobody is there to be answered")

    asyncio.run(watched(app)({"type": "http"}, receive, send))
    assert ended.is_set()
