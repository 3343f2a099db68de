"""Drills: something of a running slice is taken away and brought back while flows run, and what happened is held against what the sums foretold."""

from __future__ import annotations

import json
import re
import time
from collections.abc import Iterator, Mapping, Sequence, Set
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import datetime
from itertools import permutations
from pathlib import Path
from typing import Any

from barrio.core.rehearse.losses import Between, Loss, detection, foretold
from barrio.core.rehearse.stations import Station, reaches
from barrio.rehearsal.asking.claims import Asking
from barrio.rehearsal.asking.control import adjacencies, sessions
from barrio.rehearsal.flowing import Flowing
from barrio.rehearsal.ground import Ground, NoGround, NoLab, wait_until
from barrio.rehearsal.node import Node
from barrio.rehearsal.taking import Taking, taking

MOST_FLOWS = 12
SLOWER = 4
"""Of so many packets a flow has one where a lab stands on several grounds, since a program carries those that go between."""
AWAY_AT = 2.0
"""Seconds of a drill after which something is taken away."""
SETTLE, SLACK, AFTER = 3.0, 1.0, 6.0
"""Seconds that a fabric is given to settle once everybody may know; that a silence may last beyond what BFD waits; and that are watched after the end."""
STARTS = 12.0
AGAIN = 10.0
"""Seconds that a switch takes to start, and until who was cut off is heard again once what was away is back: ports, sessions, and the addresses of hosts have to come first."""
PATIENCE = 120
MOST_LINES = 240


@dataclass(frozen=True, slots=True)
class Silence:
    """A time in which nothing of a flow came, in seconds since its drill began, and the packets that were lost in it."""

    begins: float
    ends: float
    lost: int


@dataclass(frozen=True, slots=True)
class Flow:
    """A flow between two hosts, so many packets a second: what was sent and what came, and when nothing did. `most` is the
    longest silence in seconds that was foretold while it is away, `longest` what it was; `back` is what was lost when it came back. `heard` is the share that came in each tenth of a second."""

    one: str
    other: str
    way: str
    sent: int
    received: int
    doubled: int
    silences: tuple[Silence, ...]
    heard: tuple[float, ...]
    most: float
    longest: float
    back: int

    @property
    def lost(self) -> int:
        return self.sent - self.received


@dataclass(frozen=True, slots=True)
class LeftBetween:
    """What was left between two leaves, beside what was foretold: next hops, and bandwidth in Gbit/s."""

    one: str
    other: str
    of_paths: int
    paths: int
    found: int
    bandwidth: int
    found_bandwidth: int


@dataclass(frozen=True, slots=True, order=True)
class Utterance:
    """What a daemon of a switch said, in seconds since the drill began."""

    at: float
    who: str
    words: str


@dataclass(frozen=True, slots=True)
class WaveDone:
    """A wave of a change: its number, the switches that were changed in it, from when to when (seconds since the drill began), and whether everything stood
    afterwards."""

    number: int
    switches: tuple[str, ...]
    at: float
    until: float
    settled: bool


@dataclass(frozen=True, slots=True)
class Drilled:
    """A drill: what was `away` from when to when (seconds since it began), how each flow fared, what was left between leaves, and what the daemons said
    meanwhile. `up_again` is how long sessions took to stand again, if they ever did (`stands`); `faults` are what was other than foretold. A change drill has its `waves`, and the
    sessions that `restarted`, where so many were `told`."""

    id: str
    words: str
    away: tuple[str, ...]
    at: float
    until: float
    seconds: float
    rate: int
    late: int
    flows: tuple[Flow, ...]
    left: tuple[LeftBetween, ...]
    said: tuple[Utterance, ...]
    up_again: float
    stands: bool
    faults: tuple[str, ...]
    waves: tuple[WaveDone, ...] = ()
    restarted: tuple[str, ...] = ()
    told: int = 0

    def brief(self) -> dict[str, Any]:
        """It in a few numbers: flows, those that lost something, packets lost, and the longest silence in seconds."""
        lost = [flow.lost for flow in self.flows]
        longest = max((flow.longest for flow in self.flows), default=0.0)
        return {"count": len(lost), "touched": sum(one > 0 for one in lost), "lost": sum(lost), "longest": longest}


