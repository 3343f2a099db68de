"""Ways to change a brief that is there, or to say a new one in other words."""
