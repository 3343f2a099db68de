#!/bin/sh
# Write the OpenAPI document and the TypeScript client's types from it; both are made, not kept.
set -eu
cd "$(dirname "$0")/.."
.venv/bin/python -c 'import json; from barrio.api.app import make_app; print(json.dumps(make_app(None).openapi(), indent=1))' > web/openapi.json
npm --prefix web run --silent api > /dev/null
