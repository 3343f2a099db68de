"""Heavy work, so much at a time: whoever does more waits, and whoever would wait too long is told to come back."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Condition

from barrio.app.leaving import go_on

ROOM = 2_400
"""Switches (or the like of them) that are worked on at once: two of the largest usual fabrics."""
MOST_WAITING = 8
PATIENCE = 60.0


class Busy(Exception):
    """So much is under way that this was not begun; it may be tried again `after` some seconds. `guess` says that whoever asks guesses."""

    def __init__(self, words: str, after: int = 10, guess: bool = False) -> None:
        self.after, self.guess = after, guess
        super().__init__(words)


class Gate:
    """Lets in work by its weight. Light work is never held up."""

    def __init__(self, room: int = ROOM, light: int = 64) -> None:
        self._room, self._light = room, light
        self._inside = self._waiting = 0
        self._turn = Condition()

    @contextmanager
    def room_for(self, weight: int) -> Iterator[None]:
        """Do work of a weight (in switches, or the like of them) when its turn comes. Raises `Busy`."""
        if weight <= self._light:
            yield
            return
        weight = min(weight, self._room)
        self._enter(weight)
        try:
            yield
        finally:
            with self._turn:
                self._inside -= weight
                self._turn.notify_all()

    def _enter(self, weight: int) -> None:
        until = time.monotonic() + PATIENCE
        with self._turn:
            if self._waiting >= MOST_WAITING:
                raise Busy("Many large exports are under way. Nothing was begun; try again in a minute.")
            self._waiting += 1
            try:
                while self._inside + weight > self._room:
                    go_on()
                    if time.monotonic() > until:
                        raise Busy("Large exports take longer than a minute now. Nothing was begun; try again later.")
                    self._turn.wait(0.2)
                self._inside += weight
            finally:
                self._waiting -= 1
