"""`barrio login`, `people`, `token` and `record`, against a running Barrio."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from typer.testing import CliRunner

from barrio.cli.main import app
from tests.people import PASSWORD, set_password_of_olmo
from tests.serving import Serving


@pytest.fixture
def ask(serving: Serving, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> object:
    """Ask the server as somebody whose tokens are kept in a folder of this test's own."""
    serving.start()
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    monkeypatch.delenv("BARRIO_TOKEN", raising=False)
    runner = CliRunner()

    def asked(*words: str, code: int = 0, typed: str = "") -> str:
        done = runner.invoke(app, [*words, "--at", serving.address], input=typed)
        assert done.exit_code == code, done.output
        return done.output

    return asked


def test_a_person_signs_in_keeps_people_and_tokens_reads_the_record_and_goes(
    serving: Serving, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, ask: object
) -> None:
    assert callable(ask)
    set_password_of_olmo(serving.house)
    assert "say “barrio login" in ask("people", "list", code=2)
    assert "do not belong together" in ask("login", "--name", "olmo", code=2, typed="not this one\n")
    said = ask("login", "--name", "olmo", typed=f"{PASSWORD}\n")
    kept = tmp_path / "barrio" / "tokens.json"
    assert "Signed in" in said and PASSWORD not in said and kept.stat().st_mode & 0o777 == 0o600
    assert json.loads(kept.read_text()).keys() == {serving.address}

    link = ask("people", "add", "per", "--called", "Per Lindqvist")
    assert re.search(rf"{serving.address}/enter#\S{{40,}}", link)
    assert "could be taken for per" in ask("people", "add", "p.er", "--called", "Per", code=2)
    ask("people", "give", "per", "technician")
    ask("people", "team", "Buoys", "per", "--note", "the coast")
    ask("people", "give", "Buoys", "reader", "--team")
    listed = json.loads(ask("people", "list", "--as", "json"))
    assert (
        next(row for row in listed if row["name"] == "per")["roles"] == "technician of all; reader of all (team Buoys)"
    )
    ask("people", "take", "per", "technician")
    assert "is not technician" in ask("people", "take", "per", "technician", code=2)
    assert "is the last keeper" in ask("people", "leave", "olmo", code=2)
    ask("people", "leave", "per")
    assert "left" in ask("people", "list")
    ask("people", "back", "per"), ask("people", "team", "Buoys", "--end"), ask("people", "link", "per")

    made = ask("token", "add", "nightly", "--role", "reader", "--days", "3").strip()
    assert "nightly" in ask("token", "list") and made not in ask("token", "list")
    monkeypatch.setenv("BARRIO_TOKEN", made)
    assert "You may not say who may do what" in ask("people", "list", code=2)
    monkeypatch.delenv("BARRIO_TOKEN")
    ask("token", "end", "nightly")
    assert "role taken away" in ask("record", "technician") and "per" in ask("record", "--author", "Olmo")
    ask("logout")
    assert json.loads(kept.read_text()) == {} and "barrio login" in ask("people", "list", code=2)
