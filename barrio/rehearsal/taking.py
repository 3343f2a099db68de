"""Taking something of a running lab away, and bringing it back: by commands at their time, or by what the lab does itself."""

from __future__ import annotations

import shlex
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from barrio.core.rehearse.losses import Loss
from barrio.rehearsal.asking.claims import Asking


def _nothing() -> None:
    pass


@dataclass(frozen=True)
class Taking:
    """What is run to take something away and to bring it back: shell commands (`away`, `back`), or what the lab does itself (`takes`, `brings`), which raise
    `NoLab` when it does not come again."""

    away: str = "true"
    back: str = "true"
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
    return Taking(*_commands(asking, loss))


def _commands(asking: Asking, loss: Loss) -> tuple[str, str]:
    """The commands that take something away, and those that bring it back."""
    lab = asking.lab
    away: list[str] = []
    back: list[str] = []
    for key in loss.switches:
        namespace = lab.nodes[key].namespace
        ports = list(_ports(asking, key))
        for which, state in ((away, "down"), (back, "up")):
            lines = "\\n".join(f"link set {port} {state}" for port in ports)
            which.append(f"printf '{lines}\\n' | ip -n {namespace} -force -batch -")
    for end in asking.compiled.ends:
        if end.link.key not in loss.links:
            continue
        namespace, port = lab.nodes[end.link.upper.key].namespace, shlex.quote(str(end.upper_port))
        if loss.how == "gone":
            away.append(f"ip -n {namespace} link set {port} down")
            back.append(f"ip -n {namespace} link set {port} up")
        else:
            share = "100%" if loss.how == "one way" else "1%"
            away.append(f"tc -n {namespace} qdisc add dev {port} root netem loss {share} limit 100000")
            back.append(f"tc -n {namespace} qdisc del dev {port} root")
    return " & ".join(away) + " & wait", " & ".join(back) + " & wait"


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
