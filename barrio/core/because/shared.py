"""Why the values that all switches of a fabric share are what they are."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from barrio.core.because.chain import Step, ledger_step, resolved_step, rule_step
from barrio.core.because.place import LINKS, Place, numbers_step, rule
from barrio.core.brief.additions import PLACES
from barrio.core.settings.known import value_in

_COMMON = {
    "fabric": "The fabric is called {value}",
    "title": "The fabric is titled {value}",
    "domain": "The domain is {value}",
    "addressing": "{links}",
    "ebgp": "The underlay is {said}",
    "ospf": "The underlay is {said}",
    "isis": "The underlay is {said}",
    "ibgp_overlay": "The overlay is {said}",
    "has_v4": "{links}",
    "has_v6": "{links}",
    "hello": "A hello every {value} s",
    "dead": "A hello every {hello} s, and a neighbour is dead after four",
    "graceful_restart": "Graceful restart is on: {value}",
    "extended_nexthop": "{links}",
    "two_families": "{links}",
    "unnumbered": "{links}",
    "mtu": "Fabric links carry {value} bytes",
    "host_mtu": "Hosts may send {value} bytes",
    "gateway_mac": "Every gateway answers with {value}",
    "bfd_interval": "A BFD packet every {value} ms",
    "bfd_multiplier": "{value} missed packets end a session",
    "keepalive": "BGP keepalive every {value} s",
    "hold": "BGP hold time {value} s",
    "shared_asn": "The ASN plan is {said}",
    "users": "The brief names who may sign in",
    "ntp": "The brief names the time servers",
    "dns": "The brief names the name servers",
    "syslog": "The brief names the log servers",
    "syslog_over": "Logs travel by {value}",
    "syslog_port": "Log servers listen on port {value}",
    "syslog_facility": "The routing daemons log as {value}",
    "packages": "The brief names packages beside those that are needed",
    "lldp_interval": "Neighbours are told every {value} s who is there",
    "software": "The switch is meant to run {value}",
    "ssh_ciphers": "The brief names what alone SSH may encrypt with",
    "time_zone": "Logs count in the time of {value}",
    "watchdog": "Hardware restarts a switch that hangs for {value} s",
    "banner": "The brief gives the words shown before sign-in",
    "snmp": "The brief names who may read by SNMP",
    "storm": "A host port takes {value} broadcast and multicast frames a second",
    "startup_delay": "A leaf that starts keeps its hosts' links down for {value} s",
    "ttl_security": "Fabric sessions take packets from the far end of the cable only: {value}",
    "sign_in_v4": "The brief says from where people may sign in",
    "sign_in_v6": "The brief says from where people may sign in",
    "snmp_v4": "The brief says from where SNMP may be read",
    "snmp_v6": "The brief says from where SNMP may be read",
}
_COMMON |= {f"added_{place}": f"The brief adds lines {where}" for place, (where, _) in PLACES.items()}
_SOURCES = {
    "mtu": ("VXLAN adds 50 bytes to what hosts send", "RFC 7348, 5"),
    "host_mtu": ("VXLAN adds 50 bytes, which fabric links have room for", "RFC 7348, 5"),
    "gateway_mac": ("One gateway MAC on all leaves, so that a host may move", "RFC 9135, 4.1"),
    "bfd_interval": ("BFD finds a dead link before BGP's hold time does", "RFC 5880; RFC 5882, 4"),
    "bfd_multiplier": ("Detection time is interval × multiplier", "RFC 5880, 6.8.4"),
    "keepalive": ("A third of the hold time or less", "RFC 4271, 4.4"),
    "hold": ("Both ends use the lower of what they propose", "RFC 4271, 4.2"),
    "ebgp": ("eBGP on every link carries the underlay, with no other protocol beside it", "RFC 7938, 5"),
    "ospf": ("OSPF finds the shortest paths between loopbacks, and BGP runs over them", "RFC 2328"),
    "isis": ("IS-IS finds the shortest paths between loopbacks, and BGP runs over them", "RFC 1195"),
    "ibgp_overlay": ("Reflectors tell every leaf what the others have", "RFC 4456, 2"),
    "dead": ("A neighbour that is not heard for four hellos is gone", "RFC 2328, C.3"),
    "graceful_restart": ("A neighbour that restarts is forwarded to meanwhile", "RFC 4724"),
    "extended_nexthop": ("IPv4 routes with IPv6 next hops", "RFC 8950"),
}


_PROTOCOL = {"ebgp": "eBGP", "ibgp": "iBGP", "ospf": "OSPF", "isis": "IS-IS"}


@rule("common/overlay_asn")
def _overlay_asn(place: Place) -> Iterator[Step]:
    key = "overlay" if place.switch.common.ebgp else "fabric"
    yield ledger_step(place.compiled, "asn", key)
    yield rule_step("All of the overlay is one AS, so that reflectors can serve it", "RFC 4456, 3")
    yield place.brief("overlay.protocol", "The overlay is iBGP")
    yield numbers_step(place, "asn")


@rule("common/variables/{name}", "common/variables/{name}/label", "common/variables/{name}/value")
def _variable(place: Place) -> Iterator[Step]:
    ladder, name = place.compiled.ladder, place.words["name"]
    standing = place.compiled.structure.by_key[place.switch.key].standing
    said = ladder.climb(ladder.speaking(standing), f"vars.{name}")
    if said.path == f"vars.{name}" and ladder.of_fabric(said.path) is None:
        where = "" if name in ladder.brief.variables else "office."
        said = replace(said, path=f"{where}variables.{name}")
    yield resolved_step(place.document, said, f"{name} is {said.value}: {ladder.settings[f'vars.{name}'].words}")


@rule("common/{field}")
def _common(place: Place) -> Iterator[Step]:
    name = place.words["field"]
    common, said = place.switch.common, place.compiled.origins[place.switch.key][name]
    words = _COMMON[name].format(
        value=getattr(common, name),
        links=LINKS[common.addressing],
        said=_PROTOCOL.get(str(said.value), said.value),
        hello=common.hello,
    )
    if name in _SOURCES:
        yield rule_step(*_SOURCES[name])
    yield resolved_step(place.document, said, words)


@rule("common/(?P<kind>sign_in|snmp)_v[46]/{index}", "common/(?P<kind>snmp)/{index}")
def _sources(place: Place) -> Iterator[Step]:
    kind = place.path.split("/")[-2]
    if place.words["kind"] == "sign_in":
        prefix = getattr(place.switch.common, kind)[int(place.words["index"])]
        yield _item(place, kind, "services.sign_in_from", prefix, "The brief says from where people may sign in")
    elif _said_closer(place, kind):
        yield place.brief(_said_closer(place, kind), "The brief says who may read by SNMP, and from where")
    elif "_v" in place.path:
        yield place.brief("services.snmp.sources", "The brief says from where SNMP may be read")
    else:
        yield place.brief(f"services.snmp.users[{place.words['index']}]", "The brief names who may read by SNMP")


def _said_closer(place: Place, field: str) -> str:
    """Where a rung of the Ladder says a field of a switch in place of the whole fabric; nothing when none does."""
    path = place.compiled.origins[place.switch.key][field].path
    return path if path.startswith(("rungs.", "office.")) else ""


def _item(place: Place, field: str, path: str, item: object, title: str, beneath: str = "") -> Step:
    """Why an item of a list, or of a table, is there: it stands on the widest of the rungs whose values were added to each other."""
    said = place.compiled.origins[place.switch.key][field]
    at = said.path
    for value, where in said.upon:
        if item in value:
            at = where
    if at != path:
        return resolved_step(place.document, said, title) if at == said.path else place.brief(at, title)
    value = value_in(place.compiled.brief, path)
    return place.brief(
        f"{path}{f'[{list(value).index(item)}]' if isinstance(value, list) else f'.{item}'}{beneath}", title
    )


@rule("common/(?P<kind>ntp|dns|syslog|ssh_ciphers|packages)/{index}")
def _server(place: Place) -> Iterator[Step]:
    kind, index = place.words["kind"], place.words["index"]
    noun = {
        "ntp": "time server",
        "dns": "name server",
        "syslog": "log server",
        "ssh_ciphers": "cipher",
        "packages": "package",
    }[kind]
    server = getattr(place.switch.common, kind)[int(index)]
    yield _item(place, kind, f"services.{kind}", server, f"The brief names this {noun}")


@rule("common/added_{place}/{index}")
def _added(place: Place) -> Iterator[Step]:
    at = place.words["place"]
    line = getattr(place.switch.common, f"added_{at}")[int(place.words["index"])]
    yield _item(place, f"added_{at}", f"additions.{at}", line, f"The brief adds this line {PLACES[at][0]}")


@rule(
    "common/users/{user}",
    "common/users/{user}/label",
    "common/users/{user}/keys",
    "common/users/{user}/admin",
    "common/users/{user}/until",
    "common/users/{user}/keys/{index}",
    "common/users/{user}/groups",
    "common/users/{user}/groups/{index}",
)
def _user(place: Place) -> Iterator[Step]:
    user, index = place.words["user"], place.words.get("index")
    if "/groups" in place.path:
        yield _item(
            place, "users", "services.users", user, f"The brief puts {user} in this group", f".groups[{index or 0}]"
        )
        return
    title = f"The brief lets {user} sign in, by this key" if index else f"The brief lets {user} sign in"
    yield _item(place, "users", "services.users", user, title, f".keys[{index}]" if index else "")


@rule(
    "common/(?P<kind>filter_v[46])/(?P<prefix>.+)/prefix",
    "common/(?P<kind>filter_v[46])/(?P<prefix>[^/]+/\\d+)",
)
def _filter(place: Place) -> Iterator[Step]:
    prefix, brief = place.words["prefix"], place.compiled.brief
    yield rule_step("The underlay carries loopbacks and VTEP addresses, and nothing else", "RFC 7938, 5.2.3; RFC 8212")
    for name in ("loopback", "vtep"):
        pool = getattr(brief.numbers, name)
        if any(part.text == prefix for part in place.compiled.pools[pool].ranges):
            yield place.brief(f"numbers.{name}", f"{prefix} is a range of pool {pool}, which {name}s are drawn from")
            if pool in brief.pools:
                yield place.brief(f"pools.{pool}", f"The brief gives {pool} its ranges")
