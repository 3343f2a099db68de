"""The brief's own small claims: who reaches whom, and who never does."""

from __future__ import annotations

from barrio.core.brief.claims import Reach
from barrio.core.rehearse.claimed import Asked, asked, reaches_of
from barrio.rehearsal.asking.claims import Asking, Claim
from barrio.rehearsal.asking.reaching import payload


def own(asking: Asking) -> list[Claim]:
    """Each claim of the brief, for each two that it is about and that are here; one about somebody whom the brief has not does not hold."""
    packets = [
        (one, each)
        for one in reaches_of(asking.compiled)
        for each in asked(asking.compiled, one, asking.stations, asking.lab.nodes)
    ]
    heard = asking.pings([_ping(asking, one, each) for one, each in packets])
    said = asking.compiled.brief.claims
    nobody = [
        Claim(said[int(one.path[7:-1])], False, "", "somebody whom the brief has", one.message)
        for one in asking.compiled.findings
        if one.code in ("claim.nobody", "claim.several")
    ]
    return nobody + [_claim(asking, one, each, count > 0) for (one, each), count in zip(packets, heard, strict=True)]


def _ping(asking: Asking, one: Reach, each: Asked) -> dict[str, object]:
    size = {"size": payload(one.size, ":" in each.to)} if one.size else {}
    if each.speaker.station is None:
        node = asking.lab.nodes[each.speaker.switch]
        return {"in": node.namespace, "to": each.to, "device": each.speaker.vrf, **size}
    return {"in": asking.lab.seats[each.speaker.station].namespace, "to": each.to, **size}


def _claim(asking: Asking, one: Reach, each: Asked, answered: bool) -> Claim:
    station = each.speaker.station
    who = station.name if station else asking.names[each.speaker.switch]
    about = each.other or station
    leaf = about.leaves[0] if about else who
    path = f"switches/{leaf}/segments/{about.segment}/{'vrf' if one.never and about.vrf else 'vni'}" if about else ""
    size = f"-M do -s {payload(one.size, ':' in each.to)} " if one.size else ""
    return Claim(
        f"{one.words}: {who} asks {each.other.name if each.other else each.to}", answered != one.never, leaf,
        "no answer" if one.never else "an answer", "answered" if answered else "no answer", f"ping {size}{each.to}",
        f"asked from {who}" if answered == one.never else "", path,
    )  # fmt: skip
