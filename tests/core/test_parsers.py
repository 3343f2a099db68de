"""Every file that leaves Barrio is read by the program it is for."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.brief.model import Brief
from tests.conftest import EXAMPLES, briefs

BARE = {**os.environ, "PATH": "/usr/sbin:/usr/bin:/sbin:/bin"}


@pytest.fixture(scope="module")
def namespace() -> Iterator[str]:
    """A namespace with a device called mgmt, which sshd and rsyslog look for."""
    name = f"barrio-parse-{os.getpid()}"
    subprocess.run(["ip", "netns", "add", name], check=True)
    subprocess.run(["ip", "-n", name, "link", "add", "mgmt", "type", "bridge"], check=True)
    for folder in ("/run/sshd", "/run/network"):
        Path(folder).mkdir(exist_ok=True)
    yield name
    subprocess.run(["ip", "netns", "del", name], check=True)


@pytest.fixture(scope="module")
def host_key(tmp_path_factory: pytest.TempPathFactory) -> Path:
    key = tmp_path_factory.mktemp("key") / "host"
    subprocess.run(["ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", key], check=True)
    return key


def claim_parsers_accept(folder: Path, namespace: str, host_key: Path) -> None:
    """Each program's own syntax check takes its file without a word."""
    etc = folder / "etc"
    within = ["ip", "netns", "exec", namespace]
    # ifupdown2 keeps one lock in /run/network; each check gets a folder of its own there.
    alone = ["unshare", "--mount", "sh", "-c", 'mount -t tmpfs tmpfs /run/network && exec "$@"', "sh"]
    checks: list[tuple[list[str], bool]] = [
        (["vtysh", "-C", "-f", str(etc / "frr/frr.conf")], True),
        ([*alone, "ifup", "--all", "--syntax-check", "--interfaces", str(etc / "network/interfaces")], True),
        ([*alone, "ifquery", "--all", "--interfaces", str(etc / "network/interfaces")], False),
        ([*within, "sshd", "-t", "-f", str(etc / "ssh/sshd_config"), "-h", str(host_key)], True),
        ([*within, "nft", "-c", "-f", str(etc / "nftables.conf")], True),
        (["chronyd", "-p", "-f", str(etc / "chrony/chrony.conf")], False),
        (["rsyslogd", "-N1", "-f", str(etc / "rsyslog.d/50-fabric.conf")], False),
        (["systemd-sysusers", "--dry-run", str(etc / "sysusers.d/fabric.conf")], False),
    ]
    for command, silent in checks:
        if not Path(command[-1]).exists() and Path(command[-1]).parts[-2:-1] in (("rsyslog.d",), ("sysusers.d",)):
            continue  # The brief names no log server, or no user.
        done = subprocess.run(command, capture_output=True, text=True, check=False, env=BARE)
        said = (done.stdout + done.stderr) if silent else ""
        assert (done.returncode, said) == (0, ""), f"{' '.join(command)}: {done.stdout}{done.stderr}"
    for keys in (etc / "ssh/authorized_keys").glob("*"):
        subprocess.run(["ssh-keygen", "-l", "-f", keys], check=True, capture_output=True)


def write(compiled: Compiled, folder: Path, keys: list[str]) -> list[Path]:
    places = []
    for key in keys:
        place = folder / compiled.models[key].name
        for path, text in compiled.files(key).items():
            (place / path).parent.mkdir(parents=True, exist_ok=True)
            (place / path).write_text(text)
        places.append(place)
    return places


def claim_all_accepted(compiled: Compiled, keys: list[str], folder: Path, namespace: str, host_key: Path) -> None:
    places = write(compiled, folder, keys)
    with ThreadPoolExecutor(2) as pool:
        list(pool.map(lambda place: claim_parsers_accept(place, namespace, host_key), places))


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_a_switch_of_every_kind_in_every_example_is_accepted(
    path: Path, tmp_path: Path, namespace: str, host_key: Path
) -> None:
    """One for each set of things that its files speak of: role, pair, outside, VRFs, marks."""
    compiled = compile(read(path.read_text()).brief)
    kinds = {
        (model.role, model.pair is None, bool(model.outside_ports), len(model.vrfs), bool(model.segments)): key
        for key, model in compiled.models.items()
    }
    claim_all_accepted(compiled, list(kinds.values()), tmp_path, namespace, host_key)


@pytest.mark.long
@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_every_file_of_every_example_is_accepted(path: Path, tmp_path: Path, namespace: str, host_key: Path) -> None:
    compiled = compile(read(path.read_text()).brief)
    claim_all_accepted(compiled, list(compiled.models), tmp_path, namespace, host_key)


@settings(max_examples=5, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
@given(data=briefs())
def test_files_of_made_up_briefs_are_accepted(
    data: dict[str, Any], tmp_path: Path, namespace: str, host_key: Path
) -> None:
    compiled = compile(Brief.model_validate(data))
    for place in write(
        compiled, tmp_path / "made", [compiled.structure.spines[0].key, compiled.structure.leaves[-1].key]
    ):
        claim_parsers_accept(place, namespace, host_key)


def test_the_parsers_do_refuse(tmp_path: Path, namespace: str, host_key: Path) -> None:
    """The claims above can fail: one bad word in any of four files is caught."""
    compiled = compile(read(EXAMPLES[-1].read_text()).brief)
    slips = {
        "etc/frr/frr.conf": ("bgp router-id", "bgp rooter-id"),
        "etc/network/interfaces": ("vxlan-id 3", "vxlan-id x3"),
        "etc/ssh/sshd_config": ("PermitRootLogin", "PermitRotLogin"),
        "etc/nftables.conf": ("type filter hook", "type filter hok"),
    }
    for path, (right, wrong) in slips.items():
        (place,) = write(compiled, tmp_path / path.replace("/", "-"), [compiled.structure.leaves[0].key])
        text = (place / path).read_text()
        assert right in text
        (place / path).write_text(text.replace(right, wrong, 1))
        with pytest.raises(AssertionError):
            claim_parsers_accept(place, namespace, host_key)
