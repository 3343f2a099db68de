"""The settings that rungs may say: their names, units, sentences, and the files that they are in.

The type and the range of a setting are those of the brief's own field, so that a rung refuses what the fabric would refuse.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ValidationError

from barrio.core.brief.additions import PLACES, Additions
from barrio.core.brief.document import faults_of
from barrio.core.brief.model import Brief, Services
from barrio.core.brief.routing import Overlay, Underlay
from barrio.core.brief.variables import Variable
from barrio.core.errors import nearest, refuse

_PARTS: dict[str, type[BaseModel]] = {
    "services": Services,
    "underlay": Underlay,
    "overlay": Overlay,
    "additions": Additions,
    "": Brief,
}


@dataclass(frozen=True, slots=True)
class Setting:
    """One thing that can be set. `many` says that it is a list, or a table by name, to which closer rungs may add; `whole` that all switches of a
    fabric have to agree on it, so that only the office and the fabric may say it."""

    name: str
    words: str
    kind: str
    files: tuple[str, ...]
    unit: str = ""
    many: bool = False
    whole: bool = False

    @property
    def columns(self) -> Mapping[str, str]:
        """The columns of a table that can be pasted, with what each holds; of nothing else."""
        return {}

    @property
    def default(self) -> Any:
        """Barrio's own value."""
        return value_in(_NOTHING, self.name)

    def read(self, value: object, path: str) -> Any:
        """A value of this setting, as the brief's field would take it. Raises `Refused` (`brief.*`) with what is wrong, at `path`."""
        part, _, field = self.name.rpartition(".")
        try:
            said = {field: value} if part else {"fabric": "x", field: value}
            return getattr(_PARTS[part].model_validate(said), field)
        except ValidationError as error:
            first = faults_of(error, {})[0]
            beneath = first.path.removeprefix(field)
            words = first.message.replace(first.path, self.name + beneath, 1) if first.path else first.message
            raise refuse(first.code, words, f"{path}{beneath}") from None


@dataclass(frozen=True, slots=True)
class OfVariable(Setting):
    """A variable, as a setting among the others."""

    variable: Variable | None = None

    @property
    def columns(self) -> Mapping[str, str]:
        return self.variable.columns if self.variable else {}

    @property
    def default(self) -> Any:
        return self.variable.default if self.variable else None

    def read(self, value: object, path: str) -> Any:
        try:
            return self.variable.read(value) if self.variable else None
        except ValueError as error:
            raise refuse("variable.value", f"{self.name} cannot be that: {error}.", path) from None


VARIABLE = "vars."


def of_variable(name: str, variable: Variable) -> OfVariable:
    """The setting that a variable is."""
    many = variable.kind in ("list", "table")
    return OfVariable(
        f"{VARIABLE}{name}", variable.words.rstrip("."), variable.kind, (), variable.unit, many, variable=variable
    )


_NOTHING = Brief.model_validate({"fabric": "x"})

SETTINGS = {
    one.name: one
    for one in (
        Setting("services.ntp", "The time servers that the clock follows", "list of hosts", ("etc/chrony/chrony.conf",), many=True),
        Setting("services.dns", "The name servers that are asked", "list of addresses", ("etc/resolv.conf",), many=True),
        Setting("services.syslog", "Where logs go", "list of hosts", ("etc/rsyslog.d/40-fabric.conf",), many=True),
        Setting("services.syslog_over", "How logs travel", "choice of udp or tcp", ("etc/rsyslog.d/40-fabric.conf",)),
        Setting("services.syslog_port", "The port that log servers listen on", "number", ("etc/rsyslog.d/40-fabric.conf",)),
        Setting("services.syslog_facility", "What the routing daemons log as", "choice of a facility", ("etc/frr/frr.conf",)),
        Setting("services.packages", "Packages that a switch has beside those it needs", "list of packages", ("etc/fabric/packages",), many=True),
        Setting("services.lldp_interval", "After how long neighbours are told again who is there", "number", ("etc/lldpd.d/fabric.conf",), "s"),
        Setting("services.software", "The software that a switch is meant to run", "text", ("inventory.json",)),
        Setting("services.ssh_ciphers", "What alone SSH may encrypt with", "list of ciphers", ("etc/ssh/sshd_config",), many=True),
        Setting("services.time_zone", "The time zone that logs count in", "time zone", ("etc/tmpfiles.d/clock.conf",)),
        Setting("services.watchdog", "After how long hardware restarts a switch that hangs; 0 for never", "number", ("etc/systemd/system.conf.d/fabric.conf",), "s"),
        Setting("services.users", "Who may sign in, with which keys", "table of users", ("etc/sudoers.d/fabric", "etc/ssh/sshd_config"), many=True),
        Setting("services.sign_in_from", "The prefixes from which SSH is answered", "list of prefixes", ("etc/nftables.conf",), many=True),
        Setting("services.banner", "The words shown before sign-in", "text", ("etc/issue.net",)),
        Setting("services.snmp", "Who may read by SNMP version 3, and from where", "users and sources", ("etc/snmp/snmpd.conf", "etc/nftables.conf")),
        *(Setting(f"additions.{place}", f"Lines added {where}", "list of lines", (file,), many=True) for place, (where, file) in PLACES.items()),
        Setting("target", "What files are written in", "name of a target", ()),
        Setting("underlay.mtu", "Bytes that fabric links carry", "number", ("etc/network/interfaces",), "bytes", whole=True),
        Setting("underlay.timers", "BGP's keepalive and hold time", "keepalive and hold", ("etc/frr/frr.conf",), "s", whole=True),
        Setting("underlay.bfd", "How fast a dead link is found", "interval and multiplier", ("etc/frr/frr.conf",), "ms", whole=True),
        Setting("underlay.ttl_security", "Whether fabric sessions take packets from the far end of the cable only", "choice of true or false", ("etc/frr/frr.conf",), whole=True),
        Setting("underlay.graceful_restart", "Whether a neighbour that restarts is forwarded to meanwhile", "choice of true or false", ("etc/frr/frr.conf",), whole=True),
        Setting("overlay.host_mtu", "Bytes that hosts may send", "number", ("etc/network/interfaces",), "bytes", whole=True),
        Setting("overlay.startup_delay", "How long a leaf that starts keeps its hosts' links down", "number", ("etc/frr/frr.conf",), "s"),
        Setting("overlay.storm", "Broadcasts and multicasts that a host port takes", "number", ("etc/nftables.conf",), "frames/s"),
    )
}  # fmt: skip
"""Every setting by name."""


def known(name: str, path: str, settings: Mapping[str, Setting] = SETTINGS) -> Setting:
    """The setting of this name. Raises `Refused` (`setting.unknown`) with the nearest."""
    found = settings.get(name)
    if found is None:
        meant = nearest(name, settings) or f" There are {', '.join(settings)}."
        raise refuse("setting.unknown", f"There is no setting {name[:60]}.{meant}", path)
    return found


def value_in(brief: Brief, name: str) -> Any:
    """What a brief says of a setting for the whole fabric.

    >>> value_in(Brief(fabric="tern"), "overlay.storm")
    2000
    """
    part: Any = brief
    for step in name.split("."):
        part = getattr(part, step)
    return part


def is_said(brief: Brief, name: str) -> bool:
    """Whether a brief says a setting for the whole fabric in so many words."""
    part: BaseModel = brief
    *parts, field = name.split(".")
    for step in parts:
        if step not in part.model_fields_set:
            return False
        part = getattr(part, step)
    return field in part.model_fields_set
