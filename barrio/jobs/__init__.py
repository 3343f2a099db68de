"""Work that takes longer than a request: what kinds there are, the queue, and the worker that does it."""
