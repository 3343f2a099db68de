"""`barrio ripple` and `barrio editions`: from a draft to an edition and back, on the command line."""

from __future__ import annotations

import zipfile
from pathlib import Path

from barrio.app import drafts, reviews
from barrio.app.desk import Actor, Desk
from barrio.core.brief.document import apply
from tests.api.conftest import TERN
from tests.cli import barrio
from tests.serving import Serving


def test_a_draft_is_offered_agreed_to_sealed_compared_and_brought_back(serving: Serving, tmp_path: Path) -> None:
    serving.start()
    serving.load(TERN)
    at = ("--at", serving.address)
    house = serving.house

    def edit(path: str, value: object) -> None:
        desk = Desk(house, Actor("Ines"))
        drafts.save(desk, "tern", drafts.version(desk, "tern"), lambda text: apply(text, [(path, value)]), "a word")

    assert "6 switches new" in barrio("ripple", "tern", *at)
    edit("services.ntp", ["10.90.0.23"])
    # Olmo, whose token this is, offers; so somebody else has to agree.
    assert "0 of 1 agree" in barrio("editions", "offer", "tern", "As cabled", *at)
    assert "somebody else has to agree" in barrio("editions", "agree", "tern", *at, code=2)
    assert "0 of 1 agree" in barrio("editions", "review", "tern", *at, code=1)
    assert "0 of 1 agree" in barrio("editions", "seal", "tern", *at, code=2)
    reviews.set_rule(Desk(house), "tern", 0, [])
    assert "Edition 1 of tern: As cabled." in barrio("editions", "seal", "tern", *at)
    kept = tmp_path / "one.zip"
    barrio("editions", "take", "tern", 1, "--out", kept, *at)
    assert "brief.yaml" in zipfile.ZipFile(kept).namelist()
    assert "They are the same" in barrio("editions", "compare", "tern", "edition 1", *at)

    edit("underlay.bfd.interval", 100)
    said = barrio("ripple", "tern", "--lines", *at)
    assert "underlay.bfd.interval: 300 → 100" in said and "3. leaf-t01, leaf-t02, leaf-t03, leaf-t04" in said
    assert "etc/frr/frr.conf on 6 switches" in said and "+ receive-interval 100" in said
    assert "etc/frr/frr.conf changed on 6: +2 −0" in barrio("editions", "compare", "tern", kept, *at, code=1)
    edit("underlay.asn", "per-pair")
    assert "No safe order" in barrio("ripple", "tern", *at, code=1)
    assert "Edition 2" in barrio("editions", "seal", "tern", "--title", "Quicker", *at)
    assert "As cabled" in barrio("editions", "list", "tern", *at)
    assert "byte for byte" in barrio("editions", "again", "tern", 1, *at)
    assert "says what edition 1 said" in barrio("editions", "back", "tern", 1, *at)
    assert "underlay.asn: per-pair → per-leaf" in barrio("ripple", "tern", *at, code=1)
    barrio("editions", "discard", "tern", *at)
    assert "0 changed" in barrio("ripple", "tern", *at)
    assert "has no edition 9" in barrio("editions", "back", "tern", 9, *at, code=2)
