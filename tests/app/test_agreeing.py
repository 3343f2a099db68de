"""Three people at one fabric, in any order of edit, offer, agree, seal, discard and go back: what was sealed stays, and nobody agreed to what they had not seen."""

from __future__ import annotations

from collections.abc import Mapping
from hashlib import sha256
from typing import Any

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule, run_state_machine_as_test

from barrio.app import drafts, editions, goingback, kept, people, pools, reviews, ripples
from barrio.app.desk import Actor, Desk
from barrio.app.house import House
from barrio.app.rights import Role
from barrio.core import Compiled, Refused
from barrio.core.brief.document import apply
from barrio.store import editions as stored
from barrio.store.errors import Missing, Stale
from barrio.store.people import everybody
from tests.conftest import EVERYTHING
from tests.database import Databases
from tests.store.test_fabrics import numbers

SMALL = "fabric: small\nspines: {count: 2}\nracks:\n  - {racks: r01..r02, growth: 5}\n"
WHO = st.sampled_from(["Ines", "Luz", "Teo"])
EDITS = st.sampled_from(
    [
        ("racks[0].racks", "r01..r03"), ("racks[0].racks", "r01..r02"), ("underlay.mtu", 9100), ("underlay.mtu", 9216), ("spines.count", 3),
        ("spines.count", 2), ("underlay.asn", "per-pair"), ("underlay.asn", "per-leaf"), ("title", "Small"), ("title", "Smaller"),
    ]
)  # fmt: skip


class Office(RuleBasedStateMachine):
    """`seen` is what each person last looked at; `kept` are digests of what each edition held when it was sealed."""

    databases: Databases
    sealed: list[int]

    @initialize()
    def begin(self) -> None:
        self.connections = self.databases.fresh(SMALL)
        self.house = House(self.connections)
        desk = Desk(self.house)
        for name in ("Ines", "Luz", "Teo"):
            people.add(desk, name.lower(), name)
            people.give(desk, Role.REVIEWER, None, person=name.lower())
        self.ids = {one.called: one.id for one in everybody_in(self.house)}
        self.seen: dict[str, str] = {}
        self.kept: dict[int, dict[str, str]] = {}
        self.changed: set[str] = set()

    def teardown(self) -> None:
        if hasattr(self, "connections"):
            self.databases.drop(self.connections)

    def at(self, who: str) -> Desk:
        return Desk(self.house, Actor(who, id=self.ids[who]))

    def version(self) -> int:
        return drafts.version(Desk(self.house), "small")

    @rule(who=WHO, change=EDITS)
    def edit(self, who: str, change: tuple[str, Any]) -> None:
        before = self.version()
        drafts.save(self.at(who), "small", before, lambda text: apply(text, [change]), f"{change[0]}")
        if self.version() != before:
            self.changed.add(who)

    @rule(who=WHO)
    def undo(self, who: str) -> None:
        try:
            drafts.undo(self.at(who), "small", self.version())
            self.changed.add(who)
        except Refused:
            return

    @rule(who=WHO)
    def offer(self, who: str) -> None:
        reviews.offer(self.at(who), "small", "A change", "", self.version())

    @rule(who=WHO)
    def look(self, who: str) -> None:
        self.seen[who] = reviews.review(self.at(who), "small").seen

    @rule(who=WHO, verdict=st.sampled_from(["agrees", "agrees", "agrees", "asks", "declines"]))
    def say(self, who: str, verdict: reviews.Verdict) -> None:
        if who not in self.seen:
            return
        now = reviews.review(self.at(who), "small")
        try:
            reviews.say(self.at(who), "small", verdict, "", self.seen[who])
        except Stale:
            assert self.seen[who] != now.seen, "what one has just seen is not stale"
        except Refused as refused:
            assert refused.faults[0].code in ("review.none", "review.own")
        else:
            assert self.seen[who] == now.seen and who not in now.editors

    @rule(who=WHO)
    def seal(self, who: str) -> None:
        desk = self.at(who)
        before = reviews.review(desk, "small")
        try:
            editions.seal(desk, "small", self.version())
        except Refused as refused:
            assert refused.faults[0].code in ("review.lacking", "edition.same")
            return
        assert before.offer is not None and not before.lacking
        newest = editions.every(desk, "small")[0]
        assert newest.agreed and newest.number not in self.kept
        for one in newest.agreed:
            voices = [
                each.voice
                for each in before.voices
                if each.voice.author == one["who"] and each.voice.verdict == "agrees"
            ]
            assert voices[-1].seen == newest.inputs, "who agreed, agreed to exactly this"
            assert one["who"] not in self.changed, "and changed nothing of it"
        self.changed = set()
        self.kept[newest.number] = self.digests(newest.number)
        self.sealed.append(newest.number)

    @rule(who=WHO, other=WHO, change=EDITS, late=st.booleans())
    def usual(self, who: str, other: str, change: tuple[str, Any], late: bool) -> None:
        """The usual way: one edits and offers, another looks and agrees; and at times somebody edits late, before it is sealed."""
        self.edit(who, change)
        self.offer(who)
        self.look(other)
        self.say(other, "agrees")
        if late:
            self.edit(who, ("title", "Late"))
        self.seal(who)

    @rule(who=WHO)
    def discard(self, who: str) -> None:
        before = self.version()
        try:
            editions.discard(self.at(who), "small", before)
        except Refused as refused:
            assert refused.faults[0].code == "draft.no-edition"
            return
        if self.version() != before:
            self.changed.add(who)
            newest = editions.every(self.at(who), "small")[0].number
            files = editions.files(self.at(who), "small", newest)
            assert drafts.draft(self.at(who), "small").text == files["brief.yaml"].decode()

    @rule(who=WHO, number=st.integers(1, 4))
    def go_back(self, who: str, number: int) -> None:
        before = self.version()
        try:
            back = goingback.go_back(self.at(who), "small", number, before)
        except Missing:
            assert number not in self.kept
            return
        assert back.not_back == [], "nobody else is here to have them"
        if self.version() != before:
            self.changed.add(who)

    @rule(who=WHO)
    def withdraw(self, who: str) -> None:
        try:
            reviews.withdraw(self.at(who), "small")
        except Refused as refused:
            assert refused.faults[0].code == "review.none"

    def digests(self, number: int) -> dict[str, str]:
        files = editions.files(Desk(self.house), "small", number)
        return {path: sha256(content).hexdigest() for path, content in files.items()}

    @invariant()
    def editions_stay(self) -> None:
        if hasattr(self, "kept"):
            assert {number: self.digests(number) for number in self.kept} == self.kept

    @invariant()
    def live_numbers_are_the_newest_edition_s(self) -> None:
        if not getattr(self, "kept", None):
            return
        with Desk(self.house).reading() as tx:
            newest = stored.newest(tx.connection, "small")
            assert newest is not None
            said = kept.inputs(tx, newest).numbers
        live = numbers(self.connections, "small", "live")
        assert live.keys() == {(use, key) for use, keys in said.items() for key in keys}
        assert pools.audit(Desk(self.house)) == []


