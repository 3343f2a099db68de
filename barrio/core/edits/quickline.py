"""The quick line: a fabric's shape and routing in one line, as a person would say it.

    marlin: 4 spines cantera-c64 in s01..s02, 12 racks of leaf pairs cantera-l48, 1 border rack b01 of leaf pairs,
    2 uplinks per spine, dual stack, ebgp, asn per leaf

Clauses stand in any order, with commas between them; ranges in a clause are joined by `+`. Grammar, with optional parts in
brackets:

    line      = [NAME ":"] clause {"," clause}
    clause    = COUNT "pods" [RANGE]
              | COUNT "super-spines" ["a plane"] [MODEL] ["in" RANGE] ["with" COUNT "links"]
              | COUNT "spines" ["a pod"] [MODEL] ["in" RANGE]
              | COUNT ["border"] [KIND] "racks" [RANGE] ["in pods" RANGE] "of" LEAVES [MODEL]
                ["joined by" ("multihoming" | "peer link")] ["with" COUNT "uplinks"] ["at" SPEED]
              | COUNT "uplinks" ["per spine"] | COUNT "reflectors"
              | "ebgp" | "ospf" | "isis" | "ipv4" | "ipv6" | "dual stack" | "unnumbered"
              | "asn per" ("leaf" | "pair" | "rack")
    LEAVES    = "single leaves" | "leaf pairs" | COUNT "leaves"

What a line does not say it leaves alone. `COUNT` may be a number word up to twelve.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from difflib import get_close_matches
from typing import Any

from barrio.core.brief.ranges import contract_names, expand_names
from barrio.core.catalogue.model import Catalogue
from barrio.core.errors import Refused, refuse

MOST_LENGTH = 2000
_COUNTS = {
    word: number
    for number, words in enumerate(
        ("", "one a an", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
    )
    for word in words.split()
}
_TOKEN = re.compile(r"[,:]|[^\s,:]+")
_RANGE = re.compile(r"[a-z][a-z0-9-]*\d(\.\.[a-z][a-z0-9-]*\d+)?(\+[a-z][a-z0-9-]*\d+(\.\.[a-z][a-z0-9-]*\d+)?)*")
_ROUTING: dict[str, tuple[str, object]] = {
    "ebgp": ("underlay.protocol", "ebgp"),
    "ospf": ("underlay.protocol", "ospf"),
    "isis": ("underlay.protocol", "isis"),
    "ipv4": ("underlay.addressing", "ipv4"),
    "ipv6": ("underlay.addressing", "ipv6"),
    "unnumbered": ("underlay.addressing", "unnumbered"),
}


@dataclass(frozen=True, slots=True)
class _Token:
    text: str
    start: int


@dataclass
class Said:
    """What a line says: the fabric's name if given, fields by path, and its groups of racks in order."""

    name: str | None = None
    fields: dict[str, object] = field(default_factory=dict)
    groups: list[dict[str, Any]] = field(default_factory=list)


def parse_line(text: str, catalogue: Catalogue) -> Said:
    """What a line says.

    Raises `Refused` (`quickline.*`) with the column (from 1) of the word that does not fit.

    >>> from barrio.core.catalogue.made import MADE
    >>> parse_line("2 spines, 4 racks of single leaves", MADE).fields
    {'spines.count': 2}
    """
    return _Parser(text, catalogue).line()


def complete(text: str, catalogue: Catalogue) -> list[str]:
    """The words that may follow a line that has been begun, or that the word being typed may become.

    >>> from barrio.core.catalogue.made import MADE
    >>> complete("2 spi", MADE)
    ['spines']
    """
    begun = re.search(r"[^\s,:]*$", text)
    stem = begun[0] if begun else ""
    parser = _Parser(text[: len(text) - len(stem)], catalogue)
    try:
        parser.line()
    except Refused:
        if parser.failed_before_end:
            return []
    options = [word for word in parser.wanted if word.startswith(stem) and word != stem]
    return list(dict.fromkeys(options))


