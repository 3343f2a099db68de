#!/bin/sh
# How much of all code lines are tests: Python, templates, SQL, shell, TypeScript and CSS, without blank lines.
set -eu
cd "$(dirname "$0")/.."
lines() { xargs cat | grep -cv '^[[:space:]]*$'; }
kept() { git ls-files -co --exclude-standard '*.py' '*.ts' '*.tsx' '*.css' '*.sql' '*.j2' '*.sh' | grep -v -e 'web/src/api/schema.d.ts'; }
tests=$(kept | grep -E '^tests/|\.test\.tsx?$|/made\.ts$|^web/src/test(ing)?\.tsx?$' | lines)
all=$(kept | lines)
echo "Tests are $((tests * 100 / all)) % of all code lines ($tests of $all)."
