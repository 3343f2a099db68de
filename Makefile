# make demo    start Barrio with the demo world, and print its address
# make check   format, types, layers and the quick tests, in under a minute
# make test    every check, and every test but the long ones
# make test-all  the long ones too
# make bench   the benchmarks, as ratios to a plain baseline
# make wheel   a wheel with the front end and the demo world, in dist/
# make shots   the screenshots in docs/, from the demo world

.PHONY: demo check test test-all bench wheel shots prepare

prepare:
	@scripts/prepare.sh

demo: prepare
	@exec .venv/bin/barrio serve --demo

check: prepare
	@scripts/test.sh check

test: prepare
	@scripts/test.sh

test-all: prepare
	@scripts/test.sh all

bench: prepare
	@.venv/bin/python tests/bench/bench_compile.py
	@.venv/bin/python tests/bench/bench_structure.py
	@PYTHONPATH=. .venv/bin/python tests/bench/bench_ledger.py
	@PYTHONPATH=. .venv/bin/python tests/bench/bench_screen.py
	@PYTHONPATH=. .venv/bin/python tests/bench/bench_people.py
	@PYTHONPATH=. .venv/bin/python tests/bench/bench_segments.py
	@PYTHONPATH=. .venv/bin/python tests/bench/bench_templates.py
	@PYTHONPATH=. .venv/bin/python tests/bench/bench_rehearsal.py
	@PYTHONPATH=. .venv/bin/python tests/bench/bench_cabling.py
	@PYTHONPATH=. .venv/bin/python tests/bench/bench_editions.py
	@PYTHONPATH=. .venv/bin/python tests/bench/bench_staging.py
	@PYTHONPATH=. .venv/bin/python tests/bench/bench_truth.py

wheel: prepare
	@scripts/wheel.sh dist

shots: prepare
	@PYTHONPATH=. .venv/bin/python scripts/shots.py
