"""Which box is which switch: serial numbers and MAC addresses as people type, scan and list them."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from barrio.core import Compiled
from barrio.core.errors import Refused, nearest, refuse
from barrio.core.exchange.sheet import Sheet
from barrio.core.place.elevation import faces_of, fitting_airflow
from barrio.core.structure.parts import Switch

MOST = 40
"""Characters of a serial number."""
_SERIAL = re.compile(rf"[A-Z0-9][A-Z0-9./_-]{{0,{MOST - 1}}}")
_COLUMNS = {
    "switch": {"switch", "name", "hostname", "device"},
    "serial": {"serial", "serial number", "serialnumber", "serial no", "s/n", "sn"},
    "mac": {"mac", "mac address", "macaddress", "base mac", "system mac"},
    "model": {"model", "part", "part number", "product", "type"},
}


@dataclass(frozen=True, slots=True)
class Box:
    """A box by its serial number, its MAC address, or both; empty text where one is not known."""

    serial: str = ""
    mac: str = ""

    def __str__(self) -> str:
        return self.serial or self.mac


def box(serial: str = "", mac: str = "") -> Box:
    """A box as it was typed. Raises `Refused` (`box.serial`, `box.mac`, `box.nothing`).

    >>> box(" lj4-0071 ", "0200.5e10.0007")
    Box(serial='LJ4-0071', mac='02:00:5e:10:00:07')
    """
    found = Box(_serial(serial), _mac(mac))
    if not str(found):
        raise refuse("box.nothing", "A box needs a serial number, a MAC address, or both.", "serial")
    return found


def scanned(text: str) -> Box:
    """What a scanner typed: a MAC address, where it reads as one, else a serial number, of which some makers' labels say that it is one. Raises as `box`."""
    said = re.sub(r"^(s/?n|serial( number)?|mac)\s*[:=]?\s*", "", text.strip(), flags=re.IGNORECASE)
    bare = re.sub(r"[:.\-\s]", "", said)
    if re.fullmatch(r"[0-9a-fA-F]{12}", bare) and (len(said) != 12 or text.strip().lower().startswith("mac")):
        return box(mac=said)
    return box(serial=said)


def _serial(text: str) -> str:
    said = text.strip().upper()
    if said and not _SERIAL.fullmatch(said):
        raise refuse(
            "box.serial",
            f"“{text.strip()[:60]}” is no serial number: letters, digits and . / _ - , {MOST} at most.",
            "serial",
        )
    return said


def _mac(text: str) -> str:
    bare = re.sub(r"[:.\-\s]", "", text.strip()).lower()
    if not bare:
        return ""
    if not re.fullmatch(r"[0-9a-f]{12}", bare):
        raise refuse("box.mac", f"“{text.strip()[:60]}” is no MAC address: it has 12 hexadecimal digits.", "mac")
    if int(bare[1], 16) & 1:
        raise refuse("box.mac", f"{text.strip()} is a group's address; a switch has one of its own.", "mac")
    return ":".join(bare[at : at + 2] for at in range(0, 12, 2))


Outcome = Literal["binds", "same", "changes", "refused"]


@dataclass(frozen=True, slots=True)
class Row:
    """What a row of a delivery comes to."""

    line: int
    switch: str
    box: Box
    outcome: Outcome
    reason: str = ""


@dataclass(frozen=True, slots=True)
class Bound:
    """A box that is a switch: of a fabric, by key and name. A `retired` one was taken out, and never comes back by itself."""

    fabric: str
    key: str
    name: str
    box: Box
    retired: bool = False


def clash(one: Box, key: str, fabric: str, bound: Iterable[Bound]) -> str:
    """Why a box cannot be this switch: it is another already, or was taken out. Empty when it can."""
    for other in bound:
        same = [
            word for word in ("serial", "mac") if getattr(one, word) and getattr(one, word) == getattr(other.box, word)
        ]
        if not same:
            continue
        said = getattr(one, same[0])
        if other.retired:
            return f"{said} was {other.name} of {other.fabric} and was taken out; let it in again first"
        if (other.fabric, other.key) != (fabric, key):
            return f"{said} is {other.name}{'' if other.fabric == fabric else f' of {other.fabric}'} already"
    return ""


