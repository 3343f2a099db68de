#!/bin/sh
# A wheel of Barrio with the built front end and the demo world in it, written to the folder given.
set -eu
out=$(mkdir -p "$1" && cd "$1" && pwd)
cd "$(dirname "$0")/.."
stage=$(mktemp -d)
trap 'rm -rf "$stage"' EXIT
git ls-files -co --exclude-standard barrio pyproject.toml README.md LICENSE | tar -c -T - | tar -x -C "$stage"
cp -r web/dist "$stage/barrio/front"
cp -r examples "$stage/barrio/demo"
.venv/bin/pip wheel --quiet --disable-pip-version-check --no-deps --no-build-isolation --wheel-dir "$out" "$stage"
ls "$out"/barrio-*.whl