def drill(asking: Asking, loss: Loss) -> Drilled:
    """Take something away while flows run, and bring it back. Raises `NoLab` when the flows cannot be had."""
    lab = asking.lab
    for node in lab.nodes.values():
        speak_up(node)
    pairs = pairs_for(asking, {asking.names[key] for key in loss.switches})
    look = AWAY_AT + detection(asking.compiled, loss) + SETTLE
    until = look + 1.5
    seconds = until + AFTER + _starts(asking, loss)
    how = taking(asking, loss)
    tables = {
        key: node.ground.folder / f"table-{time.monotonic_ns()}-{at}"
        for at, (key, node) in enumerate(lab.nodes.items())
    }
    rate = lab.ground.rate if len(lab.laid.grounds) == 1 else min(one.rate for one in lab.laid.grounds) // SLOWER
    flowing = Flowing(asking, pairs, rate, seconds, _acts(asking, how, tables, look, until))
    with ThreadPoolExecutor(1) as pool:
        running = pool.submit(flowing.run)
        trouble, taken, again = _meanwhile(how, until)
        try:
            ran = running.result()
        except NoLab:
            for ground, words in how.back.items():
                ground.run("sh", "-c", words)
            raise
    at = AWAY_AT
    if again:
        at, until = (round(one - ran.began, 2) for one in (taken, again))
    began = time.monotonic()
    stands = wait_until(lambda: _stands(asking), PATIENCE)
    up_again = seconds - until + time.monotonic() - began
    deaf = _deaf(asking, pairs) if stands else []
    flows = tuple(
        flow_of(pair, one, at - 0.1, until, _foretold(asking, loss, pair, until - at))
        for pair, one in zip(pairs, ran.flows, strict=True)
    )
    left = tuple(_left(asking, foretold(asking.compiled, list(lab.nodes), loss), tables))
    return Drilled(
        loss.id, loss.words, tuple(asking.names[key] for key in loss.switches) or (loss.id,), at, until, seconds, rate,
        ran.late, flows, left, tuple(said_by(asking, ran.began, at, seconds)), up_again, stands, (*trouble, *deaf, *_not_again(stands), *_faults(loss, flows, left)),
    )  # fmt: skip


def _acts(
    asking: Asking, how: Taking, tables: Mapping[str, Path], look: float, until: float
) -> dict[Ground, list[dict[str, object]]]:
    """What is done on each ground, and when: something taken away, the kernels' tables looked at, and what was taken brought back."""
    found: dict[Ground, list[dict[str, object]]] = {}
    for ground in asking.lab.laid.grounds:
        dump = "; ".join(
            f"ip -n {node.namespace} -j route show table main > {tables[key]}"
            for key, node in asking.lab.nodes.items()
            if node.ground is ground
        )
        words = {"away": (AWAY_AT, how.away.get(ground)), "look": (look, dump), "back": (until, how.back.get(ground))}
        found[ground] = [{"at": at, "name": name, "run": ["sh", "-c", one]} for name, (at, one) in words.items() if one]
    return found


def _starts(asking: Asking, loss: Loss) -> float:
    """Seconds more that are watched where a daemon or a switch starts afresh: its files are read again, and the hosts of a pair wait until it has settled."""
    if loss.how not in ("killed", "restarted"):
        return 0.0
    model = asking.lab.models[loss.switches[0]]
    return STARTS + (model.common.startup_delay if model.pair and loss.how == "restarted" else 0)


