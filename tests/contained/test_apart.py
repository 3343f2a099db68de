"""Templates that nobody vouches for: what they may, what they may not, and that others go on."""

from __future__ import annotations

import json
import random
import re
import threading
import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest
from typer.testing import CliRunner

from barrio.cli.main import app
from barrio.contained.process import Apart
from barrio.core import Compiled, Refused, compile
from barrio.core.because.lines import of_line
from barrio.core.brief.document import read
from barrio.core.bundle import bundle_files
from barrio.core.model.switch import SwitchModel
from barrio.core.office import Office, read_office
from barrio.core.render.target import Target
from barrio.core.targets.own.manifest import MANIFEST, read_target
from barrio.core.targets.report import read_back
from tests.conftest import EXAMPLES, quickly
from tests.rehearsal.whole import whole

ROOT = Path(__file__).parents[2]
CANTERA = {
    str(path.relative_to(ROOT / "examples/office")): path.read_text()
    for path in (ROOT / "examples/office").rglob("*.*")
}


@pytest.fixture(scope="module")
def apart() -> Iterator[Apart]:
    made = Apart(seconds=1.0)
    yield made
    made.close()


@pytest.fixture(scope="module")
def office() -> Iterator[Office]:
    """An office whose templates are good, and have the time that a machine with much to do takes for them."""
    made = Apart(seconds=30.0)
    yield read_office(CANTERA, made)
    made.close()


def own(template: str, apart: Apart, **more: str) -> Target:
    manifest = "target: mine\nfiles:\n  - {path: a.cfg, template: a.j2}\n"
    return read_target("mine", {MANIFEST: manifest, "a.j2": template, **more}, apart)


@pytest.fixture(scope="module")
def leaf() -> SwitchModel:
    return next(model for model in whole().models.values() if model.is_leaf)


HOSTILE = {
    "{% for a in range(99999) %}{% for b in range(99999) %}{% endfor %}{% endfor %}": "did not come to an end within 1 s",
    "{% for a in range(10 ** 9) %}{% endfor %}": "a.j2, line 1 of mine counts too far",
    "one\n{{ sw.__class__.__mro__ }}": "line 2 of mine does what no template may: a switch has no __class__",
    "{{ ''.__class__.__base__.__subclasses__() }}": "does what no template may",
    "{{ '{0.__class__}'.format(sw) }}": "does what no template may",
    "{% macro a() %}{{ a() }}{% endmacro %}{{ a() }}": "calls itself without end",
    '{% include "a.j2" %}': "calls itself without end",
    "{{ 'x' * 10 ** 9 }}": "takes more than the 384 MB of memory",
    "{% for a in range(1000) %}{{ 'x' * 10 ** 4 }}{% endfor %}": "writes more than 4 MB",
    "{{ sw.fabric_ports.append(1) }}": "names what is not there",
    "{{ sw.name.format.__globals__ }}": "access to attribute '__globals__'",
    '{% include "/etc/passwd" %}': "names a template that is not there: /etc/passwd",
    '{% import "os" as os %}{{ os.system("id") }}': "names a template that is not there: os",
    "one\ntwo\n{{ sw.nmae }}": "a.j2, line 3 of mine names what is not there: a switch has no nmae. Is name meant?",
    "{% for port in sw.fabric_ports %}": "is no template: Unexpected end of template",
    "{{ sw.fabric_ports }}": "say which part of it",
    "{{ 'a\\nb' }}": "ends a line",
    "{{ 7 // 0 }}": "line 1 of mine cannot be rendered",
}  # fmt: skip


@pytest.mark.parametrize("template", HOSTILE)
def test_a_hostile_or_wrong_template_ends_with_its_place_and_costs_others_nothing(
    template: str, apart: Apart, leaf: SwitchModel
) -> None:
    with pytest.raises(Refused, match=re.escape(HOSTILE[template])) as caught:
        apart.render(leaf, own(template, apart))
    assert caught.value.faults[0].code.startswith("template.")
    assert apart.render(leaf, own("{{ sw.name }}\n", apart)) == {"a.cfg": f"{leaf.name}\n"}


@pytest.mark.parametrize(
    "template", [one for one in HOSTILE if "range(1000)" in one or "__class__.__mro__" in one or "'x' * 10 ** 9" in one]
)
def test_asking_why_of_a_hostile_template_s_lines_ends_as_rendering_it_does(
    template: str, apart: Apart, leaf: SwitchModel
) -> None:
    with pytest.raises(Refused, match=re.escape(HOSTILE[template])):
        apart.trace(leaf, "a.cfg", own(template, apart))
    with pytest.raises(KeyError):
        apart.trace(leaf, "b.cfg", own("x\n", apart))


