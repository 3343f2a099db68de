"""Taking something of a running lab away, and bringing it back: by commands at their time, or by what the lab does itself."""

from __future__ import annotations

import shlex
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field

from barrio.core.rehearse.losses import Loss
from barrio.rehearsal.asking.claims import Asking
from barrio.rehearsal.ground import Ground


def _nothing() -> None:
    pass


@dataclass(frozen=True)
class Taking:
    """What is run to take something away and to bring it back: shell commands by ground (`away`, `back`), or what the lab does itself (`takes`, `brings`),
    which raise `NoLab` when it does not come again."""

    away: Mapping[Ground, str] = field(default_factory=dict)
    back: Mapping[Ground, str] = field(default_factory=dict)
    takes: Callable[[], None] = _nothing
    brings: Callable[[], None] = _nothing


def taking(asking: Asking, loss: Loss) -> Taking:
    """How a loss is made, and undone."""
    if loss.how == "killed":
        [key] = loss.switches
        node = asking.lab.nodes[key]
        return Taking(takes=lambda: node.kill(loss.daemon), brings=lambda: node.revive(loss.daemon))
    if loss.how == "restarted":
        [key] = loss.switches
        node = asking.lab.nodes[key]
        files = dict(asking.compiled.files(key))
        return Taking(takes=node.power_off, brings=lambda: node.power_on(files, asking.lab.missing))
    away, back = _commands(asking, loss)
    return Taking(_side_by_side(away), _side_by_side(back))


def _side_by_side(commands: list[tuple[Ground, str]]) -> dict[Ground, str]:
    """Commands of each ground as one that runs them side by side."""
    found: dict[Ground, str] = {}
    for ground, words in commands:
        found[ground] = f"{found.get(ground, '')}{words} & "
    return {ground: f"{words}wait" for ground, words in found.items()}


def _commands(asking: Asking, loss: Loss) -> tuple[list[tuple[Ground, str]], list[tuple[Ground, str]]]:
    """The commands that take something away, and those that bring it back, with the ground of each."""
    lab = asking.lab
    away: list[tuple[Ground, str]] = []
    back: list[tuple[Ground, str]] = []
    for key in loss.switches:
        namespace, ground = lab.nodes[key].namespace, lab.nodes[key].ground
        ports = list(_ports(asking, key))
        for which, state in ((away, "down"), (back, "up")):
            lines = "\\n".join(f"link set {port} {state}" for port in ports)
            which.append((ground, f"printf '{lines}\\n' | ip -n {namespace} -force -batch -"))
    for end in asking.compiled.ends:
        if end.link.key not in loss.links:
            continue
        node, port = lab.nodes[end.link.upper.key], shlex.quote(str(end.upper_port))
        namespace, ground = node.namespace, node.ground
        if loss.how == "gone":
            away.append((ground, f"ip -n {namespace} link set {port} down"))
            back.append((ground, f"ip -n {namespace} link set {port} up"))
        else:
            share = "100%" if loss.how == "one way" else "1%"
            away.append((ground, f"tc -n {namespace} qdisc add dev {port} root netem loss {share} limit 100000"))
            back.append((ground, f"tc -n {namespace} qdisc del dev {port} root"))
    return away, back


def _ports(asking: Asking, key: str) -> Iterator[str]:
    """Every port of a switch that has a cable in this lab: all go dark with it."""
    model = asking.lab.models[key]
    here = set(asking.names.values())
    seated = {end for one in asking.lab.machines for end in one.ports}
    yield from (str(port.label) for port in model.fabric_ports if port.peer in here)
    yield from (str(port.label) for port in model.outside_ports)
    if model.pair is not None and model.pair.peer in here:
        yield from (str(port.label) for port in model.pair.ports)
    yield from (str(port.label) for port in model.host_ports if (str(model.name), str(port.label)) in seated)
