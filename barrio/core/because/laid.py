"""Why a cable is as long as it is, and why it is this part and not a cheaper one."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.because.chain import Step, brief_step, ledger_step, rule_step
from barrio.core.brief.document import Document
from barrio.core.brief.reader import quoted
from barrio.core.cabling.choice import Option
from barrio.core.cabling.lay import Laid, Way
from barrio.core.compiled import Compiled
from barrio.core.ledger.demand import FURTHER

_ASKED = {
    "management": "Every switch has a cable from its management port to a management switch that serves its rack",
    "console": "Every switch has a cable from its console port to a console server that serves its rack",
    "power": "Every switch has a cable to each of the two feeds of its rack",
    "host": "Every port of a host has a cable",
    "trunk": "The brief lays fibres between the two panels",
}


def further_steps(document: Document, compiled: Compiled, place: int) -> Iterator[Step]:
    """The chain of a cable that is no link: its way and part, why there is one, its number and its far port."""
    cable, numbers = compiled.laid.cables[place], compiled.allocation.numbers
    if compiled.laid.placed:
        yield from lying_steps(document, compiled, cable.label)
    asked = f"trunks.{quoted(cable.link.removeprefix('trunk/'))}" if cable.use == "trunk" else "cabling.plans"
    yield brief_step(document, asked, _ASKED[cable.use])
    yield ledger_step(compiled, FURTHER, cable.link)
    if cable.use not in ("host", "trunk"):
        switch = cable.link.removeprefix(f"{cable.use}/")
        bank = f"port.{cable.use}.{cable.b.switch}"
        if cable.use == "power":
            switch = cable.link.removeprefix("power/")[:-2]
            bank = f"port.outlet.{cable.a.rack}.{cable.link[-1]}"
        if switch in numbers.get(bank, {}):
            yield ledger_step(compiled, bank, switch)
    yield rule_step("Each end's label names both ends", "TIA-606")


def lying_steps(document: Document, compiled: Compiled, label: str) -> Iterator[Step]:
    """The length of a cable and its part, in words; nothing for a cable that is planned for later."""
    laid = compiled.laid
    place = laid.by_label.get(label)
    if place is None:
        return
    yield from _length_steps(document, laid, place)
    option = laid.option(place)
    if option is not None:
        yield Step(
            "catalogue", _part_words(laid, place, option), "catalogue, cable parts", {"part": option.pieces[0].part}
        )
        yield from _wanted(document, laid, place, option)


def _length_steps(document: Document, laid: Laid, place: int) -> Iterator[Step]:
    cable, way = laid.cables[place], laid.way(place)
    if way is None:
        missing = next((end.rack or end.switch for end in (cable.a, cable.b) if end.rack not in laid.plan.spots), "")
        where = (
            f"the brief does not say where {missing} stands" if missing else "no tray leads from one end to the other"
        )
        yield rule_step(f"Its length is not known: {where}", "cabling rule")
        return
    via, cords = cable.via, laid.cords.get(place)
    if via is not None and cords is not None:
        kinds = f"cords {via.cords[0]} and {via.cords[1]}" if all(via.cords) else "no cords that keep polarity"
        words = f"It goes by a cord of {cords.lower:.1f} m to {via.lower.text}, through trunk {via.trunk} of {cords.trunk:.1f} m to {via.upper.text}, and by a cord of {cords.upper:.1f} m; with {kinds}, what is sent arrives where it is received"
        yield brief_step(document, f"trunks.{quoted(via.trunk)}", words)
        return
    path = _path_of(laid, place)
    yield brief_step(document, path, f"It goes {way_words(way)}")
    yield brief_step(
        document, "cabling.slack", f"With {way.slack:g} m of slack, half of it at each end, that is {cable.length:g} m"
    )
    measured = laid.measured.get(cable.link)
    if measured is not None:
        yield rule_step(
            f"It was measured: {measured:g} m, which counts in place of what is worked out", "work on the cables"
        )


def _path_of(laid: Laid, place: int) -> str:
    route = laid.route(place)
    paths = [laid.trays.sections[at].path for at in route.sections] if route else []
    return paths[0] if paths else laid.plan.spots[laid.cables[place].a.rack].path


def way_words(way: Way) -> str:
    """A way as one would walk it.

    >>> way_words(Way(0.8, 0.6, 6.4, 0.9, 1.0, (("north", 2.0), ("across", 4.4)), False))
    '0.8 m up, 2.0 m along north, 4.4 m along across, 0.9 m down, and 0.6 m aside to the trays'
    """
    if not way.trays:
        return f"{way.up:.1f} m up or down the rack, and {way.aside:.1f} m to its side and back"
    trays = ", ".join(f"{length:.1f} m along {name}" for name, length in way.trays)
    around = ", round a tray that is full" if way.around else ""
    return f"{way.up:.1f} m up, {trays}{around}, {way.down:.1f} m down, and {way.aside:.1f} m aside to the trays"


def _part_words(laid: Laid, place: int, option: Option) -> str:
    """What the part is, and what the next cheaper and the next dearer one would have to it."""
    need, metres = laid.leads[place].need, float(laid.metres[place])
    stock = laid.cables[place].stock
    assert stock is not None
    words = f"{option.name}, {stock:g} m: the shortest in stock for {metres:.1f} m"
    others = [one for one in laid.options[need] if one is not option]
    short = [one for one in others if one.reach < metres]
    price = option.price(stock)
    cheaper = [one for one in short if price is None or (one.price(one.reach) or 0) < price]
    if cheaper:
        best = max(cheaper, key=lambda one: one.reach)
        words += f". {best.name} would cost less, and ends at {best.reach:g} m"
    dearer = [
        (cost, one)
        for one in others
        if price
        and (length := one.stocked(metres)) is not None
        and (cost := one.price(length)) is not None
        and cost > price
    ]
    if dearer and price:
        cost, one = min(dearer, key=lambda found: (found[0], found[1].name))
        watts = f" and {one.watts:g} W in place of {option.watts:g} W" if one.watts != option.watts else ""
        words += f". {one.name} would reach too, at {cost / price:.1f} times the price{watts}"
    return words


def _wanted(document: Document, laid: Laid, place: int, option: Option) -> Iterator[Step]:
    cable, wanted = laid.cables[place], laid.brief.cabling.kind
    if cable.a.rack == cable.b.rack or wanted is None:
        yield rule_step("Of what both ports take and what reaches, the cheapest is taken", "cabling rule")
    elif option.kind == wanted:
        yield brief_step(document, "cabling.kind", f"Between racks the brief asks for {wanted}")
    else:
        yield brief_step(document, "cabling.kind", f"The brief asks for {wanted}, which does not reach or fit here")
