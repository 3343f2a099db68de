/** Cells of the grid as a sheet has them: a letter each, in ranges that are copied, filled and pasted. */
import type { components } from "../api/schema";
import type { Column, Mark, Row } from "./queries";

export type Cell = components["schemas"]["Cell"];

export interface Place {
	row: number;
	column: number;
}

export interface Range {
	top: number;
	bottom: number;
	left: number;
	right: number;
}

/** Columns that come before the segments: the leaf and port, the host, its team, its plug. */
export const BEFORE = ["port", "host", "team", "plug"] as const;
export const FIRST = BEFORE.length;

export const rangeOf = (one: Place, other: Place): Range => ({
	top: Math.min(one.row, other.row),
	bottom: Math.max(one.row, other.row),
	left: Math.min(one.column, other.column),
	right: Math.max(one.column, other.column),
});

export const markOf = (row: Row, segment: number): Mark =>
	row.untagged === segment ? "untagged" : row.tagged.includes(segment) ? "tagged" : "";

const LETTER: Record<Mark, string> = { tagged: "T", untagged: "U", "": "" };

/** What a cell says in a sheet. */
export function textOf(row: Row, column: number): string {
	if (column >= FIRST) return LETTER[markOf(row, column - FIRST)];
	return [row.ports ? `${row.leaf} ${row.ports}` : row.leaf, row.host, row.team, row.plug][column] ?? "";
}

/** A cell of a sheet as a mark; nothing for a word that is none. */
export function markFrom(text: string): Mark | null {
	const word = text.trim().toLowerCase();
	if (["", "-", "·", "none"].includes(word)) return "";
	if (["t", "tagged", "tag", "x"].includes(word)) return "tagged";
	return ["u", "un", "untagged"].includes(word) ? "untagged" : null;
}

/** Every cell of a range that is to be one mark. */
export function marked(
	range: Range,
	mark: Mark,
	row: (at: number) => Row | undefined,
	columns: Column[],
): Cell[] {
	return each(range, row, columns, () => mark);
}

/** A range filled with what its first row (or first column) says. */
export function filled(
	range: Range,
	way: "down" | "right",
	row: (at: number) => Row | undefined,
	columns: Column[],
): Cell[] {
	const first = row(range.top);
	return each(range, row, columns, (here, at) => {
		const from = way === "down" ? first : here;
		return from ? markOf(from, way === "down" ? at : range.left - FIRST) : "";
	});
}

/** A pasted table, from its top left cell on. `wrong` is why it cannot be taken, which is whole or not at all. */
export function pasted(
	text: string,
	start: Place,
	row: (at: number) => Row | undefined,
	columns: Column[],
): { cells: Cell[]; wrong: string } {
	const cells: Cell[] = [];
	let wrong = "";
	const lines = text.replace(/\r?\n$/, "").split(/\r?\n/);
	lines.forEach((line, down) => {
		const here = row(start.row + down);
		line.split("\t").forEach((word, right) => {
			const column = columns[start.column + right - FIRST];
			const mark = markFrom(word);
			if (mark === null) wrong ||= `“${word}” is no mark. Paste T, U, or nothing in a cell.`;
			else if (mark !== "" && !(here && column)) wrong ||= "The table reaches over the edge of the grid.";
			else if (mark !== "" && here?.locked)
				wrong ||= `${here.leaf} ${here.ports} is ${here.locked}, and for no host.`;
			else if (here && column && (here.host || mark !== ""))
				cells.push({ row: here.key, segment: column.name, mark });
		});
	});
	return { cells, wrong };
}

function each(
	range: Range,
	row: (at: number) => Row | undefined,
	columns: Column[],
	mark: (row: Row, segment: number) => Mark,
): Cell[] {
	const cells: Cell[] = [];
	for (let at = range.top; at <= range.bottom; at++) {
		const here = row(at);
		if (!here || here.locked) continue;
		for (let column = Math.max(range.left, FIRST); column <= range.right; column++) {
			const segment = columns[column - FIRST];
			if (segment) cells.push({ row: here.key, segment: segment.name, mark: mark(here, column - FIRST) });
		}
	}
	return cells;
}

/** Only cells that are not what they are to be already. */
export function changing(cells: Cell[], row: (key: string) => Row | undefined, columns: Column[]): Cell[] {
	const places = new Map(columns.map((column, at) => [column.name, at]));
	return cells.filter((cell) => {
		const here = row(cell.row);
		return !here || markOf(here, places.get(cell.segment) ?? -1) !== cell.mark;
	});
}
