"""Compiled fabrics that are at hand in this process: so many switches of them, the ones used last, each worked out once however many ask.

They stay in the process: to read the largest from bytes takes longer than to compile it again (32 × 1024: 2.0 s against 1.8 s).
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from threading import Condition

from barrio.app.leaving import go_on
from barrio.core import Compiled

Version = tuple[int, int]
"""What a fabric was compiled from: the version of its draft, and a stamp that grows with every change of models or pools."""
ROOM = 4_500
"""Switches in all: four of the largest usual fabrics, some 0.2 MB a switch with all files."""


class AtHand:
    """Compiled fabrics by name, one version of each."""

    def __init__(self, room: int = ROOM) -> None:
        self._room = room
        self._kept: OrderedDict[str, tuple[Version, Compiled]] = OrderedDict()
        self._making: set[tuple[str, Version]] = set()
        self._turn = Condition()

    def get(self, name: str, version: Version) -> Compiled | None:
        """A fabric as it is at a version, if that is at hand."""
        with self._turn:
            return self._get(name, version)

    def of(self, name: str, version: Version, make: Callable[[], Compiled]) -> Compiled:
        """A fabric as it is at a version; made by the first who asks, for which the others wait. Raises what making it raises."""
        with self._turn:
            while True:
                found = self._get(name, version)
                if found is not None:
                    return found
                if (name, version) not in self._making:
                    self._making.add((name, version))
                    break
                self._turn.wait(0.2)
                go_on()
        try:
            made = make()
            self.keep(name, version, made)
        finally:
            with self._turn:
                self._making.discard((name, version))
                self._turn.notify_all()
        return made

    def keep(self, name: str, version: Version, compiled: Compiled) -> None:
        """Have a fabric at hand from now on, unless a newer version of it is; those not used for longest go, until there is room."""
        with self._turn:
            known = self._kept.get(name)
            if known is not None and known[0] > version:
                return
            self._kept[name] = (version, compiled)
            self._kept.move_to_end(name)
            weight = sum(len(one.structure.switches) for _, one in self._kept.values())
            while weight > self._room and len(self._kept) > 1:
                _, (_, gone) = self._kept.popitem(last=False)
                weight -= len(gone.structure.switches)

    def _get(self, name: str, version: Version) -> Compiled | None:
        known = self._kept.get(name)
        if known is None or known[0] != version:
            return None
        self._kept.move_to_end(name)
        return known[1]
