"""The models that ship: made-up switches by two made-up makers, with fronts like real ones."""

from __future__ import annotations

from barrio.core.catalogue.model import Catalogue, PortGroup, PortUse, SwitchType


def _ports(prefix: str, count: int, speeds: tuple[int, ...], use: PortUse, connector: str, rows: int = 2) -> PortGroup:
    return PortGroup(prefix=prefix, count=count, speeds=speeds, use=use, connector=connector, rows=rows)


MADE = Catalogue(
    models=(
        SwitchType(
            id="cantera-c32", maker="Cantera", name="C32", tiers=("spine",), power=410,
            groups=(_ports("p", 32, (40, 100), "fabric", "QSFP28"),),
        ),
        SwitchType(
            id="cantera-c64", maker="Cantera", name="C64", tiers=("spine",), units=2, power=780,
            groups=(_ports("p", 64, (40, 100), "fabric", "QSFP28", 4),),
        ),
        SwitchType(
            id="lonja-s64", maker="Lonja", name="S64", tiers=("spine",), units=2, power=1450,
            groups=(_ports("p", 64, (100, 200, 400), "fabric", "QSFP-DD", 4),),
        ),
        SwitchType(
            id="lonja-k1152", maker="Lonja", name="K1152", tiers=("spine",), units=30, power=26000,
            groups=(_ports("p", 1152, (100, 400), "fabric", "QSFP-DD", 8),),
        ),
        SwitchType(
            id="cantera-l48", maker="Cantera", name="L48", tiers=("leaf",), power=330,
            groups=(
                _ports("h", 48, (1, 10, 25), "host", "SFP28"),
                _ports("u", 8, (40, 100), "fabric", "QSFP28"),
            ),
        ),
        SwitchType(
            id="cantera-l24", maker="Cantera", name="L24", tiers=("leaf",), power=210,
            groups=(
                _ports("h", 24, (1, 10, 25), "host", "SFP28"),
                _ports("u", 4, (40, 100), "fabric", "QSFP28"),
            ),
        ),
        SwitchType(
            id="lonja-e32", maker="Lonja", name="E32", tiers=("leaf",), power=620,
            groups=(
                _ports("h", 24, (25, 50, 100), "host", "QSFP28"),
                _ports("u", 8, (100, 200, 400), "fabric", "QSFP-DD"),
            ),
        ),
        SwitchType(
            id="lonja-t64", maker="Lonja", name="T64", tiers=("leaf",), units=2, power=1100,
            groups=(
                _ports("h", 64, (10, 25, 50), "host", "SFP56"),
                _ports("u", 32, (100, 400), "fabric", "QSFP-DD", 4),
            ),
        ),
    )
)  # fmt: skip
