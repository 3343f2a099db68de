"""Small claims of a brief: what they may say, whom they may be about, who plays them, and which packets are sent for them."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from barrio.core import Compiled, Refused, compile
from barrio.core.brief.claims import KINDS, Named, Reach, parse
from barrio.core.brief.document import read
from barrio.core.rehearse.claimed import asked, played, reaches_of, unheard
from barrio.core.rehearse.slices import Wish, choose
from barrio.core.rehearse.stations import Station, machines
from tests.core.test_rehearse import EXAMPLES

TERN = re.sub(r"^claims:\n(  - .*\n)+", "", (EXAMPLES / "tern.yaml").read_text(), flags=re.MULTILINE)


def tern(*claims: str) -> Compiled:
    lines = "".join(f"  - {one}\n" for one in claims)
    return compile(read(f"{TERN}\nclaims:\n{lines}").brief)


def stations(compiled: Compiled, keys: tuple[str, ...]) -> list[Station]:
    return [station for one in machines(compiled, keys)[0] for station in one.stations]


NAMES = st.from_regex(r"[a-z][a-z0-9-]{0,12}", fullmatch=True).filter(
    lambda name: name not in (*KINDS, "never", "reaches")
)


@given(
    NAMES,
    NAMES,
    st.booleans(),
    st.sampled_from(["", *KINDS]),
    st.sampled_from([0, 4, 6]),
    st.sampled_from([0, 64, 9000]),
)
def test_what_is_written_is_what_is_read(who: str, whom: str, never: bool, kind: str, family: int, size: int) -> None:
    words = f"{kind} {who} {'never ' * never}reaches {whom}{f' by IPv{family}' * bool(family)}{f' with {size} bytes' * bool(size)}".strip()
    assert parse(words) == Reach(words, Named(who, kind), Named(whom), never, None, family, size)
    assert parse(f"  {words.upper().replace(' ', '   ')} ").who == Named(who, kind)


@pytest.mark.parametrize(
    ("words", "fault"),
    [
        ("keeper talks to vault-01", "is no claim; say WHO reaches WHOM"),
        ("keeper reaches", "is no claim"),
        ("keeper reaches 10.72.0.0/16", "a prefix is not reached"),
        ("keeper reaches 10.72.1.1 by IPv6", "10.72.1.1 is not an IPv6 address"),
        ("keeper reaches vault-01 with 12 bytes", "say 64 to 9216"),
        ("keeper reaches vault-01 in hall north", "is no claim"),
    ],
)  # fmt: skip
def test_what_is_no_claim_is_refused_with_what_one_looks_like(words: str, fault: str) -> None:
    with pytest.raises(Refused, match=fault) as refused:
        read(f"{TERN}\nclaims: [{words}]\n")
    assert refused.value.faults[0].path == "claims[0]" and refused.value.faults[0].line > 0


@pytest.mark.parametrize(
    ("words", "code", "fault"),
    [
        (
            "keeper reaches valut-01",
            "claim.nobody",
            "There is no host, segment, VRF or switch valut-01. Is vault-01 meant?",
        ),
        ("vrf keeper reaches vault-01", "claim.nobody", "There is no VRF keeper."),
        ("keeper reaches vault-01 in vrf archiv", "claim.nobody", "Is archive meant?"),
    ],
)
def test_a_claim_about_somebody_whom_the_brief_has_not_is_a_finding_with_the_way_out(
    words: str, code: str, fault: str
) -> None:
    [found] = [one for one in tern("keeper reaches vault-01", words).findings if one.code.startswith("claim")]
    assert (found.code, found.path) == (code, "claims[1]") and fault in found.message


def test_a_name_of_two_things_asks_which() -> None:
    text = TERN.replace("  tape-robots:\n", "  archive: {vrf: archive, v4: auto}\n  tape-robots:\n")
    found = compile(read(f"{text}\nclaims: [keeper reaches archive]\n").brief).findings
    assert [one.message for one in found if one.code == "claim.several"] == [
        "archive is a segment and a VRF. Say which, such as “segment archive”."
    ]
    found = compile(read(f"{text}\nclaims: [keeper reaches segment archive]\n").brief).findings
    assert not [one for one in found if one.code.startswith("claim")]


def test_hosts_that_claims_name_are_in_the_slice_and_play() -> None:
    plain = compile(read(TERN).brief)
    far = [
        one
        for one in plain.attachments.hosts
        if one not in {each.host for each in machines(plain, choose(plain, Wish(most=4)).keys)[0]}
    ]
    compiled = tern(*(f"keeper never reaches {one}" for one in far[:6]))
    playing, _ = machines(compiled, choose(compiled, Wish(whole=True)).keys)
    assert {"keeper", *far[:6]} <= {one.host for one in playing}


def test_each_is_asked_of_each_and_nobody_of_themselves() -> None:
    compiled = tern(
        "vrf archive never reaches segment dish-feeds",
        "segment tape-robots reaches segment tape-robots by IPv4",
        "leaf-t01 reaches 10.90.0.21 in vrf mgmt",
    )
    keys = choose(compiled, Wish(whole=True)).keys
    here = stations(compiled, keys)
    first, second, third = (asked(compiled, one, here, keys) for one in reaches_of(compiled))
    left = {one for one in here if one.vrf == "archive"}
    right = {one for one in here if one.segment == "dish-feeds"}
    assert {(one.speaker.station, one.other) for one in first} == {(one, other) for one in left for other in right}
    robots = [one for one in here if one.segment == "tape-robots"]
    assert len(second) == len(robots) * (len(robots) - 1) and all(one.speaker.station != one.other for one in second)
    [only] = third
    assert (only.speaker.switch, only.speaker.vrf, only.to) == ("leaf/t01/a", "mgmt", "10.90.0.21")


def test_what_a_slice_has_nobody_for_is_said_and_not_taken_for_proven() -> None:
    compiled = tern("leaf-t04 reaches 10.90.0.21 in vrf mgmt", "robot-1 reaches robot-5")
    found = choose(compiled, Wish(racks=("t01",)))
    said = [words for words in found.cannot if "the claim" in words]
    assert len(said) == len(unheard(compiled, stations(compiled, found.keys), found.keys)) > 0
    assert any("leaf-t04 reaches 10.90.0.21 in vrf mgmt" in words for words in said)
    assert (
        unheard(
            compiled,
            stations(compiled, choose(compiled, Wish(whole=True)).keys),
            choose(compiled, Wish(whole=True)).keys,
        )
        == []
    )


def test_an_address_of_a_segment_is_lent_to_a_host_of_it_that_does_not_ask() -> None:
    compiled = tern("keeper reaches 10.72.10.77", "keeper reaches 10.72.10.1", "keeper reaches 192.0.2.9")
    here = stations(compiled, choose(compiled, Wish(whole=True)).keys)
    lent = played(compiled, here)
    assert list(lent) == ["10.72.10.77", "10.72.10.5"], (
        "a gateway has its own, nobody here has one of elsewhere; and the brief's DHCP server"
    )
    assert lent["10.72.10.5"].segment == "tape-robots"
    assert lent["10.72.10.77"].segment == "tape-robots" and lent["10.72.10.77"].host != "keeper"
