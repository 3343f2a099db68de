"""Switches install the software that the brief asks for: brought once, fetched by its digest from where it was left, shown by the switch itself."""

from __future__ import annotations

import hashlib
import io
import subprocess
import tarfile
from pathlib import Path

import httpx2
import pytest

from barrio.app import images, stagings
from barrio.core import Refused
from barrio.core.staging.software import of_packages
from barrio.staging.agent import Agent, Hands, Server, Wrong
from barrio.staging.simulate import LightKey
from barrio.store.images import PIECE
from tests.cli import barrio
from tests.processes import until
from tests.signed import BEARER
from tests.staging.conftest import NAMES, Hall

NAME = "leaf-t01"


def bring(hall: Hall, version: str, content: bytes, model: str = "") -> str:
    one = images.Bringing(hall.desk, "tern", version, model, "made.tar")
    for at in range(0, len(content), 300_000):
        one.take(content[at : at + 300_000])
    return one.end().digest.hex()


def made(script: str, **files: bytes) -> bytes:
    """An archive with an `install`."""
    packed = io.BytesIO()
    with tarfile.open(fileobj=packed, mode="w") as archive:
        for name, content in {"install": f"#!/bin/sh\nset -eu\n{script}\n".encode(), **files}.items():
            entry = tarfile.TarInfo(name)
            entry.size = len(content)
            archive.addfile(entry, io.BytesIO(content))
    return packed.getvalue()


