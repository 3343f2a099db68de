"""The process that renders: told what to render on its standard input, it answers on its standard output, and can do nothing else.

It may open no file and no socket (its table of open files is full), start no program, write no file, and have so much memory and no more; how
long it may take is watched by whoever asks. It trusts what it is sent, and what it answers is plain JSON.
"""

from __future__ import annotations

import json
import pickle
import resource
import signal
import struct
import sys
from collections.abc import Iterator
from dataclasses import asdict
from typing import Any, BinaryIO

from jinja2 import Environment, StrictUndefined, TemplateError, TemplateNotFound, TemplateSyntaxError, UndefinedError
from jinja2.exceptions import SecurityError
from jinja2.sandbox import ImmutableSandboxedEnvironment

from barrio.contained.limits import MOST_MEMORY, MOST_OUTPUT, MOST_SECONDS
from barrio.core.render.engine import environment, files_of, variables_of
from barrio.core.render.target import Target
from barrio.core.render.trace import trace

_SIZE = struct.Struct("<I")


def main() -> None:
    """Answer until nobody asks any more."""
    heard, told = sys.stdin.buffer, sys.stdout.buffer
    _wake()
    _shut()
    known: dict[str, tuple[Target, Environment]] = {}
    while True:
        head = heard.read(_SIZE.size)
        if len(head) < _SIZE.size:
            return
        # Nobody may be left to end it: then it ends by itself.
        signal.alarm(int(4 * MOST_SECONDS))
        work, target, switch, path = pickle.loads(heard.read(_SIZE.unpack(head)[0]))  # from who started this
        try:
            if isinstance(target, Target):
                known = {target.templates.digest: (target, environment(target))}
            else:
                target = known[target][0]
            answer = _answer(work, target, known[target.templates.digest][1], switch, path)
        except MemoryError:
            known.clear()
            answer = {
                "fault": ["memory", f"takes more than the {MOST_MEMORY >> 20} MB of memory that it may have", "", 0]
            }
        signal.alarm(0)
        _tell(told, answer)


def _wake() -> None:
    """Have at hand what is read from files when it is first used."""
    import encodings.idna
    import traceback

    Environment().from_string("{% for x in [1] %}{{ x|string|upper|replace('1','2') }}{% endfor %}").render()
    for wrong in ("{{ nothing.here }}", "{% nothing %}"):
        try:
            ImmutableSandboxedEnvironment(undefined=StrictUndefined).from_string(wrong).render()
        except TemplateError:
            traceback.format_exc()
    assert encodings.idna


def _shut() -> None:
    for limit, most in (
        (resource.RLIMIT_DATA, MOST_MEMORY),
        (resource.RLIMIT_FSIZE, 0),
        (resource.RLIMIT_NPROC, 0),
        (resource.RLIMIT_CORE, 0),
        (resource.RLIMIT_NOFILE, 3),
    ):
        resource.setrlimit(limit, (most, most))


def _tell(told: BinaryIO, answer: object) -> None:
    data = json.dumps(answer).encode()
    told.write(_SIZE.pack(len(data)) + data)
    told.flush()


def _answer(work: str, target: Target, templates: Environment, switch: Any, path: str) -> dict[str, Any]:
    template = ""
    try:
        files: dict[str, str] = {}
        room = MOST_OUTPUT
        for plan in files_of(switch, target):
            if work == "trace" and plan.path != path:
                continue
            template = plan.kind.template
            parts = templates.get_template(template).generate(sw=switch, vars=variables_of(switch), **plan.given)
            files[plan.path] = text = "".join(_within(parts, room))
            room -= len(text)
        if work == "trace":  # what is traced is no longer than what may be written
            return {"lines": [asdict(line) for line in trace(switch, path, target)]}
        return {"files": files}
    except MemoryError:
        raise
    except Exception as error:
        return {"fault": [*_in_words(error), *_place(error, template)]}


class _Long(Exception):
    """More text than may be."""


def _within(parts: Iterator[str], room: int) -> Iterator[str]:
    for part in parts:
        room -= len(part)
        if room < 0:
            raise _Long
        yield part


def _in_words(error: Exception) -> tuple[str, str]:
    match error:
        case TemplateSyntaxError():
            return "syntax", f"is no template: {error.message}"
        case TemplateNotFound():
            return "undefined", f"names a template that is not there: {error.name}"
        case UndefinedError():
            return "undefined", f"names what is not there: {(error.message or '').removesuffix('.')}"
        case SecurityError():
            return "forbidden", f"does what no template may: {error.message}"
        case RecursionError():
            return "recursion", "calls itself without end"
        case _Long():
            return "output", f"writes more than {MOST_OUTPUT >> 20} MB"
        case OverflowError() if "range" in str(error).lower():
            return "range", f"counts too far: {str(error).removesuffix('.').lower()}"
        case KeyError():
            return "file", f"there is no file {error}"
        case TemplateError():
            return "error", f"cannot be rendered: {error.message}"
        case _:
            return "error", f"cannot be rendered: {error}"


def _place(error: BaseException, template: str) -> tuple[str, int]:
    """The template and line that an error came from: the innermost that the traceback names."""
    if isinstance(error, TemplateSyntaxError):
        return error.name or template, error.lineno
    found, step = (template, 0), error.__traceback__
    while step is not None:
        name = step.tb_frame.f_code.co_filename
        if name.endswith(".j2"):
            found = (name, step.tb_lineno)
        step = step.tb_next
    return found


if __name__ == "__main__":
    main()
