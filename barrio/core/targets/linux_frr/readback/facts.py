"""What the files of a switch say that others must agree with, whatever language these are in."""

from __future__ import annotations

from collections.abc import Mapping

from barrio.core.render.facts import Facts, is_address
from barrio.core.targets.linux_frr.readback.read import read_switch


def facts_of(name: str, files: Mapping[str, str]) -> Facts:
    """The facts of one switch. Raises `ValueError` for text that is of neither language."""
    switch = read_switch(name, files)
    facts = Facts(name=files["etc/hostname"].strip())
    for device in switch.devices.values():
        if device.kind in ("loopback", "port") and not device.one("vrf"):
            facts.addresses[device.name] = list(device.addresses)
            facts.mtus[device.name] = device.mtu
            if "link-down" in device.said:
                facts.shut.add(device.name)
        told = device.one("alias").replace(",", "").split()
        if len(told) == 4 and told[2] == "cable":
            facts.ends[device.name] = (told[0], told[1])
        if device.kind == "tunnel":
            _, _, local = device.one("alias").partition(", a VLAN of ")
            thing = f"VNI {device.one('vxlan-id')}"
            if not local:
                facts.shared[thing, "VLAN"] = device.one("bridge-access")
            svi = switch.devices.get(f"vlan{device.one('bridge-access')}")
            for one in svi.addresses if svi and device.one("bridge-access") not in switch.l3_vlans else ():
                facts.shared.setdefault((thing, f"gateway{' v6' if one.version == 6 else ''}"), str(one))
    router = switch.underlay
    if router is None:
        return facts
    facts.asn, facts.router_id = router.asn, router.value("bgp router-id")
    for session in router.sessions:
        if is_address(session.name) and not session.has("shutdown"):
            facts.sessions[session.name] = int(router.of(session, "remote-as"))
        elif not session.has("shutdown"):
            facts.by_port[session.name] = int(router.of(session, "remote-as"))
        if not session.has("shutdown"):
            own = router.of(session, "local-as").split()
            if own:
                facts.shows[session.name] = int(own[0])
    for vni, said in router.vnis.items():
        target = next((line.split()[-1] for line in said if line.startswith("route-target import")), "")
        if target:
            facts.shared[f"VNI {vni}", "route target"] = target
    return facts
