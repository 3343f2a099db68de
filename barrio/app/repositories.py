"""Every fabric as a git repository: made of its editions, and of nothing else."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from threading import Lock

from barrio.app import editions as use_editions
from barrio.app.desk import Desk
from barrio.sending import git
from barrio.sending.git import Commit
from barrio.store.editions import Edition

_MAKING = Lock()


def brought_up(desk: Desk, name: str) -> Path:
    """The repository of a fabric with every edition that there is. Raises `Missing`, and `NotTaken` with what git says."""
    found = use_editions.every(desk, name)
    with _MAKING:
        folder = git.repository(desk.house.folder / "git" / f"{name}.git")
        there = git.there(folder)
        late = [one for one in reversed(found) if one.number > there]
        git.add(folder, _commits(desk, name, late))
        if late:
            git.forget_draft(folder)
    return folder


def _commits(desk: Desk, name: str, editions: list[Edition]) -> Iterator[Commit]:
    for one in editions:
        trailers = [("Edition", str(one.number)), ("Asked-by", one.asked_by), ("Sealed-by", one.author)]
        trailers += [("Agreed-by", agreed["who"]) for agreed in one.agreed]
        yield Commit(
            one.number, one.title, one.why, one.asked_by or one.author, one.sealed_at,
            tuple((key, value) for key, value in trailers if value), use_editions.files(desk, name, one.number),
        )  # fmt: skip
