"""What runs against what was meant."""
