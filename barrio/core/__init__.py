"""The computation: pure functions from a brief to everything that leaves Barrio. Start at `compile`."""

from barrio.core.compile import compile
from barrio.core.compiled import Compiled, Stock
from barrio.core.errors import Fault, Refused

__all__ = ["Compiled", "Fault", "Refused", "Stock", "compile"]
