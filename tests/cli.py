"""The command line, called in this process."""

from __future__ import annotations

from typer.testing import CliRunner

from barrio.cli.main import app
from tests.signed import TOKEN

_RUN = CliRunner()


def barrio(*words: object, code: int = 0) -> str:
    """What `barrio` says to these words. It has to end with the code."""
    done = _RUN.invoke(app, [str(word) for word in words], env={"BARRIO_TOKEN": TOKEN})
    assert done.exit_code == code, done.output
    return done.output