def test_what_escapes_the_sandbox_finds_no_file_no_socket_and_no_program(leaf: SwitchModel) -> None:
    """Were a template to get out of Jinja2's sandbox, the process itself has nothing to reach: its limits are those of the kernel."""
    apart = Apart()
    apart.render(leaf, own("x\n", apart))
    child = apart._idle[0]._process.pid
    limits = Path(f"/proc/{child}/limits").read_text()
    for kind, most in {"open files": "3", "file size": "0", "processes": "0", "core file size": "0"}.items():
        assert re.search(rf"Max {kind} +{most} +{most} ", limits), limits
    assert sorted(one.name for one in Path(f"/proc/{child}/fd").iterdir()) == ["0", "1", "2"]
    assert "BARRIO" not in Path(f"/proc/{child}/environ").read_text()
    apart.close()
    assert not Path(f"/proc/{child}").exists()


def test_while_one_template_goes_on_without_end_others_are_answered(leaf: SwitchModel) -> None:
    apart = Apart(seconds=4.0)
    good = own("{{ sw.name }}\n", apart)
    apart.render(leaf, good)
    refused: list[Refused] = []

    def endless() -> None:
        try:
            apart.render(leaf, own(next(iter(HOSTILE)), apart))
        except Refused as error:
            refused.append(error)

    other = threading.Thread(target=endless)
    other.start()
    apart.render(leaf, good)
    assert other.is_alive(), "the answer came while the other went on"
    other.join()
    apart.close()
    assert refused


def test_no_more_render_at_once_than_may_and_others_wait_their_turn_or_are_told(leaf: SwitchModel) -> None:
    apart = Apart(seconds=0.2, most=1)

    def hold() -> None:
        with apart._room:
            time.sleep(3)

    holding = threading.Thread(target=hold)
    holding.start()
    with pytest.raises(Refused, match="Too many templates"):
        apart.render(leaf, own("x\n", apart))
    holding.join()
    assert apart.render(leaf, own("x\n", apart)) == {"a.cfg": "x\n"}
    apart.close()


@pytest.mark.parametrize("path", quickly("pelican"))
def test_every_example_can_be_written_in_a_language_of_ones_own(path: Path, office: Office) -> None:
    """Every line says where it comes from, everything of the model is there, and what is read back agrees."""
    document = read(f"target: cantera\n{path.read_text()}")
    compiled = compile(document.brief, office=office)
    assert compiled.read_back() == ()
    role = {switch.role: switch.key for switch in compiled.structure.switches}
    for key in role.values():
        for file, text in compiled.files(key).items():
            assert "\n".join(line.text for line in compiled.traced(key, file)) + "\n" == text
    name = compiled.models[role["leaf"]].name
    steps = of_line(document, compiled, name, "flash/startup.cfg", 2).steps
    assert "cantera, startup.j2, line 3" in str(steps) and "Command Reference" in str(steps)


def mixed(office: Office) -> Compiled:
    return compile(read((ROOT / "examples/mixed/heron.yaml").read_text()).brief, office=office)


def test_two_languages_in_one_fabric_are_compared_across_their_links(office: Office) -> None:
    compiled = mixed(office)
    assert compiled.read_back() == ()
    assert {target.name for target in compiled.targets.values()} == {"cantera", "linux-frr"}
    switches = [(compiled.models[key], compiled.targets[key]) for key in compiled.models]
    for old, new, found in (
        ("neighbour 10.4.0.3 as 4200000001", "neighbour 10.4.0.3 as 4200000009", "names AS 4200000009, and leaf-r01a is in 4200000001"),
        ("  mtu 9216\n  address 10.4.0.2/31", "  mtu 9000\n  address 10.4.0.2/31", "p1 carries 9000 bytes"),
        ("address 10.4.0.2/31", "address 10.4.0.4/31", "10.4.0.4 is"),
        ("goes to leaf-r01a u1", "goes to leaf-r02a u1", "p1 names leaf-r02a u1 as its other end"),
    ):  # fmt: skip

        def files(model: SwitchModel, old: str = old, new: str = new) -> dict[str, str]:
            said = dict(compiled.files(model.key))
            if model.name == "spine-1":
                said["flash/startup.cfg"] = said["flash/startup.cfg"].replace(old, new)
            return said

        assert found in " ".join(fault.message for fault in read_back(switches, files))


