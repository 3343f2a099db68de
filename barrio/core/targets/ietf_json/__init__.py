"""ietf-json: what a switch is, as RFC 7951 JSON by the IETF's models of interfaces, IP, routing and systems.

For programs that speak these models. Links between switches are told for a whole fabric (RFC 8345), not by each switch.
"""

from barrio.core.render.target import FileKind, Target, Templates
from barrio.core.targets.ietf_json.reading import facts_of
from barrio.core.targets.linux_frr.words import CONDITIONS

_NO_BGP = "the IETF has no finished model of BGP and EVPN"
_NO_VLAN = "the IETF's models of interfaces know no bridges, VLANs and tunnels"

IETF_JSON = Target(
    name="ietf-json",
    title="RFC 7951 JSON of the IETF's models",
    templates=Templates("barrio.core.targets.ietf_json"),
    files=(FileKind("ietf/config.json", "config.json.j2", "interfaces", format="json"),),
    facts=facts_of,
    conditions=CONDITIONS,
    left_out={
        "process_asn": _NO_BGP,
        "fabric_ports/*/neighbor": _NO_BGP,
        "fabric_ports/*/peer_asn": _NO_BGP,
        "sessions/*": _NO_BGP,
        "outside/*": _NO_BGP,
        "segments/*/vlan": _NO_VLAN,
        "segments/*/vni": _NO_VLAN,
        "segments/*/route_target": _NO_BGP,
        "vrfs/*": "RFC 8349 has one routing table for a system, and RFC 8529 is no model of switches",
        "common/gateway_mac": "RFC 8343 has the MAC of a port as state, and not to be set",
        "common/syslog": "the IETF's model of logging came after these",
    },
)
