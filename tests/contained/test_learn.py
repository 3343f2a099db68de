"""From a known-good configuration to a template: the same bytes for its switch, and for others what their own would be."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from typer.testing import CliRunner

from barrio.cli.main import app
from barrio.contained.process import Apart
from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import read
from barrio.core.office import read_office
from barrio.core.targets.own.learn import learn
from barrio.core.targets.own.lesson import Lesson, learn_from
from tests.conftest import EXAMPLES
from tests.contained.test_apart import CANTERA, ROOT

STARTUP = "flash/startup.cfg"


@pytest.fixture(scope="module")
def apart() -> Iterator[Apart]:
    made = Apart()
    yield made
    made.close()


def cantera(example: str, apart: Apart) -> Compiled:
    text = next(path for path in EXAMPLES if path.stem == example).read_text()
    return compile(read(f"target: cantera\n{text}").brief, office=read_office(CANTERA, apart))


def lesson(compiled: Compiled, one: str, other: str, apart: Apart) -> tuple[Lesson, str]:
    first, second = compiled.switch(one), compiled.switch(other)
    assert first and second
    found = learn_from(
        compiled.files(first.key)[STARTUP], compiled.models[first.key], compiled.models[second.key], apart
    )
    return found, compiled.files(second.key)[STARTUP]


@pytest.mark.parametrize(
    ("example", "one", "other"),
    [("tern", "leaf-t01", "leaf-t02"), ("pelican", "spine-p01-1", "spine-p02-1"), ("marlin", "leaf-r01a", "leaf-r02b")],
)
def test_what_is_learned_of_one_switch_writes_another_as_its_own_templates_do(
    example: str, one: str, other: str, apart: Apart
) -> None:
    found, wanted = lesson(cantera(example, apart), one, other, apart)
    assert found.same and found.differs == ()
    assert found.second == wanted
    assert found.learned.loops >= 5 and found.learned.template.count("\n") < wanted.count("\n") / 2


@pytest.mark.parametrize("role", ["border", "super-spine", "spine", "leaf"])
def test_whatever_the_switch_its_own_text_comes_back(role: str, apart: Apart) -> None:
    compiled = cantera("pelican", apart)
    for switch in [one for one in compiled.staged if one.role == role][:3]:
        found = learn_from(compiled.files(switch.key)[STARTUP], compiled.models[switch.key], None, apart)
        assert found.same, found.differs[:5]


NOTATIONS = """hostname {name}
 mask 255.255.255.0 of 10.90.2.4, network 10.90.2.0/24, wild 0.0.0.255
 gateway-mac 0200.5e00.0101
 gateway-mac 02-00-5E-00-01-01
 remote 22 ports, mtu 9216, vlan100 and Vlan100
 key 10.90.2.4:22 {{not}}
"""


def test_addresses_and_macs_are_known_in_any_notation_and_small_numbers_only_where_they_are_named(apart: Apart) -> None:
    compiled = cantera("tern", apart)
    model = compiled.models["leaf/t01/a"]
    text = NOTATIONS.replace("{name}", "leaf-t01").replace("{{not}}", "")
    found = learn_from(text, model, None, apart)
    assert found.same
    for printed in (
        "hostname {{ sw.name }}", "mask {{ sw.management.address | mask_of }} of {{ sw.management.ip }}",
        "network {{ sw.management.address | network_of }}", "wild {{ sw.management.address | wildcard_of }}",
        'gateway-mac {{ sw.common.gateway_mac | mac_as("xxxx.xxxx.xxxx") }}', 'mac_as("xx-xx-xx-xx-xx-xx") | upper }}', "remote 22 ports, mtu {{ sw.common.mtu }}",
    ):  # fmt: skip
        assert printed in found.learned.template
    choice = next(one for one in found.learned.choices if one.value == "10.90.2.4")
    assert choice.line == 2 and "sw.management.address | address_of" in choice.others


def test_blocks_that_repeat_by_no_rule_stay_as_they_are_written(apart: Apart) -> None:
    model = cantera("tern", apart).models["leaf/t01/a"]
    odd = "port u1\n  mood good\nport u2\n  mood bad\n"
    found = learn_from(odd, model, None, apart)
    assert found.same and found.learned.loops == 0
    even = learn(odd.replace("bad", "good"), model)
    assert even.template == "{% for port in sw.fabric_ports %}\nport {{ port.label }}\n  mood good\n{% endfor %}\n"


@pytest.mark.parametrize(("text", "words"), [("a {{ b }}\n", "tags of templates"), ("a\n" * 5001, "5,001 lines")])
def test_what_cannot_be_learned_from_is_refused(text: str, words: str, apart: Apart) -> None:
    with pytest.raises(Refused, match=words):
        learn_from(text, cantera("tern", apart).models["leaf/t01/a"], None, apart)


def test_the_command_line_prints_the_template_and_says_what_is_to_be_decided(tmp_path: Path) -> None:
    (tmp_path / "known.cfg").write_text("hostname leaf-t01\n router id 10.60.0.3\n")
    done = CliRunner().invoke(
        app,
        [
            "learn",
            str(tmp_path / "known.cfg"),
            str(ROOT / "examples/tern.yaml"),
            "--switch",
            "leaf-t01",
            "--second",
            "leaf-t02",
        ],
    )
    assert done.exit_code == 0 and done.stdout.startswith("hostname {{ sw.name }}\n router id {{ sw.router_id }}\n")
    assert (
        "it gives back the same bytes" in done.stderr
        and "it could be sw.loopback_v4 | address_of" in done.stderr
        and "hostname leaf-t02" in done.stderr
    )
