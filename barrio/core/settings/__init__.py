"""Values that say where they come from: what each rung says, which of them won, and what it beat."""
