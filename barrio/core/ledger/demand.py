"""Structure → demands: which numbers a fabric wants, from which pools, and what must not be handed out.

Uses are named `thing.family` (`loopback.v4`) and their keys are the keys of the structure. Port positions and cable
numbers are drawn here as well, from private pools, so that growing a fabric never moves a cable.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from ipaddress import ip_address

from barrio.core.attach.attachments import Attachments
from barrio.core.brief.model import Brief
from barrio.core.errors import Fault, Refused, refuse
from barrio.core.ledger.nest import KIND_WORDS, check_pools, cut, within
from barrio.core.ledger.pool import DEFAULT_POOLS, Family, Kind, Plan, Pool, Range, parse_range
from barrio.core.ledger.position import Layout
from barrio.core.ledger.prefixes import outside, relays, reserved_in, segments
from barrio.core.ledger.vlans import vlans
from barrio.core.ledger.wanted import Demand, Taken
from barrio.core.place.wiring import banks, holes, trunked, wires
from barrio.core.structure.parts import Structure, Switch

SITE_SPACES = ("v4", "v6", "asn", "vni", "pair")
"""Spaces that every fabric of a scope shares; the others are private to one."""


def is_shared(space: str) -> bool:
    """Whether numbers of a space must differ across fabrics.

    >>> is_shared("v4@tenants"), is_shared("vlan/marlin")
    (True, False)
    """
    return space.partition("@")[0] in SITE_SPACES


def declared_pools(brief: Brief) -> dict[str, Pool]:
    """The pools that the brief says the ranges of, checked.

    Raises `Refused` (`range.*`).
    """
    pools: dict[str, Pool] = {}
    faults: list[Fault] = []
    for name, texts in brief.pools.items():
        try:
            pools[name] = Pool(name, tuple(parse_range(text, f"pools.{name}") for text in texts))
        except Refused as error:
            faults.extend(error.faults)
    if faults:
        raise Refused(faults)
    return pools


FIELDS = {
    "loopback": "loopback", "vtep": "vtep", "link": "links", "management": "management", "outside": "outside",
    "segment": "segments", "relay": "relays", "asn": "asn", "vlan": "vlan", "vni": "vni", "pair": "pairs",
}  # fmt: skip
"""The field of `numbers` that names the pool of a use, by the thing that the use numbers."""


def pool_name(brief: Brief, use: str) -> str | None:
    """The pool that a use draws from; None for positions and cable numbers, which have pools of their own.

    >>> pool_name(Brief(fabric="marlin"), "link.v4"), pool_name(Brief(fabric="marlin"), "cable")
    ('links', None)
    """
    field = FIELDS.get(use.split(".", maxsplit=1)[0])
    return None if field is None else str(getattr(brief.numbers, field))


KINDS = {
    "asn": Kind.ASN, "vlan": Kind.VLAN, "vni": Kind.VNI, "pairs": Kind.PAIR, "loopback": Kind.ADDRESSES,
    "vtep": Kind.ADDRESSES, "links": Kind.ADDRESSES, "management": Kind.ADDRESSES, "segments": Kind.ADDRESSES,
    "outside": Kind.ADDRESSES, "relays": Kind.ADDRESSES,
}  # fmt: skip
"""What a pool holds, by the field of `numbers` that draws from it."""


def pools_of(brief: Brief, known: Mapping[str, Pool]) -> dict[str, Pool]:
    """Every pool the brief draws from: what the ledger knows, widened by what the brief declares.

    A pool known to neither takes the ranges of `DEFAULT_POOLS`; one whose kind nobody said has that of what draws from
    it. Raises `Refused` (`pool.unknown`, `pool.kind`, `pool.private`, `pool.parent`, `pool.overlap`, `range.*`).
    """
    pools = dict(known)
    for name, pool in declared_pools(brief).items():
        had = pools.get(name, Pool(name, ()))
        new = tuple(part for part in pool.ranges if not any(within(part, old) for old in had.ranges))
        pools[name] = replace(had, ranges=had.ranges + new)
    faults: list[Fault] = []
    for field, name in brief.numbers:
        if name not in pools:
            if name not in DEFAULT_POOLS:
                raise refuse(
                    "pool.unknown",
                    f"No pool is called {name}. Write its ranges under “pools”, or draw {field} from one of: "
                    f"{', '.join(sorted(set(pools) | set(DEFAULT_POOLS)))}.",
                    f"numbers.{field}",
                )
            pools[name] = Pool(name, tuple(parse_range(text) for text in DEFAULT_POOLS[name]))
        pool, kind = pools[name], KINDS[field]
        if pool.kind is Kind.UNSAID:
            pools[name] = pool = replace(pool, kind=kind)
        if pool.kind is not kind:
            words = f"Pool {name} holds {KIND_WORDS[pool.kind]}. Draw {field} from another pool."
            faults.append(Fault("pool.kind", words, f"numbers.{field}"))
        if pool.private_to not in (None, brief.fabric):
            words = (
                f"Pool {name} is private to {pool.private_to}. Draw {field} from another, or share it in the Ledger."
            )
            faults.append(Fault("pool.private", words, f"numbers.{field}"))
    faults += check_pools(pools)
    if faults:
        raise Refused(faults)
    return cut(pools)


def demands_of(
    brief: Brief, structure: Structure, pools: Mapping[str, Pool], attachments: Attachments | None = None
) -> list[Demand]:
    """Every number the structure wants, in the order in which they are drawn; `attachments` say which segments are on each leaf."""
    attached = attachments or Attachments()
    return [
        *_ports(brief, structure),
        *_further(brief, structure, attached),
        *_addresses(brief, structure, pools),
        *_systems(brief, structure, pools),
        *vlans(brief, structure, pools[brief.numbers.vlan], attached.carried),
        _vnis(brief, pools[brief.numbers.vni]),
        *segments(brief, pools),
        *relays(brief, structure, pools),
    ]


def _ports(brief: Brief, structure: Structure) -> Iterator[Demand]:
    """Positions of cables on fronts, and cable numbers.

    A position is shared: a leaf has the same port on every spine of its pod, and a spine the same uplink on every leaf of a
    kind. What `growth` declares is kept free for it.
    """
    by_pod: dict[str, list[Switch]] = {pod: [] for pod in structure.pods}
    for leaf in structure.leaves:
        by_pod[leaf.pod].append(leaf)
    for pod, leaves in by_pod.items():
        there = min((len(spine.plan.down) for spine in structure.pods[pod]), default=0)
        keys, blocks = _leaf_keys(brief, structure, leaves)
        yield _positions(brief, spine_port_use(pod), "spine port", there, keys, blocks)
    spines = [f"spine/{number}" for number in range(1, brief.spines.count + 1)]
    for kind, lanes, count in _uplink_kinds(structure):
        use = f"port.leaf.{kind}" if kind else "port.leaf"
        yield _positions(brief, use, "uplink", count, [f"{one}~{n}" for one in spines for n in range(1, lanes + 1)])
    if brief.super_spines is not None:
        lanes_up = range(1, brief.super_spines.links + 1)
        there = min((len(switch.plan.down) for switch in structure.supers), default=0)
        pods = [f"pod/{pod}~{n}" for pod in structure.pods for n in lanes_up]
        yield _positions(brief, "port.super", "super-spine port", there, pods)
        there = min((len(spine.plan.up) for spine in structure.spines), default=0)
        supers = [f"super/{number}~{n}" for number in range(1, brief.super_spines.per_plane + 1) for n in lanes_up]
        yield _positions(brief, "port.up", "spine uplink", there, supers)
    cables = Pool(f"{brief.fabric} cables", (Range(Family.NUMBER, 1, 999_999),))
    links = [link.key for link in structure.links] + [end.key for end in structure.outside]
    yield Demand(
        "cable", f"cable/{brief.fabric}", Family.NUMBER, cables, 1, links, reuses_resting=True, noun="cable number"
    )


FURTHER = "cable.further"
"""The use of the numbers of further cables and shared plugs; they share one space with those of links."""


def _further(brief: Brief, structure: Structure, attachments: Attachments) -> Iterator[Demand]:
    """Numbers of cables that are no links, and the ports on their far side. Nothing where the brief plans none."""
    planned, plugs = wires(brief, structure, attachments), holes(structure)
    through = trunked(brief, structure)
    for bank in banks(brief, structure):
        keys = [wire.position[1] for wire in planned if wire.position[0] == bank.use]
        keys += [link for link, trunk in through.items() if bank.use == f"port.trunk.{trunk}"]
        yield _positions(brief, bank.use, bank.noun, bank.count, keys)
    keys = (
        [wire.key for wire in planned] + [f"plug/{hole}" for hole in plugs] + [f"trunk/{name}" for name in brief.trunks]
    )
    if keys:
        pool = Pool(f"{brief.fabric} cables", (Range(Family.NUMBER, 1, 999_999),))
        yield Demand(
            FURTHER, f"cable/{brief.fabric}", Family.NUMBER, pool, 1, keys, reuses_resting=True, noun="cable number"
        )


def _positions(
    brief: Brief, use: str, noun: str, count: int, keys: list[str], blocks: Mapping[str, tuple[int, int]] | None = None
) -> Demand:
    pool = Pool(f"{brief.fabric} {noun}s", (Range(Family.NUMBER, 1, count),) if count else ())
    return Demand(
        use, f"{use}/{brief.fabric}", Family.NUMBER, pool, 1, keys, reuses_resting=True, bounded=True, noun=noun,
        blocks=blocks or {},
    )  # fmt: skip


def spine_port_use(pod: str) -> str:
    """The use under which the spine ports of a pod are held."""
    return f"port.spine.{pod}" if pod else "port.spine"


def _leaf_keys(
    brief: Brief, structure: Structure, leaves: list[Switch]
) -> tuple[list[str], dict[str, tuple[int, int]]]:
    """The keys of the spine ports of one pod, and for each the block of positions that is kept for its kind of rack."""
    keys = [f"{leaf.key}~{lane}" for leaf in leaves for lane in range(1, structure.lanes_of(leaf) + 1)]
    here = {leaf.origin for leaf in leaves}
    groups = {f"racks[{index}].racks": group for index, group in enumerate(brief.racks)}
    if not any(groups[origin].growth for origin in here):
        return keys, {}
    bounds: dict[str, tuple[int, int]] = {}
    start = 1
    for origin, group in groups.items():
        if origin in here:
            size = (len(group.rack_names) + group.growth) * group.leaves * brief.lanes_of(group)
            bounds[origin] = (start, start + size - 1)
            start += size
    blocks = {
        f"{leaf.key}~{lane}": bounds[leaf.origin] for leaf in leaves for lane in range(1, structure.lanes_of(leaf) + 1)
    }
    return keys, blocks


def _uplink_kinds(structure: Structure) -> list[tuple[str, int, int]]:
    """For each kind of rack that orders its uplinks by itself: (kind, parallel links, uplinks there are)."""
    found: dict[str, tuple[int, int]] = {}
    for leaf in structure.leaves:
        kind = (leaf.group.kind if leaf.group else None) or ""
        lanes, there = found.get(kind, (0, 1 << 30))
        found[kind] = (max(lanes, structure.lanes_of(leaf)), min(there, len(leaf.plan.up)))
    return [(kind, lanes, there) for kind, (lanes, there) in found.items()]


def vtep_key(leaf: Switch) -> str:
    """Whose tunnel end a leaf has: its own, or that of its pair when a peer link joins the two."""
    shared = leaf.group is not None and leaf.group.pairing == "peer-link"
    return f"pair/{leaf.rack}" if shared else leaf.key


def _addresses(brief: Brief, structure: Structure, pools: Mapping[str, Pool]) -> Iterator[Demand]:
    everyone = [switch.key for switch in structure.switches]
    vteps = list(dict.fromkeys(vtep_key(leaf) for leaf in structure.leaves))
    links = [link.key for link in structure.links if link.kind == "fabric"]
    addressing = brief.underlay.addressing
    loopback, p2p = pools[brief.numbers.loopback], pools[brief.numbers.links]
    management = pools[brief.numbers.management]

    layout = Layout(brief)

    def addresses(use: str, family: Family, pool: Pool, keys: list[str], noun: str, size: int = 1) -> Demand:
        by_position = pool.plan is Plan.POSITION
        return Demand(
            use, pool.space(family), family, pool, size, keys, reserved=reserved_in(pool, family, size), noun=noun,
            positions=layout.positions(use, keys) if by_position else None,
            twin=use.replace(".v6", ".v4") if family is Family.V6 and not by_position else "",
        )  # fmt: skip

    has_v4, has_v6 = addressing in ("ipv4", "dual"), addressing in ("ipv6", "dual")
    # Uses that are not wanted at the moment are demanded for no key, so that what they rest stays in its space.
    yield addresses("loopback.v4", Family.V4, loopback, everyone, "loopback")
    yield addresses("vtep.v4", Family.V4, pools[brief.numbers.vtep], vteps, "VTEP address")
    yield addresses("loopback.v6", Family.V6, loopback, everyone if has_v6 else [], "loopback")
    yield addresses("link.v4", Family.V4, p2p, links if has_v4 else [], "/31", 2)
    yield addresses("link.v6", Family.V6, p2p, links if has_v6 else [], "/127", 2)
    out_of_band = addresses("management.v4", Family.V4, management, everyone, "management address")
    gateways = tuple((gateway, gateway) for gateway in management_gateways(brief, management))
    yield replace(out_of_band, reserved=out_of_band.reserved + gateways)
    yield from outside(brief, structure, pools)


def management_gateways(brief: Brief, pool: Pool) -> tuple[int, ...]:
    """The gateway of each management range, as an integer: the one the brief names, or the first address."""
    if brief.management.gateway:
        return (int(ip_address(brief.management.gateway)),)
    return tuple(part.low + 1 for part in pool.of(Family.V4))


ASN_RESERVED = ((0, 0), (23456, 23456), (65535, 65551), (4294967295, 4294967295))
"""RFC 7607 (0), RFC 6793 (23456), RFC 7300 (65535, 4294967295), RFC 5398 (65536..65551, documentation)."""


def _systems(brief: Brief, structure: Structure, pools: Mapping[str, Pool]) -> Iterator[Demand]:
    asn_keys = [asn_key(brief, switch) for switch in structure.spines + structure.supers + structure.leaves]
    if brief.overlay.protocol == "ibgp" and brief.underlay.protocol == "ebgp":
        asn_keys.append("overlay")
    layout = Layout(brief)

    def positions(use: str, pool: Pool, keys: list[str]) -> dict[str, int] | None:
        return layout.positions(use, keys) if pool.plan is Plan.POSITION else None

    pool, owners = pools[brief.numbers.asn], list(dict.fromkeys(asn_keys))
    yield Demand(
        "asn", pool.space("asn"), Family.NUMBER, pool, 1, owners, reserved=ASN_RESERVED, noun="ASN",
        positions=positions("asn", pool, owners),
    )  # fmt: skip
    pool, racks = pools[brief.numbers.pairs], [f"pair/{one.rack}" for one, _ in structure.pairs]
    yield Demand(
        "pair", pool.space("pair"), Family.NUMBER, pool, 1, racks, noun="pair domain",
        positions=positions("pair", pool, racks),
    )  # fmt: skip


def _vnis(brief: Brief, pool: Pool) -> Demand:
    said = {f"segment/{name}": segment.vni for name, segment in brief.segments.items()}
    said |= {f"vrf/{name}": vrf.vni for name, vrf in brief.vrfs.items()}
    return Demand(
        "vni", pool.space("vni"), Family.NUMBER, pool, 1, list(said),
        pins={key: Taken(vni, 1) for key, vni in said.items() if vni is not None},
        reserved=((0, 0),), noun="VNI", follows=("vlan", 0) if pool.plan is Plan.POSITION else None,
    )  # fmt: skip


def asn_key(brief: Brief, switch: Switch) -> str:
    """Whose ASN a switch carries (RFC 7938, 5.2.1).

    The super-spines share one, the spines of a pod share one, and a leaf has its own or its rack's. Under OSPF or IS-IS the
    whole fabric is one AS.
    """
    if brief.underlay.protocol != "ebgp":
        return "fabric"
    if switch.role == "super-spine":
        return "super-spines"
    if switch.role == "spine":
        return f"spines/{switch.pod}" if switch.pod else "spines"
    return switch.key if brief.underlay.asn == "per-leaf" else f"rack/{switch.rack}"
