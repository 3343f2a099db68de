"""The questions that a running fabric is asked: each is claims with their evidence, and holds only when daemons or hosts said so."""