def test_beside_a_language_that_nobody_reads_the_others_are_still_compared(office: Office) -> None:
    """A leaf is in a language without reading rules: what a spine and another leaf, of two languages, contradict each other in is found."""
    compiled = mixed(office)
    targets = dict(compiled.targets)
    targets["leaf/r02/a"] = replace(targets["leaf/r02/a"], name="unread", facts=None, read_back=None)
    switches = [(compiled.models[key], targets[key]) for key in compiled.models]
    assert read_back(switches, lambda model: compiled.files(model.key)) == ()

    def files(model: SwitchModel) -> dict[str, str]:
        said = dict(compiled.files(model.key))
        if model.name == "spine-1":
            wrong = "neighbour 10.4.0.3 as 4200000009"
            said["flash/startup.cfg"] = said["flash/startup.cfg"].replace("neighbour 10.4.0.3 as 4200000001", wrong)
        return said

    assert "names AS 4200000009, and leaf-r01a is in 4200000001" in " ".join(
        one.message for one in read_back(switches, files)
    )


@pytest.mark.parametrize("changes", [60, pytest.param(600, marks=pytest.mark.long)])
def test_a_change_of_any_value_of_ones_own_language_is_noticed(changes: int, office: Office) -> None:
    """99 of 100 that its reading rules know, or that the model wants somewhere."""
    brief = read(f"target: cantera\n{next(path for path in EXAMPLES if path.stem == 'tern').read_text()}").brief
    compiled = compile(brief, office=office)
    switches = [(compiled.models[key], compiled.targets[key]) for key in compiled.models]
    texts = {model.name: dict(compiled.files(model.key)) for model, _ in switches}
    matters = re.compile(
        r"^ *(switch|address|neighbour|vlan|vni|target|gateway|segment|bgp|id|mtu|goes to|management|user|clock|names|log|port) "
    )
    places = [
        (name, number, digit.start())
        for name, files in texts.items()
        for number, line in enumerate(files["flash/startup.cfg"].split("\n"))
        if matters.match(line) and "goes to vault" not in line and "mtu 9000" not in line  # a remark, and hosts' own
        for digit in re.finditer(r"\d", line.partition(" by ")[0])
    ]
    chance, escaped = random.Random(3), []
    for _ in range(changes):
        name, number, at = chance.choice(places)
        lines = texts[name]["flash/startup.cfg"].split("\n")
        line = lines[number]
        lines[number] = f"{line[:at]}{(int(line[at]) + chance.randint(1, 9)) % 10}{line[at + 1 :]}"
        changed = {**texts, name: {**texts[name], "flash/startup.cfg": "\n".join(lines)}}
        if not read_back(switches, lambda model, changed=changed: changed[model.name]):  # type: ignore[misc]
            escaped.append(f"{name}: {line} → {lines[number]}")
    assert len(escaped) <= changes / 100, "\n".join(escaped)


def test_nothing_may_be_left_out_unless_the_manifest_says_why(office: Office, apart: Apart) -> None:
    target = "targets/cantera/"
    short = CANTERA | {
        target + "system.j2": CANTERA[target + "system.j2"].replace("  gateway {{ sw.management.gateway }}\n", "")
    }
    short[target + "first-boot.j2"] = "switch {{ sw.name }}\n"
    brief = read(f"target: cantera\n{EXAMPLES[-1].read_text()}").brief
    found = {fault.message for fault in compile(brief, office=read_office(short, apart)).read_back()}
    with pytest.raises(
        Refused,
        match=r"Nobody would reach leaf-t01 with these files: the gateway of its management port, 10\.90\.2\.1, is in no file",
    ):
        bundle_files(read(EXAMPLES[-1].read_text()), compile(brief, office=read_office(short, apart)))
    assert "In the files of leaf-t01: the gateway of its management port, 10.90.2.1, is in none of them." in found
    short[target + MANIFEST] = CANTERA[target + MANIFEST] + "  management/gateway: asked by DHCP\n"
    assert compile(brief, office=read_office(short, apart)).read_back() == ()


WRONG = {
    "target: other\nfiles: [{path: a.cfg, template: a.j2}]": "in folder mine is called other",
    "target: mine\nfiles: [{path: a.cfg, template: b.j2}]": "no template b.j2. Is a.j2 meant?",
    "target: mine\nfiles: [{path: ../a, template: a.j2}]": "a path is words of letters",
    "target: mine\nfiles: [{path: /etc/a, template: a.j2}]": "a path is words of letters",
    "target: mine\nfiles: [{path: a, template: a.j2}, {path: a, template: a.j2}]": "a is written twice",
    "target: mine\nfiles: []": "at least 1",
    "target: mine\nfiles: [{path: a, template: a.j2}]\nreads: [{line: 'peer {pear}'}]": "{pear} stands for nothing",
    "target: mine\nfiles: [{path: a, template: a.j2, mode: '4755'}]": "files[0].mode",
    "target: [": "not YAML",
}


