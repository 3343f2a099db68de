/** Claims about rack ranges and about a model as text. */
import assert from "node:assert/strict";
import { test } from "node:test";
import { countRacks, resizeRacks } from "../src/brief/racks";
import { written } from "../src/catalogue/yaml";

test("racks are counted as they are written", () => {
	for (const [text, count] of [
		["r01..r12", 12],
		["r01", 1],
		["r01..r03, b01", 4],
		["p01-r01..p01-r08, x9", 9],
	] as const)
		assert.equal(countRacks(text), count);
});

test("a range grows and shrinks at its end, by whole racks", () => {
	for (const [text, count, after] of [
		["r01..r12", 14, "r01..r14"],
		["r01..r12", 1, "r01"],
		["r01..r03, b01", 6, "r01..r03, b01..b03"],
		["r01..r03, b01", 2, "r01..r02"],
		["r9", 2, "r9..r10"],
	] as const) {
		assert.equal(resizeRacks(text, count), after);
		assert.equal(countRacks(resizeRacks(text, count)), count);
	}
});

test("a model's text holds what is not at its default, and quotes its patterns", () => {
	const text = written({
		id: "faro-f2", maker: "Faro", name: "F2", tiers: ["leaf"], reserved: ["eth1/2"], units: 1, airflow: "front to back",
		power: 90, weight: 4, tables: { routes: 1000, vnis: 10, ecmp: 8 },
		groups: [
			{
				prefix: "p", count: 2, speeds: [25, 100], use: "any", connector: "QSFP28", rows: 1, first: 1, pattern: "eth1/{n}",
				lane_pattern: "{port}/{lane}", first_lane: 1, breakouts: [{ lanes: 4, speed: 25, uses_up: 1 }],
			},
		],
	});
	for (const line of ["id: faro-f2", "weight: 4.0", "reserved: [eth1/2]", '    pattern: "eth1/{n}"', "      - {lanes: 4, speed: 25, uses_up: 1}"])
		assert.ok(text.split("\n").includes(line), line);
});
