"""What a switch shares with others of its fabric, and where each of these values stands.

`Shares.of` answers for one switch; switches for which the same rungs speak are given one and the same object.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any, TypeVar

from barrio.core.brief.additions import Additions
from barrio.core.brief.model import Brief, Services
from barrio.core.ledger.pool import Family, Pool
from barrio.core.model.links import Numbers
from barrio.core.model.switch import Common, FilterEntry, SwitchModel, UserModel, VariableModel
from barrio.core.printed import Made, Prefix, UserName
from barrio.core.settings.known import VARIABLE
from barrio.core.settings.ladder import Ladder
from barrio.core.settings.resolved import Resolved, setting
from barrio.core.structure.parts import Switch

T = TypeVar("T")
Origins = Mapping[str, Resolved[Any]]
"""By field of `Common`: the setting that it was made of."""


class Shares:
    """The shared values of every switch. Switches for which the same rungs of the Ladder speak are given one and the same."""

    def __init__(self, ladder: Ladder, pools: Mapping[str, Pool], numbers: Numbers) -> None:
        self._ladder, self._pools, self._numbers = ladder, pools, numbers
        self._known: dict[tuple[str, ...], tuple[Common, Origins]] = {}
        self._alike: dict[tuple[int, int], bool] = {}

    def of(self, switch: Switch) -> tuple[Common, Origins]:
        """The values that this switch shares, and their origins."""
        rungs = self._ladder.speaking(switch.standing)
        if rungs not in self._known:
            origins: dict[str, Resolved[Any]] = {}
            self._known[rungs] = self._made(self._ladder.as_said(rungs), rungs, origins), origins
        return self._known[rungs]

    def put_into(self, model: SwitchModel, common: Common) -> SwitchModel:
        """A model with these shared values; the very same where they say what it has."""
        pair = id(model.common), id(common)
        if pair not in self._alike:
            self._alike[pair] = model.common == common
        return model if self._alike[pair] else replace(model, common=common)

    def _made(self, brief: Brief, rungs: tuple[str, ...], origins: dict[str, Resolved[Any]]) -> Common:
        def said(field: str, path: str, value: T) -> T:
            """A value made of the setting at `path`, which is written down as its origin."""
            name = ".".join(path.split(".")[:2])
            origins[field] = self._ladder.climb(rungs, name) if name in self._ladder.touched else setting(brief, path)
            return value

        underlay, overlay, services = brief.underlay, brief.overlay, brief.services
        numbers, pools = self._numbers, self._pools
        protocol, addressing = underlay.protocol, underlay.addressing
        readers, sources = (services.snmp.users, services.snmp.sources) if services.snmp else ([], [])
        v6 = addressing in ("ipv6", "dual")
        overlay_as = numbers["asn"].get("overlay") or numbers["asn"].get("fabric")
        several = any(group.leaves > 1 for group in brief.racks)
        own, both = brief.numbers.loopback, (brief.numbers.loopback, brief.numbers.vtep)
        return Common(
            variables=tuple(
                VariableModel(name, self._ladder.climb(rungs, f"{VARIABLE}{name}").value)
                for name in self._ladder.variables
            ),
            **{
                f"added_{place}": said(f"added_{place}", f"additions.{place}", tuple(getattr(brief.additions, place)))
                for place in Additions.model_fields
            },
            overlay_asn=overlay_as.low if overlay_as else None,
            users=said("users", "services.users", _users(services)),
            ntp=said("ntp", "services.ntp", tuple(services.ntp)),
            dns=said("dns", "services.dns", tuple(services.dns)),
            syslog=said("syslog", "services.syslog", tuple(services.syslog)),
            syslog_over=said("syslog_over", "services.syslog_over", Made(services.syslog_over)),
            syslog_port=said("syslog_port", "services.syslog_port", services.syslog_port),
            syslog_facility=said("syslog_facility", "services.syslog_facility", Made(services.syslog_facility)),
            packages=said("packages", "services.packages", tuple(services.packages)),
            lldp_interval=said("lldp_interval", "services.lldp_interval", services.lldp_interval),
            software=said("software", "services.software", services.software),
            ssh_ciphers=said("ssh_ciphers", "services.ssh_ciphers", tuple(map(Made, services.ssh_ciphers))),
            time_zone=said("time_zone", "services.time_zone", services.time_zone),
            watchdog=said("watchdog", "services.watchdog", services.watchdog),
            snmp=said("snmp", "services.snmp.users", tuple(readers)),
            filter_v4=_entries(pools, Family.V4, *both),
            filter_v6=_entries(pools, Family.V6, own) if v6 else (),
            fabric=said("fabric", "fabric", brief.fabric),
            title=said("title", "title", brief.title),
            domain=said("domain", "services.domain", services.domain),
            addressing=said("addressing", "underlay.addressing", addressing),
            extended_nexthop=said("extended_nexthop", "underlay.addressing", addressing in ("ipv6", "unnumbered")),
            two_families=said("two_families", "underlay.addressing", addressing == "dual"),
            unnumbered=said("unnumbered", "underlay.addressing", addressing == "unnumbered"),
            has_v4=said("has_v4", "underlay.addressing", addressing != "ipv6"),
            has_v6=said("has_v6", "underlay.addressing", v6),
            ebgp=said("ebgp", "underlay.protocol", protocol == "ebgp"),
            ospf=said("ospf", "underlay.protocol", protocol == "ospf"),
            isis=said("isis", "underlay.protocol", protocol == "isis"),
            ibgp_overlay=said("ibgp_overlay", "overlay.protocol", overlay.protocol == "ibgp"),
            mtu=said("mtu", "underlay.mtu", underlay.mtu),
            host_mtu=said("host_mtu", "overlay.host_mtu", overlay.host_mtu),
            gateway_mac=said("gateway_mac", "overlay.gateway_mac", overlay.gateway_mac),
            bfd_interval=said("bfd_interval", "underlay.bfd.interval", underlay.bfd.interval),
            bfd_multiplier=said("bfd_multiplier", "underlay.bfd.multiplier", underlay.bfd.multiplier),
            keepalive=said("keepalive", "underlay.timers.keepalive", underlay.timers.keepalive),
            hold=said("hold", "underlay.timers.hold", underlay.timers.hold),
            hello=said("hello", "underlay.hello", underlay.hello),
            dead=said("dead", "underlay.hello", 4 * underlay.hello),
            graceful_restart=said("graceful_restart", "underlay.graceful_restart", underlay.graceful_restart),
            shared_asn=said(
                "shared_asn", "underlay.asn", protocol == "ebgp" and underlay.asn != "per-leaf" and several
            ),
            sign_in_v4=said("sign_in_v4", "services.sign_in_from", _family(services.sign_in_from, six=False)),
            sign_in_v6=said("sign_in_v6", "services.sign_in_from", _family(services.sign_in_from, six=True)),
            banner=said("banner", "services.banner", services.banner),
            snmp_v4=said("snmp_v4", "services.snmp.sources", _family(sources, six=False)),
            snmp_v6=said("snmp_v6", "services.snmp.sources", _family(sources, six=True)),
            storm=said("storm", "overlay.storm", overlay.storm),
            startup_delay=said("startup_delay", "overlay.startup_delay", overlay.startup_delay),
            ttl_security=said("ttl_security", "underlay.ttl_security", underlay.ttl_security),
        )


def _users(services: Services) -> tuple[UserModel, ...]:
    return tuple(
        UserModel(
            UserName(name),
            user.role == "admin",
            tuple(user.keys),
            Made(user.until.replace("-", "")) if user.until else None,
            tuple(user.groups),
        )
        for name, user in sorted(services.users.items())
    )


def _entries(pools: Mapping[str, Pool], family: Family, *names: str) -> tuple[FilterEntry, ...]:
    ranges = {part.text for name in names for part in pools[name].of(family)}
    return tuple(FilterEntry(Prefix(text), Prefix(text)) for text in sorted(ranges))


def _family(prefixes: Sequence[Prefix], six: bool) -> tuple[Prefix, ...]:
    return tuple(prefix for prefix in prefixes if (":" in prefix) is six)
