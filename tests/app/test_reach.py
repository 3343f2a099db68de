"""Switches are looked at by SSH, of a real sshd: by a key and a known host key, by way of a jump host; whoever does not tell is named, with the way out."""

from __future__ import annotations

import socket
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest

from barrio.core.adopt.saved import read_saved
from barrio.core.observe.rows import rows
from barrio.sending import reach
from tests.cli import barrio
from tests.core import handwritten
from tests.processes import until

FORCED = """#!/bin/sh
# The switch's own files stand in a folder of the test.
case "$SSH_ORIGINAL_COMMAND" in
tar*) exec sh -c "$(echo "$SSH_ORIGINAL_COMMAND" | sed 's# -C / # -C {root} #')" ;;
*'show running-config'*) exec cat {root}/etc/frr/frr.conf ;;
ip*) exec cat {root}/links.json ;;
*) exit 127 ;;
esac
"""


class Sshd:
    """One sshd on loopback, for root and one key, that answers as a switch whose files are in a folder."""

    def __init__(self, place: Path) -> None:
        self.place, self.root = place, place / "root"
        with socket.create_server(("127.0.0.1", 0)) as free:
            self.port = free.getsockname()[1]
        for name in ("host", "mine", "other"):
            subprocess.run(["ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", place / name], check=True)
        (place / "allowed").write_text((place / "mine.pub").read_text())
        forced = place / "forced"
        forced.write_text(FORCED.format(root=self.root))
        forced.chmod(0o755)
        (place / "sshd_config").write_text(
            f"Port {self.port}\nListenAddress 127.0.0.1\nHostKey {place}/host\nAuthorizedKeysFile {place}/allowed\nStrictModes no\n"
            f"PermitRootLogin prohibit-password\nPasswordAuthentication no\nUsePAM no\nPidFile none\nForceCommand {forced}\n"
        )
        Path("/run/sshd").mkdir(exist_ok=True)
        self.process = subprocess.Popen(
            ["/usr/sbin/sshd", "-D", "-e", "-f", place / "sshd_config"], stderr=subprocess.DEVNULL
        )
        self.knows("host")

    def knows(self, key: str) -> None:
        """Have this key be the one that is known of the host."""
        words = " ".join((self.place / f"{key}.pub").read_text().split()[:2])
        (self.place / "known").write_text(f"[127.0.0.1]:{self.port} {words}\n")

    def way(self, key: str = "mine", jump: str = "", account: str = "root") -> reach.Way:
        return reach.Way(account, self.place / key, jump, self.place / "known", self.port)

    def listens(self) -> bool:
        with socket.socket() as one:
            return one.connect_ex(("127.0.0.1", self.port)) == 0


@pytest.fixture
def sshd(tmp_path: Path) -> Iterator[Sshd]:
    one = Sshd(tmp_path)
    switch = handwritten.fabric()[2]
    for path, text in {
        **switch.files,
        "etc/hostname": f"{switch.name}\n",
        "links.json": handwritten.links_json(switch),
    }.items():
        (one.root / path).parent.mkdir(parents=True, exist_ok=True)
        (one.root / path).write_text(text)
    until(one.listens, 10)
    yield one
    one.process.terminate()
    one.process.wait(10)


def test_what_a_switch_may_tell_is_read_also_by_way_of_another_host(sshd: Sshd) -> None:
    for way in (sshd.way(), sshd.way(jump=f"root@127.0.0.1:{sshd.port}")):
        (told,) = reach.look(["127.0.0.1"], way)
        assert not told.wrong and told.name == "tor-11-1"
        assert set(told.answers) == {"running-config.txt", "links.json", "tables/devices.txt"}
        saved = {f"{told.name}/{path}": content for path, content in {**told.files, **told.answers}.items()}
        (running,) = read_saved(saved)
        assert running.name == "tor-11-1" and running.files["etc/frr/frr.conf"] and len(running.ports) == 28
        assert len(rows("devices", running.tables["devices"]) or {}) >= 28, "what it holds is among it"


def test_whoever_does_not_tell_is_named_with_the_way_out(sshd: Sshd) -> None:
    def wrong(way: reach.Way, address: str = "127.0.0.1") -> str:
        (told,) = reach.look([address], way)
        return told.wrong

    assert "refuses the account or its key" in wrong(sshd.way("other"))
    with socket.create_server(("127.0.0.1", 0)) as free:
        nobody = free.getsockname()[1]
    assert "nobody listens" in wrong(reach.Way("root", sshd.place / "mine", "", sshd.place / "known", nobody))
    assert f"by way of root@127.0.0.1:{nobody}: nobody listens" in wrong(sshd.way(jump=f"root@127.0.0.1:{nobody}"))
    sshd.knows("other")
    assert "host key is not the one that is known" in wrong(sshd.way())
    assert "there is no" in wrong(reach.Way("root", sshd.place / "mine", "", sshd.place / "none", sshd.port))


def test_a_fetch_keeps_saved_outputs_and_ends_with_one_where_somebody_was_silent(sshd: Sshd) -> None:
    into = sshd.place / "saved"
    (sshd.place / "list").write_text("127.0.0.1 # the first\n\n127.0.0.2\n")
    said = barrio(
        "adopt", "fetch", into, "--addresses", sshd.place / "list", "--account", "root", "--key", sshd.place / "mine",
        "--known-hosts", sshd.place / "known", "--port", sshd.port, code=1,
    )  # fmt: skip
    assert "1 of 2 switches are in" in said and "127.0.0.2: nobody listens" in said
    assert (into / "tor-11-1/etc/frr/frr.conf").read_text().startswith("Building")
    assert [one.name for one in into.iterdir()] == ["tor-11-1"]
    assert "Say whom" in barrio("adopt", "fetch", into, code=2)
