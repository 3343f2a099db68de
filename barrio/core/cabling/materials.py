"""What to order: every part by its length, with spares, against what is in stock."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from math import ceil
from typing import NamedTuple

from barrio.core.cabling.choice import Need
from barrio.core.cabling.lay import Laid
from barrio.core.catalogue.cables import Assembly, Optic, PartList
from barrio.core.errors import refuse


class Item(NamedTuple):
    """A part in one length (metres; none for an optic)."""

    part: str
    length: float | None


@dataclass(frozen=True, slots=True)
class Material:
    """One line of an order: `needed` by the plan, `spare` on top, `stocked` already there, `order` what is left to buy, with its price."""

    item: Item
    name: str
    maker: str
    needed: int
    spare: int
    stocked: int
    order: int
    price: float | None


def pieces(laid: Laid, only: Collection[str] | None = None) -> Counter[Item]:
    """How many of each part the cables take: all of them, or those with these labels. A plug that several cables share counts once."""
    found: Counter[Item] = Counter()
    seen: set[str] = set()
    alike: Counter[tuple[Need, int, float]] = Counter()
    for place, (cable, lead, chosen) in enumerate(zip(laid.cables, laid.leads, laid.chosen.tolist(), strict=True)):
        if chosen < 0 or cable.stock is None or (only is not None and cable.label not in only):
            continue
        if lead.hole:
            if lead.hole in seen:
                continue
            seen.add(lead.hole)
        cords = laid.cords.get(place)
        if cords is not None:
            # Optics at both ends, and a cord in each of the two racks.
            alike[lead.need, chosen, cords.lower_stock] += 1
            found[Item(laid.options[lead.need][chosen].pieces[-1].part, cords.upper_stock)] += 1
            continue
        alike[lead.need, chosen, cable.stock] += 1
    for (need, chosen, stock), count in alike.items():
        for piece in laid.options[need][chosen].pieces:
            length = None if isinstance(laid.parts.by_id[piece.part], Optic) else stock
            found[Item(piece.part, length)] += piece.pieces * count
    return found


def materials(
    laid: Laid, stock: Mapping[Item, int] | None = None, only: Collection[str] | None = None, before: Laid | None = None
) -> tuple[Material, ...]:
    """The order, by part and length. Of each, the spares are the share that the brief says, rounded up.

    With `before`, what another state of the fabric took already is there, and only what is more of a part is needed.
    """
    have = stock or {}
    needed = pieces(laid, only)
    if before is not None:
        needed -= pieces(before, only)
    order = [part.id for part in laid.parts.all]
    lines = []
    for item in sorted(needed, key=lambda item: (order.index(item.part), item.length or 0)):
        part = laid.parts.by_id[item.part]
        spare = ceil(needed[item] * laid.brief.cabling.spares / 100)
        left = max(0, needed[item] + spare - have.get(item, 0))
        name = _name(part)
        lines.append(
            Material(item, name, part.maker, needed[item], spare, have.get(item, 0), left, _price(laid.parts, item))
        )
    return tuple(lines)


def _name(part: object) -> str:
    if isinstance(part, Assembly):
        legs = f" into {part.legs}×{part.speed}G" if part.legs > 1 else f" {part.speed}G"
        return f"{part.kind}{legs}, {part.plug}" + (f" to {part.far}" if part.far else "")
    if isinstance(part, Optic):
        return f"{part.kind.split()[0]} optic {part.speed}G, {part.plug}"
    medium: str = getattr(part, "medium", "")
    return f"cord {medium}"


def _price(parts: PartList, item: Item) -> float | None:
    part = parts.by_id[item.part]
    if part.price is None:
        return None
    return round(part.price + (0 if isinstance(part, Optic) else part.per_metre * (item.length or 0)), 2)


def read_stock(
    columns: Sequence[str], rows: Sequence[Sequence[str]], lines: Sequence[int], parts: PartList
) -> dict[Item, int]:
    """What is in stock, from a sheet with the columns part, length and count.

    Raises `Refused` (`stock.columns`, `stock.part`, `stock.number`), with the line.
    """
    places = {heading.lower(): place for place, heading in enumerate(columns)}
    if not {"part", "count"} <= places.keys():
        raise refuse(
            "stock.columns", f"The sheet needs columns part, length and count; it has {', '.join(columns)}.", line=1
        )
    found: dict[Item, int] = {}
    for row, line in zip(rows, lines, strict=True):
        part = row[places["part"]]
        if part not in parts.by_id:
            raise refuse(
                "stock.part",
                f"Line {line}: no part is called {part[:40]}. See the order for the names of parts.",
                line=line,
            )
        length = row[places["length"]].removesuffix("m").strip() if "length" in places else ""
        try:
            item = Item(part, float(length) if length else None)
            count = int(row[places["count"]])
        except ValueError:
            raise refuse(
                "stock.number", f"Line {line}: length and count are numbers, such as 5 and 20.", line=line
            ) from None
        if count < 0:
            raise refuse("stock.number", f"Line {line}: there cannot be {count} of something in stock.", line=line)
        found[item] = found.get(item, 0) + count
    return found
