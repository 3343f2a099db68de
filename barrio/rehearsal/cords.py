"""The namespaces of a lab and the cables between them: a veth pair where both ends are on one ground, a cord over the wire where they are not."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import partial
from itertools import count

from barrio.rehearsal.ground import Ground, NoLab

End = tuple[str, str]
"""A namespace, and the name of a device in it."""

AT_ONCE = 400
"""Commands of one process of `ip`: it leaves every namespace open that one names, and may open 1,024 files."""


class Cords:
    """What is to be laid is told first, and laid at once: `space`, `cable`, then `lay`. Frames of cords go from ground to ground over here."""

    def __init__(self, grounds: Sequence[Ground]) -> None:
        self.grounds = tuple(grounds)
        self.where: dict[str, Ground] = {}
        self._lines: dict[Ground, list[str]] = {}
        self._cords: dict[int, tuple[End, End]] = {}
        self._serial = count(1)
        self._laid = False

    def space(self, name: str, ground: Ground) -> str:
        """A namespace on a ground; its name."""
        self.where[name] = ground
        self._lines.setdefault(ground, []).append(f"netns add {name}")
        return name

    def cable(self, one: End, other: End) -> None:
        """A cable between two namespaces."""
        here, there = self.where[one[0]], self.where[other[0]]
        if here is there:
            (space, port), (far, peer) = one, other
            words = f"link add name {port} netns {space} type veth peer name {peer} netns {far}"
            self._lines.setdefault(here, []).append(words)
        else:
            self._cords[next(self._serial)] = (one, other)

    def lay(self) -> None:
        """Make what was told since the last time. Raises `NoLab`; cords are laid the first time only."""
        lines, self._lines = self._lines, {}
        for ground, words in lines.items():
            ip(ground, *words)
        if self._laid and self._cords:
            raise NoLab("Cables between machines cannot be laid while a rehearsal runs. Rehearse this on one machine.")
        if self._cords:
            self._laid = True
            cords, self._cords = self._cords, {}
            self._tie(cords)

    def _tie(self, cords: dict[int, tuple[End, End]]) -> None:
        far: dict[tuple[Ground, int], Ground] = {}
        ends: dict[Ground, list[dict[str, object]]] = {}
        for number, (one, other) in cords.items():
            for mine, theirs in ((one, other), (other, one)):
                ground = self.where[mine[0]]
                far[ground, number] = self.where[theirs[0]]
                ends.setdefault(ground, []).append({"id": number, "namespace": mine[0], "port": mine[1]})
        for ground in ends:
            ground.hears = partial(_pass_on, far, ground)
        for ground, told in ends.items():
            ground.lay(told)
            last = told[-1]
            words = f"until ip -n {last['namespace']} link show {last['port']}; do sleep 0.1; done"
            if ground.run("timeout", "20", "sh", "-c", words).code:
                said = ground.read(ground.folder / "relay.log") or ""
                raise NoLab(f"Cables between machines could not be laid: {said.strip()[-300:]}")

    def by_ground(self, spaces: Sequence[str]) -> Iterator[tuple[Ground, list[int]]]:
        """The grounds of some namespaces, each with the places in the list of those that are there."""
        for ground in self.grounds:
            at = [place for place, one in enumerate(spaces) if self.where[one] is ground]
            if at:
                yield ground, at


def _pass_on(far: dict[tuple[Ground, int], Ground], ground: Ground, frame: bytes) -> None:
    other = far.get((ground, int.from_bytes(frame[4:7], "big")))
    if other is not None:
        other.carry(frame)


def ip(ground: Ground, *lines: str, namespace: str = "") -> None:
    """Commands of `ip`, one a line, many in one process. Raises `NoLab` with the first that fails."""
    words = ["ip", *(["-n", namespace] if namespace else []), "-batch", "-"]
    for first in range(0, len(lines), AT_ONCE):
        done = ground.run(*words, given="\n".join(lines[first : first + AT_ONCE]) + "\n")
        if done.code:
            raise NoLab(f"ip: {done.err.strip()}")