class _Parser:
    """Recursive descent over words. `wanted` is what would have been taken at the furthest place that was reached."""

    def __init__(self, text: str, catalogue: Catalogue) -> None:
        if len(text) > MOST_LENGTH:
            raise refuse(
                "quickline.too-long", f"A quick line has {MOST_LENGTH} characters at most; this has {len(text)}."
            )
        self._tokens = [_Token(found[0], found.start()) for found in _TOKEN.finditer(text)]
        self._at = 0
        self._end = len(text)
        self._catalogue = catalogue
        self.wanted: list[str] = []
        self._furthest = 0
        self.failed_before_end = False

    def line(self) -> Said:
        said = Said()
        if len(self._tokens) > 1 and self._tokens[1].text == ":":
            said.name = self._tokens[0].text
            self._at = self._furthest = 2
        self._clause(said)
        while self._accept(","):
            self._clause(said)
        if self._at < len(self._tokens):
            self._fail(",")
        return said

    def _word(self) -> str:
        return self._tokens[self._at].text if self._at < len(self._tokens) else ""

    def _want(self, *words: str) -> None:
        if self._at > self._furthest:
            self._furthest, self.wanted = self._at, []
        if self._at == self._furthest:
            self.wanted.extend(words)

    def _accept(self, *words: str) -> str:
        """Take one of these words; plural and singular are the same to a person."""
        self._want(*words)
        now = self._word()
        for word in words:
            singular = "leaf" if word == "leaves" else word.removesuffix("s")
            if now and now in (word, singular):
                self._at += 1
                return word
        return ""

    def _phrase(self, *words: str) -> bool:
        """Take a phrase when its first word is there; the rest of it must follow."""
        if not self._accept(words[0]):
            return False
        for word in words[1:]:
            self._expect(word)
        return True

    def _expect(self, *words: str) -> str:
        return self._accept(*words) or self._fail(*words)

    def _fail(self, *words: str) -> str:
        self._want(*words)
        options = list(dict.fromkeys(self.wanted))
        shown = ", ".join(f"“{word}”" for word in options[:6]) + (" and others" if len(options) > 6 else "")
        if self._at < len(self._tokens):
            token = self._tokens[self._at]
            self.failed_before_end = True
            close = get_close_matches(token.text, options, 1, 0.7)
            hint = f"Did you mean “{close[0]}”?" if close else f"Possible: {shown}."
            raise refuse("quickline.word", f"“{token.text[:40]}” does not fit here. {hint}", column=token.start + 1)
        raise refuse("quickline.end", f"The line stops too soon. Possible next: {shown}.", column=self._end + 1)

    def _number(self) -> int | None:
        word = self._word()
        if re.fullmatch(r"\d{1,4}", word):
            self._at += 1
            return int(word)
        if word in _COUNTS:
            self._at += 1
            return _COUNTS[word]
        return None

    def _range(self, expected: int | None, noun: str) -> str | None:
        word = self._word()
        if not _RANGE.fullmatch(word) or self._catalogue.find(word):
            return None
        token = self._tokens[self._at]
        try:
            names = expand_names(word.replace("+", ", "))
        except Refused as error:
            raise refuse("quickline.range", error.faults[0].message, column=token.start + 1) from None
        if expected is not None and len(names) != expected:
            raise refuse(
                "quickline.count", f"{word} names {len(names)} {noun}, and the line says {expected}. Change one of them.",
                column=token.start + 1,
            )  # fmt: skip
        self._at += 1
        return contract_names(names)

    def _model(self, tier: str) -> str | None:
        return self._accept(*self._catalogue.ids(tier)) or None

    def _clause(self, said: Said) -> None:
        count = self._number()
        if count is None:
            self._routing(said)
            return
        start = self._tokens[self._at - 1].start
        if count < 1:
            raise refuse("quickline.count", "None is too few; say one or more.", column=start + 1)
        border = bool(self._accept("border"))
        nouns = ("racks",) if border else ("spines", "racks", "pods", "super-spines", "uplinks", "reflectors")
        noun = self._accept(*nouns)
        if noun in ("", "racks"):
            self._racks(said, count, border, noun)
        elif noun == "pods":
            said.fields["pods"] = self._range(count, "pods") or _named("p", count)
        elif noun == "uplinks":
            said.fields["uplinks_per_spine"] = count
            self._phrase("per", "spine")
        elif noun == "reflectors":
            said.fields |= {"overlay.reflectors": count, "overlay.protocol": "ibgp"}
        else:
            self._upper(said, count, noun)

    def _upper(self, said: Said, count: int, noun: str) -> None:
        field_name, tier = ("spines", "spine") if noun == "spines" else ("super_spines", "super-spine")
        said.fields[f"{field_name}.{'count' if noun == 'spines' else 'per_plane'}"] = count
        self._phrase("a", "pod" if noun == "spines" else "plane")
        model = self._model(tier)
        if model:
            said.fields[f"{field_name}.model"] = model
        if self._accept("in"):
            said.fields[f"{field_name}.racks"] = self._range(None, "racks") or self._fail("s01..s02")
        if tier == "super-spine" and self._accept("with"):
            links = self._number()
            if links is None:
                self._fail("2")
            self._expect("links")
            said.fields["super_spines.links"] = links

    def _racks(self, said: Said, count: int, border: bool, noun: str) -> None:
        group: dict[str, Any] = {}
        if not noun:
            kind = self._word()
            if not re.fullmatch(r"[a-z][a-z0-9-]{0,30}", kind) or self._at + 1 >= len(self._tokens):
                self._fail()
            following = self._tokens[self._at + 1].text
            if following not in ("rack", "racks"):
                self._fail()
            self._at += 1
            self._expect("racks")
            group["kind"] = kind
        written = sum(len(expand_names(one["racks"])) for one in said.groups)
        group["racks"] = self._range(count, "racks") or _named("b" if border else "r", count, 0 if border else written)
        if self._accept("in"):
            self._expect("pods")
            group["pods"] = self._range(None, "pods") or self._fail("p01..p02")
        self._expect("of")
        group["leaves"] = self._leaves()
        model = self._model("leaf")
        if model:
            group["model"] = model
        if border:
            group["role"] = "border"
        self._how(group)
        said.groups.append(group)

    def _leaves(self) -> int:
        count = self._number()
        if count is not None:
            self._expect("leaves")
            return count
        word = self._expect("single", "leaf")
        self._expect("leaves" if word == "single" else "pairs")
        return 1 if word == "single" else 2

    def _how(self, group: dict[str, Any]) -> None:
        """What may follow a group of racks: pairing, uplinks of its own, host speed."""
        if self._phrase("joined", "by"):
            pairing = self._expect("multihoming", "peer")
            if pairing == "peer":
                self._expect("link")
            group["pairing"] = "peer-link" if pairing == "peer" else "multihoming"
        if self._accept("with"):
            count = self._number()
            if count is None:
                self._fail("2")
            self._expect("uplinks")
            group["uplinks_per_spine"] = count
            group.setdefault("kind", f"x{count}")
        if self._accept("at"):
            speed = re.fullmatch(r"(\d{1,4})[gG]", self._word())
            if not speed:
                self._fail("25G")
            else:
                self._at += 1
                group["host_speed"] = int(speed[1])

    def _routing(self, said: Said) -> None:
        if self._phrase("dual", "stack"):
            said.fields["underlay.addressing"] = "dual"
            return
        if self._phrase("asn", "per"):
            said.fields["underlay.asn"] = f"per-{self._expect('leaf', 'pair', 'rack')}"
            return
        word = self._accept(*_ROUTING)
        if not word:
            self._fail("4")
        path, value = _ROUTING[word]
        said.fields[path] = value
        if word in ("ospf", "isis"):
            said.fields["overlay.protocol"] = "ibgp"
        elif word == "ebgp":
            said.fields.setdefault("overlay.protocol", "ebgp")


def _named(prefix: str, count: int, after: int = 0) -> str:
    width = max(2, len(str(after + count)))
    return contract_names(tuple(f"{prefix}{number:0{width}d}" for number in range(after + 1, after + count + 1)))
