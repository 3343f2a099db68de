"""The command line, called in this process."""

from __future__ import annotations

from typer.testing import CliRunner

from barrio.cli.main import app

_RUN = CliRunner()


def barrio(*words: object, code: int = 0) -> str:
    """What `barrio` says to these words. It has to end with the code."""
    done = _RUN.invoke(app, [str(word) for word in words])
    assert done.exit_code == code, done.output
    return done.output
