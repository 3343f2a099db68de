"""The targets that ship, a folder each: templates, device names, what it refuses, and a reader of its text."""
