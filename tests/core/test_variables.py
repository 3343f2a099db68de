"""What the office says for every fabric, and variables of one's own: typed, said on any rung, missing from the moment they are declared."""

from __future__ import annotations

from typing import Any

import pytest

from barrio.contained.process import Apart
from barrio.core import Compiled, Refused, compile
from barrio.core.because import of_value
from barrio.core.brief.document import Document, read
from barrio.core.bundle import inventory
from barrio.core.heights import climb_of
from barrio.core.office import Office, read_office
from barrio.rehearsal.parsers import parsers

OFFICE = """
settings:
  services.ntp: {value: [10.9.0.1], why: the harbour's clocks}
  services.syslog: [10.9.0.2]
  services.banner: {value: the office's, hold: the lawyers wrote it}
  vars.location: harbour
variables:
  location: {words: Where it stands}
  console: {kind: choice, choices: ["9600", "115200"], default: "9600", words: The console's speed}
  traps: {kind: table, columns: {to: address, level: number}, words: Who is told}
"""
BRIEF = """
fabric: quay
target: mine
racks: [{racks: r01..r02, leaves: 2, pairing: multihoming, model: cantera-l48}]
segments: {grid: {}}
vars: {console: "115200"}
variables:
  cabinet: {kind: number, least: 1, most: 99, required: true, words: The cabinet's number}
rungs:
  fabric: {services.syslog: {add: [10.9.0.3]}}
  rack r01: {services.ntp: [10.9.0.7], vars.cabinet: 7}
  rack r02: {vars.cabinet: 8, vars.traps: [{to: 10.9.0.8, level: 3}], vars.location: {value: pier, why: it was moved}}
"""
TEMPLATE = """{{ vars.location }} {{ vars.console }} {% if vars.cabinet %}{{ vars.cabinet + 1 }}{% endif %}

{% for trap in vars.traps or [] %}
tell {{ trap.to }} from {{ trap.level }}
{% endfor %}
"""
MINE = {"targets/mine/target.yaml": "target: mine\nfiles: [{path: a, template: a.j2}]\n", "targets/mine/a.j2": TEMPLATE}


def quay(brief: str = BRIEF, office: str = OFFICE, apart: Apart | None = None) -> tuple[Document, Compiled]:
    document = read(brief)
    return document, compile(document.brief, office=read_office({"office.yaml": office, **MINE}, apart))


def test_the_office_stands_between_barrio_and_the_fabric() -> None:
    document, compiled = quay()
    ntp, syslog = (
        {key: getattr(one.common, field) for key, one in compiled.models.items()} for field in ("ntp", "syslog")
    )
    assert ntp["spine/1"] == ("10.9.0.1",) and ntp["leaf/r01/a"] == ("10.9.0.7",)
    assert syslog["leaf/r02/b"] == ("10.9.0.2", "10.9.0.3"), "a fabric adds to what the office says"
    step = of_value(document, compiled, "switches/spine-1/common/ntp/0")[0]
    assert (step.kind, step.detail) == ("office", 'the office, "services.ntp", because the harbour\'s clocks')
    closer = of_value(document, compiled, "switches/leaf-r01a/common/ntp/0")[0]
    assert 'in place of 10.9.0.1 of office."services.ntp"' in closer.detail
    assert not [one for one in compiled.findings if one.code in ("services.ntp", "services.syslog")], (
        "it is named, by the office"
    )
    rungs = {one.rung: one for one in climb_of(compiled, "services.ntp").rungs}
    assert (rungs["office"].wins, rungs["office"].on, rungs["office"].beaten) == (
        len(ntp) - 2,
        len(ntp),
        {"rack r01": 2},
    )


def test_what_a_fabric_says_in_so_many_words_beats_the_office_even_where_it_is_barrio_s_own() -> None:
    _, compiled = quay(
        BRIEF + "services: {ntp: [], syslog_over: udp}\n",
        OFFICE.replace("settings:", "settings:\n  services.syslog_over: tcp"),
    )
    common = compiled.models["spine/1"].common
    assert common.ntp == () and common.syslog_over == "udp"


def test_what_the_office_holds_no_fabric_may_say_otherwise() -> None:
    for more in ("services: {banner: ours}\n", ""):
        brief = BRIEF + more if more else BRIEF.replace("rack r01: {", "rack r01: {services.banner: ours, ")
        with pytest.raises(Refused, match=r"services\.banner is held for every fabric \(the lawyers wrote it\)"):
            quay(brief)