@pytest.mark.parametrize("manifest", WRONG)
def test_a_wrong_manifest_is_refused_with_the_file_that_it_is_in(manifest: str, apart: Apart) -> None:
    files = {"targets/mine/target.yaml": manifest, "targets/mine/a.j2": "x\n"}
    with pytest.raises(Refused, match=re.escape(WRONG[manifest])) as caught:
        read_office(files, apart)
    assert all(fault.path.startswith("targets/mine/target.yaml") for fault in caught.value.faults)


def test_a_template_is_tried_from_the_command_line_on_a_brief_or_on_data(tmp_path: Path) -> None:
    run, target, tern = CliRunner(), str(ROOT / "examples/office/targets/cantera"), str(ROOT / "examples/tern.yaml")
    all_of_them = run.invoke(app, ["render", target, tern])
    assert all_of_them.exit_code == 0 and "6 of 6 switches of tern are written" in all_of_them.output
    data = json.loads(run.invoke(app, ["render", target, tern, "--switch", "leaf-t01", "--show-data"]).output)
    data["name"], data["fabric_ports"] = "leaf-x9", data["fabric_ports"][1:]
    (tmp_path / "switch.json").write_text(json.dumps(data))
    tried = run.invoke(app, ["render", target, "--data", str(tmp_path / "switch.json"), "--file", "flash/startup.cfg"])
    assert (
        tried.exit_code == 0
        and "switch leaf-x9\n" in tried.output
        and "port u1\n" not in tried.output
        and "port u2\n" in tried.output
    )
    data["nmae"] = data.pop("name")
    (tmp_path / "switch.json").write_text(json.dumps(data))
    wrong = run.invoke(app, ["render", target, "--data", str(tmp_path / "switch.json")])
    assert wrong.exit_code == 2 and "A switch has no nmae. Is name meant?" in wrong.output


def test_a_fabric_of_two_languages_is_checked_and_built_from_the_command_line(tmp_path: Path) -> None:
    run, heron, office = CliRunner(), str(ROOT / "examples/mixed/heron.yaml"), str(ROOT / "examples/office")
    alone = run.invoke(app, ["check", heron])
    assert alone.exit_code == 2 and "There is no target cantera" in alone.stderr and f"{heron}:29" in alone.stderr
    done = run.invoke(app, ["check", heron, "--office", office])
    assert (
        done.exit_code == 1
        and "8 switches" in done.stdout
        and "[services.syslog]" in done.stderr
        and "readback" not in done.stderr
    )
    built = run.invoke(app, ["build", heron, "--office", office, "--out", str(tmp_path / "heron")])
    assert built.exit_code == 0
    keys = tmp_path / "heron/switches/spine-1/flash/keys/ines"
    assert keys.stat().st_mode & 0o777 == 0o600 and keys.read_text().startswith("ssh-ed25519 ")
    manifest = json.loads((tmp_path / "heron/manifest.json").read_text())
    assert manifest["modes"]["switches/spine-1/flash/keys/ines"] == "0600"
    assert manifest["first_boot"] == [f"switches/spine-{number}/flash/first-boot.cfg" for number in (1, 2)]
    nowhere = run.invoke(app, ["check", heron, "--office", str(tmp_path / "none")])
    assert nowhere.exit_code == 2 and "is no folder" in nowhere.stderr
    ladder = run.invoke(app, ["ladder", heron, "vars.location", "--office", office])
    assert ladder.exit_code == 0 and "office" in ladder.stdout and "Puerto Azulejo" in ladder.stdout


def test_a_target_that_is_nowhere_is_refused_where_it_is_named(office: Office) -> None:
    text = EXAMPLES[-1].read_text() + "\nrungs:\n  role spine:\n    target: cantara\n"
    with pytest.raises(Refused, match=r"There is no target cantara\. Is cantera meant?") as caught:
        compile(read(text).brief, office=office)
    assert caught.value.faults[0].path == "rungs.role spine.target"


@pytest.mark.parametrize(
    ("format", "template", "words"),
    [
        ("json", "{{ sw.unit }}", ""),
        ("json", "[1,]", "a is no JSON"),
        ("xml", "<a><b/></a>", ""),
        ("xml", "<a><b></a>", "a is no XML"),
        ("xml", "<!DOCTYPE a><a/>", "declares types"),
    ],
)
def test_a_file_is_of_the_format_that_its_manifest_says(format: str, template: str, words: str, apart: Apart) -> None:
    manifest = f"target: mine\nfiles: [{{path: a, template: a.j2, format: {format}}}]\nleaves_out: {{'*': a trial}}\n"
    office = read_office({"targets/mine/target.yaml": manifest, "targets/mine/a.j2": template}, apart)
    compiled = compile(read(f"target: mine\n{EXAMPLES[-1].read_text()}").brief, office=office)
    found = {fault.code for fault in compiled.read_back()}
    assert found == ({"readback.format"} if words else set()) and all(
        words in fault.message for fault in compiled.read_back()
    )
