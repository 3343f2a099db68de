"""Who was signed in, as a switch's own log of it says (last(1) of util-linux)."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime, timedelta

LAST = ("last", "-w", "--time-format", "iso", "-n", "60")
"""The command that tells."""
_LINE = re.compile(
    r"^(\S+)\s+(\S+)\s+(?:(\S+)\s+)?(\d{4}-\d\d-\d\dT[\d:]+[+-]\d\d:\d\d)(?:\s+-\s+(\d{4}-\d\d-\d\dT[\d:]+[+-]\d\d:\d\d)|\s+(still logged in|gone)?)"
)
_NOBODY = frozenset({"reboot", "shutdown", "runlevel", "wtmp"})


@dataclass(frozen=True, slots=True)
class SignIn:
    """An account that was signed in from somewhere (empty where the log does not say), from a moment to another; nothing while it still is."""

    who: str
    source: str
    at: datetime
    until: datetime | None


def signed_in(text: str) -> list[SignIn]:
    """The sign-ins that the log says, the newest first; lines that say anything else are left out.

    >>> signed_in("ines pts/0 10.90.7.4 2026-11-27T15:03:11+00:00 - 2026-11-27T15:20:00+00:00 (00:16)")[0].source
    '10.90.7.4'
    """
    found: list[SignIn] = []
    for line in text.splitlines():
        said = _LINE.match(line)
        if said and said[1] not in _NOBODY:
            until = datetime.fromisoformat(said[5]) if said[5] else None
            found.append(SignIn(said[1][:40], (said[3] or "")[:80], datetime.fromisoformat(said[4]), until))
    return found


def between(every: list[SignIn], begins: datetime, ends: datetime, ahead: timedelta = timedelta(0)) -> list[SignIn]:
    """Those who were signed in at any time between two moments, told by a clock that is so far ahead."""
    shifted = (SignIn(one.who, one.source, one.at - ahead, one.until and one.until - ahead) for one in every)
    return [one for one in shifted if one.at <= ends and (one.until is None or one.until >= begins)]


_SPANS = ((86400 * 300, "most of a year"), (86400, "a day"), (3600, "an hour"), (300, "five minutes"), (30, "half a minute"))  # fmt: skip


def out_of_step(ahead: timedelta) -> str:
    """What is said of a clock that is so far ahead of Barrio's, or behind it; nothing where that is within half a minute.

    >>> out_of_step(timedelta(hours=-3))
    'its clock is more than an hour behind that of Barrio'
    """
    seconds = ahead.total_seconds()
    for span, words in _SPANS:
        if abs(seconds) > span:
            return f"its clock is more than {words} {'ahead of' if seconds > 0 else 'behind'} that of Barrio"
    return ""
