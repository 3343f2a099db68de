"""What a change does: lines by meaning, effects by rule, sessions by both ends, and an order that is safe."""

from __future__ import annotations

from itertools import combinations
from typing import Any

import hypothesis.strategies as st
import pytest
from hypothesis import given

from barrio.core import Compiled, Stock, compile
from barrio.core.brief.document import apply, read
from barrio.core.catalogue.made import MADE
from barrio.core.compare.groups import alike
from barrio.core.compare.left import left_in
from barrio.core.compare.lines import LineChange, Reader
from barrio.core.compare.order import order
from barrio.core.compare.ripple import Ripple, ripple
from barrio.core.edition import inputs_of, read_inputs
from barrio.core.ledger.wanted import Holdings
from barrio.core.office import SHIPPED
from barrio.core.render.effects import Effect, Effects, FileEffects
from barrio.core.sizing.classes import leaf_classes
from barrio.core.sizing.loss import losses
from barrio.core.targets.linux_frr import effects
from tests.conftest import EXAMPLES, tries

MARLIN, PELICAN, TERN = (path.read_text() for path in EXAMPLES)


def changed(text: str, *edits: tuple[str, Any]) -> tuple[Compiled, Compiled, Ripple]:
    """A fabric before and after some edits, and what lies between."""
    before = compile(read(text).brief)
    stock = Stock(before.pools, Holdings(held=before.allocation.numbers))
    after = compile(read(apply(text, list(edits))).brief, stock)
    return before, after, ripple(before, after)


def lines(path: str, before: str, after: str) -> list[LineChange]:
    return Reader(effects()).changes(path, before, after)


FRR = "etc/frr/frr.conf"
BGP = "router bgp 65001\n bgp router-id 10.0.0.1\n neighbor 10.0.0.2 remote-as 65000\n neighbor 10.0.0.2 description up\nexit\n!\n"


def test_lines_that_only_move_are_no_change() -> None:
    swapped = BGP.replace(
        " neighbor 10.0.0.2 remote-as 65000\n neighbor 10.0.0.2 description up\n",
        " neighbor 10.0.0.2 description up\n neighbor 10.0.0.2 remote-as 65000\n",
    )
    assert swapped != BGP and lines(FRR, BGP, swapped) == []


def test_a_line_that_says_something_else_of_the_same_thing_is_one_change() -> None:
    (one,) = lines(FRR, BGP, BGP.replace("remote-as 65000", "remote-as 65009"))
    assert one.words == "neighbor 10.0.0.2 remote-as 65000 → neighbor 10.0.0.2 remote-as 65009"
    assert (one.effect, one.within, one.source) == (Effect.SESSION, ("router bgp 65001",), "RFC 4271, 6.2")


def test_a_block_whose_own_line_changes_is_told_by_that_line_alone() -> None:
    (one,) = lines(FRR, BGP, BGP.replace("router bgp 65001", "router bgp 65002"))
    assert (one.before, one.after, one.effect) == ("router bgp 65001", "router bgp 65002", Effect.DAEMON)


def test_what_comes_with_a_block_is_new_and_what_goes_with_one_is_gone() -> None:
    assert {one.effect for one in lines(FRR, "hostname a\n", "hostname a\n" + BGP)} == {Effect.NEW}
    assert {one.effect for one in lines(FRR, "hostname a\n" + BGP, "hostname a\n")} == {Effect.GONE}


@pytest.mark.parametrize(
    ("path", "before", "after"),
    [
        (FRR, BGP, BGP.replace("exit\n", " frobnicate\nexit\n")),
        (FRR, BGP, BGP + "router frob 7\n twiddle\nexit\n"),
        ("etc/nobody.conf", "a\n", "b\n"),
        ("etc/sysctl.d/90-fabric.conf", "", "kernel.panic = 7\n"),
        ("etc/nftables.conf", "x\n# added:\n# end of what was added\n", "x\n# added:\ntcp dport 22 drop\n# end of what was added\n"),
    ],
)  # fmt: skip
def test_a_line_that_no_rule_knows_counts_as_the_worst(path: str, before: str, after: str) -> None:
    assert Effect.UNKNOWN in {one.effect for one in lines(path, before, after)}


