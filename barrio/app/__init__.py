"""Use cases: what the API, the command line and jobs ask for. Transactions begin and end here.

Each takes a `Desk`: who acts, and the `House` (one database, and what is kept at hand of it) that they act in.
"""
