"""Lists as people say them."""

from __future__ import annotations

from collections.abc import Iterable


def one_of(numbers: Iterable[int]) -> str:
    """Numbers as a choice.

    >>> one_of((10, 25, 100))
    '10, 25 or 100'
    """
    words = [str(number) for number in numbers]
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} or {words[-1]}"
