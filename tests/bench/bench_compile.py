"""Compile against a plain baseline, in one run: `make bench`.

The baseline renders text of the same size with bare Jinja2 from ready dictionaries: the same templates in an ordinary
environment, fed with plain dicts, and nothing else (no structure, no numbers, no model, no sandbox). Ratios are to it.
"""

from __future__ import annotations

import argparse
import dataclasses
import json
import resource
import subprocess
import sys
import time
from collections.abc import Callable
from typing import Any

from jinja2 import Environment, PackageLoader

from barrio.core import Compiled, Stock, compile
from barrio.core.brief.document import read
from barrio.core.ledger.wanted import Holdings
from barrio.core.printed import plain
from barrio.core.render.engine import files_of
from barrio.core.render.filters import FILTERS
from barrio.core.targets.linux_frr import LINUX_FRR

BRIEF = """
fabric: pelican
spines: {{count: {spines}, model: lonja-k1152, racks: s01..s16}}
racks:
  - {{racks: r0001..r{racks:04d}, leaves: 2, model: {leaf}}}
vrfs: {{tides: {{}}}}
segments:
  tide-grid: {{vrf: tides, v4: auto}}
  buoys: {{vrf: tides, v4: auto}}
services:
  ntp: [10.90.0.21]
  dns: [10.90.0.53]
  syslog: [10.90.0.14]
"""
SIZES = {"4x64": (4, 32, "lonja-e32"), "32x1024": (32, 512, "lonja-t64")}


def timed(action: Callable[[], Any]) -> tuple[float, Any]:
    start = time.perf_counter()
    result = action()
    return time.perf_counter() - start, result


def whole(brief: Any, ledger: Stock | None = None, previous: Compiled | None = None) -> Compiled:
    compiled = compile(brief, ledger, previous=previous)
    compiled.render_all()
    return compiled


def baseline(tables: list[tuple[list[tuple[str, dict[str, Any]]], dict[str, Any]]]) -> int:
    environment = Environment(
        loader=PackageLoader(LINUX_FRR.templates.package, "templates"), trim_blocks=True, lstrip_blocks=True,
        keep_trailing_newline=True,
    )  # fmt: skip
    environment.filters.update(FILTERS | {"plain": plain})
    templates = {name: environment.get_template(name) for files, _ in tables for name, _ in files}
    return sum(len(templates[name].render(sw=table, **given)) for files, table in tables for name, given in files)


def measure_baseline(size: str) -> None:
    spines, racks, leaf = SIZES[size]
    compiled = compile(read(BRIEF.format(spines=spines, racks=racks, leaf=leaf)).brief)
    tables = []
    shared = dataclasses.asdict(next(iter(compiled.models.values())).common)
    for model in compiled.models.values():
        table = dataclasses.asdict(dataclasses.replace(model, common=None)) | {"common": shared}  # type: ignore[arg-type]
        files = [
            (plan.kind.template, {name: dataclasses.asdict(owner) for name, owner in plan.given.items()})
            for plan in files_of(model, LINUX_FRR)
        ]
        tables.append((files, table))
    seconds, size_out = timed(lambda: baseline(tables))
    print(json.dumps({"seconds": seconds, "bytes": size_out}))


def measure_compile(size: str) -> None:
    spines, racks, leaf = SIZES[size]
    brief = read(BRIEF.format(spines=spines, racks=racks, leaf=leaf)).brief
    models, _ = timed(lambda: compile(brief))
    cold, compiled = timed(lambda: whole(brief))
    ledger = Stock(compiled.pools, Holdings(compiled.allocation.numbers))
    edited = read(BRIEF.format(spines=spines, racks=racks - 1, leaf=leaf)).brief
    to_sums, _ = timed(lambda: compile(edited, ledger, previous=compiled))
    edit, _ = timed(lambda: whole(edited, ledger, compiled))
    said = BRIEF.replace("10.90.0.21", "10.90.0.22").format(spines=spines, racks=racks, leaf=leaf)
    felt, one = timed(lambda: _one_switch(said, ledger, compiled))
    others, _ = timed(one.render_all)
    loud = f"{BRIEF.format(spines=spines, racks=racks, leaf=leaf)}rungs: {{rack r0007: {{overlay.storm: 100}}}}\n"
    rung, _ = timed(lambda: whole(read(loud).brief, ledger, compiled))
    read_back, _ = timed(compiled.read_back)
    text = sum(len(text) for key in compiled.models for text in compiled.files(key).values())
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(
        json.dumps(
            {
                "models": models,
                "cold": cold,
                "to_sums": to_sums,
                "edit": edit,
                "read": read_back,
                "felt": felt,
                "others": others,
                "rung": rung,
                "bytes": text,
                "peak_mb": peak,
                "links": len(compiled.ends),
            }
        )
    )


def _one_switch(text: str, ledger: Stock, previous: Compiled) -> Compiled:
    """A changed brief read and compiled, and the files of the one switch that somebody looks at."""
    compiled = compile(read(text).brief, ledger, previous=previous)
    compiled.files("leaf/r0001/a")
    return compiled


def run(part: str, size: str) -> dict[str, float]:
    """One measurement in a process of its own, so that memory is its own too."""
    done = subprocess.run(
        [sys.executable, __file__, "--part", part, "--size", size], capture_output=True, text=True, check=True
    )
    return json.loads(done.stdout)  # type: ignore[no-any-return]


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--part")
    parser.add_argument("--size", default="4x64")
    given = parser.parse_args()
    if given.part:
        {"baseline": measure_baseline, "compile": measure_compile}[given.part](given.size)
        return
    for size in SIZES:
        bare, ours = run("baseline", size), run("compile", size)
        base = bare["seconds"]
        print(
            f"{size}: {ours['links']:,.0f} links, {ours['bytes'] / 1e6:.1f} MB of text (baseline {bare['bytes'] / 1e6:.1f} MB)"
        )
        print(f"  baseline, bare Jinja2       {base:7.2f} s")
        for name, label in (
            ("cold", "compile cold, all files"),
            ("models", "  of it before rendering"),
            ("edit", "one rack less, all files"),
            ("to_sums", "  of it before rendering"),
            ("felt", "another time server, one leaf"),
            ("others", "  and all others"),
            ("rung", "a setting of one rack"),
            ("read", "reading all files back"),
        ):
            print(f"  {label:<30} {ours[name]:7.2f} s  {ours[name] / base:5.2f} × baseline")
        print(f"  peak memory                 {ours['peak_mb']:7.0f} MB")


if __name__ == "__main__":
    main()
