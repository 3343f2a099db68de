"""What git runs before it takes a push (`pre-receive`): it asks the server that waits for it, and tells the person what was answered.

It runs in the repository, sees what was pushed before it is taken, and has nothing but a socket to the server.
"""

from __future__ import annotations

import json
import os
import socket
import subprocess
import sys

NOTHING = "0" * 40


def _git(*words: str) -> str | None:
    done = subprocess.run(["git", *words], capture_output=True, check=False)
    return done.stdout.decode(errors="replace") if done.returncode == 0 else None


def main() -> int:
    pushed = [line.split() for line in sys.stdin if line.strip()]
    asked = []
    for old, new, ref in pushed:
        newest = _git("rev-parse", "--verify", "--quiet", "refs/heads/main")
        after = newest is not None and _git("merge-base", "--is-ancestor", newest.strip(), new) is not None
        asked.append(
            {
                "ref": ref,
                "goes": new == NOTHING,
                "after_newest": after,
                "brief": _git("show", f"{new}:brief.yaml"),
                "before": _git("show", f"{old}:brief.yaml") if old != NOTHING else None,
                "message": _git("log", "-1", "--format=%B", new),
            }
        )
    with socket.socket(socket.AF_UNIX) as line:
        line.connect(os.environ["BARRIO_ASK"])
        line.sendall(json.dumps(asked).encode() + b"\n")
        answer = json.loads(line.makefile().readline())
    print(answer["words"], file=sys.stderr)
    return 0 if answer["taken"] else 1


if __name__ == "__main__":
    sys.exit(main())
