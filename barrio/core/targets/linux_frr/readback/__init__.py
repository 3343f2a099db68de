"""An independent reader of the files that leave Barrio.

It knows the languages of `frr.conf` and `interfaces` and nothing of templates, models or briefs: it rebuilds what the files say, and
holds it against itself, within each switch and across all of them. What it finds was not meant by anyone.
"""

from barrio.core.targets.linux_frr.readback.read import SwitchText, read_switch
from barrio.core.targets.linux_frr.readback.report import read_back

__all__ = ["SwitchText", "read_back", "read_switch"]
