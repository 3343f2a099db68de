"""Compiled fabrics held against each other: lines, what they do to traffic, and in what order it is safe."""
