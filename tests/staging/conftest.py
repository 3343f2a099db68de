"""A hall with a fabric's switches in it, which ask a server on a real port."""

from __future__ import annotations

import shutil
import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from barrio.app import drafts, editions, reviews, rollcall, stagings
from barrio.app.desk import Desk
from barrio.core.exchange.sheet import read_sheet
from barrio.staging.simulate import Light
from tests.database import Databases
from tests.processes import until
from tests.serving import Serving

TERN = (Path(__file__).parents[2] / "examples" / "tern.yaml").read_text()
NAMES = ("spine-1", "spine-2", "leaf-t01", "leaf-t02", "leaf-t03", "leaf-t04")


def number(name: str) -> str:
    """The serial number of the box that is to be a switch."""
    return f"T-{name}".upper()


class Hall:
    """A hall with the switches of *Tern*, boxes and all; `desk` is whoever stages them."""

    def __init__(self, serving: Serving, folder: Path) -> None:
        self.address, self.folder, self.desk = serving.address, folder, Desk(serving.house)
        self.stop = threading.Event()
        self.threads: list[threading.Thread] = []
        self.lights: dict[str, Light] = {}

    def seal(self) -> None:
        reviews.set_rule(self.desk, "tern", 0, [])
        editions.seal(self.desk, "tern", drafts.version(self.desk, "tern"), "as cabled")

    def write(self, change: Callable[[str], str]) -> None:
        """Change the brief, and seal it."""
        drafts.save(self.desk, "tern", drafts.version(self.desk, "tern"), change, "a change")
        editions.seal(self.desk, "tern", drafts.version(self.desk, "tern"), "as changed")

    def light(
        self,
        name: str,
        *faults: str,
        serial: str = "",
        moments: tuple[str, ...] = (),
        away: float = 0,
        hears: tuple[str, str] = ("", ""),
        folder: str = "",
        answers: dict[str, str] | None = None,
        **about: str,
    ) -> Light:
        """Switch a light one on, in the place of a switch, with the serial that this is bound to."""
        said = serial or number(name)
        one = Light(
            self.address,
            self.folder / (folder or said),
            {"serial": said, **about},
            set(faults),
            list(moments),
            away=away,
            hears=hears,
            answers={} if answers is None else answers,
        )
        self.lights[name] = one
        self.threads.append(threading.Thread(target=one.run, args=(self.stop, 0.02), daemon=True))
        self.threads[-1].start()
        return one

    def leave(self) -> None:
        """Switch all of them off."""
        self.stop.set()
        for thread in self.threads:
            thread.join(20)
        self.stop, self.threads = threading.Event(), []

    def bind(self) -> None:
        rows = "".join(f"{number(name)},{name}\n" for name in NAMES)
        assert rollcall.take(self.desk, "tern", read_sheet(f"serial,switch\n{rows}".encode())) == len(NAMES)

    def admit(self, *names: str) -> None:
        until(lambda: {number(name) for name in names} <= {one.knock.serial for one in self.knocking()}, 30)
        for one in self.knocking():
            if one.expected is not None and one.expected.name in names:
                rollcall.admit(self.desk, "tern", one.knock.key, one.expected.name)

    def knocking(self) -> list[rollcall.Knocking]:
        return rollcall.knocking(self.desk, "tern")

    def told(self) -> stagings.Told:
        return stagings.told(self.desk, "tern")

    def at(self, name: str) -> tuple[str, str, str]:
        one = next(one for one in self.told().switches if one.name == name)
        return one.step, one.state, one.words

    def failed(self, name: str) -> str:
        """What a switch says that fails, once it has."""
        until(lambda: self.at(name)[1] == "failed", 60)
        return self.at(name)[2]

    def done(self) -> None:
        ended = {"done", "paused"}
        until(lambda: self.told().staging.state in ended, 60)
        found = self.told()
        assert found.staging.state == "done", [
            (one.name, one.step, one.words) for one in found.switches if one.state == "failed"
        ]

    def wanted(self, name: str) -> dict[str, str]:
        with self.desk.reading() as tx:
            compiled = rollcall.newest(tx, "tern")
        key = next(one.key for one in compiled.staged if one.name == name)
        return dict(compiled.files(key))

    def has(self, name: str) -> bool:
        """Whether a light switch has just the files of the edition."""
        return all(self.lights[name].file(path) == text.encode() for path, text in self.wanted(name).items())


@pytest.fixture
def staged(
    hall: Hall,
    serving: Serving,
    databases: Databases,
    tmp_path_factory: pytest.TempPathFactory,
    monkeypatch: pytest.MonkeyPatch,
) -> Hall:
    """All of Tern, handed over, its switches still there, looked at all the time. It is staged once; every other claim begins with a copy of what came of it."""
    monkeypatch.setattr("barrio.app.watching.EVERY", 0.4)
    place = tmp_path_factory.getbasetemp() / "staged"
    if not place.exists():
        hall.bind()
        for name in NAMES:
            hall.light(name)
        hall.admit(*NAMES)
        stagings.begin(hall.desk, "tern", stagings.Wanted())
        hall.done()
        hall.leave()
        shutil.copytree(hall.folder, place)
        databases.keep("staged", serving.release())
    serving.use(databases.kept("staged"))
    hall.desk = Desk(serving.house)
    shutil.copytree(place, hall.folder, dirs_exist_ok=True)
    for name in NAMES:
        hall.light(name)
    return hall


@pytest.fixture
def hall(serving: Serving, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Hall]:
    monkeypatch.setattr("barrio.app.turns.LATER", 0.1)
    monkeypatch.setattr("barrio.app.turns.SOON", 0.05)
    monkeypatch.setattr("barrio.app.turns.SELDOM", 0.4)
    monkeypatch.setattr("barrio.app.turns.SETTLES", 0)
    serving.start()
    serving.load(TERN)
    one = Hall(serving, tmp_path)
    one.seal()
    yield one
    one.leave()
