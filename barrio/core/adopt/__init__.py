"""From what runs to a brief: a network that nobody described is read, and what it seems to be is proposed, part by part."""
