"""What all tests share: the example briefs, and briefs that hypothesis makes."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, settings
from hypothesis import strategies as st

pytest_plugins = ["tests.database", "tests.server"]

EXAMPLES = sorted((Path(__file__).parent.parent / "examples").glob("*.yaml"))

settings.register_profile("barrio", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("barrio")

KEY = "ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIEmZ7sT1mQ1xqk0f5m0b3Y9b8o4G2v0gkqfN6yH1cD2R ines@azulejo.example"


@st.composite
def briefs(draw: st.DrawFn) -> dict[str, Any]:
    """Small briefs that are always possible: they fit their switches and their pools."""
    racks = draw(st.lists(st.integers(1, 40), min_size=1, max_size=5, unique=True))
    half = draw(st.integers(0, len(racks)))
    groups = [
        {
            "racks": ", ".join(f"r{number:02d}" for number in part),
            "leaves": draw(st.sampled_from([1, 2])),
            "model": draw(st.sampled_from(["cantera-l48", "lonja-e32"])),
            "role": role,
        }
        for part, role in ((racks[:half], "leaf"), (racks[half:], "border"))
        if part
    ]
    vrfs = draw(st.lists(st.sampled_from(["tides", "buoys", "public"]), unique=True))
    segments: dict[str, Any] = {}
    for index in range(draw(st.integers(0, 4))):
        vrf = draw(st.sampled_from([None, *vrfs]))
        segments[f"seg-{index}"] = {
            "vrf": vrf,
            "v4": draw(st.sampled_from([None, "auto"])) if vrf else None,
            "v6": draw(st.sampled_from([None, "auto"])) if vrf else None,
            "racks": draw(st.sampled_from([None, f"r{racks[0]:02d}"])),
            "untagged": index == 0 and draw(st.booleans()),
        }
    return {
        "fabric": draw(st.sampled_from(["marlin", "tern", "pelican"])),
        "spines": {"count": draw(st.integers(1, 4)), "model": "lonja-s64"},
        "racks": groups,
        "uplinks_per_spine": draw(st.integers(1, 2)),
        "underlay": {
            "addressing": draw(st.sampled_from(["ipv4", "ipv6", "dual", "unnumbered"])),
            "asn": draw(st.sampled_from(["per-leaf", "per-pair"])),
        },
        "vrfs": {name: {} for name in vrfs},
        "segments": segments,
        "services": {
            "ntp": ["10.90.0.21"],
            "dns": draw(st.sampled_from([[], ["10.90.0.53", "fd90::53"]])),
            "users": draw(st.sampled_from([{}, {"ines": {"keys": [KEY]}}])),
        },
    }
