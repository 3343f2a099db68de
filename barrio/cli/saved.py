"""Saved outputs on the command line: a folder, or an archive of one."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path
from typing import Annotated

import typer

from barrio.cli.asking import fail

Saved = Annotated[Path, typer.Argument(help="A folder of saved outputs, or a ZIP or tar.gz of one.")]
Seen = Annotated[
    Path, typer.Argument(help="A folder of saved outputs, a ZIP or tar.gz of one, or a drawing (GraphML, DOT, links).")
]


def archive(saved: Path) -> bytes:
    """A folder as a ZIP, or the archive or the drawing as it is."""
    if saved.is_file():
        return saved.read_bytes()
    if not saved.is_dir():
        fail(2, f"There is no {saved}.")
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as into:
        for path in sorted(saved.rglob("*")):
            if path.is_file():
                into.writestr(str(path.relative_to(saved)), path.read_bytes())
    return packed.getvalue()
