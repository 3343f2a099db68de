"""Whether hosts of segments whose DHCP questions are handed on are given an address: by a real server on the host that has its address, asked by real clients."""

from __future__ import annotations

import re
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from ipaddress import IPv4Network, ip_address, ip_interface
from pathlib import Path

from barrio.core.rehearse.claimed import played
from barrio.core.rehearse.stations import Station
from barrio.rehearsal.asking.claims import Asking, Claim, Unaskable, excerpt
from barrio.rehearsal.ground import wait_until

PROGRAMS = {"dnsmasq": "dnsmasq-base", "dhclient": "isc-dhcp-client"}
PATIENCE = 40.0


@dataclass(frozen=True, slots=True)
class _Served:
    """A segment whose questions are handed on: its server, the host that plays it, the prefix that leases are of, and who asks, one on each leaf."""

    segment: str
    server: str
    keeper: Station
    prefix: IPv4Network
    clients: tuple[Station, ...]


def leases(asking: Asking) -> list[Claim]:
    """A host of each segment with a relay, on each of its leaves here, is given an address of the segment (RFC 2131). Raises `Unaskable` naming what is not
    installed."""
    served = list(_served(asking))
    if not served:
        return []
    ground = asking.lab.ground
    absent = [PROGRAMS[one] for one in PROGRAMS if ground.run("sh", "-c", f"command -v {one}").code]
    if absent:
        raise Unaskable(f"{' and '.join(absent)} {'is' if len(absent) == 1 else 'are'} not installed here")
    running = [
        (asking.lab.seats[keeper].ground, _serve(asking, keeper, [one for one in served if one.keeper == keeper]))
        for keeper in {one.keeper for one in served}
    ]
    try:
        with ThreadPoolExecutor(4) as pool:
            jobs = [pool.submit(_ask, asking, one, client) for one in served for client in one.clients]
            return [job.result() for job in jobs]
    finally:
        for where, process in running:
            where.stop(process)


def _served(asking: Asking) -> Iterator[_Served]:
    hosts = played(asking.compiled, asking.stations)
    for name, segment in asking.compiled.brief.segments.items():
        stations = [one for one in asking.stations if one.segment == name and one.v4 and not one.silent]
        for server in segment.relay.servers if segment.relay and stations else ():
            keeper = hosts.get(str(server))
            if keeper is None or ":" in server:
                continue
            by_leaf = {one.leaves: one for one in stations if one.host != keeper.host}
            if by_leaf:
                prefix = ip_interface(stations[0].v4).network
                yield _Served(str(name), str(server), keeper, IPv4Network(str(prefix)), tuple(by_leaf.values()))


def _serve(asking: Asking, keeper: Station, served: list[_Served]) -> int:
    """Begin a DHCP server (dnsmasq) on the host that has its address, for all segments that ask it."""
    seat = asking.lab.seats[keeper]
    folder = seat.ground.folder
    ranges = [
        f"--dhcp-range={one.prefix[5]},{one.prefix[min(60, one.prefix.num_addresses // 2)]},{one.prefix.netmask},1h"
        for one in served
    ]
    return seat.ground.start(
        "nsenter", f"--net=/run/netns/{seat.namespace}", "dnsmasq", "--port=0", "--no-daemon", "--conf-file=/dev/null", "--user=root",
        f"--interface={seat.device}", "--bind-interfaces", "--dhcp-authoritative", "--log-dhcp", f"--dhcp-leasefile={folder}/leases-{time.monotonic_ns()}",
        *ranges, log=folder / f"dnsmasq-{seat.namespace}.log",
    )  # fmt: skip


def _ask(asking: Asking, one: _Served, client: Station) -> Claim:
    """Have a real client (dhclient) ask, without taking what it is given."""
    seat, server = asking.lab.seats[client], asking.lab.seats[one.keeper]
    ground = seat.ground
    lease = ground.folder / f"lease-{time.monotonic_ns()}"
    log = Path(f"{lease}.log")
    process = ground.start(
        "nsenter", f"--net=/run/netns/{seat.namespace}", "dhclient", "-4", "-1", "-d", "-sf", "/bin/true", "--no-pid", "-lf", str(lease), seat.device, log=log,
    )  # fmt: skip
    wait_until(lambda: "fixed-address" in (ground.read(lease) or ""), PATIENCE)
    ground.stop(process)
    given = re.findall(r"fixed-address ([\d.]+);", ground.read(lease) or "")
    holds = bool(given) and ip_address(given[-1]) in one.prefix
    leaf = client.leaves[0]
    return Claim(
        f"{client.name} on {' and '.join(client.leaves)} is given an address by {one.server}", holds, leaf, f"an address of {one.prefix}",
        f"it was given {given[-1]}" if given else "it was given none", f"dhclient -4 -1 -d {seat.device}",
        "" if holds else excerpt(f"{ground.read(log)}\n{(server.ground.read(server.ground.folder / f'dnsmasq-{server.namespace}.log') or '')[-300:]}"),
        f"switches/{leaf}/segments/{client.segment}/vrf",
    )  # fmt: skip
