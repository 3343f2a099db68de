/** Claims about a switch's line: each step is told by its shape, what it waits for in words, and what needs somebody is known. */
import { expect, test } from "vitest";
import { inShort, linesOf, sums, waveOf } from "./line";
import { expected, knock, staged, staging } from "./made";

const line = (...[roll, knocks = [], under]: Partial<Parameters<typeof linesOf>>) =>
	linesOf(roll ?? [], knocks, under)[0];

test("before anything is staged, a switch is without a box, expected, knocking, or let in", () => {
	expect(line([expected("a", { serial: "" })])).toMatchObject({ now: "no box yet: scan it", needs: false });
	expect(line([expected("a", { serial: "" })])?.marks.every((one) => one === "unknown")).toBe(true);
	expect(line([expected("a")])?.now).toBe("has not knocked yet");
	const knocking = line([expected("a")], [knock("a")]);
	expect(knocking?.marks.slice(0, 3)).toEqual(["done", "needs you", "open"]);
	expect(knocking).toMatchObject({ now: "knocks; let it in", needs: true });
	expect(line([expected("a")], [knock("a", { faults: ["it has 4 ports"] })])?.now).toBe(
		"knocks, and it has 4 ports",
	);
	expect(line([expected("a", { admitted: true })])?.marks.slice(0, 4)).toEqual([
		"done",
		"done",
		"done",
		"open",
	]);
});

test("in a staging the step it is at shows whether it works, failed, was skipped, or is through", () => {
	const roll = [expected("a", { admitted: true })];
	const marks = (step: string, state: Parameters<typeof staged>[2]) =>
		line(roll, [], staging([staged("a", step, state)]))?.marks;
	expect(marks("software", "works")?.slice(2, 5)).toEqual(["done", "now", "open"]);
	expect(marks("all files", "failed")?.slice(4, 7)).toEqual(["done", "wrong", "open"]);
	expect(marks("checked", "skipped")?.slice(5)).toEqual(["done", "skipped", "skipped", "skipped"]);
	expect(marks("handed over", "done")?.every((one) => one === "done")).toBe(true);
});

test("who was refused, or is expected by nobody, is on no switch's line", () => {
	expect(line([expected("a")], [knock("a", { state: "refused" })])?.needs).toBe(false);
	expect(line([expected("a")], [knock("b")])?.needs).toBe(false);
});

test("waves come in their order, those in no wave last; sums and the open wave add up", () => {
	const roll = ["a", "b", "c", "d"].map((name) => expected(name, { serial: name === "d" ? "" : name }));
	const under = staging([
		staged("a", "all files", "failed", { wave: 2 }),
		staged("b", "handed over", "done"),
		staged("c", "software", "works", { wave: 2 }),
	]);
	const lines = linesOf(roll, [], under);
	expect(lines.map((one) => one.name)).toEqual(["b", "a", "c", "d"]);
	expect(sums(lines)).toEqual({ all: 4, through: 1, works: 1, needs: 1, unbound: 1 });
	expect(waveOf(under)).toBe(2);
	expect(waveOf(staging([staged("b", "handed over", "done"), staged("c", "expected", "skipped")]))).toBe(0);
	expect(waveOf(null)).toBe(0);
});

test("the street tells how far staging is", () => {
	expect(inShort(null, 0)).toBe("no edition yet");
	expect(inShort(null, 2)).toBe("nothing yet");
	const under = staging([staged("a", "handed over", "done"), staged("b", "software", "works")]);
	expect(inShort(under, 2)).toBe("1 of 2 in");
	expect(inShort({ ...under, state: "paused" }, 2)).toBe("1 of 2 in, paused");
});

test("one that is ready and waits for its wave is marked otherwise than one at work, and strangers wait for somebody too", () => {
	const at = (task: string) => {
		const one = staging([staged("leaf-r01a", "all files", "works", { task })]);
		return linesOf([expected("leaf-r01a", { admitted: true })], [], one)[0]?.marks[5];
	};
	expect([at("prepare"), at("commit"), at("confirm"), at("hold"), at("back")]).toEqual([
		"now",
		"ready",
		"now",
		"ready",
		"now",
	]);
	expect(sums(linesOf([expected("leaf-r01a")], [], null), 2).needs).toBe(2);
});
