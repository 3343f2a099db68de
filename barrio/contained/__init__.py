"""Where templates that nobody vouches for run: in processes of their own, that can do nothing but answer, and not for long."""