def _meanwhile(how: Taking, until: float) -> tuple[list[str], float, float]:
    """Do what the lab does itself while flows run: what went wrong, when it was taken away and when it was brought back (seconds since 1970; 0 where commands
    do it)."""
    if how.brings == Taking().brings:
        return [], 0.0, 0.0
    began = time.monotonic()
    time.sleep(AWAY_AT)
    taken = time.time()
    how.takes()
    time.sleep(max(0.0, until - (time.monotonic() - began)))
    try:
        how.brings()
    except NoLab as error:
        return [f"it did not come again: {error}"], taken, time.time()
    return [], taken, time.time()


def _stands(asking: Asking) -> bool:
    """Whether every session and adjacency is up."""
    asking.leave()
    try:
        return all(one.holds for one in (*sessions(asking), *adjacencies(asking)))
    except NoGround:
        raise
    except NoLab:
        # A daemon that does not answer has no session that stands.
        return False


def _deaf(asking: Asking, pairs: Sequence[tuple[Station, Station]]) -> list[str]:
    """The flows whose hosts do not reach each other again, though all sessions stand."""
    left = list(pairs)

    def heard() -> bool:
        asked = [{"in": asking.lab.seats[one].namespace, "to": other.address(False)} for one, other in left]
        left[:] = [pair for pair, count in zip(left, asking.pings(asked, rounds=1), strict=True) if count <= 0]
        return not left

    wait_until(heard, PATIENCE / 2)
    return [f"{one.name} does not reach {other.name} again" for one, other in left]


def pairs_for(asking: Asking, gone: Set[str]) -> list[tuple[Station, Station]]:
    """Pairs of hosts for flows: of each way to reach one another some, those that touch what is away (switches by name) first."""
    groups: dict[tuple[object, ...], list[tuple[Station, Station]]] = {}
    for one, other in permutations(asking.stations, 2):
        if one.host != other.host and reaches(asking.compiled, one, other):
            touched = bool((set(one.leaves) | set(other.leaves)) & gone)
            key = (
                not touched,
                one.segment == other.segment,
                bool(set(one.leaves) & set(other.leaves)),
                one.vrf == other.vrf,
                len(one.leaves),
                len(other.leaves),
            )
            groups.setdefault(key, []).append((one, other))
    found: list[tuple[Station, Station]] = []
    turn = 0
    ordered = [groups[key] for key in sorted(groups, key=str)]
    while len(found) < MOST_FLOWS and any(len(one) > turn for one in ordered):
        # Far apart in each group, so that not all flows are of one host.
        found += [
            one[(turn * 7) % len(one)] for one in ordered if len(one) > turn and one[(turn * 7) % len(one)] not in found
        ]
        turn += 1
    return found[:MOST_FLOWS]


def flow_of(pair: tuple[Station, Station], said: dict[str, Any], at: float, until: float, most: float) -> Flow:
    """A flow as `flows.py` tells it. Silences count as those of what is away where they begin from `at` on and before `until`."""
    one, other = pair
    silences = tuple(Silence(float(low), float(high), int(count)) for low, high, count in said["silences"])
    away = [one.ends - one.begins for one in silences if at <= one.begins < until]
    way = ("one leaf" if set(one.leaves) & set(other.leaves) else "across") + (
        "" if one.segment == other.segment else ", routed"
    )
    return Flow(
        one.name, other.name, way, said["sent"], said["received"], said["doubled"], silences, tuple(said["heard"]), round(most, 2),
        round(max(away, default=0.0), 3), sum(one.lost for one in silences if one.begins >= until),
    )  # fmt: skip


def _foretold(asking: Asking, loss: Loss, pair: tuple[Station, Station], away: float) -> float:
    """The longest silence that a flow may have: none where nothing of its way is touched, until things are back where a host is cut off, else as long as
    it takes to notice."""
    one, other = pair
    gone = {asking.names[key] for key in loss.switches}
    # Where a daemon is killed the light stays, so that whoever hangs there goes on to send that way, on two leaves or on one.
    if any(set(end.leaves) & gone if loss.how == "killed" else set(end.leaves) <= gone for end in pair):
        return away + AGAIN + _starts(asking, loss)
    alone = len(one.leaves) == len(other.leaves) == 1 and one.leaves == other.leaves and one.segment == other.segment
    return 0.0 if alone or loss.how == "lossy" else detection(asking.compiled, loss) + SLACK


