import { expect, test } from "vitest";
import type { RungSaid, SettingRow } from "./queries";
import { asSaid, isLong, isPlain, rowsOf, sayingOf } from "./saying";

const setting = (kind: string, many = false) =>
	({ name: "x", kind, many, columns: {} }) as unknown as SettingRow;
const TABLE = {
	name: "vars.traps",
	kind: "table",
	many: true,
	columns: { to: "address", level: "number" },
} as unknown as SettingRow;
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
	expect(asSaid(setting("choice of true or false"), saying("true"), false)).toBe(true);
	expect(asSaid(setting("number"), saying("5", { hold: "theirs" }), false)).toEqual({
		value: 5,
		hold: "theirs",
	});
	expect(asSaid(setting("number"), saying("", { hold: "theirs" }), true)).toEqual({ hold: "theirs" });
	expect(asSaid(setting("time zone"), saying(" "), false, true)).toBeNull();
});

test("what the brief says is what the form begins with", () => {
	expect(sayingOf(setting("list of hosts", true), said(["a", "b"], { adds: true, why: "so" }))).toEqual(
		saying("a, b", { adds: true, why: "so" }),
	);
	expect(sayingOf(setting("number"), said(2000)).text).toBe("2000");
	expect(sayingOf(setting("text"), undefined)).toEqual(saying(""));
	expect([isPlain(setting("text")), isPlain(setting("table of users"))]).toEqual([true, false]);
});

test("a table is what a sheet has on the clipboard, with its head or without, and comes back as it was", () => {
	const rows = [
		{ to: "10.9.0.8", level: 3 },
		{ to: "10.9.0.9", level: 4 },
	];
	const text = "to\tlevel\n10.9.0.8\t3\n10.9.0.9\t4";
	expect(sayingOf(TABLE, said(rows)).text).toBe(text);
	expect(asSaid(TABLE, saying(text), false)).toEqual(rows);
	expect(asSaid(TABLE, saying("10.9.0.8\t3\n\n 10.9.0.9 \t4\n"), false)).toEqual(rows);
	// What does not fit is handed on as it is, for the server to say why.
	expect(rowsOf(TABLE, "10.9.0.8\tx\tmore")).toEqual([{ to: "10.9.0.8", level: "x", "column 3": "more" }]);
});

test("lines stay lines, with what begins them", () => {
	const lines = setting("list of lines", true);
	expect(isLong(lines)).toBe(true);
	expect(asSaid(lines, saying("iface dummy0\n    mtu 1500, or so\n"), false)).toEqual([
		"iface dummy0",
		"    mtu 1500, or so",
	]);
	expect(sayingOf(lines, said(["a", "  b"])).text).toBe("a\n  b");
});
