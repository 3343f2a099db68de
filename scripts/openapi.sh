#!/bin/sh
# Write the OpenAPI document, the TypeScript client's types from it, and a fabric for the front end's tests; all are made, not kept.
set -eu
cd "$(dirname "$0")/.."
.venv/bin/python -c 'import json; from barrio.api.app import make_app; print(json.dumps(make_app(None).openapi(), indent=1))' > web/openapi.json
.venv/bin/python scripts/made.py > web/src/api/made.json
npm --prefix web run --silent api > /dev/null
