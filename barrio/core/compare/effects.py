"""From changed lines to what they are about: which sessions restart, which links go down, which segments lose their gateway."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

from barrio.core.compare.lines import LineChange
from barrio.core.compare.sessions import Session, SessionsOf, sessions_of
from barrio.core.model.switch import SwitchModel
from barrio.core.render.effects import Effect, shape


@dataclass
class Concerned:
    """What is known of a switch before and after a change, and what of it is found to be touched."""

    was: SwitchModel
    model: SwitchModel
    files: Mapping[str, str]
    restarting: dict[str, Session] = field(default_factory=dict)
    agreeing: set[str] = field(default_factory=set)
    links: set[str] = field(default_factory=set)
    devices: set[str] = field(default_factory=set)

    @cached_property
    def before(self) -> SessionsOf:
        return sessions_of(self.was)

    @cached_property
    def after(self) -> SessionsOf:
        return sessions_of(self.model)

    @cached_property
    def groups(self) -> dict[str, list[Session]]:
        """The sessions that share a name, by it: what the files of before say of each."""
        joins = [
            shape("neighbor {session} peer-group {joins}"),
            shape("neighbor {session} interface peer-group {joins}"),
        ]
        found: dict[str, list[Session]] = {}
        for line in self.files.get("etc/frr/frr.conf", "").splitlines():
            for one in joins if " peer-group " in line else ():
                match = one.fullmatch(line.strip())
                session = match and self.before.by_name.get(("", match["session"]))
                if match and session:
                    found.setdefault(match["joins"], []).append(session)
        return found

    @cached_property
    def cables(self) -> dict[str, str]:
        """The cable in each port."""
        found = {str(port.label): str(port.cable) for port in self.was.fabric_ports}
        return found | {str(port.label): str(port.cable) for port in self.was.outside_ports}

    @cached_property
    def segments(self) -> dict[str, str]:
        """The segment that each gateway and tunnel is of."""
        found = {str(one.vxlan): str(one.label) for one in self.was.segments}
        return found | {str(one.svi): str(one.label) for one in self.was.segments}

    def stay(self, sessions: Iterable[Session]) -> list[Session]:
        """Those that there are before and after, and that are not shut before."""
        return [
            one
            for one in sessions
            if one.id in self.after.every and one.id in self.before.every and one.id not in self.before.shut
        ]


def concern(line: LineChange, known: Concerned) -> LineChange:
    """A changed line with its effect as it is on this switch; what it touches is noted in `known`."""
    effect, rule = line.effect, line.rule
    if effect is Effect.NONE or effect is Effect.SERVICE:
        return line
    if effect in (Effect.NEW, Effect.GONE):
        if not ("session" in line.about or (rule is not None and rule.touches == "device")):
            return line
        device = line.about.get("device", "")
        if effect is Effect.GONE and device in known.segments:
            known.devices.add(f"segment {known.segments[device]}")
        # A session whose two ends stay, and that is called otherwise, is no new one: it restarts.
        again = known.stay(_sessions(line, known))
        if not again or not _is_of_session(line):
            return line
        known.restarting.update({one.id: one for one in again})
        known.agreeing.update(one.id for one in again)
        return replace(
            line, effect=Effect.SESSION, why=line.why or "its two ends stay, and what they call each other changes"
        )
    named = _sessions(line, known) if effect is Effect.SESSION or (rule is not None and rule.touches) else []
    again = known.stay(named)
    if (
        effect is Effect.SESSION
        and not again
        and (named or "session" in line.about or (rule is not None and rule.touches))
    ):
        comes = line.after or any(one.id in known.after.every and one.id not in known.after.shut for one in named)
        return replace(line, effect=Effect.NEW if comes else Effect.GONE)
    _note(line, effect, known)
    known.restarting.update({one.id: one for one in again})
    if rule is not None and rule.agree:
        known.agreeing.update(one.id for one in again)
    return line


BRIDGE = "bridge"
"""The device that all segments of a switch are on, in the files that ship."""


def _note(line: LineChange, effect: Effect, known: Concerned) -> None:
    """Note the links, ports and segments that a line takes away for a moment, and the sessions over them."""
    device = line.about.get("device", "")
    if device and effect is not Effect.SESSION:
        if device in known.cables and effect is Effect.LINK:
            known.links.add(known.cables[device])
        else:
            known.devices.add(f"segment {known.segments[device]}" if device in known.segments else device)
        if device == BRIDGE:
            # What a bridge carries has no link while it has none.
            known.devices.update(f"segment {name}" for name in known.segments.values())
        known.restarting.update({one.id: one for one in known.stay(known.before.by_device.get(device, ()))})
    elif "vni" in line.about:
        known.devices.update(f"segment {one.label}" for one in known.was.segments if str(one.vni) == line.about["vni"])
    elif "vrf" in line.about and effect is Effect.BRIDGE:
        known.devices.add(f"VRF {line.about['vrf']}")


def _is_of_session(line: LineChange) -> bool:
    """Whether a line that comes or goes is one that makes the session what it is."""
    return bool(
        line.rule and (line.rule.thing and (line.rule.effect is Effect.SESSION or line.rule.touches == "device"))
    )


def _sessions(line: LineChange, known: Concerned) -> list[Session]:
    """The sessions that a changed line is about."""
    rule, about = line.rule, line.about
    sides = [known.before, known.after]
    if rule is not None and rule.touches == "device":
        device = about.get("device", "")
        return [one for side in sides for one in side.by_device.get(device, ())]
    if rule is not None and rule.touches == "switch":
        return list(known.before.every.values())
    if rule is not None and rule.touches == "block":
        return [one for (of, _), one in known.before.by_name.items() if of == about.get("vrf", "")]
    name = about.get("session", about.get("group", ""))
    vrf = _vrf_of(line)
    found = [side.by_name[vrf, name] for side in sides if (vrf, name) in side.by_name]
    return found or known.groups.get(name, [])


def _vrf_of(line: LineChange) -> str:
    """The VRF whose router the line is in; none for the underlay's."""
    for block in line.within:
        if block.startswith("router bgp ") and " vrf " in block:
            return block.rsplit(" ", 1)[1]
    return ""
