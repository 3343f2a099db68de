"""Cables that are crossed in a lab: lldpd says what it hears, and Barrio finds those and no others, and how to put them right."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.cabling.compared import Compared, compare
from barrio.core.cabling.heard import Port, read_heard, table_of
from barrio.rehearsal.ground import wait_until
from barrio.rehearsal.lab import Lab
from barrio.rehearsal.node import Node
from tests.rehearsal.whole import PATIENCE

MARLIN = Path(__file__).parents[2] / "examples" / "marlin.yaml"
Cable = frozenset[Port]


class Wired(Lab):
    """Every switch's namespace with lldpd alone, and cables that lie as they are told."""

    def __init__(self, compiled: Compiled, cables: set[Cable]) -> None:
        super().__init__(compiled)
        self.cables = cables

    def _cable(self) -> None:
        for node in self.nodes.values():
            self.laid.space(node.namespace, node.ground)
        self.lay(self.cables)

    def _boot(self, node: Node) -> None:
        self.ground.run("mkdir", "-p", str(node.run_folder))
        node.wake(dict(self.compiled.files(node.switch.key)))
        node.announce()

    def lay(self, cables: set[Cable]) -> None:
        ends = [[(self.node(port.system).namespace, port.name) for port in sorted(cable)] for cable in cables]
        for one, other in ends:
            self.laid.cable(one, other)
        self.laid.lay()
        for namespace in {namespace for pair in ends for namespace, _ in pair}:
            ports = [port for pair in ends for there, port in pair if there == namespace]
            self.ip(*(f"link set {port} up" for port in ports), namespace=namespace)

    def recable(self, cables: set[Cable]) -> None:
        """Take out what does not lie so, and lay what is to."""
        for cable in self.cables - cables:
            port = min(cable)
            self.ip(f"link delete {port.name}", namespace=self.node(port.system).namespace)
        self.lay(cables - self.cables)
        self.cables = cables

    def asked(self) -> Compared:
        table = table_of(())
        for node in self.nodes.values():
            table += read_heard(node.lldp().encode(), node.switch.name)
        return compare(self.compiled.cables, table)


def moved(cables: set[Cable], found: Compared) -> set[Cable]:
    """The cables once somebody has followed the moves."""
    after = set(cables)
    for mend in found.mends:
        assert not mend.pull and not mend.lay
        for move in mend.moves:
            after.remove(frozenset({move.out, move.stays}))
        after |= {frozenset({move.into, move.stays}) for move in mend.moves}
    return after


@pytest.mark.long
def test_five_of_208_cables_that_are_crossed_are_found_and_mended_and_no_others() -> None:
    compiled = compile(read(MARLIN.read_text()).brief)
    planned = [
        (Port(one.a.switch, one.a.port), Port(one.b.switch, one.b.port))
        for one in compiled.cables
        if one.use == "fabric"
    ]
    chosen = random.Random(208).sample(range(len(planned)), 5)
    lying = list(planned)
    for at, other in zip(chosen, [*chosen[1:], chosen[0]], strict=True):
        lying[at] = (planned[at][0], planned[other][1])
    crossed = {compiled.cables[at].label for at in chosen}
    with Wired(compiled, {frozenset(pair) for pair in lying}) as lab:

        def heard() -> bool:
            counts = lab.asked().counts
            return counts.get("missing", 0) + counts.get("not heard of", 0) == 0

        assert wait_until(heard, PATIENCE)
        found = lab.asked()
        assert {one.label for one in found.cables if one.state != "right"} == crossed
        assert found.counts == {"right": 203, "swapped": 5} and found.moves == 5
        lab.recable(moved(lab.cables, found))
        assert wait_until(lambda: lab.asked().counts == {"right": 208}, PATIENCE)
        assert not lab.asked().mends
