"""Targets of an office's own: a manifest, templates, and rules by which their text is read back."""
