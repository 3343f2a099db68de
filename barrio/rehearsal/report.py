"""What came of a rehearsal, to hand on: a page for people that works offline, and JUnit's XML, which build servers read."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Any
from xml.etree.ElementTree import Element, SubElement, indent, tostring

from jinja2 import Environment, FileSystemLoader, StrictUndefined, Template

from barrio.rehearsal.run import Rehearsal

_ORDER = ("no", "yes", "not asked")


def page(found: Mapping[str, Any], words: str, of: str = "", asked: str = "") -> str:
    """A page for people, of the plain values of a rehearsal: what did not hold comes first, with its evidence. It needs nothing but itself. `of` says which
    state was rehearsed, `asked` who asked for it and when."""
    answers = sorted(found["answers"], key=lambda one: _ORDER.index(one["state"]))
    no = any(one["state"] == "no" for one in answers)
    other = any(one["faults"] for one in found["drills"])
    return _template().render(found=found, words=words, of=of, asked=asked, answers=answers, no=no, other=other)


@cache
def _template() -> Template:
    folder = Environment(loader=FileSystemLoader(Path(__file__).parent), autoescape=True, undefined=StrictUndefined)
    return folder.get_template("report.html.j2")


def junit(found: Rehearsal) -> bytes:
    """A test suite a question, a test case a claim; a claim that failed says what was expected, what was found, and what the daemons said.
    Drills are a suite of their own."""
    root = Element("testsuites", name=f"rehearsal of {found.fabric}", time=f"{found.seconds:.1f}")
    for one in found.answers:
        failures = sum(not claim.holds for claim in one.claims)
        skipped = int(one.state == "not asked")
        suite = SubElement(
            root, "testsuite", name=one.title, tests=str(len(one.claims) + skipped), failures=str(failures), skipped=str(skipped),
            time=f"{one.seconds:.1f}",
        )  # fmt: skip
        if skipped:
            SubElement(
                SubElement(suite, "testcase", name=one.title, classname=one.question), "skipped", message=one.why
            )
        for claim in one.claims:
            case = SubElement(
                suite, "testcase", name=claim.words, classname=f"{one.question}.{claim.about or found.fabric}"
            )
            if not claim.holds:
                fault = SubElement(case, "failure", message=f"expected: {claim.expected}; found: {claim.found}")
                fault.text = _plain(f"{claim.command}\n{claim.said}")
    if found.drills:
        suite = SubElement(
            root,
            "testsuite",
            name="drills",
            tests=str(len(found.drills)),
            failures=str(len(found.other)),
            skipped="0",
            time=f"{sum(one.seconds for one in found.drills):.1f}",
        )
        for drilled in found.drills:
            case = SubElement(suite, "testcase", name=drilled.words, classname=f"drills.{drilled.id}")
            if drilled.faults:
                fault = SubElement(case, "failure", message=drilled.faults[0])
                fault.text = _plain(
                    "\n".join([*drilled.faults, *(f"{one.at:.3f} {one.who} {one.words}" for one in drilled.said)])
                )
    indent(root)
    return b'<?xml version="1.0" encoding="utf-8"?>\n' + tostring(root) + b"\n"


def _plain(text: str) -> str:
    """Text without characters that XML cannot carry (XML 1.0, 2.2)."""
    return "".join(one if one in "\n\t" or one >= " " else "?" for one in text)
