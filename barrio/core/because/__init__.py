"""Because: from a value, a line, a number or a cable to the chain of reasons for it.

A value of the compiled model has a path (`switches/leaf-r07b/fabric_ports/u5/v4`). Its chain follows it back, through the
rule that made it, the ledger entry it was drawn as and the hardware it stands on, to the words of the brief that asked
for it.
"""

from barrio.core.because.chain import Step
from barrio.core.because.lines import LineReason, of_line, printed_on
from barrio.core.because.things import of_cable, of_number
from barrio.core.because.values import of_value

__all__ = ["LineReason", "Step", "of_cable", "of_line", "of_number", "of_value", "printed_on"]
