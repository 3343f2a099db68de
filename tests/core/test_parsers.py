"""Every file that leaves Barrio is read by the program it is for."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from typer.testing import CliRunner

from barrio.cli.main import app
from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.brief.model import Brief
from barrio.rehearsal.parsers import CHECKS, Parsers, parsers
from tests.conftest import EXAMPLES, briefs, quickly


@pytest.fixture(scope="module")
def programs() -> Iterator[Parsers]:
    with parsers() as ready:
        assert ready.missing == []
        yield ready


def claim_all_accepted(compiled: Compiled, keys: Iterable[str], programs: Parsers) -> None:
    """Each program's own check takes its file without a word."""
    with ThreadPoolExecutor(2) as pool:
        said = pool.map(lambda key: [(key, one) for one in programs.complaints(compiled.files(key))], keys)
        assert [one for some in said for one in some] == []


@pytest.mark.parametrize("path", quickly("marlin"))
def test_a_switch_of_every_kind_in_every_example_is_accepted(path: Path, programs: Parsers) -> None:
    """One for each set of things that its files speak of: role, pair, outside, VRFs, marks."""
    compiled = compile(read(path.read_text()).brief)
    kinds = {
        (model.role, model.pair is None, bool(model.outside_ports), len(model.vrfs), bool(model.segments)): key
        for key, model in compiled.models.items()
    }
    claim_all_accepted(compiled, kinds.values(), programs)


@pytest.mark.long
@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_every_file_of_every_example_is_accepted(path: Path, programs: Parsers) -> None:
    compiled = compile(read(path.read_text()).brief)
    claim_all_accepted(compiled, compiled.models, programs)


@settings(max_examples=5, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
@given(data=briefs())
def test_files_of_made_up_briefs_are_accepted(data: dict[str, Any], programs: Parsers) -> None:
    compiled = compile(Brief.model_validate(data))
    claim_all_accepted(compiled, [compiled.structure.spines[0].key, compiled.structure.leaves[-1].key], programs)


SLIPS = {
    "etc/frr/frr.conf": ("bgp router-id", "bgp rooter-id"),
    "etc/network/interfaces": ("vxlan-id 3", "vxlan-id x3"),
    "etc/ssh/sshd_config": ("PermitRootLogin", "PermitRotLogin"),
    "etc/nftables.conf": ("type filter hook", "type filter hok"),
    "etc/chrony/chrony.conf": ("server ", "servver "),
    "etc/rsyslog.d/40-fabric.conf": ("action(", "axtion("),
    "etc/sudoers.d/fabric": ("NOPASSWD", "NOPASWD"),
    "usr/local/sbin/fabric-guard": ("import ", "impart "),
}


@pytest.mark.parametrize("path", SLIPS)
def test_the_programs_do_complain_of_the_file_and_of_no_other(path: str, programs: Parsers) -> None:
    """The claims above can fail: one bad word in a file is caught."""
    compiled = compile(read(EXAMPLES[-1].read_text()).brief)
    files = dict(compiled.files(compiled.structure.leaves[0].key))
    right, wrong = SLIPS[path]
    assert right in files[path]
    files[path] = files[path].replace(right, wrong, 1)
    said = list(programs.complaints(files))
    assert said and {one.path for one in said} == {path} and all("/tmp/" not in one.words for one in said)


def test_every_file_that_a_program_reads_at_its_start_has_a_check() -> None:
    """Files that no program of ours checks are scripts, texts, and lists of names."""
    compiled = compile(read(EXAMPLES[-1].read_text()).brief)
    files = compiled.files(compiled.structure.leaves[0].key)
    unread = {path for path in files if not any(path == one.path or path.startswith(f"{one.path}/") for one in CHECKS)}
    assert unread == UNREAD


UNREAD = {
    "etc/frr/daemons", "etc/frr/vtysh.conf", "etc/hostname", "etc/hosts", "etc/lldpd.d/fabric.conf", "etc/resolv.conf",
    "etc/sysctl.d/90-fabric.conf", "etc/systemd/system/fabric-guard.service",
    "etc/systemd/system/fabric-relay-archive-v4-1.service", "etc/tmpfiles.d/fabric.conf",
}  # fmt: skip


def test_the_deep_check_of_the_command_line_has_every_file_read_and_names_the_one_that_is_not_taken(
    tmp_path: Path,
) -> None:
    tern = next(path for path in EXAMPLES if path.stem == "tern")
    done = CliRunner().invoke(app, ["check", "--deep", str(tern)])
    assert done.exit_code == 0 and re.search(
        r"\d+ files of 6 switches were read by their own programs: no complaints", done.stdout
    )
    (tmp_path / "tern.yaml").write_text(tern.read_text() + "additions: {frr: [router bgb 1]}\n")
    wrong = CliRunner().invoke(app, ["check", "--deep", str(tmp_path / "tern.yaml")])
    assert (
        wrong.exit_code == 1
        and "6 complaints" in wrong.stdout
        and "spine-1, etc/frr/frr.conf: vtysh says:" in wrong.stderr
    )