def _left(asking: Asking, told: Sequence[Between], tables: Mapping[str, Path]) -> Iterator[LeftBetween]:
    """What the kernels' tables had while it was away, beside what was foretold."""
    said = {key: asking.lab.nodes[key].ground.read(path) for key, path in tables.items()}
    hops = {key: _hops(text) for key, text in said.items() if text is not None}
    for one in told:
        vtep = str(asking.lab.models[one.other].vtep or asking.lab.models[one.other].router_id)
        count = hops.get(one.one, {}).get(vtep, 0)
        speed = one.of_bandwidth // one.of_paths if one.of_paths else 0
        yield LeftBetween(
            asking.names[one.one], asking.names[one.other], one.of_paths, one.paths, count, one.bandwidth, count * speed
        )


def _hops(text: str) -> dict[str, int]:
    found: dict[str, int] = {}
    for one in json.loads(text or "[]"):
        if one.get("type", "unicast") == "unicast":
            found[one["dst"].removesuffix("/32")] = len(one.get("nexthops", [one]))
    return found


def _not_again(stands: bool) -> list[str]:
    return (
        []
        if stands
        else [f"some sessions did not stand again {PATIENCE} s after it came back; nothing more is taken away"]
    )


def _faults(loss: Loss, flows: Sequence[Flow], left: Sequence[LeftBetween]) -> Iterator[str]:
    """What was other than foretold."""
    for flow in flows:
        if loss.how == "lossy":
            if flow.lost > flow.sent * 0.05:
                yield f"{flow.one} → {flow.other} lost {flow.lost} of {flow.sent:,} packets, where 1 % of one link was lost"
        elif flow.longest > flow.most:
            yield f"{flow.one} → {flow.other} heard nothing for {flow.longest:.2f} s; {flow.most:.1f} s at most were foretold"
        if flow.doubled > flow.sent * 0.01:
            yield f"{flow.one} → {flow.other} had {flow.doubled} packets twice"
    for one in left:
        if one.paths != one.found:
            yield f"{one.one} had {one.found} next hops to {one.other}; {one.paths} of {one.of_paths} were foretold"


def speak_up(node: Node) -> None:
    """Have the daemons say when they notice something, to the thousandth of a second; nothing of how they route changes."""
    words = [
        "configure terminal",
        "log timestamp precision 3",
        "debug bfd peer",
        "debug bgp neighbor-events",
    ]
    node.ask("vtysh", *(part for one in words for part in ("-c", one)))


_LINE = re.compile(r"^(\d{4}/\d\d/\d\d \d\d:\d\d:\d\d(?:\.\d+)?) (\w+): (?:\[[\w-]+\] ?)*(.*)")
_WORTH = re.compile(r"ADJCHANGE|state-change|NOTIFICATION|went from|Interface \S+ (?:up|down)|bfd_peer|End-of-RIB")


def said_by(asking: Asking, began: float, away: float, seconds: float) -> list[Utterance]:
    """What the daemons said in a drill, in the order of time."""
    found: list[Utterance] = []
    for node in asking.lab.nodes.values():
        done = node.ground.run(
            "sh", "-c", 'tail -c 300000 "$1" 2>/dev/null', "sh", str(node.run_folder / "frr" / "log")
        )
        for line in done.out.splitlines():
            told = _LINE.match(line)
            if told is None or not _WORTH.search(told[3]):
                continue
            stamp = told[1] if "." in told[1] else f"{told[1]}.0"
            at = datetime.strptime(stamp, "%Y/%m/%d %H:%M:%S.%f").timestamp() - began
            if away - 0.2 <= at <= seconds:
                found.append(Utterance(round(at, 3), str(node.switch.name), f"{told[2].lower()}d: {told[3][:200]}"))
    return sorted(found)[:MOST_LINES]
