"""The fabric on real routing daemons: one network namespace a switch, a veth pair a cable.

`lab` boots the files that a compile rendered; `questions` asks the running fabric what it sees; `kernel` says which parts
of the files this machine's kernel cannot run, so that they are left out by rule and named, never silently.
"""
