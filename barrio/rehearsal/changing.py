"""A change drill: a fabric runs, and a draft is put on it wave by wave, as staging will, while flows run; what happened is held against its Ripple."""

from __future__ import annotations

import time
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

from barrio.core import Compiled
from barrio.core.compare.order import Order, Wave
from barrio.core.compare.ripple import Ripple, SwitchRipple
from barrio.core.compare.sessions import sessions_of
from barrio.core.rehearse.losses import Loss, detection
from barrio.core.rehearse.stations import Station
from barrio.core.render.effects import Effect
from barrio.rehearsal.applying import Standing, apply, standing
from barrio.rehearsal.asking.claims import Asking
from barrio.rehearsal.drilling import (
    AFTER,
    AGAIN,
    PATIENCE,
    SETTLE,
    SLACK,
    Drilled,
    WaveDone,
    flow_of,
    pairs_for,
    said_by,
    speak_up,
)
from barrio.rehearsal.flowing import Flowed, Flowing
from barrio.rehearsal.ground import NoLab, wait_until

MOST_SECONDS = 1800
CALM = 2.0
"""Seconds that flows run before anything is changed."""
ID = "change"


@dataclass
class _Change:
    """A change under way: what runs in the lab is `before`, but for the switches in `done`, which are as in `after`."""

    asking: Asking
    before: Compiled
    after: Compiled
    what: Ripple
    began: float = field(default_factory=time.time)
    done: set[str] = field(default_factory=set)
    waves: list[WaveDone] = field(default_factory=list)
    moved: dict[str, list[str]] = field(default_factory=dict)
    trouble: list[str] = field(default_factory=list)

    def wave(self, wave: Wave, tell: Callable[[str], None]) -> None:
        """Put one wave on, and wait until it stands."""
        lab = self.asking.lab
        changed = [one for one in self.what.switches if one.name in wave.switches and self._here(one)]
        if not changed:
            return
        tell(
            f"wave {wave.number}: {', '.join(one.name for one in changed[:4])}{' and others' if len(changed) > 4 else ''}"
        )
        at = time.time()
        for one in changed:
            if one.state == "new":
                lab.join(self.after, one.key)
        keys = {one.key for one in changed}
        for name, ports in lab.recable(self.after, keys).items():
            self.moved.setdefault(name, []).extend(ports)
        with ThreadPoolExecutor(lab.at_once) as pool:
            self.trouble += [words for words in pool.map(self._put, changed) if words]
        self.done |= keys
        settled = wait_until(lambda: not self.missing(), PATIENCE)
        self.waves.append(
            WaveDone(
                wave.number,
                tuple(one.name for one in changed),
                round(at - self.began, 2),
                round(time.time() - self.began, 2),
                settled,
            )
        )
        if not settled:
            down = self.missing()
            self.trouble.append(
                f"after wave {wave.number} {', '.join(down[:4])}{f' and {len(down) - 4} more' if len(down) > 4 else ''} did not stand within {PATIENCE} s"
            )

    def _here(self, one: SwitchRipple) -> bool:
        return one.key in self.asking.lab.nodes or one.state == "new"

    def _put(self, one: SwitchRipple) -> str:
        """Put the draft on one switch; words of what went wrong, or nothing."""
        lab = self.asking.lab
        node = lab.nodes[one.key]
        try:
            if one.state == "gone":
                node.power_off()
            elif one.state == "new":
                lab.boot(self.after, node)
            elif one.effect.rank >= Effect.REBOOT.rank:
                node.power_off()
                files = dict(self.after.files(one.key))
                node.replace(files)
                node.power_on(files, lab.missing)
            else:
                apply(node, self.after.files(one.key), lab.missing, one.effect is Effect.DAEMON)
        except NoLab as error:
            return str(error)
        return ""

    def missing(self) -> list[str]:
        """Sessions that the two ends agree on by now and that do not stand: of before where neither end is changed, of after where both are."""
        self.asking.leave()
        lab = self.asking.lab
        names = {str(node.switch.name): key for key, node in lab.nodes.items()}
        found: set[str] = set()
        for key, node in lab.nodes.items():
            changed = key in self.done
            compiled = self.after if changed else self.before
            model = compiled.models.get(key)
            if model is None:
                continue
            known = sessions_of(model)
            wanted = {
                one.id for one in known.every.values()
                if one.id not in known.shut and all(end in names and (names[end] in self.done) == changed for end in one.ends)
            }  # fmt: skip
            if wanted:
                found |= wanted - standing(node, model).sessions.keys()
        return sorted(found)


def change(
    asking: Asking, after: Compiled, what: Ripple, order: Order, tell: Callable[[str], None] = lambda words: None
) -> Drilled:
    """Put a draft on the lab in the order of its Ripple, and tell what happened meanwhile. Raises `NoLab` when the flows cannot be had, or when the lab goes.

    What was other than said is in `faults`: sessions that restarted and devices that went down without a word, and silences longer than what is said of
    the switches on the way.
    """
    lab, before = asking.lab, asking.compiled
    for node in lab.nodes.values():
        speak_up(node)
    touched = {one.name for one in what.switches}
    pairs = pairs_for(asking, touched)
    was = {key: standing(node, before.models[key]) for key, node in lab.nodes.items()}
    flowing = Flowing(asking, pairs, _rate(asking), MOST_SECONDS)
    with ThreadPoolExecutor(1) as pool:
        running = pool.submit(flowing.run)
        try:
            time.sleep(CALM)
            under_way = _Change(asking, before, after, what)
            for wave in order.waves:
                under_way.wave(wave, tell)
                asking.leave()
            time.sleep(AFTER)
        finally:
            flowing.stop()
        ran = running.result()
    return _told(under_way, ran, pairs, was)


