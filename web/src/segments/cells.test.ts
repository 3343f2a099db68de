/** Claims about the cells of the grid: what is copied, filled and pasted, as a sheet would have it. */
import { expect, test } from "vitest";
import { changing, FIRST, filled, marked, markFrom, markOf, pasted, rangeOf, textOf } from "./cells";
import { portsOf } from "./faces";
import type { Column, Row } from "./queries";

const COLUMNS = ["grid", "boot", "sync"].map(
	(name, at): Column => ({
		name,
		vrf: "",
		vlan: 100 + at,
		vni: 3000 + at,
		state: "active",
		hosts: 0,
		seats: 0,
	}),
);

const row = (at: number, untagged: number | null, tagged: number[], locked = ""): Row => ({
	key: `leaf/r01/a:h${at}`,
	rack: "r01",
	leaf: "leaf-r01a",
	ports: `h${at}`,
	host: locked ? "" : `model-${at}`,
	team: "Models",
	plug: "compute",
	lag: "none",
	entry: "",
	locked,
	shut: "",
	untagged,
	tagged,
	vlans: {},
	vnis: 0,
	most_vnis: 4000,
});

const ROWS = [row(1, 0, [1]), row(2, null, []), row(3, 1, [0, 2]), row(4, null, [], "an uplink")];
const at = (index: number) => ROWS[index];
const CELL = (index: number, column: number) => ({ row: index, column: column + FIRST });

test("a mark is told by a letter in a sheet, and read back from words people write", () => {
	expect(ROWS.map((one) => [0, 1, 2].map((column) => textOf(one, FIRST + column)).join(""))).toEqual([
		"UT",
		"",
		"TUT",
		"",
	]);
	expect(["t", " Tagged ", "X", "u", "UN", "", "-"].map(markFrom)).toEqual([
		"tagged",
		"tagged",
		"tagged",
		"untagged",
		"untagged",
		"",
		"",
	]);
	expect(markFrom("100")).toBeNull();
	expect(textOf(ROWS[0] as Row, 0)).toBe("leaf-r01a h1");
});

test("a range is marked but for what is no port of a host, and only what changes is asked for", () => {
	const cells = marked(rangeOf(CELL(3, 1), CELL(0, 0)), "tagged", at, COLUMNS);
	expect(cells.map((cell) => `${cell.row.split(":")[1]} ${cell.segment}`)).toEqual([
		"h1 grid",
		"h1 boot",
		"h2 grid",
		"h2 boot",
		"h3 grid",
		"h3 boot",
	]);
	const left = changing(cells, (key) => ROWS.find((one) => one.key === key), COLUMNS);
	expect(left.map((cell) => `${cell.row.split(":")[1]} ${cell.segment}`)).toEqual([
		"h1 grid",
		"h2 grid",
		"h2 boot",
		"h3 boot",
	]);
});

test("a fill takes its marks from the first row, or from the first column", () => {
	const down = filled(rangeOf(CELL(0, 0), CELL(2, 2)), "down", at, COLUMNS);
	expect(down.filter((cell) => cell.row.endsWith("h3")).map((cell) => cell.mark)).toEqual([
		"untagged",
		"tagged",
		"",
	]);
	const right = filled(rangeOf(CELL(2, 0), CELL(2, 2)), "right", at, COLUMNS);
	expect(right.map((cell) => cell.mark)).toEqual(["tagged", "tagged", "tagged"]);
});

test("a pasted table falls on the cells from the one it begins at; a word that is no mark is said", () => {
	const found = pasted("T\tU\r\n\tT\n", CELL(0, 1), at, COLUMNS);
	expect(found.wrong).toBe("");
	expect(found.cells).toEqual([
		{ row: "leaf/r01/a:h1", segment: "boot", mark: "tagged" },
		{ row: "leaf/r01/a:h1", segment: "sync", mark: "untagged" },
		{ row: "leaf/r01/a:h2", segment: "boot", mark: "" },
		{ row: "leaf/r01/a:h2", segment: "sync", mark: "tagged" },
	]);
	expect(pasted("T\tVLAN 7", CELL(0, 0), at, COLUMNS).wrong).toContain("“VLAN 7” is no mark");
	expect(pasted("T\tT\tT\tT", CELL(2, 1), at, COLUMNS).wrong).toContain("over the edge");
	expect(pasted("T\nT", CELL(4, 1), at, COLUMNS).wrong).toContain("over the edge");
	expect(pasted("T\nT", CELL(2, 0), at, COLUMNS).wrong).toBe("leaf-r01a h4 is an uplink, and for no host.");
	expect(markOf(ROWS[2] as Row, 1)).toBe("untagged");
});

test("short lists of ports are taken apart", () => {
	expect(portsOf("h3..h5, h9")).toEqual(["h3", "h4", "h5", "h9"]);
	expect(portsOf("p7s0")).toEqual(["p7s0"]);
});
