#!/bin/sh
# Checks and tests. “check”: format, types, layers, and the quick tests, for the hand. Without a word: what CI runs. “all”: the long
# ones too. Stops at the first kind that fails; says at the end which tests took longest, and how much of the code is tests.
set -eu
cd "$(dirname "$0")/.."
what=${1:-most}
[ $# = 0 ] || shift
.venv/bin/ruff format --check --quiet .
.venv/bin/ruff check --quiet .
.venv/bin/lint-imports --no-logo --no-cache > .barrio/layers.log 2>&1 || { cat .barrio/layers.log; exit 1; }
.venv/bin/mypy
npm --prefix web run --silent check
npm --prefix web run --silent test > .barrio/web-tests.log 2>&1 || { cat .barrio/web-tests.log; exit 1; }
case $what in
check) set -- -n 2 -m "not long" tests/core "$@" ;;
most) set -- -n 2 -m "not long" --durations 10 "$@" ;;
all) export BARRIO_TESTS=all; set -- -n 2 --durations 10 "$@" ;;
esac
if [ "$(id -u)" = 0 ]; then
	.venv/bin/pytest "$@"
else
	echo "Tests boot switches in network namespaces, which needs root; asking sudo."
	sudo .venv/bin/pytest "$@"
fi
scripts/share.sh
