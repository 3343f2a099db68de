"""Systems outside the fabric, played by FRRouting with the ASN and addresses that the brief gives them."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from ipaddress import ip_address, ip_interface, ip_network

from barrio.core import Compiled
from barrio.core.model.switch import OutsideSession, SwitchModel
from barrio.core.rehearse.claimed import reaches_of
from barrio.rehearsal.ground import NoLab
from barrio.rehearsal.hosts import Host, Plugged


def plugs(compiled: Compiled, system: str, keys: Collection[str] | None = None) -> Plugged:
    """A machine on every port that leads to a system, from some switches or from all; each session has a device of its own."""
    ports = tuple(
        (model.name, port.label)
        for model in _of(compiled, keys)
        for port in model.outside_ports
        if port.system == system and not port.shut
    )
    return Plugged(ports, mtu=compiled.brief.overlay.host_mtu, bonded=False)


def _of(compiled: Compiled, keys: Collection[str] | None) -> Iterator[SwitchModel]:
    return (model for key, model in compiled.models.items() if keys is None or key in keys)


def sessions_of(
    compiled: Compiled, system: str, keys: Collection[str] | None = None
) -> list[tuple[SwitchModel, OutsideSession]]:
    found = _of(compiled, keys)
    return [(model, session) for model in found for session in model.outside if session.system == system]


UNASKED = ("192.0.2.0/24", "2001:db8:bad::/48")
"""What every system tells, and no fabric has asked it for."""


def tells(compiled: Compiled, system: str, keys: Collection[str] | None = None) -> list[str]:
    """What a system tells in a rehearsal: what it may, a default route where it is to give one, and prefixes that nobody asked it for."""
    found: dict[str, None] = {}
    for _, session in sessions_of(compiled, system, keys):
        families = (
            (session.neighbor_v4, session.accept_v4, "0.0.0.0/0", UNASKED[0]),
            (session.neighbor_v6, session.accept_v6, "::/0", UNASKED[1]),
        )
        for neighbor, accepted, default, unasked in families:
            if neighbor is not None:
                wanted = [str(one.prefix) for one in accepted] + [default] * session.default_in
                found |= dict.fromkeys([*wanted, unasked])
    return list(found)


def lent(compiled: Compiled, system: str, keys: Collection[str] | None = None) -> list[str]:
    """The addresses that claims ask for and that are beyond a system: in a prefix that it gives, or behind its default route; not those of segments."""
    found = sessions_of(compiled, system, keys)
    given = [ip_network(one.prefix) for _, session in found for one in (*session.accept_v4, *session.accept_v6)]
    default = any(session.default_in for _, session in found)
    mine = [
        ip_interface(str(gateway)).network
        for model in compiled.models.values() for one in model.segments for gateway in (one.gateway_v4, one.gateway_v6) if gateway
    ]  # fmt: skip
    wanted = [one.whom for one in reaches_of(compiled) if isinstance(one.whom, str) and not one.managed]
    return [
        one
        for one in dict.fromkeys(wanted)
        if not any(ip_address(one) in network for network in mine) and (default or any(ip_address(one) in network for network in given))
    ]  # fmt: skip


def devices(compiled: Compiled, system: str, keys: Collection[str] | None = None) -> list[str]:
    """What `ip` is told inside the machine: the tags and addresses of each session."""
    ports = plugs(compiled, system, keys).ports
    lines = [f"address add {one}/{128 if ':' in one else 32} dev lo" for one in lent(compiled, system, keys)]
    for model, session in sessions_of(compiled, system, keys):
        if (model.name, session.port) not in ports:
            continue
        device = f"p{ports.index((model.name, session.port))}"
        if session.vlan:
            lines.append(f"link add link {device} name {device}.{session.vlan} type vlan id {session.vlan}")
            device = f"{device}.{session.vlan}"
            lines.append(f"link set {device} up")
        for neighbor, ours in ((session.neighbor_v4, session.v4), (session.neighbor_v6, session.v6)):
            if neighbor and ours:
                lines.append(f"address add {neighbor}/{ours.split('/')[1]} dev {device}")
    return lines


def configuration(compiled: Compiled, system: str, tells: Sequence[str], keys: Collection[str] | None = None) -> str:
    """An frr.conf for the system, which tells the prefixes given."""
    asn = compiled.brief.outside[system].asn
    bfd = compiled.brief.underlay.bfd
    lines = ["bfd", " profile fabric", f"  detect-multiplier {bfd.multiplier}", f"  receive-interval {bfd.interval}"]
    lines += [f"  transmit-interval {bfd.interval}", " exit", "exit"]
    lines += [f"ip route {prefix} blackhole" for prefix in tells if ":" not in prefix]
    lines += [f"router bgp {asn}", " no bgp ebgp-requires-policy", " no bgp default ipv4-unicast", " timers bgp 3 9"]
    found = sessions_of(compiled, system, keys)
    for family in ("v4", "v6"):
        ours = [(model, address.split("/")[0]) for model, one in found if (address := getattr(one, family))]
        for model, address in ours:
            lines.append(f" neighbor {address} remote-as {model.process_asn}")
            lines.append(f" neighbor {address} bfd profile fabric")
        lines.append(f" address-family ip{family} unicast")
        lines += [f"  neighbor {address} activate" for _, address in ours]
        lines += [f"  network {prefix}" for prefix in tells if (":" in prefix) == (family == "v6")]
        lines.append(" exit-address-family")
    return "\n".join([*lines, "exit", ""])


def start(
    compiled: Compiled, host: Host, system: str, tells: Sequence[str], keys: Collection[str] | None = None
) -> None:
    """Run the system on a machine that is plugged in: its devices, its routing."""
    ground = host.ground
    folder, run = ground.folder / f"outside-{system}", ground.run_folder / f"outside-{system}"
    ground.write(folder / "frr.conf", configuration(compiled, system, tells, keys))
    ground.write(folder / "vtysh.conf", "service integrated-vtysh-config\n")
    ground.run("sh", "-c", f"mkdir -p {run} && chown frr:frr {run}")
    done = ground.run(
        "ip", "-n", host.namespace, "-batch", "-", given="\n".join(devices(compiled, system, keys)) + "\n"
    )
    if done.code:
        raise NoLab(f"{system}: {done.err.strip()}")
    within = ["nsenter", f"--net=/run/netns/{host.namespace}"]
    for daemon in ("zebra", "staticd", "bfdd", "bgpd"):
        words = ["-u", "frr", "-g", "frr", "--vty_socket", str(run), "-z", f"{run}/zserv", "-i", f"{run}/{daemon}.pid"]
        extra = ["--bfdctl", f"{run}/bfd"] if daemon == "bfdd" else []
        ground.start(*within, f"/usr/lib/frr/{daemon}", *words, *extra, "-P", "0", log=folder / "log")
        if not ground.exists(run / f"{daemon}.vty", 30):
            raise NoLab(f"{system}: {daemon} did not start")
    ground.run("vtysh", "--vty_socket", str(run), "--config_dir", str(folder), "-b")


def routes(host: Host) -> frozenset[str]:
    """The prefixes that a system learnt by BGP and uses."""
    done = host.ask("ip", "-4", "route", "show", "proto", "bgp")
    six = host.ask("ip", "-6", "route", "show", "proto", "bgp")
    return frozenset(line.split()[0] for line in (done.out + six.out).splitlines() if line and line[0] != "\t")
