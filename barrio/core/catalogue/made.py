"""The models that ship: made-up switches by two made-up makers, with fronts like real ones."""

from __future__ import annotations

from barrio.core.catalogue.model import Breakout, Catalogue, PortGroup, PortUse, SwitchType, Tables, Tier

_SPLITS = {
    "QSFP28": (Breakout(lanes=4, speed=25), Breakout(lanes=2, speed=50)),
    "QSFP-DD": (Breakout(lanes=4, speed=100), Breakout(lanes=2, speed=200), Breakout(lanes=8, speed=50, uses_up=1)),
}


def _ports(prefix: str, count: int, speeds: tuple[int, ...], use: PortUse, connector: str, rows: int = 2) -> PortGroup:
    return PortGroup(
        prefix=prefix, count=count, speeds=list(speeds), use=use, connector=connector, rows=rows,
        breakouts=list(_SPLITS.get(connector, ())),
    )  # fmt: skip


_UPPER: list[Tier] = ["spine", "super-spine"]
_ALL: list[Tier] = ["leaf", "spine", "super-spine"]

MADE = Catalogue(
    models=(
        SwitchType(
            id="cantera-c32", maker="Cantera", name="C32", tiers=_ALL, power=410, weight=10.5, also_airflow=["back to front"],
            groups=[_ports("p", 32, (40, 100), "any", "QSFP28")],
        ),
        SwitchType(
            id="cantera-c48", maker="Cantera", name="C48", tiers=_ALL, units=2, power=640, weight=16, also_airflow=["back to front"],
            groups=[_ports("p", 48, (40, 100), "any", "QSFP28", 4)],
        ),
        SwitchType(
            id="cantera-c64", maker="Cantera", name="C64", tiers=_ALL, units=2, power=780, weight=19, also_airflow=["back to front"],
            groups=[_ports("p", 64, (40, 100), "any", "QSFP28", 4)],
        ),
        SwitchType(
            id="lonja-s64", maker="Lonja", name="S64", tiers=_UPPER, units=2, power=1450, weight=24,
            groups=[_ports("p", 64, (100, 200, 400), "any", "QSFP-DD", 4)],
            tables=Tables(routes=512_000, vnis=8_000, ecmp=128),
        ),
        SwitchType(
            id="lonja-k1152", maker="Lonja", name="K1152", tiers=_UPPER, units=30, power=26000, weight=410,
            groups=[_ports("p", 1152, (100, 400), "any", "QSFP-DD", 8)],
            tables=Tables(routes=2_000_000, vnis=16_000, ecmp=512),
        ),
        SwitchType(
            id="cantera-l48", maker="Cantera", name="L48", tiers=["leaf"], power=330, weight=9.8, also_airflow=["back to front"],
            groups=[
                _ports("h", 48, (1, 10, 25), "host", "SFP28"),
                _ports("u", 8, (40, 100), "fabric", "QSFP28"),
            ],
        ),
        SwitchType(
            id="cantera-l24", maker="Cantera", name="L24", tiers=["leaf"], power=210, weight=7.4, also_airflow=["back to front"],
            groups=[
                _ports("h", 24, (1, 10, 25), "host", "SFP28"),
                _ports("u", 4, (40, 100), "fabric", "QSFP28"),
            ],
            tables=Tables(routes=32_000, vnis=1_000, ecmp=32),
        ),
        SwitchType(
            id="lonja-e32", maker="Lonja", name="E32", tiers=["leaf"], power=620, weight=11.2, also_airflow=["back to front"],
            groups=[
                _ports("h", 24, (25, 50, 100), "host", "QSFP28"),
                _ports("u", 8, (100, 200, 400), "fabric", "QSFP-DD"),
            ],
            tables=Tables(routes=256_000, vnis=8_000, ecmp=128),
        ),
        SwitchType(
            id="lonja-t64", maker="Lonja", name="T64", tiers=["leaf"], units=2, power=1100, weight=21,
            groups=[
                _ports("h", 64, (10, 25, 50), "host", "SFP56"),
                _ports("u", 32, (100, 400), "fabric", "QSFP-DD", 4),
            ],
            tables=Tables(routes=256_000, vnis=8_000, ecmp=128),
        ),
    )
)  # fmt: skip
