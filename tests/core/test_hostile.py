"""Nothing that a person writes becomes a command: hostile text in every field, and the real readers of every file."""

from __future__ import annotations

import json
import os
import re
import subprocess
from pathlib import Path
from typing import Any

import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from pydantic import ValidationError

from barrio.core import Compiled, Refused, compile
from barrio.core.brief.model import Brief
from barrio.core.bundle import as_tar_gz, as_zip
from barrio.core.catalogue.made import MADE
from barrio.core.printed import Plain, Printed, plain, printable
from tests.conftest import KEY, tries

HOSTILE = [
    "x\\", "x\n    up touch /tmp/pwned", "${self.module.os.system('touch /tmp/pwned')}", "<% import os %>", "% for x in y:",
    "x; touch /tmp/pwned", "`touch /tmp/pwned`", "$(touch /tmp/pwned)", '" \\" x', "') action(type=\"omprog\")", "# x", "! x",
    "exit\nrouter bgp 1", "\u202emoc.live", "a\u0085b", "a\u2028b", "a\u009bb", "}\ntable inet x {", "*/ x /*", "../../etc/passwd",
    "..\\..\\x", "fe80::1%x;touch pwned", "allow all", "\x00", "\ud800",
]  # fmt: skip
hostile = st.one_of(st.sampled_from(HOSTILE), st.text(max_size=40), st.sampled_from(HOSTILE).map(lambda one: f"a{one}"))

TYPED: dict[str, Any] = {
    "services.domain": "domain", "services.dns": ["address"], "services.ntp": ["host"], "services.syslog": ["host"],
    "management.gateway": "address", "management.interface": "device", "fabric": "name", "vrfs": {"name": {}},
    "segments": {"name": {}}, "services.users": {"user": {"keys": [KEY]}}, "numbers.loopback": "pool",
    "services.sign_in_from": ["prefix"], "names": {"leaf/r1/a": "name"}, "overlay.gateway_mac": "mac",
    "cabling.prefix": "prefix", "pools": {"loopbacks": "range"},
}  # fmt: skip
"""Fields that hold words of a grammar, each with a word in the place of what is written there."""


def _put(data: dict[str, Any], path: str, value: Any) -> None:
    *steps, last = path.split(".")
    for step in steps:
        data = data.setdefault(step, {})
    data[last] = value


def _with(shape: Any, text: str) -> Any:
    """The shape of a field with this text where its word stands."""
    if isinstance(shape, list):
        return [_with(shape[0], text)]
    if isinstance(shape, dict):
        (key, value), *_ = shape.items()
        return {key: text} if isinstance(value, str) else {text: value}
    return text


@tries(300)
@given(path=st.sampled_from(sorted(TYPED)), text=hostile)
@example(path="services.dns", text="fe80::1%x;touch pwned")
@example(path="services.domain", text="..\\x")
def test_a_word_that_is_not_of_its_grammar_is_refused(path: str, text: str) -> None:
    """Or it is one: then every printed value of every model is of one line of plain ASCII characters."""
    data: dict[str, Any] = {"fabric": "x", "spines": {"count": 1}, "racks": [{"racks": "r1", "leaves": 1}]}
    _put(data, path, _with(TYPED[path], text))
    try:
        compiled = compile(Brief.model_validate(data))
    except (ValidationError, Refused):
        return
    for key in compiled.models:
        for name, content in compiled.files(key).items():
            assert content.isascii() and name.isascii()
            assert (
                not re.search(r"[;`$\\|&<>%]", re.sub(r"up .*|pre-up .*|down .*", "", content)) or name in KEEPS_MARKS
            )


KEEPS_MARKS = {"usr/local/sbin/fabric-guard", "etc/rsyslog.d/40-fabric.conf", "etc/nftables.conf"} | {
    "etc/systemd/system/fabric-guard.service", "etc/sudoers.d/fabric", "etc/ssh/sshd_config",
}  # fmt: skip
"""Files whose own fixed lines hold such marks."""


@given(text=st.text())
def test_plain_words_are_letters_digits_and_a_few_marks(text: str) -> None:
    assert re.fullmatch(r"[A-Za-z0-9 .,:()/+_-]*", plain(text))
    assert isinstance(plain(text), Plain) and plain(plain(text)) == plain(text)


def test_a_template_cannot_print_what_nobody_checked() -> None:
    for value in ("text", None, True, 1.5, ["x"], b"x"):
        with pytest.raises(TypeError):
            printable(value)
    assert printable(7) == 7 and printable(Plain("x")) == "x"


def free(text: str) -> Compiled:
    """A fabric with this text in every field that takes free text: a brief's and a catalogue's."""
    kind = next(model for model in MADE.models if model.id == "cantera-l48")
    odd = kind.model_copy(update={"id": "odd", "maker": text, "name": text})
    data = {
        "fabric": "free", "title": text, "racks": [{"racks": "r1..r2", "model": "odd", "pairing": "multihoming"}],
        "segments": {"one": {}}, "vrfs": {"tides": {}},
        "services": {
            "banner": text, "users": {"ines": {"keys": [f"{KEY.rsplit(' ', 1)[0]} {text}".strip()]}},
            "ntp": ["10.9.9.9"], "syslog": ["10.9.9.8"], "dns": ["10.9.9.7"], "snmp": {"users": ["monitor"]},
        },
        "out_of_service": {"leaf/r1/a:h3": text, "leaf/r1/b~spine/1~1": text}, "planned_later": {"leaf/r1/a:h4": text},
    }  # fmt: skip
    return compile(Brief.model_validate(data), catalogue=MADE.with_models([odd]))


