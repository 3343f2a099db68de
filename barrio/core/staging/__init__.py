"""Staging as sums: which box is which switch, and which step each switch is at."""
