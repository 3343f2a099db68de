/** Claims about rack ranges. */
import { assert, test } from "vitest";
import { countRacks, resizeRacks } from "./racks";

test("racks are counted as they are written", () => {
	for (const [text, count] of [
		["r01..r12", 12],
		["r01", 1],
		["r01..r03, b01", 4],
		["p01-r01..p01-r08, x9", 9],
	] as const)
		assert.strictEqual(countRacks(text), count);
});

test("a range grows and shrinks at its end, by whole racks", () => {
	for (const [text, count, after] of [
		["r01..r12", 14, "r01..r14"],
		["r01..r12", 1, "r01"],
		["r01..r03, b01", 6, "r01..r03, b01..b03"],
		["r01..r03, b01", 2, "r01..r02"],
		["r9", 2, "r9..r10"],
	] as const) {
		assert.strictEqual(resizeRacks(text, count), after);
		assert.strictEqual(countRacks(resizeRacks(text, count)), count);
	}
});
