"""Compiled fabrics at hand: made once however many ask, the newest kept, and never more than there is room for."""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import pytest

from barrio.app.athand import AtHand
from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import read
from barrio.core.errors import refuse


def fabric(name: str, racks: int = 1) -> Compiled:
    return compile(read(f"fabric: {name}\nspines: {{count: 2}}\nracks: [{{racks: r1..r{racks}}}]\n").brief)


def never() -> Compiled:
    raise AssertionError("it was at hand")


def test_of_many_who_ask_one_makes_it() -> None:
    kept, made, begun, go = AtHand(), [], threading.Event(), threading.Event()

    def make() -> Compiled:
        made.append(1)
        begun.set()
        assert go.wait(10)
        return fabric("gull")

    with ThreadPoolExecutor(9) as pool:
        asked = [pool.submit(kept.of, "gull", (1, 1), make) for _ in range(8)]
        assert begun.wait(10)
        other = pool.submit(kept.of, "tern", (1, 1), lambda: fabric("tern"))
        assert other.result(10).brief.fabric == "tern", "who asks for another does not wait"
        go.set()
        assert len({id(one.result(10)) for one in asked}) == 1
    assert made == [1]


def test_who_waited_for_what_could_not_be_made_hears_why_themselves() -> None:
    kept, tried = AtHand(), []

    def fail() -> Compiled:
        tried.append(1)
        raise refuse("brief.x", "This cannot be read.")

    def ask(make: Callable[[], Compiled]) -> str:
        with pytest.raises(Refused) as said:
            kept.of("gull", (1, 1), make)
        return str(said.value)

    with ThreadPoolExecutor(4) as pool:
        assert set(pool.map(ask, [fail] * 4)) == {"This cannot be read."}
    assert kept.of("gull", (1, 1), lambda: fabric("gull")).brief.fabric == "gull"


def test_the_newest_version_is_kept_and_no_other_is_taken_for_it() -> None:
    kept = AtHand()
    newer, older = fabric("gull", 2), fabric("gull")
    kept.keep("gull", (2, 1), newer)
    assert kept.of("gull", (1, 1), lambda: older) is older and kept.of("gull", (2, 1), never) is newer
    assert kept.get("gull", (2, 2)) is None, "models or pools changed"


def test_what_was_not_used_for_longest_goes_first() -> None:
    kept = AtHand(room=10)
    for name in ("a", "b"):
        kept.keep(name, (1, 1), fabric(name))
    assert kept.get("a", (1, 1))
    kept.keep("c", (1, 1), fabric("c", 2))
    assert kept.get("a", (1, 1)) and kept.get("c", (1, 1)) and kept.get("b", (1, 1)) is None
    kept.keep("big", (1, 1), fabric("big", 9))
    assert kept.get("big", (1, 1)) and kept.get("a", (1, 1)) is None, "one is kept, however large"
