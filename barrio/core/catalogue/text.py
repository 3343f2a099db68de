"""A switch model as YAML for people to change; what is at its default is left out."""

from __future__ import annotations

from io import StringIO
from typing import Any

from ruamel.yaml import YAML
from ruamel.yaml.comments import CommentedMap, CommentedSeq

from barrio.core.catalogue.model import PortGroup, SwitchType


def text_of(kind: SwitchType) -> str:
    """The model as YAML, which reads as the same model; short parts stand on one line.

    >>> from barrio.core.catalogue.made import MADE
    >>> text_of(MADE.models[0]).splitlines()[0]
    'id: cantera-c32'
    """
    fields: dict[str, Any] = kind.model_dump(mode="json", exclude={"groups"})
    fields = {name: _short(value) for name, value in fields.items()}
    fields["groups"] = [_group(group) for group in kind.groups]
    yaml = YAML(typ="rt", pure=True)
    yaml.width = 4096
    yaml.indent(mapping=2, sequence=4, offset=2)
    out = StringIO()
    yaml.dump(fields, out)
    return out.getvalue()


def _group(group: PortGroup) -> dict[str, Any]:
    said = group.model_dump(mode="json", exclude_defaults=True)
    fields = {name: _short(value) for name, value in said.items()}
    if "breakouts" in said:
        fields["breakouts"] = [_short(one) for one in group.model_dump(mode="json")["breakouts"]]
    return fields


def _short(value: Any) -> Any:
    """A list or a mapping of plain values, on one line."""
    if isinstance(value, dict | list):
        value = CommentedMap(value) if isinstance(value, dict) else CommentedSeq(value)
        value.fa.set_flow_style()
    return value
