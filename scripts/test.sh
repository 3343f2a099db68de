#!/bin/sh
# Every check and every test but the long ones, or with “all” as the first word those too; stops at the first kind that fails.
set -eu
cd "$(dirname "$0")/.."
which="not long"
[ "${1:-}" = all ] && { which="long or not long"; shift; }
.venv/bin/ruff format --check --quiet .
.venv/bin/ruff check --quiet .
.venv/bin/mypy
npm --prefix web run --silent check
npm --prefix web run --silent test > .barrio/web-tests.log 2>&1 || { cat .barrio/web-tests.log; exit 1; }
if [ "$(id -u)" = 0 ]; then
	.venv/bin/pytest -n 2 --dist loadgroup -m "$which" "$@"
else
	echo "Tests boot switches in network namespaces, which needs root; asking sudo."
	sudo .venv/bin/pytest -n 2 --dist loadgroup -m "$which" "$@"
fi