def test_variables_climb_the_ladder_and_say_where_they_come_from() -> None:
    apart = Apart()
    document, compiled = quay(apart=apart)
    assert compiled.files("leaf/r01/a") == {"a": "harbour 115200 8\n"}
    assert compiled.files("leaf/r02/b") == {"a": "pier 115200 9\ntell 10.9.0.8 from 3\n"}
    lines = compiled.traced("leaf/r02/b", "a")
    apart.close()
    assert [line.text for line in lines] == ["pier 115200 9", "tell 10.9.0.8 from 3"]
    assert lines[1].spans[0].path == "switches/leaf-r02b/common/variables/traps/0/to"
    details = [
        of_value(document, compiled, f"switches/leaf-r02b/common/variables/{name}")[0].detail
        for name in ("location", "console", "cabinet")
    ]
    assert "because it was moved" in details[0] and "in place of harbour of office" in details[0]
    assert "vars.console" in details[1] and "in place of Barrio’s own 9600" in details[1]
    assert "rung" in details[2]


def test_a_required_variable_without_a_value_is_found_at_once_on_so_many_switches() -> None:
    _, compiled = quay(BRIEF.replace(", vars.cabinet: 7", ""))
    found = next(one for one in compiled.findings if one.code == "variable.missing")
    spines = sum(not one.is_leaf for one in compiled.models.values())
    assert f"{2 + spines} switches have none" in found.message and found.path == "variables.cabinet"


REFUSED: dict[str, tuple[str, str]] = {
    "cabinet: 7": ("cabinett: 7", "There is no setting vars.cabinett. Is vars.cabinet meant?"),
    "vars.cabinet: 7": ("vars.cabinet: 100", "vars.cabinet cannot be that: it is a number from 1 to 99."),
    "cabinet: 8": ("cabinet: eight", "eight is no whole number"),
    "to: 10.9.0.8": ("to: 10.9.0.800", "in row 1"),
    "level: 3": ("severity: 3", "row 1 has to have just the columns to, level"),
    'console: "115200"': ('console: "300"', "it is one of 9600, 115200"),
    "  cabinet: {kind": ("  location: {words: again}\n  cabinet: {kind", "The office declares location already"),
    "kind: number, least": ("kind: colour, least", "variables.cabinet.kind"),
    "kind: number, least: 1": ("kind: table, least: 1", "columns are for a table"),
}  # fmt: skip


@pytest.mark.parametrize("old", REFUSED)
def test_a_value_that_cannot_be_is_refused_where_it_stands(old: str) -> None:
    new, words = REFUSED[old]
    with pytest.raises(Refused) as caught:
        quay(BRIEF.replace(old, new))
    assert any(words in one.message for one in caught.value.faults), caught.value.faults


WRONG: dict[str, str] = {
    "settings: {service.ntp: []}": "There is no setting service.ntp. Is services.ntp meant?",
    "settings: {services.ntp: [x y]}": "neither an address nor a host name",
    "setings: {}": "setings",
    "variables: {Loc: {words: x}}": "variables",
    "settings: {vars.place: x}\nvariables: {location: {words: x}}": "There is no setting vars.place",
}


@pytest.mark.parametrize("text", WRONG)
def test_a_wrong_office_is_refused_with_its_line(text: str) -> None:
    with pytest.raises(Refused) as caught:
        read_office({"office.yaml": text})
    fault = caught.value.faults[0]
    assert WRONG[text] in fault.message and fault.path.startswith("office.yaml:") and fault.line


def test_nothing_of_the_office_is_rendered_anew_but_what_it_changes() -> None:
    document, before = quay(BRIEF.replace("target: mine", ""))
    before.render_all()

    def changed(office: Office) -> dict[str, Any]:
        after = compile(document.brief, previous=before, office=office)
        return {key: one for key, one in after.models.items() if one != before.models[key]}

    same = read_office({"office.yaml": OFFICE, **MINE})
    moved = read_office({"office.yaml": OFFICE.replace("vars.location: harbour", "vars.location: dock"), **MINE})
    assert not changed(same)
    assert set(changed(moved)) == {key for key in before.models if "/r02/" not in key}, "closer rungs keep theirs"


def test_files_go_by_the_software_that_a_switch_is_meant_to_run_which_the_inventory_tells() -> None:
    apart = Apart()
    manifest = "target: mine\nfiles:\n  - {path: old, template: a.j2, software: ['3.*', '4.0']}\n  - {path: new, template: a.j2, software: ['5.*']}\n  - {path: both, template: a.j2}\n"
    files = {
        "office.yaml": "settings: {services.software: '4.0'}",
        "targets/mine/target.yaml": manifest,
        "targets/mine/a.j2": "x\n",
    }
    brief = (
        BRIEF.replace("vars: {console", "vars: {").replace('vars: {: "115200"}', "").partition("variables:")[0]
        + "rungs: {rack r01: {services.software: '5.2'}}\n"
    )
    compiled = compile(read(brief).brief, office=read_office(files, apart))
    assert {key: list(compiled.files(key)) for key in ("leaf/r01/a", "leaf/r02/a")} == {
        "leaf/r01/a": ["new", "both"],
        "leaf/r02/a": ["old", "both"],
    }
    apart.close()
    leaves: Any = inventory(compiled)["roles"]
    assert {name: (one["software"], one["target"]) for name, one in leaves["leaf"].items() if name.endswith("a")} == {
        "leaf-r01a": ("5.2", "mine"), "leaf-r02a": ("4.0", "mine"),
    }  # fmt: skip


