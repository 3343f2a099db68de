"""What runs on switches that are staged, and switches that are none."""
