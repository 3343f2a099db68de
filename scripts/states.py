"""A database as a commit of this repository leaves it behind, as SQL: `python scripts/states.py 79cb4dd | gzip -9n > tests/store/states/79cb4dd.sql.gz`.

That commit's own program makes it, over a PostgreSQL of its own: a fabric with a past, and a few with words that a later reader refuses.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from barrio.dev.cluster import Cluster

ROOT = Path(__file__).parent.parent

MAKE = """
import sys
from pathlib import Path
from barrio.store.database import bring_up_to_date, connect
from barrio.store.fabrics import Fabrics

pool = connect(sys.argv[1])
bring_up_to_date(pool)
fabrics = Fabrics(pool)
tern = Path("examples/tern.yaml").read_text()
fabrics.create(tern)
fabrics.save("tern", 1, lambda text: text.replace("t01..t04", "t01..t05"), "a fifth rack")
fabrics.save("tern", 2, lambda text: text.replace("t01..t05", "t01, t03..t05"), "without t02")
if hasattr(fabrics, "seal"):
    fabrics.seal("tern", 3)
good = tern.replace("10.72.10.0/24", "auto").replace("fabric: tern", "fabric: NAME").replace("prefix: T", "prefix: LETTER")
for letter, (name, change) in zip("EIOU", {
    "reef": lambda text: text,
    "reef-vrf": lambda text: text.replace("archive", "main"),
    "reef-dns": lambda text: text.replace("10.90.0.53", '"fe80::1%eth0;x"'),
    "reef-peer": lambda text: text.replace("leaves: 1", "leaves: 2\\n    pairing: peer-link").replace("cantera-l48", "lonja-t64"),
}.items()):
    try:
        text = good.replace("NAME", name).replace("LETTER", letter).replace("t0", f"{letter.lower()}0")
        fabrics.create(change(text))
    except Exception as error:
        print(f"{name}: {error}", file=sys.stderr)
pool.close()
"""


def main(commit: str) -> None:
    with tempfile.TemporaryDirectory(prefix="barrio-state-") as made:
        tree = Path(made) / "tree"
        tree.mkdir()
        Path(made).chmod(0o755)
        packed = subprocess.run(["git", "-C", ROOT, "archive", commit], check=True, capture_output=True).stdout
        subprocess.run(["tar", "-x", "-C", tree], input=packed, check=True)
        cluster = Cluster(Path(made) / "postgres")
        cluster.start()
        try:
            beside = {**os.environ, "PYTHONPATH": str(tree)}
            subprocess.run([sys.executable, "-c", MAKE, cluster.conninfo], cwd=tree, env=beside, check=True)
            words = ["pg_dump", "--no-owner", "--no-privileges", "--rows-per-insert=500", "-d", cluster.conninfo]
            dump = subprocess.run(words, check=True, capture_output=True, text=True).stdout
            # Without comments and words for psql, so that any client can take it.
            print(*(line for line in dump.splitlines() if line and not line.startswith(("--", "\\"))), sep="\n")
        finally:
            cluster.stop()


if __name__ == "__main__":
    main(sys.argv[1])
