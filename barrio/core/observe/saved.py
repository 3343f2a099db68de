"""What somebody saved of a switch, held against what was meant: its files, and whom it hears."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from barrio.core.cabling.heard import Heard
from barrio.core.compare.lines import LineChange, Reader
from barrio.core.model.switch import SwitchModel

GUARD = "usr/local/sbin/fabric-guard"
_AROUND = re.compile(
    r"Building configuration\.\.\.|Current configuration:|frr version \S+|service integrated-vtysh-config|end"
)
"""What FRRouting prints around its running configuration, and writes into files that it saves."""
ROUTING = "etc/frr/frr.conf"


def is_cut_off(text: str) -> bool:
    """Whether a routing configuration ends before its time: nothing is in it, or a family begins and does not end."""
    opened = re.findall(r"^ ?address-family ", text, re.MULTILINE)
    return not text.strip() or len(opened) > len(re.findall(r"^ *exit-address-family$", text, re.MULTILINE))


def only_told(change: LineChange, guarded: bool) -> bool:
    """Whether a difference from what was meant is in how a switch tells its configuration alone: what is printed around it, and Ethernet segments
    (RFC 7432) that its guard, where it has one, takes out while a host's link is down."""
    if change.path != ROUTING:
        return False
    around = not change.before and _AROUND.fullmatch(change.after) is not None
    return around or (guarded and not change.after and change.before.startswith("evpn mh es-id "))


def as_file(path: str, meant: str, told: str, reader: Reader, guarded: bool) -> str:
    """What was told of a file as its file would say it, which is the text that was meant where nothing else differs."""
    changes = list(reader.changes(path, meant, told))
    mere = [one for one in changes if only_told(one, guarded)]
    if len(mere) == len(changes):
        return meant
    lines = [line for line in told.split("\n") if path != ROUTING or not _AROUND.fullmatch(line.strip())]
    text = "\n".join(lines)
    for one in mere:
        if one.before and one.within:
            text = text.replace(f"{one.within[-1]}\n", f"{one.within[-1]}\n {one.before}\n", 1)
    return text


def misheard(model: SwitchModel, heard: Iterable[Heard]) -> Iterator[str]:
    """Where a switch hears another neighbour than the plan has there, in words; of ports at which it hears nobody nothing is said, since a table may be short."""
    plan = {str(port.label): (str(port.peer), str(port.peer_port)) for port in model.fabric_ports if not port.shut}
    for one in heard:
        meant = plan.get(one.at.name)
        if meant and (one.far.system, one.far.name) != meant:
            yield f"{one.at.name} hears {one.far.text}, and {meant[0]}:{meant[1]} is planned there"
