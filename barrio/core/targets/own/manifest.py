"""A target of one's own: a manifest in YAML and its templates, read into a `Target`.

Nothing here runs a template; that is done apart from everything else, by what `contained` is.
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Mapping
from functools import lru_cache
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from barrio.core.brief import reader
from barrio.core.brief.document import faults_of
from barrio.core.errors import Fault, Refused, nearest, refuse
from barrio.core.printed import Name
from barrio.core.printed.text import OneLine
from barrio.core.render.effects import Effects, FileEffects
from barrio.core.render.target import Contained, FileKind, Target, Templates
from barrio.core.targets.linux_frr.words import CONDITIONS
from barrio.core.targets.own.reading import Rule, facts_of, pattern_of

MANIFEST = "target.yaml"
MOST_FILES, MOST_TEMPLATE = 60, 128 * 1024
_PATH = re.compile(r"[A-Za-z0-9_{][A-Za-z0-9_.{}-]*(/[A-Za-z0-9_{][A-Za-z0-9_.{}-]*)*")
_TEMPLATE = re.compile(r"[A-Za-z0-9_][A-Za-z0-9_.-]*\.j2")
Pattern = Annotated[str, Field(min_length=1, max_length=200)]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class ManifestFile(_Part):
    """A file that switches get. `at` is when: at every boot, at the first alone. Without `roles` and `models` it is every switch's."""

    path: Annotated[str, Field(max_length=120)]
    template: Annotated[str, Field(max_length=80)]
    section: Annotated[str, Field(max_length=30, pattern=r"^[a-z][a-z -]*$")] = "configuration"
    roles: list[Literal["leaf", "border", "spine", "super-spine"]] = []
    models: list[Name] = []
    software: list[Annotated[str, Field(min_length=1, max_length=60)]] = []
    needs: Literal["", "users", "syslog", "snmp", "banner", "watchdog", "time_zone"] = ""
    at: Literal["every boot", "first boot"] = "every boot"
    format: Literal["", "json", "xml"] = ""
    mode: Annotated[str, Field(pattern=r"^0[0-7]{3}$")] = "0644"

    @field_validator("path")
    @classmethod
    def _stays_inside(cls, path: str) -> str:
        holes = set(re.findall(r"\{(.*?)\}", path))
        if not _PATH.fullmatch(path) or ".." in path or not holes <= {"user", "relay"} or len(holes) > 1:
            raise ValueError(
                "a path is words of letters, digits, . _ and -, with / between them, and with {user} or {relay} for one file each"
            )
        return path


class ManifestRule(_Part):
    """A reading rule: what a line looks like, and the lines that begin the blocks around it, the outermost first. `shut` says that the
    line keeps the session or port that its blocks are about from coming up."""

    line: Pattern
    within: list[Pattern] = Field([], max_length=6)
    shut: bool = False

    @field_validator("line", "within")
    @classmethod
    def _known_words(cls, said: str | list[str]) -> str | list[str]:
        for words in [said] if isinstance(said, str) else said:
            pattern_of(words)
        return said


class Manifest(_Part):
    """What a target of one's own is. `effects` say, file by file, what a changed line does
    to traffic; a line of which nothing is said counts as the worst. `leaves_out` are patterns of the model's paths that its files need not carry, each with the reason."""

    target: Annotated[Name, Field(max_length=31)]
    title: OneLine = Field("", max_length=120)
    comment: Annotated[str, Field(max_length=4)] = "#"
    files: list[ManifestFile] = Field(min_length=1, max_length=MOST_FILES)
    reads: list[ManifestRule] = Field([], max_length=400)
    effects: list[FileEffects] = Field([], max_length=MOST_FILES)
    leaves_out: dict[Annotated[str, Field(max_length=80)], Annotated[OneLine, Field(min_length=1, max_length=200)]] = (
        Field({}, max_length=100)
    )


@lru_cache(maxsize=64)
def _manifest(text: str) -> Manifest:
    plain, places = reader.load(text)
    try:
        return Manifest.model_validate(plain)
    except ValidationError as error:
        raise Refused(faults_of(error, places)) from None


def read_target(name: str, files: Mapping[str, str], contained: Contained | None) -> Target:
    """The target in a folder called `name`: its manifest, and its templates by their names.

    Raises `Refused` with everything that is wrong, each fault's `path` beginning with the file that it is in (`target.*`, `yaml.*`).
    """
    if MANIFEST not in files:
        raise refuse("target.manifest", f"{name} has no {MANIFEST}, which says what files it writes.", MANIFEST)
    try:
        manifest = _manifest(files[MANIFEST])
    except Refused as error:
        raise Refused(
            [Fault(one.code, one.message, f"{MANIFEST}:{one.path}", one.line, one.column) for one in error.faults]
        ) from None
    templates = {one: text for one, text in files.items() if one != MANIFEST}
    faults = list(_wrong(name, manifest, templates))
    if faults:
        raise Refused(faults)
    said = "\0".join(f"{one}\0{text}" for one, text in sorted(files.items()))
    rules = tuple(Rule(rule.line, tuple(rule.within), rule.shut) for rule in manifest.reads)
    kinds = (
        FileKind(
            one.path, one.template, one.section, one.needs, int(one.mode, 8), tuple(one.roles), tuple(map(str, one.models)), one.at == "first boot", tuple(one.software), one.format,
        )
        for one in manifest.files
    )  # fmt: skip
    said_effects = Effects(tuple(manifest.effects))
    return Target(
        name=name,
        title=manifest.title,
        templates=Templates(own=templates, digest=hashlib.sha256(said.encode()).hexdigest()),
        files=tuple(kinds),
        facts=(lambda name, files: facts_of(files, rules, manifest.comment)) if rules else None,
        conditions=CONDITIONS,
        left_out=manifest.leaves_out,
        contained=contained,
        effects=lambda: said_effects,
    )


def _wrong(name: str, manifest: Manifest, templates: Mapping[str, str]) -> list[Fault]:
    faults = []
    if manifest.target != name:
        words = f"The target in folder {name} is called {manifest.target}. Call both the same."
        faults.append(Fault("target.name", words, f"{MANIFEST}:target"))
    if manifest.target in ("linux-frr", "ietf-json"):
        faults.append(
            Fault(
                "target.name",
                f"{manifest.target} is a target that ships. Give yours another name.",
                f"{MANIFEST}:target",
            )
        )
    seen: set[str] = set()
    for at, one in enumerate(manifest.files):
        if one.template not in templates:
            words = f"There is no template {one.template}.{nearest(one.template, templates)}"
            faults.append(Fault("target.template", words, f"{MANIFEST}:files[{at}].template"))
        whom = (one.path, *sorted(one.roles), "/", *sorted(one.models), "/", *sorted(one.software))
        if str(whom) in seen:
            words = f"{one.path} is written twice for the same switches. Take one of the two out."
            faults.append(Fault("target.twice", words, f"{MANIFEST}:files[{at}].path"))
        seen.add(str(whom))
    for template, text in templates.items():
        if not _TEMPLATE.fullmatch(template):
            faults.append(Fault("target.file", f"{template[:80]} is no name of a template, such as leaf.j2.", template))
        if len(text) > MOST_TEMPLATE:
            faults.append(
                Fault(
                    "target.file", f"{template} has {len(text):,} characters; {MOST_TEMPLATE:,} are the most.", template
                )
            )
    return faults
