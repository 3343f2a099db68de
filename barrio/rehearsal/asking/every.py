"""Every question that there is, in the order in which they are asked: what others stand on comes first."""

from __future__ import annotations

from collections.abc import Iterable

from barrio.core.errors import nearest, refuse
from barrio.rehearsal.asking import beside, control, learnt, leases, overlay, own, reaching, services
from barrio.rehearsal.asking.claims import Question
from barrio.rehearsal.kernel import DEVICES

_VRF = frozenset({"VRF"})
QUESTIONS = (
    Question("cables", "every port hears whom the cabling plan says", beside.cables, seconds=40),
    Question("sessions", "every planned session is up, with the planned AS", control.sessions, seconds=90),
    Question(
        "adjacencies",
        "every link has its neighbour in the underlay",
        control.adjacencies,
        nothing="BGP speaks over each link itself",
    ),
    Question("bfd", "BFD watches every link", control.bfd),
    Question("routes", "every tunnel end is reached by every path", control.routes),
    Question("flooding", "each segment floods just where it is", overlay.flooding, DEVICES),
    Question("addresses", "every host is known where its segment is", overlay.addresses, DEVICES),
    Question(
        "shared",
        "both leaves of a shared host are known",
        overlay.shared,
        DEVICES,
        nothing="no host here hangs on two leaves",
    ),
    Question("prefixes", "each VRF has the prefixes of its segments", overlay.prefixes, DEVICES),
    Question("types", "EVPN tells routes of every type as planned", learnt.types, DEVICES),
    Question(
        "outside",
        "systems outside give what they may and no more",
        beside.told,
        DEVICES,
        nothing="no system outside is in this slice",
    ),
    Question("gateways", "every host reaches its gateway", reaching.gateways, DEVICES),
    Question("together", "hosts that are to reach each other do", reaching.together, DEVICES),
    Question(
        "leases",
        "hosts whose questions are handed on are given addresses",
        leases.leases,
        DEVICES,
        seconds=0,
        nothing="no segment here hands DHCP questions to a server that a host here can play",
    ),
    Question(
        "moves",
        "a host that moves is known at its new leaf",
        learnt.moves,
        DEVICES | {"MACVLAN"},
        seconds=0,
        nothing="no segment here is on two leaves with a host of one link on each",
    ),
    Question("apart", "hosts that are not to reach each other do not", reaching.apart, DEVICES, seconds=0),
    Question(
        "claims",
        "the brief's own claims hold",
        own.own,
        DEVICES,
        nothing="the brief makes no claim, or none about who is here",
    ),
    Question("management", "every switch reaches its servers over management", beside.management, _VRF),
    Question(
        "services",
        "time, names, logs and sign-in work over management",
        services.services,
        _VRF,
        seconds=0,
        nothing="the brief names no servers, and nobody who may sign in",
        begin=services.begin,
    ),
    Question("reload", "loading its own file again changes nothing", control.reload, seconds=0),
)
BY_ID = {one.id: one for one in QUESTIONS}


def chosen(wanted: Iterable[str]) -> list[Question]:
    """The questions of these ids in their order; `all` is every one. Raises `Refused` (`rehearse.question`)."""
    names = list(wanted)
    for name in names:
        if name not in BY_ID and name != "all":
            raise refuse(
                "rehearse.question",
                f"There is no question {name}.{nearest(name, BY_ID)} There are {', '.join(BY_ID)}, and all.",
                "questions",
            )
    return [one for one in QUESTIONS if "all" in names or one.id in names]