def everybody_in(house: House) -> list[Any]:
    with house.alone() as connection:
        return everybody(connection)


def test_in_any_order_editions_stay_and_nobody_agreed_to_what_they_had_not_seen(databases: Databases) -> None:
    machine = type("Machine", (Office,), {"databases": databases, "sealed": []})
    drive = settings(
        max_examples=20 if EVERYTHING else 6, stateful_step_count=30, deadline=None,
        suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much],
    )  # fmt: skip
    run_state_machine_as_test(machine, settings=drive)
    assert machine.sealed, "some were sealed"


def test_an_old_edition_compiles_to_the_same_bytes_whatever_came_since(databases: Databases) -> None:
    house = House(databases.fresh(SMALL))
    desk = Desk(house, Actor("Ines"))
    reviews.set_rule(Desk(house), "small", 0, [])
    for number, change in enumerate(
        [("title", "One"), ("underlay.mtu", 9100), ("spines.count", 3), ("racks[0].racks", "r02")], 1
    ):
        drafts.save(
            desk, "small", drafts.version(desk, "small"), lambda text, change=change: apply(text, [change]), "a word"
        )
        editions.seal(desk, "small", drafts.version(desk, "small"), f"number {number}")
    assert [editions.compile_again(desk, "small", number).other for number in (1, 2, 3, 4)] == [[], [], [], []]
    with house.connections.connection() as connection, connection.cursor() as cursor:
        total = cursor.execute(
            "select count(*), count(distinct digest), (select count(*) from texts) from edition_files"
        ).fetchone()
    assert total is not None and total[1] < total[0] and total[2] == total[1] + 4, (
        "each text once, and the inputs of four"
    )


def test_files_that_an_edition_keeps_are_those_that_it_would_be_rendered_to(
    databases: Databases, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(kept, "MANY", 1)
    house = House(databases.fresh(SMALL))
    desk = Desk(house, Actor("Ines"))
    reviews.set_rule(Desk(house), "small", 0, [])
    rendered = {key: dict(files) for key, files in all_files(drafts.load(desk, "small").compiled).items()}
    editions.seal(desk, "small", 1, "as cabled")
    other = Desk(House(house.connections))
    drafts.save(desk, "small", 1, lambda text: apply(text, [("underlay.mtu", 9100)]), "a word")
    found = ripples.of(other, "small")
    assert found.before is not None and found.before._files.keys() == rendered.keys()
    assert {key: dict(files) for key, files in found.before._files.items()} == rendered
    assert len(found.ripple.switches) == len(rendered)


def all_files(compiled: Compiled) -> dict[str, Mapping[str, str]]:
    return {switch.key: compiled.files(switch.key) for switch in compiled.staged}
