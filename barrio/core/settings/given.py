"""What an office says for all its fabrics: settings, as its rung of the Ladder, and variables that it declares."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field

from barrio.core.brief.variables import Variable, VariableKey


class Given(BaseModel):
    """The office's document. `settings` go by their dotted names, `vars.name` for variables; what they say is read with each fabric, beside
    what its brief says."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, hide_input_in_errors=True)

    settings: Mapping[Annotated[str, Field(max_length=80)], Any] = {}
    variables: Mapping[VariableKey, Variable] = {}


NOTHING = Given()
"""What an office says that says nothing."""
