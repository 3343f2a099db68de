"""The bundle: everything that leaves Barrio for one fabric, as files in a folder or an archive.

Layout: `switches/<name>/<path>`, `cabling.csv`, `numbers.csv`, `inventory.json`, `brief.yaml`, `manifest.json`. Archives
carry no clock and no user, so that the same fabric gives the same bytes.
"""

from __future__ import annotations

import csv
import gzip
import hashlib
import io
import json
import re
import tarfile
import zipfile
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping

from barrio.core.attach.attachments import Attachment
from barrio.core.brief.document import Document
from barrio.core.brief.hosts import NONE
from barrio.core.brief.ranges import contract_ports
from barrio.core.cabling.lay import Laid
from barrio.core.compiled import Compiled
from barrio.core.errors import Refused
from barrio.core.ledger.pool import Family, prefix_text
from barrio.core.render.engine import FilePlan
from barrio.core.structure.parts import Switch

_MODE = 0o644
_EPOCH = (1980, 1, 1, 0, 0, 0)


def bundle_files(document: Document, compiled: Compiled, leaves: bool = True) -> dict[str, bytes]:
    """Every file of the bundle, by path, in the order in which they are written. One that only is looked at, and does not leave, is not asked whether it may.

    Raises `Refused`: `target.*` when the target cannot carry a switch, and `lockout` when nobody would reach one any more.
    """
    files: dict[str, bytes] = {"brief.yaml": document.text.encode()}
    for switch in compiled.staged:
        files |= switch_files(compiled, switch)
    cut_off = compiled.cut_off() if leaves else ()
    if cut_off:
        raise Refused(cut_off)
    return with_manifest(compiled, files | sheets(document, compiled))


def switch_files(compiled: Compiled, switch: Switch) -> dict[str, bytes]:
    """The files of one switch by their place in the bundle. Raises as `Compiled.files`."""
    return {f"switches/{switch.name}/{path}": text.encode() for path, text in compiled.files(switch.key).items()}


def sheets(document: Document, compiled: Compiled, but: frozenset[str] = frozenset()) -> dict[str, bytes]:
    """The files of a bundle that are about the whole fabric, without the manifest, and without those that nobody asks for."""
    makers: dict[str, Callable[[], bytes]] = {
        "brief.yaml": document.text.encode,
        "cabling.csv": lambda: cabling_csv(compiled.laid).encode(),
        "numbers.csv": lambda: numbers_csv(compiled).encode(),
        "inventory.json": lambda: _json(inventory(compiled)),
    }
    return {path: make() for path, make in makers.items() if path not in but}


def with_manifest(compiled: Compiled, files: dict[str, bytes]) -> dict[str, bytes]:
    """Files with the manifest that holds their checksums, in place of an earlier one."""
    others = {path: content for path, content in files.items() if path != "manifest.json"}
    return others | {"manifest.json": _json(_manifest(compiled, others))}


CABLING_COLUMNS = (
    "label", "a_rack", "a_unit", "a_switch", "a_port", "b_rack", "b_unit", "b_switch", "b_port", "speed_gbps", "kind",
    "a_label", "b_label", "length_m", "measured_m", "take_m", "part",
)  # fmt: skip


def cabling_csv(laid: Laid) -> str:
    """The cabling plan as CSV (RFC 4180): a header, then a row per cable. Lengths in metres, empty where they are not known."""
    return _csv(
        CABLING_COLUMNS,
        (
            (
                cable.label, cable.a.rack, cable.a.unit, cable.a.switch, cable.a.port, cable.b.rack, cable.b.unit,
                cable.b.switch, cable.b.port, cable.speed, cable.kind, cable.label_a, cable.label_b, _metres(cable.length),
                _metres(laid.measured.get(cable.link)), _metres(cable.stock), cable.part,
            )
            for cable in laid.cables
        ),
    )  # fmt: skip


def _metres(length: float | None) -> str:
    return "" if length is None else f"{length:g}"


def numbers_csv(compiled: Compiled) -> str:
    """Every number that the fabric holds as CSV: its use, key and text."""
    rows = []
    for use in sorted(compiled.allocation.numbers):
        family = {"v4": Family.V4, "v6": Family.V6}.get(use.rsplit(".", 1)[-1], Family.NUMBER)
        held = compiled.allocation.numbers[use]
        rows += [(use, key, prefix_text(family, taken.low, taken.size)) for key, taken in sorted(held.items())]
    return _csv(("use", "key", "number"), rows)


HOST_COLUMNS = ("host", "team", "at", "plug", "lag", "untagged", "tagged", "note")


def host_rows(compiled: Compiled) -> Iterator[tuple[str, ...]]:
    """Every host, in the brief's order, by `HOST_COLUMNS`: with its ports and the segments that it carries, as a sheet of hosts is read."""
    leaves = Counter(str(leaf.rack) for leaf in compiled.structure.leaves)
    for one in compiled.attachments.hosts.values():
        plug = compiled.brief.plugs.get(one.way.plug) if one.way.plug else None
        nothing = NONE if plug and plug.untagged and plug.untagged != NONE else ""
        yield (
            one.host, one.team, "; ".join(_places(one, leaves)), one.way.plug or "", one.way.lag, one.way.untagged or nothing,
            " ".join(one.way.tagged), one.note,
        )  # fmt: skip


