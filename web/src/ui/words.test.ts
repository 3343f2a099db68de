/** Claims about counts and shares in words. */
import { expect, test } from "vitest";
import { clock, counted, day, effectPhrases, number, ratio, share } from "./words";

test("counts agree with their nouns and group their digits", () => {
	expect(counted(1, "cable")).toBe("1 cable");
	expect(counted(0, "switch", "switches")).toBe("0 switches");
	expect(counted(12480, "host port")).toBe("12,480 host ports");
	expect(number(2n ** 64n)).toBe("18,446,744,073,709,551,616");
});

test("a ratio is as short as it can be and as long as it must", () => {
	expect([3, 1.5, 2.25, 2.333].map(ratio)).toEqual(["3", "1.5", "2.25", "2.33"]);
});

test("shares are whole percents, and tiny ones are not said to be nothing", () => {
	expect([0, 0.004, 0.00001, 0.126, 1].map(share)).toEqual([
		"0 %",
		"0.40 %",
		"under 0.01 %",
		"13 %",
		"100 %",
	]);
});

test("what a change did leaves out what it did not do", () => {
	expect(effectPhrases({})).toEqual([]);
	expect(
		effectPhrases({ switches_added: 1, cables_removed: 2, numbers_taken: 1, numbers_given_back: 1200 }),
	).toEqual(["1 new switch", "2 cables to pull", "1 number taken", "1,200 given back"]);
	expect(effectPhrases({ cables_moved: 1 })).toEqual(["1 cable with other ends"]);
	expect(effectPhrases({ cables_moved: 16 })).toEqual(["16 cables with other ends"]);
	expect(effectPhrases({ switches_removed: 2, switches_changed: 3, cables_added: 1 })).toEqual([
		"2 switches less",
		"3 changed",
		"1 cable to lay",
	]);
});

test("times are said as a calendar and a clock say them", () => {
	expect(day("2026-05-04T09:30:00")).toBe("4 May");
	expect(clock("2026-05-04T09:05:00")).toBe("09:05");
});
