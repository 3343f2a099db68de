"""Questions about what stands beside the fabric's own work: cables, systems outside, and management."""

from __future__ import annotations

import json

from barrio.rehearsal import outside
from barrio.rehearsal.asking.claims import Asking, Claim, excerpt
from barrio.rehearsal.node import Node


def lldp_neighbours(node: Node) -> frozenset[tuple[str, str, str]]:
    """What a switch hears by LLDP: (own port, neighbour, the neighbour's port)."""
    heard = set()
    for lldp in json.loads(node.lldp()).get("lldp", []):
        for interface in lldp.get("interface", []):
            name = interface["chassis"][0]["name"][0]["value"]
            heard.add((interface["name"], name, interface["port"][0]["id"][0]["value"]))
    return frozenset(heard)


def cables(asking: Asking) -> list[Claim]:
    """Every switch hears by LLDP, on each port, just whom the cabling plan says."""
    heard = asking.every(lambda node: {port: (name, far) for port, name, far in lldp_neighbours(node)})
    found: list[Claim] = []
    for end in asking.compiled.ends:
        upper, lower = end.link.upper, end.link.lower
        if upper.key not in heard or lower.key not in heard:
            continue
        for one, port, other, far in (
            (upper, end.upper_port, lower, end.lower_port),
            (lower, end.lower_port, upper, end.upper_port),
        ):
            there = heard[one.key].get(str(port))
            holds = there == (other.name, str(far))
            words = f"{there[0]} {there[1]}" if there else "nobody is heard"
            found.append(Claim(
                f"{one.name} {port} hears {other.name} {far}", holds, str(one.name), f"{other.name} {far}", words, "lldpcli show neighbors",
                "" if holds else excerpt("\n".join(f"{at}: {who[0]} {who[1]}" for at, who in sorted(heard[one.key].items()))), f"switches/{one.name}/fabric_ports/{port}/peer",
            ))  # fmt: skip
    return found


def told(asking: Asking) -> list[Claim]:
    """Systems outside give what they may and nothing else, and are told what is theirs to know."""
    found: list[Claim] = []
    for key, model in asking.lab.models.items():
        node = asking.lab.nodes[key]
        for session in model.outside:
            if session.shut or session.system not in asking.slice.outside:
                continue
            for family, neighbour, accepted, none in (
                ("-4", session.neighbor_v4, session.accept_v4, outside.UNASKED[0]), ("-6", session.neighbor_v6, session.accept_v6, outside.UNASKED[1]),
            ):  # fmt: skip
                if not neighbour:
                    continue
                command = f"ip {family} route show vrf {session.vrf}"
                table = {
                    one["dst"]
                    for one in json.loads(node.run("ip", family, "-j", "route", "show", "vrf", session.vrf) or "[]")
                }
                path = f"switches/{model.name}/outside/{session.label}/neighbor_{'v4' if family == '-4' else 'v6'}"
                wanted = [str(one.prefix) for one in accepted] + ["default"] * session.default_in
                for prefix in wanted:
                    there = prefix in table
                    found.append(Claim(f"{model.name} takes {prefix} of {session.system} into {session.vrf}", there, str(model.name), "a route", "a route" if there else "no route", command, "" if there else excerpt("\n".join(sorted(table))), path))  # fmt: skip
                found.append(Claim(f"{model.name} does not take {none} of {session.system}, which nobody asked for", none not in table, str(model.name), "no route", "a route" if none in table else "no route", command, "", path))  # fmt: skip
    return found


def management(asking: Asking) -> list[Claim]:
    """Every switch reaches its servers in the management table, and nowhere else."""
    found: list[Claim] = []
    common = next(iter(asking.lab.models.values())).common
    servers = list(
        dict.fromkeys(
            text
            for text in (*map(str, common.ntp), *map(str, common.dns), *map(str, common.syslog))
            if text[0].isdigit()
        )
    )
    nodes = asking.lab.nodes
    asked = [(key, server) for key in nodes for server in servers]
    heard = asking.pings([{"in": nodes[key].namespace, "to": server, "device": "mgmt"} for key, server in asked])
    for (key, server), count in zip(asked, heard, strict=True):
        name = asking.names[key]
        found.append(Claim(f"{name} reaches {server} in the management table", count > 0, name, "an answer", "answered" if count > 0 else "no answer", f"ping -I mgmt {server}", "" if count > 0 else "3 sent, none received", f"switches/{name}/management/gateway"))  # fmt: skip
    return found
