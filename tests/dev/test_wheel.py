"""Barrio as a wheel: installed into an empty virtual environment, away from any checkout, it serves its demo world."""

from __future__ import annotations

import subprocess
import venv
from pathlib import Path

import pytest

from tests.processes import Server

ROOT = Path(__file__).parents[2]


@pytest.mark.long
def test_a_wheel_in_an_empty_environment_serves_the_front_end_and_the_demo_world(
    tmp_path: Path, server: Server, monkeypatch: pytest.MonkeyPatch
) -> None:
    subprocess.run([ROOT / "scripts/wheel.sh", tmp_path], check=True, capture_output=True)
    (wheel,) = tmp_path.glob("barrio-*.whl")
    home = tmp_path / "home"
    venv.create(home, with_pip=True)
    install = [
        home / "bin/pip",
        "install",
        "--quiet",
        "--disable-pip-version-check",
        "-r",
        ROOT / "requirements.lock",
        wheel,
    ]
    subprocess.run(install, check=True)
    said = "import barrio.places; print(barrio.places.__file__)"
    beside = subprocess.run([home / "bin/python", "-c", said], cwd=tmp_path, check=True, capture_output=True, text=True)
    assert beside.stdout.startswith(str(home)), "the wheel's own files, not the checkout's"
    assert Path(beside.stdout.strip()).with_name("py.typed").exists()
    monkeypatch.chdir(tmp_path)
    server.python = str(home / "bin/python")
    server.start("--demo")
    with server.client() as client:
        assert {row["name"] for row in client.get("/api/v1/fabrics").json()} == {"marlin", "pelican", "tern"}
        page = client.get("/f/marlin/brief").text
        script = page.split('src="')[1].split('"')[0]
        assert client.get(script).headers["content-type"].startswith("text/javascript")
        assert client.get("/api/v1/fabrics/tern/bundle.zip").status_code == 200
    assert server.end() == 0 and server.wait_until_gone() == []