def test_software_is_kept_once_and_read_from_any_place(hall: Hall) -> None:
    content = bytes(range(256)) * 10_000
    digest = bring(hall, "12.9", content)
    assert digest == hashlib.sha256(content).hexdigest() == bring(hall, "12.9", content, "cantera-l48")
    with hall.desk.house.alone() as connection:
        [(pieces,)] = connection.execute("select count(*) from image_pieces")
        [(left,)] = connection.execute("select count(*) from image_uploads")
    assert (pieces, left) == (-(-len(content) // PIECE), 0)
    path = f"{hall.address}/boot/v1/images/{digest}"
    assert httpx2.get(path).content == content
    for first, last in ((0, 0), (PIECE - 1, PIECE), (5, len(content) - 1), (len(content) - 1, len(content) + 9)):
        part = httpx2.get(path, headers={"Range": f"bytes={first}-{last}"})
        assert part.status_code == 206 and part.content == content[first : last + 1]
        assert part.headers["content-range"] == f"bytes {first}-{min(last, len(content) - 1)}/{len(content)}"
    assert httpx2.get(path, headers={"Range": f"bytes={len(content)}-"}).status_code == 416
    assert httpx2.get(f"{hall.address}/boot/v1/images/{'0' * 64}").status_code == 404
    images.drop(hall.desk, "tern", "12.9", "")
    assert httpx2.get(path).content == content, "for one model it is still there"
    images.drop(hall.desk, "tern", "12.9", "cantera-l48")
    assert httpx2.get(path).status_code == 404


def test_software_that_is_none_says_why(hall: Hall) -> None:
    for version, model, words in (
        ("12 9", "", "is no version"),
        ("12.9", "cantera-x", "No switch of tern is a cantera-x"),
    ):
        with pytest.raises(Refused, match=words):
            images.Bringing(hall.desk, "tern", version, model, "")
    with pytest.raises(Refused, match="There is nothing in it"):
        images.Bringing(hall.desk, "tern", "12.9", "", "").end()
    with pytest.raises(Refused, match="is no Debian package"):
        of_packages({"a.rpm": b""})


def test_whoever_has_other_software_installs_it_and_who_has_it_is_left_alone(hall: Hall) -> None:
    hall.write(lambda text: text.replace("services:\n", "services:\n  software: '12.9'\n"))
    bring(hall, "12.9", made("true"))
    hall.bind()
    for name in NAMES:
        hall.light(
            name, software="12.9" if name == "spine-2" else "12.8", moments=("software fetched", "software installed")
        )
    hall.admit(*NAMES)
    stagings.begin(hall.desk, "tern", stagings.Wanted())
    hall.done()
    number = hall.told().staging.id
    for name in NAMES:
        lines = stagings.lines(hall.desk, "tern", number, name)
        ran = [one.command for one in lines if one.command.endswith("installing") and "install" in one.command]
        assert bool(ran) == (name != "spine-2"), (name, ran)
        assert "it has 12.9" in [one.words for one in lines if one.step == "software"]
        assert hall.lights[name].times == (0 if name == "spine-2" else 2), "its power went both times"


def test_software_that_is_not_there_or_changes_nothing_stops_its_switch(hall: Hall) -> None:
    hall.write(lambda text: text.replace("services:\n", "services:\n  software: '12.9'\n"))
    hall.bind()
    hall.light(NAME, software="12.8")
    hall.admit(NAME)
    stagings.begin(hall.desk, "tern", stagings.Wanted(switches=(NAME,)))
    assert "it has software 12.8, and 12.9 is wanted. Bring 12.9 for cantera-l48" in hall.failed(NAME)
    bring(hall, "12.9", made("true"))
    about = Agent._about
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Agent, "_about", lambda self: {**about(self), "software": "12.8"})
        stagings.again(hall.desk, "tern", NAME)
        until(lambda: "12.9 was installed, and it still says that it has 12.8" in hall.failed(NAME), 30)
    stagings.again(hall.desk, "tern", NAME)
    hall.done()


def test_software_may_be_larger_than_anything_else_that_is_sent_and_only_by_who_may_stage(hall: Hall) -> None:
    content = bytes(1_500_000)
    path = "/api/v1/fabrics/tern/staging/images/12.9"
    with httpx2.Client(base_url=hall.address, headers=BEARER) as client:
        assert client.put(path, content=content).json()["size"] == len(content)
        assert client.put("/api/v1/fabrics/tern/staging/ways", content=content).status_code == 413
        assert client.put("/api/v1/fabrics/tern/staging/images/12%209", content=b"x").status_code == 422
        assert client.put(path, params={"model": "cantera-x"}, content=b"x").status_code == 422
        assert client.put(path, content=b"").status_code == 422
    assert httpx2.put(f"{hall.address}{path}", content=content).status_code == 401


def agent(hall: Hall, folder: Path) -> Agent:
    folder.mkdir(exist_ok=True)
    server = Server(hall.address, LightKey(folder), folder)
    return Agent(server, folder, folder / "root", {"serial": "X"}, Hands())


def task(digest: str) -> dict[str, object]:
    return {"id": "1", "do": "software", "version": "12.9", "sha256": digest}


def test_the_agent_goes_on_where_a_download_was_cut_and_takes_nothing_that_was_changed(
    hall: Hall, tmp_path: Path
) -> None:
    content = made(f"cp data {tmp_path}/there", data=b"x" * 3_000_000)
    digest, one = bring(hall, "12.9", content), agent(hall, tmp_path / "one")
    part = one.place / "software.tar"
    part.write_bytes(content[:1_234_567])
    asked: list[str] = []
    real = one.server._connect

    def watching() -> object:
        line = real()
        put = line.request
        line.request = lambda *words, **more: (asked.append(more["headers"]["Range"]), put(*words, **more))  # type: ignore[method-assign]
        return line

    one.server._connect = watching  # type: ignore[method-assign, assignment]
    assert one._do(task(digest), []) == {"reboot": False}
    assert asked == ["bytes=1234567-"] and (tmp_path / "there").stat().st_size == 3_000_000
    assert one._about()["software"] == "12.9" and not part.exists()
    part.write_bytes(b"y" * 1000)
    with pytest.raises(Wrong, match="came otherwise"):
        one._do(task(digest), [])
    assert not part.exists(), "so that the next time begins anew"


def test_an_install_that_fails_says_what_it_printed_and_leaves_the_version(hall: Hall, tmp_path: Path) -> None:
    digest = bring(hall, "12.9", made("echo no room left >&2; exit 3"))
    one, ran = agent(hall, tmp_path / "one"), []
    with pytest.raises(Wrong, match=r"software 12\.9 was not installed"):
        one._do(task(digest), ran)
    assert ran[-1]["code"] == 3 and "no room left" in ran[-1]["output"]
    assert "software" not in one._about()


def test_it_starts_anew_where_what_was_installed_asks_for_it(
    hall: Hall, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    flag, calls = tmp_path / "reboot-required", []
    monkeypatch.setattr("barrio.staging.agent.REBOOT", flag)
    digest, one = bring(hall, "12.9", made(f"touch {flag}")), agent(hall, tmp_path / "one")
    one.server.ask = lambda said: task(digest)  # type: ignore[method-assign, assignment]
    run = one.hands.run
    monkeypatch.setattr(
        one.hands, "run", lambda argv, *more: calls.append(argv) if argv[0] == "systemctl" else run(argv, *more)
    )
    one.turn()
    assert calls == [["systemctl", "reboot"]] and one.journal["report"]["reboot"], (
        "what is to be told outlasts the start"
    )


def test_packages_are_an_archive_that_installs_them_and_on_the_command_line(hall: Hall, tmp_path: Path) -> None:
    root = tmp_path / "made"
    (root / "DEBIAN").mkdir(parents=True)
    (root / "DEBIAN/control").write_text(
        "Package: barrio-made-up\nVersion: 1\nArchitecture: all\nMaintainer: Olmo <olmo@barrio.example>\nDescription: nothing\n"
    )
    package = tmp_path / "barrio-made-up_1_all.deb"
    subprocess.run(
        ["dpkg-deb", "--build", "--root-owner-group", str(root), str(package)], check=True, capture_output=True
    )

    def said(*words: object, code: int = 0) -> str:
        return barrio("stage", *map(str, words), "--at", hall.address, code=code)

    assert "no software yet" in said("images", "tern")
    assert "SHA-256" in said("image", "tern", package, "--version", "12.9+1", "--model", "cantera-l48")
    assert "12.9+1" in said("images", "tern")
    [one] = images.every(hall.desk, "tern")
    assert one.digest == hashlib.sha256(of_packages({package.name: package.read_bytes()})).digest()
    place = tmp_path / "unpacked"
    place.mkdir()
    packed = httpx2.get(f"{hall.address}/boot/v1/images/{one.digest.hex()}").content
    subprocess.run(["tar", "--extract", "--directory", str(place)], input=packed, check=True)
    # dpkg takes it, into a root of its own.
    (tmp_path / "dpkg/updates").mkdir(parents=True)
    (tmp_path / "dpkg/info").mkdir()
    (tmp_path / "dpkg/status").touch()
    surroundings = {"PATH": "/usr/sbin:/usr/bin:/sbin:/bin", "DPKG_ADMINDIR": str(tmp_path / "dpkg")}
    subprocess.run(["sh", "./install"], cwd=place, env=surroundings, check=True, capture_output=True)
    assert "Package: barrio-made-up" in (tmp_path / "dpkg/status").read_text()
    assert "is no version" in said("image", "tern", package, "--version", "a b", code=2)
    assert "cannot be read" in said("image", "tern", tmp_path / "none.tar", "--version", "1", code=2)
    assert "taken out" in said("images", "tern", "--drop", "12.9+1", "--model", "cantera-l48")
    assert "has no software" in said("images", "tern", "--drop", "12.9+1", code=2)
