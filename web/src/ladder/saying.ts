/** What a form says of a setting on a rung, as the brief would, and back. */
import type { RungSaid, SettingRow } from "./queries";

export interface Saying {
	text: string;
	adds: boolean;
	why: string;
	hold: string;
}

/** Settings that are said in a form; users and what they may read are said in the brief's text. */
export const isPlain = (setting: SettingRow) => !/users| and /.test(setting.kind);

/** Settings of several lines: texts as they stand in a file, or the rows of a table. */
export const isLong = (setting: SettingRow) => setting.kind === "list of lines" || isTable(setting);
const isTable = (setting: SettingRow) => Object.keys(setting.columns).length > 0;

/** The rows of a table as a sheet has them on the clipboard: tabs between cells, perhaps the columns' names first. */
export function rowsOf(setting: SettingRow, text: string): Record<string, unknown>[] {
	const columns = Object.entries(setting.columns);
	const lines = text.split("\n").filter((line) => line.trim());
	const cells = lines.map((line) => line.split("\t").map((cell) => cell.trim()));
	const headed = cells[0]?.every((cell, at) => cell === columns[at]?.[0]) ?? false;
	return cells.slice(headed ? 1 : 0).map((row) =>
		Object.fromEntries(
			row.map((cell, at) => {
				const [name = `column ${at + 1}`, kind] = columns[at] ?? [];
				return [name, kind === "number" && /^-?\d+$/.test(cell) ? Number(cell) : cell];
			}),
		),
	);
}

function textOf(setting: SettingRow, value: unknown): string {
	if (!Array.isArray(value)) return value === null || value === undefined ? "" : String(value);
	if (isTable(setting)) {
		const columns = Object.keys(setting.columns);
		const rows = value.map((row) =>
			columns.map((name) => String((row as Record<string, unknown>)[name] ?? "")),
		);
		return [columns, ...rows].map((row) => row.join("\t")).join("\n");
	}
	return value.join(isLong(setting) ? "\n" : ", ");
}

export function sayingOf(setting: SettingRow, said: RungSaid | undefined): Saying {
	const text = textOf(setting, said?.value);
	return { text, adds: said?.adds ?? false, why: said?.why ?? "", hold: said?.hold ?? "" };
}

function read(setting: SettingRow, text: string): unknown {
	if (isTable(setting)) return rowsOf(setting, text);
	if (isLong(setting)) return text.split("\n").filter((line) => line.trim());
	const plain = text.trim();
	if (setting.kind === "choice of true or false" && /^(true|false)$/.test(plain)) return plain === "true";
	if (setting.kind.startsWith("list")) return plain.split(/[\s,]+/).filter(Boolean);
	if (setting.kind === "number" && /^\d[\d,]*$/.test(plain)) return Number(plain.replaceAll(",", ""));
	return plain;
}

/** The value for the brief: plain where nothing else is said, and with its words where there are any. */
export function asSaid(setting: SettingRow, saying: Saying, silent: boolean, ofFabric = false): unknown {
	const words = {
		...(saying.why.trim() ? { why: saying.why.trim() } : {}),
		...(saying.hold.trim() ? { hold: saying.hold.trim() } : {}),
	};
	if (silent) return words;
	const value = read(setting, saying.text);
	// Nothing for the whole fabric is Barrio's own again.
	if (ofFabric && saying.text.trim() === "") return null;
	if (saying.adds) return { add: value, ...words };
	return Object.keys(words).length ? { value, ...words } : value;
}
