"""A second fabric with the same intent: what a copy of a brief has to say differently."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.brief.document import Document, apply


def duplicate(document: Document, name: str) -> str:
    """The text of the same brief under another name; numbers that only one fabric may have are drawn anew."""
    return apply(document.text, list(_edits(document, name)))


def _edits(document: Document, name: str) -> Iterator[tuple[str, object]]:
    brief = document.brief
    yield "fabric", name
    yield "cabling.prefix", None
    for segment, said in brief.segments.items():
        yield from (
            (f"segments.{segment}.{family}", "auto") for family in ("v4", "v6") if _is_given(getattr(said, family))
        )
        if said.vni is not None:
            yield f"segments.{segment}.vni", None
    for vrf, routed in brief.vrfs.items():
        if routed.vni is not None:
            yield f"vrfs.{vrf}.vni", None
    for system, outside in brief.outside.items():
        for index, link in enumerate(outside.links):
            for vrf, carried in link.vrfs.items():
                path = f"outside.{system}.links[{index}].vrfs.{vrf}"
                yield from (
                    (f"{path}.{family}", "auto") for family in ("v4", "v6") if _is_given(getattr(carried, family))
                )


def _is_given(prefix: str | None) -> bool:
    """Whether a prefix is one in particular, and not whatever the pool has."""
    return prefix is not None and not prefix.startswith("auto")
