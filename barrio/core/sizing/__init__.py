"""Sizing: what a structure can carry, lose, grow to and weigh, from its switches and port plans alone.

No link is made and no number drawn for it, so that it keeps up with typing at any size.
"""