def _places(one: Attachment, leaves: Mapping[str, int]) -> Iterator[str]:
    """Where a host is, as the brief writes it."""
    racks: dict[str, dict[str, list[str]]] = {}
    for key, port in one.ports:
        _, rack, side = key.split("/")
        racks.setdefault(rack, {}).setdefault(side, []).append(port)
    for rack, sides in racks.items():
        alike = len(sides) == leaves[rack] and len({tuple(ports) for ports in sides.values()}) == 1
        for side, ports in list(sides.items())[: 1 if alike else None]:
            yield f"{rack}{'' if alike else f'/{side}'} {contract_ports(ports)}"


def hosts_csv(compiled: Compiled) -> str:
    """Every host as CSV, a row each."""
    return _csv(HOST_COLUMNS, host_rows(compiled))


def _csv(header: Iterable[str], rows: Iterable[Iterable[object]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(header)
    writer.writerows([harmless(cell) for cell in row] for row in rows)
    return out.getvalue()


def harmless(cell: object) -> object:
    """A cell that no spreadsheet takes for a formula."""
    return f"'{cell}" if isinstance(cell, str) and cell[:1] in _FORMULA and cell else cell


_FORMULA = frozenset("=+-@\t\r")
"""What a cell begins with that a spreadsheet would work out."""


def inventory(compiled: Compiled) -> dict[str, object]:
    """The switches grouped by role, with what a program needs to reach and tell them apart."""
    roles: dict[str, dict[str, object]] = {}
    for switch in compiled.staged:
        model = compiled.models[switch.key]
        entry: dict[str, object] = {
            "key": switch.key,
            "fqdn": model.fqdn,
            "model": switch.type.id,
            "rack": switch.rack,
            "unit": switch.unit,
            "management": model.management.ip,
            "loopback": model.router_id,
            "asn": model.asn,
            "target": compiled.targets[switch.key].name,
        }
        if model.common.software:
            entry["software"] = model.common.software
        if model.outside:
            # What the people who run the systems outside must configure: they see the AS of the BGP process.
            entry["outside"] = [
                {
                    "system": session.system, "vrf": session.vrf, "port": session.port, "vlan": session.vlan,
                    "our_asn": model.process_asn, "their_asn": session.asn, "our_v4": session.v4, "our_v6": session.v6,
                    "their_v4": session.neighbor_v4, "their_v6": session.neighbor_v6,
                }
                for session in model.outside
            ]  # fmt: skip
        roles.setdefault(switch.role, {})[switch.name] = entry
    return {"fabric": compiled.brief.fabric, "title": compiled.brief.title, "roles": roles}


def _manifest(compiled: Compiled, files: Mapping[str, bytes]) -> dict[str, object]:
    return {
        "fabric": compiled.brief.fabric,
        "counts": {
            "files": len(files) + 1,
            "switches": len(compiled.staged),
            "cables": len(compiled.cables),
            "numbers": sum(map(len, compiled.allocation.numbers.values())),
        },
        "modes": {path: f"{mode:04o}" for path, mode in _modes(compiled).items()},
        "first_boot": _first_boot(compiled),
        "sha256": {path: hashlib.sha256(content).hexdigest() for path, content in sorted(files.items())},
    }


def _modes(compiled: Compiled) -> dict[str, int]:
    """The modes of files on their switch, where they are not 0644."""
    return {path: plan.kind.mode for path, plan in _plans(compiled) if plan.kind.mode != _MODE}


def _first_boot(compiled: Compiled) -> list[str]:
    """The files that a switch has use for at its first boot alone."""
    return [path for path, plan in _plans(compiled) if plan.kind.first]


def _plans(compiled: Compiled) -> Iterator[tuple[str, FilePlan]]:
    for switch in compiled.staged:
        for plan in compiled.plans(switch.key):
            yield f"switches/{switch.name}/{plan.path}", plan


def modes_of(files: Mapping[str, bytes]) -> dict[str, int]:
    """The modes that the manifest of a bundle names, by path; what is not named is 0644."""
    said = json.loads(files.get("manifest.json", b"{}"))
    return {path: int(mode, 8) for path, mode in said.get("modes", {}).items()}


def _json(value: object) -> bytes:
    return (json.dumps(value, indent=2, ensure_ascii=False) + "\n").encode()


_MEMBER = re.compile(r"[A-Za-z0-9_][A-Za-z0-9_.-]*(/[A-Za-z0-9_][A-Za-z0-9_.-]*)*")


def _member(path: str) -> str:
    """The name of a file in an archive, which stays inside the folder it is unpacked into, on every system."""
    if not _MEMBER.fullmatch(path) or ".." in path:
        raise ValueError(f"no member of an archive may be called {path!r}")
    return path


def as_zip(files: Mapping[str, bytes]) -> bytes:
    out, modes = io.BytesIO(), modes_of(files)
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for path, content in files.items():
            entry = zipfile.ZipInfo(_member(path), _EPOCH)
            entry.external_attr = modes.get(path, _MODE) << 16
            archive.writestr(entry, content, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def as_tar_gz(files: Mapping[str, bytes]) -> bytes:
    out, modes = io.BytesIO(), modes_of(files)
    with (
        gzip.GzipFile(fileobj=out, mode="wb", mtime=0) as packed,
        tarfile.open(fileobj=packed, mode="w") as archive,
    ):
        for path, content in files.items():
            entry = tarfile.TarInfo(_member(path))
            entry.size, entry.mode = len(content), modes.get(path, _MODE)
            archive.addfile(entry, io.BytesIO(content))
    return out.getvalue()