def test_every_line_that_the_examples_print_has_a_rule() -> None:
    """So that nothing that Barrio itself writes ever counts as unknown, whichever line of it changes."""
    unknown = set()
    for text in (MARLIN, PELICAN, TERN):
        compiled = compile(read(text).brief)
        for switch in compiled.staged:
            for path, whole in compiled.files(switch.key).items():
                rows = whole.splitlines(keepends=True)
                for half in ("".join(rows[: len(rows) // 2]), ""):
                    unknown |= {(path, one.words) for one in lines(path, half, whole) if one.effect is Effect.UNKNOWN}
    assert unknown == set()


def test_a_list_that_grows_is_new_and_one_that_shrinks_takes_from_its_port() -> None:
    port = "auto h1\niface h1\n    bridge-vids 101 102\n"
    (grown,) = lines("etc/network/interfaces", port, port.replace("102", "102 103"))
    (shrunk,) = lines("etc/network/interfaces", port, port.replace(" 102", ""))
    assert (grown.effect, shrunk.effect) == (Effect.NEW, Effect.PORT)


def test_a_target_of_ones_own_says_what_its_lines_do() -> None:
    said = Effects((FileEffects.model_validate(
        {"file": "startup.cfg", "rules": [{"line": "clock {...}"}, {"line": "peer {session} as {_}", "within": ["routing"], "thing": True, "effect": "session"}]}
    ),))  # fmt: skip
    before = "clock one\nrouting\n  peer p1 as 7\nblink fast\n"
    after = "clock two\nrouting\n  peer p1 as 8\nblink slow\n"
    found = {one.words: one.effect for one in Reader(said).changes("startup.cfg", before, after)}
    assert found == {
        "clock one → clock two": Effect.NONE, "peer p1 as 7 → peer p1 as 8": Effect.SESSION, "blink fast": Effect.UNKNOWN, "blink slow": Effect.UNKNOWN,
    }  # fmt: skip


def test_changing_one_as_touches_only_the_switches_and_sessions_that_carry_it() -> None:
    before = compile(read(MARLIN).brief)
    held = {use: dict(keys) for use, keys in before.allocation.numbers.items()}
    low = max(taken.low for taken in held["asn"].values()) + 1
    held["asn"]["leaf/r03/a"] = held["asn"]["leaf/r03/a"]._replace(low=low)
    after = compile(read(MARLIN).brief, Stock(before.pools, Holdings(held=held)))
    found = ripple(before, after)
    assert {one.name for one in found.switches} == {"leaf-r03a", "spine-1", "spine-2", "spine-3", "spine-4"}
    assert {one.ends for one in found.sessions.values()} == {("leaf-r03a", f"spine-{n}") for n in range(1, 5)}
    assert len(found.sessions) == 16, "two links to each of four spines, in two families"
    waves = order(before, after, found)
    assert [len(wave.switches) for wave in waves.waves] == [5] and waves.unsafe == ()
    assert waves.waves[0].left.out == ("leaf-r03a",) and waves.least.bandwidth == 1


def test_what_would_take_two_that_stand_in_for_each_other_is_said_with_a_way_out() -> None:
    before, after, found = changed(TERN, ("underlay.asn", "per-pair"))
    (words,) = order(before, after, found).unsafe
    assert words.startswith("spine-1 and spine-2 lose all their sessions in the same moment") and "two drafts" in words


def test_a_new_rack_touches_nobody_who_was_there() -> None:
    before, after, found = changed(MARLIN, ("racks[0].racks", "r01..r13"))
    new = {one.name for one in found.switches if one.state == "new"}
    assert new == {"leaf-r13a", "leaf-r13b"} and not found.sessions
    assert {one.effect for one in found.switches} == {Effect.NEW}
    waves = order(before, after, found).waves
    assert set(waves[0].switches) == new and [wave.switches for wave in waves[1:]] == [
        (f"spine-{n}",) for n in (1, 2, 3, 4)
    ]


def test_like_changes_are_told_once() -> None:
    _, _, found = changed(MARLIN, ("underlay.bfd.interval", 100), ("underlay.mtu", 9100))
    bfd, mtu_spine, *_ = sorted(alike(found), key=lambda one: (one.path, -len(one.switches)))
    assert (len(bfd.switches), bfd.same, [line.after for line in bfd.lines]) == (
        30, True, ["receive-interval 100", "transmit-interval 100"],
    )  # fmt: skip
    assert mtu_spine.path == "etc/network/interfaces"
    assert sum(len(one.switches) for one in alike(found) if one.path == mtu_spine.path) == 30


WORDS = st.lists(
    st.sampled_from(
        [
            ("underlay.bfd.interval", 100), ("underlay.mtu", 9100), ("services.ntp", ["10.90.0.23"]), ("racks[0].racks", "r01..r13"),
            ("racks[0].racks", "r01..r14"), ("underlay.max_paths", 2), ("overlay.storm", 300), ("services.banner", "Keep out"),
        ]
    ),
    min_size=1, max_size=4, unique_by=lambda one: one[0],
)  # fmt: skip


@tries(30)
@given(edits=WORDS)
def test_no_wave_takes_two_of_what_stand_in_for_each_other_and_none_is_left_out(edits: list[tuple[str, Any]]) -> None:
    before, after, found = changed(MARLIN, *edits)
    made = order(before, after, found)
    names = [name for wave in made.waves for name in wave.switches]
    assert sorted(names) == sorted(one.name for one in found.switches), "each switch once"
    new = {one.name for one in found.switches if one.state == "new"}
    gone = {one.name for one in found.switches if one.state == "gone"}
    for wave in made.waves:
        old = set(wave.switches) - new - gone
        assert sum(name.startswith("spine") for name in old) <= 1
        racks = [name[:-1] for name in old if not name.startswith("spine")]
        assert len(racks) == len(set(racks)), "two leaves of a rack"
    changing = {one.name for one in found.switches if one.state == "changed"}
    if "border-b01a" in changing:
        stays = [wave for wave in made.waves if set(wave.switches) - gone]
        assert stays[-1].switches == ("border-b01a",), "the first border leaf comes last"
    assert made.exact and made.bound == len(made.waves)


def test_what_is_left_without_one_spine_is_what_the_sums_say() -> None:
    for text in (MARLIN, TERN):
        before, _, found = changed(text, ("underlay.bfd.interval", 100))
        said = losses(before.structure, leaf_classes(before.structure))[0]
        rates = left_in(before)
        worst = []
        for one in found.switches:
            if one.role == "spine":
                falls = type(one)(**{name: getattr(one, name) for name in one.__slots__} | {"effect": Effect.DAEMON})
                worst.append(rates.without([falls], found).bandwidth)
        assert min(worst) == pytest.approx(said.worst_bandwidth)


def test_nothing_lies_between_a_fabric_and_itself_and_the_way_back_is_as_long_as_the_way() -> None:
    before, after, found = changed(MARLIN, ("underlay.mtu", 9100), ("services.ntp", ["10.90.0.23"]))
    assert ripple(before, before).switches == () == ripple(after, after).switches
    back = ripple(after, before)
    assert (back.lines, back.effect, len(back.switches)) == (found.lines[::-1], found.effect, len(found.switches))


@pytest.mark.parametrize("text", [MARLIN, PELICAN, TERN])
def test_the_inputs_of_an_edition_compile_to_the_same_bytes(text: str) -> None:
    compiled = compile(read(text).brief)
    kept = inputs_of(text, compiled, {}).text()
    again = read_inputs(kept).compiled()
    assert read_inputs(kept).text() == kept
    for one in combinations([switch.key for switch in compiled.staged], 1):
        assert again.files(one[0]) == compiled.files(one[0])


def test_every_target_that_ships_has_rules_or_says_that_it_has_none() -> None:
    assert [name for name, target in SHIPPED.items() if not target.effects().files] == ["ietf-json"]


def test_cables_with_other_ends_take_their_sessions_at_both_ends() -> None:
    before = compile(read(TERN).brief)
    held = {use: dict(keys) for use, keys in before.allocation.numbers.items()}
    held["port.spine"]["leaf/t02/a~1"] = held["port.spine"]["leaf/t02/a~1"]._replace(low=20)
    found = ripple(before, compile(read(TERN).brief, Stock(before.pools, Holdings(held=held))))
    assert {one.ends for one in found.sessions.values()} == {("leaf-t02", "spine-1"), ("leaf-t02", "spine-2")}
    by_name = {one.name: one for one in found.switches}
    assert by_name["spine-1"].links and by_name["spine-1"].effect is Effect.LINK
    assert found.counts["cables_moved"] == 2


def test_a_model_that_reads_breakouts_when_it_starts_reboots_for_one() -> None:
    before = compile(read(TERN).brief)
    stock = Stock(before.pools, Holdings(held=before.allocation.numbers))
    leaf = before.structure.by_key["leaf/t02/a"]
    said = read(apply(TERN, [("ports", {"leaf/t02/a": {"breakouts": {"u8": "4x25"}}})])).brief
    for reboots in (["breakout"], []):
        catalogue = MADE.with_models([leaf.type.model_copy(update={"reboots_for": reboots})])
        found = ripple(compile(read(TERN).brief, stock, catalogue), compile(said, stock, catalogue))
        assert [one.name for one in found.switches if one.effect is Effect.REBOOT] == ["leaf-t02"] * bool(reboots)
        if reboots:
            (why,) = [line for line in found.by_key["leaf/t02/a"].changes if line.effect is Effect.REBOOT]
            assert (why.after, why.source) == ("u8 broken out otherwise", "catalogue")
            assert {one.ends[0] for one in found.sessions.values()} == {"leaf-t02"}


def test_a_gateway_with_another_address_leaves_its_segment_without_one_for_a_moment() -> None:
    _, _, found = changed(TERN, ("segments.tape-robots.v4", "10.72.11.0/24"))
    assert found.gateways == {"tape-robots": ["leaf-t01", "leaf-t02", "leaf-t03", "leaf-t04"]}
    _, _, same = changed(TERN, ("underlay.mtu", 9100))
    assert same.gateways == {}
