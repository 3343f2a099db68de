import { expect, test } from "vitest";
import type { RungSaid, SettingRow } from "./queries";
import { asSaid, isPlain, sayingOf } from "./saying";

const setting = (kind: string, many = false) => ({ name: "x", kind, many }) as SettingRow;
const said = (value: unknown, more: Partial<RungSaid> = {}) =>
	({ value, adds: false, why: "", hold: "", ...more }) as RungSaid;
const saying = (text: string, more = {}) => ({ text, adds: false, why: "", hold: "", ...more });

test("a value is said plainly, and with its words where there are any", () => {
	expect(asSaid(setting("list of hosts", true), saying("10.9.0.1, clock.example"), false)).toEqual([
		"10.9.0.1",
		"clock.example",
	]);
	expect(
		asSaid(setting("list of hosts", true), saying("10.9.0.1", { adds: true, why: "new " }), false),
	).toEqual({
		add: ["10.9.0.1"],
		why: "new",
	});
	expect(asSaid(setting("number"), saying("1,500"), false)).toBe(1500);
	expect(asSaid(setting("number"), saying("many"), false)).toBe("many");
	expect(asSaid(setting("number"), saying("5", { hold: "theirs" }), false)).toEqual({
		value: 5,
		hold: "theirs",
	});
	expect(asSaid(setting("number"), saying("", { hold: "theirs" }), true)).toEqual({ hold: "theirs" });
	expect(asSaid(setting("time zone"), saying(" "), false, true)).toBeNull();
});

test("what the brief says is what the form begins with", () => {
	expect(sayingOf(said(["a", "b"], { adds: true, why: "so" }))).toEqual(
		saying("a, b", { adds: true, why: "so" }),
	);
	expect(sayingOf(said(2000)).text).toBe("2000");
	expect(sayingOf(undefined)).toEqual(saying(""));
	expect([isPlain(setting("text")), isPlain(setting("table of users"))]).toEqual([true, false]);
});