def test_what_a_rung_says_of_lldp_and_of_where_logs_go_is_in_the_files_of_its_switches() -> None:
    said = (
        "rungs: {rack r01: {services.lldp_interval: 30, services.syslog_port: 6514}}\nservices: {syslog: [10.9.0.2]}\n"
    )
    brief = BRIEF.replace("target: mine", "").replace('vars: {console: "115200"}', "").partition("variables:")[0] + said
    compiled = compile(read(brief).brief)
    for key, interval, port in (("leaf/r01/a", 30, 6514), ("leaf/r02/a", 10, 514)):
        files = compiled.files(key)
        assert (
            f"tx-interval {interval}\n" in files["etc/lldpd.d/fabric.conf"]
            and f'port="{port}"' in files["etc/rsyslog.d/40-fabric.conf"]
        )
    assert [one for one in compiled.read_back() if one.code != "readback.lockout"] == []


def test_what_a_fabric_s_switches_must_agree_on_the_office_says_for_all_and_a_rung_may_not() -> None:
    office = "settings: {underlay.mtu: 9000, underlay.timers: {keepalive: 5, hold: 15}, overlay.host_mtu: 8900, underlay.bfd: {interval: 500, multiplier: 4}}"
    brief = "fabric: quay\nracks: [{racks: r01, leaves: 2, model: cantera-l48}]\n"
    document, compiled = quay(brief, office)
    common = compiled.models["leaf/r01/a"].common
    assert (common.mtu, common.keepalive, common.hold, common.host_mtu, common.bfd_interval) == (9000, 5, 15, 8900, 500)
    assert "mtu 9000" in compiled.files("leaf/r01/a")["etc/network/interfaces"] and compiled.brief.underlay.mtu == 9000
    for field in ("mtu", "keepalive", "bfd_interval"):
        steps = of_value(document, compiled, f"switches/leaf-r01a/common/{field}")
        assert any(step.kind == "office" for step in steps), field
    _, closer = quay(brief + "underlay: {mtu: 9100}\n", office)
    assert (closer.models["spine/1"].common.mtu, closer.models["spine/1"].common.hold) == (9100, 15), (
        "a fabric says it for itself"
    )
    assert (
        compile(read(brief).brief, previous=closer, office=read_office({"office.yaml": office})).models
        == compiled.models
    )
    with pytest.raises(Refused, match=r"All switches of a fabric have to agree on underlay\.mtu"):
        quay(brief + "rungs: {rack r01: {underlay.mtu: 9050}}\n", office)
    with pytest.raises(Refused, match=r"fabric links need an MTU of 9050, and have 1600"):
        quay(brief, "settings: {underlay.mtu: 1600}")


def test_groups_packages_and_the_facility_are_in_their_files_and_say_why() -> None:
    said = """services:
  syslog_facility: local5
  packages: [libstdc++6]
  users: {ines: {groups: [watch], keys: [ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIEmZ7sT1mQ1xqk0f5m0b3Y9b8o4G2v0gkqfN6yH1cD2R]}}
rungs: {role spine: {services.packages: {add: [ethtool]}, services.syslog_facility: local6}}
"""
    document = read("fabric: quay\nracks: [{racks: r01, leaves: 2, model: cantera-l48}]\n" + said)
    compiled = compile(document.brief)
    leaf, spine = compiled.files("leaf/r01/a"), compiled.files("spine/1")
    assert "log facility local5\n" in leaf["etc/frr/frr.conf"] and "log facility local6\n" in spine["etc/frr/frr.conf"]
    assert leaf["etc/fabric/packages"].endswith("libstdc++6\n") and spine["etc/fabric/packages"].endswith(
        "libstdc++6\nethtool\n"
    )
    assert "m ines watch\n" in leaf["etc/sysusers.d/fabric.conf"] and compiled.read_back() == ()
    for path in ("users/ines/groups/0", "packages/0", "syslog_facility"):
        assert of_value(document, compiled, f"switches/leaf-r01a/common/{path}")[0].refs["line"], path
    with parsers() as programs:
        assert list(programs.complaints(leaf)) == []
    for bad in ("openssh-server-", "-y", "a b", "../x"):
        with pytest.raises(Refused, match="cannot be a package"):
            read(document.text.replace("libstdc++6", f'"{bad}"'))
