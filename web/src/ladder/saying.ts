/** What a form says of a setting on a rung, as the brief would, and back. */
import type { RungSaid, SettingRow } from "./queries";

export interface Saying {
	text: string;
	adds: boolean;
	why: string;
	hold: string;
}

/** Settings that are more than a line: those are said in the brief's text. */
export const isPlain = (setting: SettingRow) => !/table|users|lines/.test(setting.kind);

export function sayingOf(said: RungSaid | undefined): Saying {
	const value = said?.value;
	const text = Array.isArray(value)
		? value.join(", ")
		: value === null || value === undefined
			? ""
			: String(value);
	return { text, adds: said?.adds ?? false, why: said?.why ?? "", hold: said?.hold ?? "" };
}

function read(setting: SettingRow, text: string): unknown {
	const plain = text.trim();
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
