"""Templates of one's own while they are written, and all files of a large fabric at once: `make bench`.

The baseline of a trial is bare Jinja2 rendering the same templates from the same data in this process, with nothing apart and no limits.
"""

from __future__ import annotations

import re
import statistics
import time
from collections.abc import Callable
from pathlib import Path

from jinja2 import DictLoader, Environment

from barrio.contained.process import Apart
from barrio.core import compile
from barrio.core.brief.document import read
from barrio.core.comparing import alike
from barrio.core.lines import find_lines, words_in
from barrio.core.office import read_office
from barrio.core.printed import plain
from barrio.core.render.engine import files_of, variables_of
from barrio.core.render.filters import FILTERS
from barrio.core.targets.own.learn import learn
from barrio.core.targets.own.manifest import read_target
from tests.bench.bench_compile import BRIEF, SIZES

ROOT = Path(__file__).parents[2]
OFFICE = {
    str(path.relative_to(ROOT / "examples/office")): path.read_text()
    for path in (ROOT / "examples/office").rglob("*.*")
}


def median(times: int, action: Callable[[int], object]) -> float:
    """Milliseconds, the middle of so many."""
    took = []
    for number in range(times):
        start = time.perf_counter()
        action(number)
        took.append((time.perf_counter() - start) * 1000)
    return statistics.median(took)


def trial() -> None:
    apart = Apart()
    text = f"target: cantera\n{(ROOT / 'examples/marlin.yaml').read_text()}"
    compiled = compile(read(text).brief, office=read_office(OFFICE, apart))
    key = next(switch.key for switch in compiled.structure.switches if switch.is_leaf)
    model = compiled.models[key]
    own = {path.rpartition("/")[2]: said for path, said in OFFICE.items() if path.startswith("targets/")}

    def typed(number: int) -> dict[str, str]:
        return own | {"startup.j2": f"{own['startup.j2']}; {number}\n"}

    def tried(number: int) -> object:
        return apart.render(model, read_target("cantera", typed(number), apart))

    def bare(number: int) -> object:
        templates = Environment(
            loader=DictLoader(typed(number)), trim_blocks=True, lstrip_blocks=True, keep_trailing_newline=True
        )
        templates.filters.update(FILTERS | {"plain": plain})
        plans = files_of(model, compiled.targets[key])
        return [
            templates.get_template(plan.kind.template).render(sw=model, vars=variables_of(model), **plan.given)
            for plan in plans
        ]

    tried(0)
    ours, theirs = median(15, tried), median(15, bare)
    print(
        f"a keystroke in a template, tried on a leaf: {ours:.0f} ms, bare Jinja2 {theirs:.0f} ms, ratio {ours / theirs:.2f}  (goal: under 100 ms)"
    )
    known = compiled.files(key)["flash/startup.cfg"]
    print(
        f"a template from a configuration of {known.count(chr(10))} lines: {median(3, lambda _: learn(known, model)):.0f} ms"
    )
    apart.close()


def all_files() -> None:
    spines, racks, leaf = SIZES["32x1024"]
    compiled = compile(read(BRIEF.format(spines=spines, racks=racks, leaf=leaf)).brief)
    compiled.render_all()
    texts = [text for key in compiled.models for text in compiled.files(key).values()]
    baseline = median(3, lambda _: sum("10.90.0.21" in text for text in texts))
    words = median(3, lambda _: find_lines(compiled, words_in("server 10.90.0.21")))
    pattern = re.compile(r"^neighbor .* remote-as 42\d+7$", re.MULTILINE)
    expression = median(3, lambda _: find_lines(compiled, lambda text: pattern.search(text) is not None))
    print(
        f"a line in all files of {len(compiled.models)} switches: {words:.0f} ms, an expression {expression:.0f} ms, bare search {baseline:.0f} ms  (goal: under 1 s)"
    )
    print(
        f"who has the same text, all files: {median(3, lambda _: alike(compiled)):.0f} ms; nobody locked out: {median(1, lambda _: compiled.cut_off()) / 1000:.1f} s"
    )


if __name__ == "__main__":
    trial()
    all_files()
