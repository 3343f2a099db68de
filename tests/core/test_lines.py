"""Lines found in all files at once are those that are there, each with everybody who carries it."""

from __future__ import annotations

import pytest

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.lines import find_lines, words_in
from tests.conftest import EXAMPLES
from tests.core.test_ladder import quay


def marlin() -> Compiled:
    return compile(read(next(path for path in EXAMPLES if path.stem == "marlin").read_text()).brief)


@pytest.mark.parametrize("words", ["maximum-paths", "neighbor", "10.90.0.14", "Being rebuilt", "no such words at all"])
def test_every_line_with_the_words_is_found_with_all_who_carry_it(words: str) -> None:
    compiled = marlin()
    lines, total = find_lines(compiled, words_in(words), 100_000)
    there = {
        (path, line.strip(), switch.name)
        for switch in compiled.staged
        for path, text in compiled.files(switch.key).items()
        for line in text.splitlines()
        if words.lower() in line.lower() and (words == words.lower() or words in line)
    }
    assert {(one.path, one.text, name) for one in lines for name in one.switches} == there and total == len(lines)
    for one in lines:
        first = compiled.switch(one.switches[0])
        assert first and compiled.files(first.key)[one.path].splitlines()[one.number - 1].strip() == one.text
    assert [len(one.switches) for one in lines] == sorted((len(one.switches) for one in lines), reverse=True)


def test_capitals_count_where_the_words_have_any_and_the_rest_is_counted() -> None:
    _, compiled = quay()
    assert find_lines(compiled, words_in("keep out"))[1] == 1 and find_lines(compiled, words_in("Keep out"))[1] == 0
    some, total = find_lines(compiled, words_in("neighbor"), 3)
    assert len(some) == 3 < total
    with pytest.raises(ValueError, match="nothing to find"):
        words_in("  ")
