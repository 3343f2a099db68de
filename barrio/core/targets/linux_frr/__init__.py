"""linux-frr: a Linux switch with FRRouting, ifupdown2's interfaces file, and Debian's own services."""

from functools import cache
from importlib.resources import files

from barrio.core.brief.reader import load
from barrio.core.render.effects import Effects, effects_of
from barrio.core.render.target import FileKind, Target, Templates
from barrio.core.targets.linux_frr.readback import read_back
from barrio.core.targets.linux_frr.readback.facts import facts_of
from barrio.core.targets.linux_frr.readback.lockout import cut_off
from barrio.core.targets.linux_frr.refusals import refused
from barrio.core.targets.linux_frr.words import CONDITIONS


@cache
def effects() -> Effects:
    """What a changed line of these files does to traffic: the table in `effects.yaml`."""
    return effects_of(load(files(__name__).joinpath("effects.yaml").read_text())[0]["effects"])


LINUX_FRR = Target(
    name="linux-frr",
    title="Linux with FRRouting and ifupdown2",
    templates=Templates("barrio.core.targets.linux_frr"),
    files=(
        FileKind("etc/frr/frr.conf", "frr.conf.j2", "routing"),
        FileKind("etc/network/interfaces", "interfaces.j2", "interfaces"),
        FileKind("etc/frr/daemons", "daemons.j2", "routing"),
        FileKind("etc/frr/vtysh.conf", "vtysh.conf.j2", "routing"),
        FileKind("etc/hostname", "hostname.j2", "system"),
        FileKind("etc/hosts", "hosts.j2", "system"),
        FileKind("etc/lldpd.d/fabric.conf", "lldpd.conf.j2", "system"),
        FileKind("etc/chrony/chrony.conf", "chrony.conf.j2", "services"),
        FileKind("etc/resolv.conf", "resolv.conf.j2", "services"),
        FileKind("etc/rsyslog.d/40-fabric.conf", "rsyslog.conf.j2", "services", needs="syslog"),
        FileKind("etc/tmpfiles.d/clock.conf", "clock.conf.j2", "services", needs="time_zone"),
        FileKind("etc/systemd/system.conf.d/fabric.conf", "watchdog.conf.j2", "services", needs="watchdog"),
        FileKind("etc/fabric/packages", "packages.j2", "system", needs="packages"),
        FileKind("etc/snmp/snmpd.conf", "snmpd.conf.j2", "services", needs="snmp"),
        FileKind("etc/sysctl.d/90-fabric.conf", "sysctl.conf.j2", "system"),
        FileKind("etc/nftables.conf", "nftables.conf.j2", "system"),
        FileKind("usr/local/sbin/fabric-guard", "fabric-guard.j2", "system", needs="edge_ports", mode=0o755),
        FileKind("etc/systemd/system/fabric-guard.service", "fabric-guard.service.j2", "system", needs="edge_ports"),
        FileKind("etc/systemd/system/fabric-relay-{relay}.service", "relay.service.j2", "services"),
        FileKind("etc/ssh/sshd_config", "sshd_config.j2", "access"),
        FileKind("etc/ssh/authorized_keys/{user}", "authorized_keys.j2", "access"),
        FileKind("etc/issue.net", "issue.net.j2", "access", needs="banner"),
        FileKind("etc/sudoers.d/fabric", "sudoers.j2", "access", needs="users", mode=0o440),
        FileKind("etc/sysusers.d/fabric.conf", "sysusers.conf.j2", "access", needs="users"),
        FileKind("etc/tmpfiles.d/fabric.conf", "tmpfiles.conf.j2", "access", needs="users"),
    ),
    refused=refused,
    facts=facts_of,
    cut_off=cut_off,
    read_back=read_back,
    conditions=CONDITIONS,
    effects=effects,
)
