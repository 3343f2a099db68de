"""The data of a switch as plain JSON, and back: what a template sees, to look at, to change by hand for a trial, or to take from a file."""

from __future__ import annotations

import types
from collections.abc import Mapping
from dataclasses import asdict, fields, is_dataclass
from functools import cache
from typing import Any, Union, get_args, get_origin, get_type_hints

from barrio.core.errors import nearest, refuse
from barrio.core.model import switch as _names
from barrio.core.model.switch import SwitchModel
from barrio.core.printed import Made


def as_data(model: SwitchModel) -> dict[str, Any]:
    """Everything that a template can say of a switch, as plain values."""
    return {name: _plain(value) for name, value in asdict(model).items()}


def from_data(data: object) -> SwitchModel:
    """The switch that such data are of. Raises `Refused` (`data.*`) with the field that is wrong; what is left out is named."""
    made = _made(SwitchModel, data, "")
    assert isinstance(made, SwitchModel)
    return made


def _plain(value: Any) -> Any:
    if isinstance(value, dict):
        return {name: _plain(one) for name, one in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(one) for one in value]
    return str(value) if isinstance(value, str) else value


@cache
def _hints(kind: type) -> dict[str, Any]:
    return get_type_hints(kind, vars(_names))


def _made(kind: Any, value: object, path: str) -> Any:
    if is_dataclass(kind) and isinstance(kind, type):
        return _part(kind, value, path)
    origin = get_origin(kind)
    if kind is Any:
        return value
    if origin in (Union, types.UnionType):
        others = [one for one in get_args(kind) if one is not type(None)]
        if value is None and len(others) < len(get_args(kind)):
            return None
        return _made(others[0], value, path)
    if origin is tuple:
        if not isinstance(value, list):
            raise _wrong(path, "a list", value)
        return tuple(_made(get_args(kind)[0], one, f"{path}[{at}]") for at, one in enumerate(value))
    if kind is bool or kind is int:
        if type(value) is not kind:
            raise _wrong(path, "true or false" if kind is bool else "a whole number", value)
        return value
    if not isinstance(value, str):
        raise _wrong(path, "text", value)
    return value if kind is str else Made(value)


def _part(kind: type, value: object, path: str) -> Any:
    if not isinstance(value, Mapping):
        raise _wrong(path, "an object", value)
    known = [one.name for one in fields(kind)]
    for name in value:
        if name not in known:
            raise refuse(
                "data.unknown",
                f"A switch has no {_at(path, str(name)[:60])}.{nearest(str(name), known)}",
                _at(path, str(name)[:60]),
            )
    lacking = next((name for name in known if name not in value), None)
    if lacking is not None:
        raise refuse(
            "data.missing",
            f"{_at(path, lacking)} is not there. Templates may ask for it; say null if there is none.",
            _at(path, lacking),
        )
    hints = _hints(kind)
    return kind(**{name: _made(hints[name], value[name], _at(path, name)) for name in known})


def _at(path: str, name: str) -> str:
    return f"{path}.{name}" if path else name


def _wrong(path: str, wanted: str, value: object) -> Exception:
    return refuse("data.type", f"{path or 'The data'} is {str(value)[:40]!r}; it must be {wanted}.", path)
