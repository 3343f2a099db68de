"""What a render may take."""

MOST_MEMORY = 384 << 20
"""Bytes of memory, all told."""
MOST_OUTPUT = 4 << 20
"""Characters of all files of a switch."""
MOST_SECONDS = 3.0
"""From question to answer."""
MOST_AT_ONCE = 6
"""Processes that render, in one server or worker."""
