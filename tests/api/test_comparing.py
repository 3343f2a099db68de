"""Files beside each other: with the twin's, with what they were, with everybody's; and lines found by an expression, which never takes long."""

from __future__ import annotations

from collections import Counter
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.core.test_ladder import QUAY

AT = "/api/v1/fabrics/quay"
FRR, CHRONY = "etc/frr/frr.conf", "etc/chrony/chrony.conf"


@pytest.fixture
def quay(api: TestClient) -> TestClient:
    api.post("/api/v1/fabrics", json={"text": QUAY}).raise_for_status()
    return api


def compared(api: TestClient, switch: str, path: str, beside: str) -> list[dict[str, Any]]:
    answer = api.get(f"{AT}/switches/{switch}/compare", params={"path": path, "beside": beside})
    assert answer.status_code == 200, answer.text
    lines: list[dict[str, Any]] = answer.json()["lines"]
    return lines


def test_twins_differ_in_what_is_their_own_and_in_what_a_rung_says(quay: TestClient) -> None:
    twins = compared(quay, "leaf-r01a", FRR, "leaf-r01b")
    assert {one["kind"] for one in twins} == {"same", "own"}
    own = next(one for one in twins if one["text"].startswith("hostname"))
    assert (own["kind"], own["beside"]) == ("own", "hostname leaf-r01b")
    for side, switch in (("here", "leaf-r01a"), ("there", "leaf-r01b")):
        text = quay.get(f"{AT}/switches/{switch}/file", params={"path": FRR}).json()["lines"]
        key = "text" if side == "here" else "beside"
        assert [one[key] for one in twins if one[side]] == [line["text"] for line in text]
    clocks = compared(quay, "leaf-r01a", CHRONY, "leaf-r02b")
    assert [(one["kind"], one["beside"]) for one in clocks if one["kind"] != "same"] == [
        ("there", "server 10.9.0.7 iburst")
    ]
    border = compared(quay, "leaf-r01a", CHRONY, "border-b01")
    assert [one["text"] for one in border if one["kind"] == "other"] == ["server 10.9.0.1 iburst"]


def test_a_file_stands_beside_what_it_was_before_the_last_change(quay: TestClient) -> None:
    nothing = quay.get(f"{AT}/switches/leaf-r01a/compare", params={"path": CHRONY, "beside": "before"})
    assert nothing.status_code == 422 and "Nothing of quay was changed" in nothing.text
    version = quay.get(AT).json()["version"]
    edits = {"version": version, "edits": [["services.ntp", ["10.9.0.1", "10.9.0.44"]]], "note": "another clock"}
    quay.post(f"{AT}/edits", json=edits).raise_for_status()
    lines = compared(quay, "leaf-r01a", CHRONY, "before")
    assert [(one["kind"], one["text"]) for one in lines if one["kind"] != "same"] == [
        ("here", "server 10.9.0.44 iburst")
    ]


@pytest.mark.parametrize(
    ("switch", "path", "beside"),
    [("leaf-x", FRR, "leaf-r01a"), ("leaf-r01a", FRR, "leaf-x"), ("leaf-r01a", "etc/passwd", "leaf-r01b")],
)
def test_what_is_not_there_cannot_be_compared(switch: str, path: str, beside: str, quay: TestClient) -> None:
    assert quay.get(f"{AT}/switches/{switch}/compare", params={"path": path, "beside": beside}).status_code == 404


def test_everybody_with_the_same_text_is_in_one_group(quay: TestClient) -> None:
    groups = quay.get(f"{AT}/alike", params={"path": CHRONY}).json()
    assert [len(one["switches"]) for one in groups] == [7, 1, 1] and ["border-b01"] in [
        one["switches"] for one in groups
    ]
    whole = quay.get(f"{AT}/alike").json()
    assert Counter(one["path"] for one in whole)[FRR] == 9, "a routing file is each switch's own"
    assert sum(len(one["switches"]) for one in whole if one["path"] == "etc/frr/daemons") == 9


def test_lines_are_found_by_an_expression_and_one_that_would_not_end_is_ended(quay: TestClient) -> None:
    found = quay.get(f"{AT}/lines", params={"words": r"/^server 10\.9\.0\.[79] /"}).json()["lines"]
    assert {one["text"]: one["switches"] for one in found} == {
        "server 10.9.0.7 iburst": ["leaf-r02b"], "server 10.9.0.9 iburst": ["border-b01"],
    }  # fmt: skip
    wrong = quay.get(f"{AT}/lines", params={"words": "/(server/"})
    assert wrong.status_code == 422 and "This is no regular expression" in wrong.text
    endless = quay.get(f"{AT}/lines", params={"words": "/(?:[a-z ]|[a-z]{2}|[a-z]{3})+!/"})
    assert endless.status_code == 422 and "takes too long" in endless.text
    assert quay.get(f"{AT}/lines", params={"words": "//"}).status_code == 422