def delivery(compiled: Compiled, sheet: Sheet, bound: Sequence[Bound]) -> list[Row]:
    """A delivery's list, row by row: each names a box, and the switch that it is to be; one that names no switch goes to the next of its model that has
    none, in the fabric's order. Nothing of it is taken here.

    Raises `Refused` (`delivery.columns`) when it has neither serial numbers nor MAC addresses.
    """
    at = {
        what: place
        for what, words in _COLUMNS.items()
        for place, heading in enumerate(sheet.columns)
        if heading.strip().lower() in words
    }
    if not {"serial", "mac"} & at.keys():
        raise refuse(
            "delivery.columns",
            f"No column is headed serial or mac. There are: {', '.join(sheet.columns)}.",
            "columns",
        )
    names = {str(one.name): one for one in compiled.staged}
    mine = {one.key: one for one in bound if one.fabric == compiled.brief.fabric and not one.retired}
    known = list(bound)
    found: list[Row] = []
    free = [one for one in compiled.staged if one.key not in mine]
    for cells, line in zip(sheet.rows, sheet.lines, strict=True):
        said = {what: cells[place].strip() if place < len(cells) else "" for what, place in at.items()}
        try:
            one = box(said.get("serial", ""), said.get("mac", ""))
            switch = _switch_of(said, names, free)
        except Refused as error:
            found.append(Row(line, said.get("switch", ""), Box(), "refused", error.faults[0].message))
            continue
        why = clash(one, switch.key, str(compiled.brief.fabric), known)
        if not why and (told := said.get("model", "")) and not is_model(told, switch):
            why = f"{switch.name} is planned as {switch.type.title}, and this is {told}"
        if why:
            found.append(Row(line, str(switch.name), one, "refused", why))
            continue
        was = mine.get(switch.key)
        outcome: Outcome = "binds" if was is None else "same" if was.box == one else "changes"
        free = [each for each in free if each.key != switch.key]
        known.append(Bound(str(compiled.brief.fabric), switch.key, str(switch.name), one))
        found.append(
            Row(line, str(switch.name), one, outcome, f"was {was.box}" if was and outcome == "changes" else "")
        )
    return found


def _switch_of(said: Mapping[str, str], names: Mapping[str, Switch], free: Sequence[Switch]) -> Switch:
    wanted = said.get("switch", "")
    if wanted:
        if wanted not in names:
            raise refuse("box.switch", f"There is no switch {wanted}.{nearest(wanted, names)}", "switch")
        return names[wanted]
    model = said.get("model", "")
    if not model:
        raise refuse("box.switch", "The row says neither which switch nor which model.", "switch")
    found = next((one for one in free if is_model(model, one)), None)
    if found is None:
        raise refuse("box.switch", f"No switch that is planned as {model} is without a box.", "model")
    return found


def is_model(said: str, switch: Switch) -> bool:
    """Whether what a box or a list calls its model is what the plan has: by id, name, or maker and name.

    Case, spaces and dashes make no difference.
    """
    kind = switch.type
    bare = re.sub(r"[\s_-]", "", said).lower()
    return bare in {re.sub(r"[\s_-]", "", one).lower() for one in (kind.id, kind.name, f"{kind.maker} {kind.name}")}


@dataclass(frozen=True, slots=True)
class Told:
    """What a box says of itself, as far as it does: model, airflow, number of front ports."""

    model: str = ""
    airflow: str = ""
    ports: int = 0


def faults(compiled: Compiled, switch: Switch, told: Told) -> Iterator[str]:
    """What of a box is not as planned for a switch, in words."""
    kind = switch.type
    if told.model and not is_model(told.model, switch):
        yield f"it says it is a {told.model}; {switch.name} is planned as {kind.title}"
    planned = airflow_of(compiled, switch)
    if told.airflow and told.airflow != planned:
        yield f"its air goes {told.airflow}; where {switch.name} stands it has to go {planned}"
    count = sum(group.count for group in kind.groups)
    if told.ports and told.ports != count:
        yield f"it has {told.ports} ports; {kind.title} has {count}"


def airflow_of(compiled: Compiled, switch: Switch) -> str:
    """The airflow that a switch is to be ordered with, for the way in which it stands in its rack."""
    return fitting_airflow(switch, faces_of(compiled.brief, switch)) or switch.type.airflow
