"""The cable parts that ship: made-up ones, by two made-up makers, with reaches, thicknesses and prices like real ones."""

from __future__ import annotations

from barrio.core.catalogue.cables import Assembly, CableKind, Cord, Medium, Optic, PartList

_SHORT = [0.5, 1.0, 1.5, 2.0, 2.5, 3.0]
_LONG = [1.0, 2.0, 3.0, 5.0, 7.0, 10.0, 15.0, 20.0, 25.0, 30.0]
_CORDS = [1.0, 2.0, 3.0, 5.0, 7.0, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0, 75.0, 100.0]
_FAR = [*_CORDS, 150.0, 200.0, 300.0, 500.0]
_PATCH = [0.5, 1.0, 1.5, 2.0, 3.0, 5.0, 7.0, 10.0, 15.0, 20.0, 30.0]

_PLUGS = {1: "SFP", 10: "SFP+", 25: "SFP28", 40: "QSFP+", 50: "SFP56", 100: "QSFP28", 200: "QSFP56", 400: "QSFP-DD"}
_DAC = {
    1: (4.2, 12.0),
    10: (4.4, 16.0),
    25: (4.6, 27.0),
    40: (6.1, 38.0),
    50: (4.8, 52.0),
    100: (6.7, 62.0),
    200: (8.2, 130.0),
    400: (9.6, 210.0),
}
_AOC = {
    10: (3.0, 48.0, 0.5),
    25: (3.0, 82.0, 1.0),
    40: (3.0, 120.0, 1.5),
    50: (3.0, 150.0, 1.5),
    100: (3.0, 185.0, 2.5),
    200: (4.0, 410.0, 4.5),
    400: (4.5, 790.0, 9.0),
}
_SR: dict[int, tuple[Medium, float, float]] = {
    1: ("OM4 duplex", 18.0, 0.6), 10: ("OM4 duplex", 30.0, 0.8), 25: ("OM4 duplex", 75.0, 1.0), 40: ("OM4 MPO-12", 90.0, 1.5),
    50: ("OM4 duplex", 160.0, 1.5), 100: ("OM4 MPO-12", 140.0, 2.5), 200: ("OM4 MPO-12", 380.0, 5.0), 400: ("OM4 MPO-12", 720.0, 9.5),
}  # fmt: skip
_DR: dict[int, tuple[Medium, float, float]] = {
    10: ("OS2 duplex", 60.0, 1.0), 25: ("OS2 duplex", 160.0, 1.2), 50: ("OS2 duplex", 300.0, 1.8), 100: ("OS2 duplex", 390.0, 4.0),
    200: ("OS2 MPO-12", 690.0, 6.5), 400: ("OS2 MPO-12", 990.0, 11.0),
}  # fmt: skip
_SPLITS = ((100, 25, 4), (100, 50, 2), (400, 100, 4), (400, 200, 2), (400, 50, 8))


def _optic(speed: int, kind: CableKind, reach: float, said: tuple[Medium, float, float]) -> Optic:
    medium, price, power = said
    return Optic(
        id=f"{kind.split()[0].lower()}-{speed}", maker="Brezo", kind=kind, plug=_PLUGS[speed], medium=medium, speed=speed,
        reach=reach, power=power, price=price,
    )  # fmt: skip


def _split(whole: int, leg: int, legs: int) -> list[Assembly]:
    kinds: list[tuple[CableKind, list[float], float, float, float]] = [
        ("DAC", _SHORT, 9.8, _DAC[whole][1] * 1.25, 0.0),
        ("AOC", _LONG, 5.0, _AOC[whole][1] * 1.4, _AOC[whole][2]),
    ]
    plug = "SFP56" if leg == 50 else _PLUGS[leg]
    return [
        Assembly(
            id=f"{kind.lower()}-{legs}x{leg}", maker="Brezo", kind=kind, plug=_PLUGS[whole], far=plug, legs=legs, speed=leg,
            lengths=lengths, diameter=diameter, power=power, price=price, per_metre=6.0,
        )
        for kind, lengths, diameter, price, power in kinds
    ]  # fmt: skip


def _cord(
    name: str, medium: Medium, plug: str, lengths: list[float], diameter: float, price: float, per_metre: float
) -> Cord:
    return Cord(
        id=name,
        maker="Junco",
        medium=medium,
        plug=plug,
        lengths=lengths,
        diameter=diameter,
        price=price,
        per_metre=per_metre,
    )


def _metres(longest: int) -> list[float]:
    """To the metre as far as thirty, then in steps."""
    return [float(metre) for metre in (*range(1, 31), *range(35, longest + 1, 5 if longest < 200 else 20))][:60]


def _trunk(name: str, medium: Medium, longest: int) -> Cord:
    """A trunk is made to the metre; its diameter is that of a cable of a dozen positions."""
    return Cord(
        id=name, maker="Junco", medium=medium, plug="MPO-12", lengths=_metres(longest),
        diameter=9.0, trunk=True,
    )  # fmt: skip


MADE_PARTS = PartList(
    assemblies=[
        Assembly(
            id=f"dac-{speed}", maker="Brezo", kind="DAC", plug=_PLUGS[speed], speed=speed, lengths=_SHORT if speed > 10 else [*_SHORT, 5.0],
            diameter=diameter, power=0.1, price=price, per_metre=4.0,
        )
        for speed, (diameter, price) in _DAC.items()
    ] + [
        Assembly(
            id=f"aoc-{speed}", maker="Brezo", kind="AOC", plug=_PLUGS[speed], speed=speed, lengths=_LONG, diameter=diameter,
            power=power, price=price, per_metre=2.5,
        )
        for speed, (diameter, price, power) in _AOC.items()
    ] + [
        Assembly(
            id="cat6a", maker="Junco", kind="copper", plug="RJ45", speed=1, lengths=_PATCH, diameter=5.6, price=3.0,
            per_metre=1.2,
        ),
        Assembly(
            id="c13-c14", maker="Junco", kind="power", plug="C13", far="C14", speed=1, lengths=[0.6, 1.0, 1.5, 2.0, 2.5, 3.0],
            diameter=8.0, price=4.0, per_metre=1.5,
        ),
    ] + [part for whole, leg, legs in _SPLITS for part in _split(whole, leg, legs)],
    optics=[_optic(speed, "SR optics", 300.0 if speed <= 10 else 100.0, said) for speed, said in _SR.items()]
    + [_optic(speed, "DR optics", 500.0, said) for speed, said in _DR.items()],
    cords=[
        _cord("om4-lc", "OM4 duplex", "LC", _CORDS, 2.0, 9.0, 0.9),
        _cord("om4-mpo", "OM4 MPO-12", "MPO-12", _CORDS, 3.6, 45.0, 2.6),
        _cord("os2-lc", "OS2 duplex", "LC", _FAR, 2.0, 8.0, 0.7),
        _cord("os2-mpo", "OS2 MPO-12", "MPO-12", _FAR, 3.6, 48.0, 2.4),
        _trunk("trunk-om4-lc", "OM4 duplex", 100), _trunk("trunk-om4-mpo", "OM4 MPO-12", 100),
        _trunk("trunk-os2-lc", "OS2 duplex", 500), _trunk("trunk-os2-mpo", "OS2 MPO-12", 500),
    ],
)  # fmt: skip
