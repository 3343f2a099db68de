"""Long lists come a page at a time, and pages put together are the list."""

from __future__ import annotations

import re
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

LISTS = [
    "/fabrics", "/fabrics/marlin/switches", "/fabrics/marlin/cables", "/fabrics/marlin/racks", "/fabrics/marlin/history",
    "/fabrics/marlin/numbers", "/fabrics/marlin/numbers?of=r07", "/pools/halls-p2p/reservations", "/fabrics/marlin/cable-work",
    "/fabrics/marlin/editions", "/fabrics/marlin/ripple/switches",
    "/fabrics/marlin/ripple/groups", "/fabrics/marlin/ripple/sessions", "/fabrics/marlin/staging/roll",
]  # fmt: skip


def test_every_list_that_pages_is_claimed_here(marlin: TestClient) -> None:
    routes = marlin.get("/api/v1/openapi.json").json()["paths"]
    paged = {
        path.replace("{name}", "marlin").replace("{pool}", "halls-p2p")
        for path, verbs in routes.items()
        if "Total-Count" in verbs.get("get", {}).get("responses", {}).get("200", {}).get("headers", {})
    }
    assert paged == {f"/api/v1{path.split('?')[0]}" for path in LISTS}


@pytest.mark.parametrize("path", LISTS)
def test_following_the_links_gives_every_row_once_and_in_order(marlin: TestClient, path: str) -> None:
    for span in ("10.61.0.0/30", "10.61.0.8/30"):
        marlin.post("/api/v1/pools/halls-p2p/reservations", json={"range": span, "note": "made up"})
    for cable in marlin.get("/api/v1/fabrics/marlin/cables?limit=3").json():
        deed = {"id": str(uuid4()), "cable": cable["link"], "kind": "laid", "done_at": "2026-11-20T09:00:00Z"}
        marlin.post("/api/v1/fabrics/marlin/cable-work", json={"deeds": [deed]})
    if "editions" in path or "ripple" in path or "staging" in path:
        marlin.put("/api/v1/fabrics/marlin/review/rule", json={"agree": 0})
        assert marlin.post("/api/v1/fabrics/marlin/editions", json={"version": 1, "title": "spring"}).status_code == 201
        edits = {
            "version": 1,
            "note": "a word",
            "edits": [["underlay.asn", "per-pair"], ["underlay.bfd.interval", 100]],
        }
        assert marlin.post("/api/v1/fabrics/marlin/edits", json=edits).status_code == 200
    whole = marlin.get(f"/api/v1{path}")
    assert whole.status_code == 200 and "Link" not in whole.headers
    limit = max(1, len(whole.json()) // 3)
    rows, at, pages = [], f"/api/v1{path}{'&' if '?' in path else '?'}limit={limit}", 0
    while at:
        answer = marlin.get(at)
        assert len(answer.json()) <= limit
        assert answer.headers["Total-Count"] == str(len(whole.json()))
        following = re.fullmatch(r'<(/[^>]+)>; rel="next"', answer.headers.get("Link", ""))
        rows, at, pages = rows + answer.json(), following[1] if following else "", pages + 1
    assert rows == whole.json() and pages == -(-len(rows) // limit)


@pytest.mark.parametrize("words", ["limit=0", "limit=5001", "offset=-1", "limit=many"])
def test_a_page_that_cannot_be_is_refused(marlin: TestClient, words: str) -> None:
    assert marlin.get(f"/api/v1/fabrics/marlin/cables?{words}").status_code == 422
    assert marlin.get("/api/v1/fabrics/marlin/cables?offset=999999").json() == []