def _rate(asking: Asking) -> int:
    """Packets a second of each flow: half of a drill's, since it lasts minutes and must not be what keeps the switches busy."""
    return asking.lab.ground.rate // 2


def _told(one: _Change, ran: Flowed, pairs: Sequence[tuple[Station, Station]], was: Mapping[str, Standing]) -> Drilled:
    """What came of a change that is through."""
    asking, lab, what = one.asking, one.asking.lab, one.what
    late = ran.began - one.began
    waves = tuple(
        WaveDone(each.number, each.switches, round(each.at - late, 2), round(each.until - late, 2), each.settled)
        for each in one.waves
    )
    begins, ends = (waves[0].at, waves[-1].until) if waves else (CALM, CALM)
    flows = tuple(
        flow_of(pair, told, begins - 0.1, ends + AFTER, _most(one, pair, waves))
        for pair, told in zip(pairs, ran.flows, strict=True)
    )
    now = {
        key: standing(node, (one.after if key in one.after.models else one.before).models[key])
        for key, node in lab.nodes.items()
    }
    restarted = set[str]().union(*(was[key].restarted(now[key]) for key in was if key in one.after.models))
    stands = not one.missing()
    faults = [*one.trouble, *_unsaid(one, restarted, was, now)]
    faults += [
        f"{flow.one} → {flow.other} heard nothing for {flow.longest:.2f} s; {flow.most:.1f} s at most were said"
        for flow in flows
        if flow.longest > flow.most
    ]
    names = tuple(dict.fromkeys(name for wave in waves for name in wave.switches))
    words = f"the change is put on {len(names)} switch{'es' if len(names) != 1 else ''} in {len(waves)} wave{'s' if len(waves) != 1 else ''}"
    seconds = ends + AFTER
    return Drilled(
        ID, words, names, begins, ends, round(seconds, 2), _rate(asking), ran.late, flows, (),
        tuple(said_by(asking, ran.began, begins, seconds)), round(ends - begins, 1), stands, tuple(faults), waves,
        tuple(sorted(restarted)), len(what.sessions),
    )  # fmt: skip


def _unsaid(
    one: _Change, restarted: Collection[str], was: Mapping[str, Standing], now: Mapping[str, Standing]
) -> Iterator[str]:
    """What happened and was not said: sessions that restarted, devices that went down or were made anew."""
    there = {id for model in one.after.models.values() for id in sessions_of(model).every}
    for id in sorted(set(restarted) & there - set(one.what.sessions)):
        yield f"the session {id} restarted, which was not said"
    for key, before in was.items():
        told = one.what.by_key.get(key)
        if told is not None and (told.falls or told.state != "changed"):
            continue
        name = str(one.asking.lab.nodes[key].switch.name)
        spoken = [*_spoken(told), *one.moved.get(name, ()), *_dark(one, key), *_carried(one, key, told)]
        for device in sorted(before.went_down(now[key])):
            if not any(device in words for words in spoken):
                yield f"{device} of {name} went down or was made anew, which was not said"


def _dark(one: _Change, key: str) -> Iterator[str]:
    """The ports of a switch whose cables lead to one that starts afresh, or that goes."""
    restarts = {
        each.name for each in one.what.switches if each.effect.rank >= Effect.REBOOT.rank or each.state == "gone"
    }
    for compiled in (one.before, one.after):
        model = compiled.models.get(key)
        yield from (str(port.label) for port in (model.fabric_ports if model else ()) if port.peer in restarts)


def _carried(one: _Change, key: str, told: SwitchRipple | None) -> Iterator[str]:
    """The devices of segments and VRFs that are said to stop for a moment."""
    model = one.before.models.get(key)
    if model is None or told is None:
        return
    for segment in model.segments:
        if f"segment {segment.label}" in told.devices:
            yield from (str(segment.svi), str(segment.vxlan))
    for vrf in model.vrfs:
        if f"VRF {vrf.label}" in told.devices:
            yield from (str(vrf.svi), str(vrf.vxlan))


def _spoken(told: SwitchRipple | None) -> list[str]:
    """Every device that a line of a switch is about, where the line takes something away for a moment or for good."""
    if told is None:
        return []
    words = [*told.devices, *told.links]
    for line in told.changes:
        if line.effect.touches or line.effect is Effect.GONE:
            words += [line.about.get("device", ""), line.before, line.after]
    return words


def _most(one: _Change, pair: tuple[Station, Station], waves: Sequence[WaveDone]) -> float:
    """The longest silence of a flow that the Ripple allows: none where nobody notices; while a leaf is changed that alone serves one of its hosts; else as long
    as it takes to notice that a way is gone."""
    notices = {
        str(each.name): each
        for each in one.what.switches
        if each.effect.touches or each.effect is Effect.GONE or each.state == "gone"
    }
    if not notices:
        return 0.0
    alone = {leaf for end in pair if set(end.leaves) <= notices.keys() for leaf in end.leaves}
    if alone:
        return sum(wave.until - wave.at for wave in waves if alone & set(wave.switches)) + AGAIN
    return detection(one.before, Loss(ID, "")) + SLACK + SETTLE