PASSING = [text for text in HOSTILE if text.isprintable() and "\u202e" not in text]


@pytest.mark.parametrize("text", sorted(set(HOSTILE) - set(PASSING)))
def test_text_that_hides_or_ends_a_line_is_refused(text: str) -> None:
    with pytest.raises((ValidationError, UnicodeEncodeError)):
        free(text)


@tries(25)
@given(text=st.text(st.characters(exclude_categories=("C", "Zl", "Zp")), min_size=1, max_size=30))
def test_free_text_changes_no_line_but_the_words_of_a_comment(text: str) -> None:
    """And no file of a switch that it is not about."""
    harmless, other = free("word"), free(text)
    for key in harmless.models:
        assert harmless.files(key).keys() == other.files(key).keys()
        for name, content in harmless.files(key).items():
            lines, others = content.split("\n"), other.files(key)[name].split("\n")
            assert len(lines) == len(others), name
            for one, two in zip(lines, others, strict=True):
                if one != two:
                    said = one.lstrip().startswith(("#", "!")) or name in WORDS or "system description" in one
                    assert said and re.fullmatch(r'[\w #!.,:()/+@"=-]*', two, re.ASCII), (name, two)


WORDS = {"etc/issue.net", "etc/ssh/authorized_keys/ines"}
"""Files that are free text, or end a line with it."""
BARE = {**os.environ, "PATH": "/usr/sbin:/usr/bin:/sbin:/bin"}


def _understood(folder: Path) -> dict[str, object]:
    """What the real readers make of the files in a folder: ifupdown2 with Mako, FRRouting, nft, sudo, ssh-keygen."""
    etc = folder / "etc"
    alone = [
        "unshare",
        "--mount",
        "sh",
        "-c",
        'mkdir -p /run/network; mount -t tmpfs tmpfs /run/network && exec "$@"',
        "sh",
    ]

    def run(*words: str) -> str:
        done = subprocess.run(words, capture_output=True, text=True, check=False, env=BARE)
        assert done.returncode == 0, f"{words}: {done.stdout}{done.stderr}"
        return done.stdout

    words = ["ifquery", "--all", "--format=json", "--interfaces", str(etc / "network/interfaces")]
    keys = run("ssh-keygen", "-l", "-f", str(etc / "ssh/authorized_keys/ines")).split()[:2]
    return {
        "interfaces": json.loads(run(*alone, *words)),
        "routing": run("vtysh", "-C", "-f", str(etc / "frr/frr.conf")),
        "filters": run("nft", "-c", "-f", str(etc / "nftables.conf")),
        "sudo": run("visudo", "-c", "-q", "-f", str(etc / "sudoers.d/fabric")),
        "keys": keys,
    }


def test_the_real_readers_see_the_same_with_hostile_text(tmp_path: Path) -> None:
    assert Path("/usr/lib/python3/dist-packages/mako").exists(), "ifupdown2 would run what is written in Mako's words"
    understood = []
    for number, text in enumerate(
        ["word", " ".join(PASSING)[:110], *(one for one in PASSING if "$" in one or "\\" in one)]
    ):
        compiled = free(text[:40] if number > 1 else text[:38])
        folder = tmp_path / str(number)
        for path, content in compiled.files("leaf/r1/a").items():
            (folder / path).parent.mkdir(parents=True, exist_ok=True)
            (folder / path).write_text(content)
        understood.append(_understood(folder))
    assert all(one == understood[0] for one in understood[1:])
    assert not Path("/tmp/pwned").exists()


@pytest.mark.parametrize("path", ["../x", "a/../x", "/etc/x", "a\\..\\x", "C:/x", "a//b", "a\nb", ""])
def test_members_of_archives_stay_inside(path: str) -> None:
    for pack in (as_zip, as_tar_gz):
        with pytest.raises(ValueError, match="archive"):
            pack({path: b""})


def test_every_value_of_a_model_that_is_text_is_printed_or_free() -> None:
    """Free text is known by name, so that a new field must choose."""
    known = {
        "label",
        "value",
        "software",
        "title",
        "banner",
        "hardware",
        "state",
        "key",
        "link",
        "addressing",
        "shut",
        "keepalive",
    }
    found: set[str] = set()

    def walk(value: object, name: str) -> None:
        if isinstance(value, str) and not isinstance(value, Printed):
            found.add(name)
        elif isinstance(value, tuple):
            for one in value:
                walk(one, name)
        elif hasattr(value, "__dataclass_fields__"):
            for field in value.__dataclass_fields__:
                walk(getattr(value, field), field)

    for model in free("word").models.values():
        walk(model, "")
    assert found <= known, found - known
