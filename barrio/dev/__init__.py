"""What a start on one machine needs: a PostgreSQL of its own, and the demo world."""
