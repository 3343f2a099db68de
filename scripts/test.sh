#!/bin/sh
# Checks and tests. “check”: format, types, layers, and the quick tests, for the hand. Without a word: what CI runs. “all”: the long
# ones too. The front end's run beside those of the server. Says at the end which tests took longest, and how much of the code is tests.
set -eu
cd "$(dirname "$0")/.."
what=${1:-most}
# Every worker, and every process that a test starts, would translate all of the sources anew.
unset PYTHONDONTWRITEBYTECODE
[ $# = 0 ] || shift

{ npm --prefix web run --silent check && npm --prefix web run --silent test; } > .barrio/web-tests.log 2>&1 &
web=$!
trap 'kill $web 2> /dev/null || true' EXIT
trap 'exit 130' INT TERM
of_web() {
	wait $web || { cat .barrio/web-tests.log; exit 1; }
}

.venv/bin/ruff format --check --quiet .
.venv/bin/ruff check --quiet .
.venv/bin/lint-imports --no-logo --no-cache > .barrio/layers.log 2>&1 || { cat .barrio/layers.log; exit 1; }
.venv/bin/mypy
case $what in
check) set -- -n 2 -m "not long" tests/core "$@" ;;
# Three, since whoever waits for a lab or a browser leaves a processor to the others.
most) of_web; set -- -n 3 -m "not long" --durations 10 "$@" ;;
all) of_web; export BARRIO_TESTS=all; set -- -n 2 --durations 10 "$@" ;;
esac
if [ "$(id -u)" = 0 ]; then
	.venv/bin/pytest "$@"
else
	echo "Tests boot switches in network namespaces, which needs root; asking sudo."
	sudo .venv/bin/pytest "$@"
fi
[ "$what" != check ] || of_web
scripts/share.sh
