/** Counts as people say them. */
const NUMBER = new Intl.NumberFormat("en");

export const number = (value: number | bigint): string => NUMBER.format(value);

export const counted = (value: number, one: string, many = `${one}s`): string =>
	`${number(value)} ${value === 1 ? one : many}`;

export const clock = (when: string): string =>
	new Date(when).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });

/** A day in words, or as ISO 8601 has it for those who like it so. */
export const day = (when: string): string =>
	localStorage.getItem("dates") === "iso"
		? new Date(when).toLocaleDateString("sv-SE")
		: new Date(when).toLocaleDateString("en-GB", { day: "numeric", month: "short" });

export const ratio = (value: number): string =>
	Number.isInteger(value) ? String(value) : value.toFixed(2).replace(/0$/, "");

/** The number in words of a share: large shares as percent, tiny ones as what they are. */
export function share(value: number): string {
	if (value >= 0.01 || value === 0) return `${Math.round(value * 100)} %`;
	return value >= 0.0001 ? `${(value * 100).toFixed(2)} %` : "under 0.01 %";
}

/** What a change did, in a few phrases. */
export function effectPhrases(effect: Record<string, number>): string[] {
	const say = (key: string, phrase: (n: string) => string) => {
		const value = effect[key] ?? 0;
		return value ? [phrase(number(value))] : [];
	};
	return [
		...say("switches_added", (n) => `${n} new ${n === "1" ? "switch" : "switches"}`),
		...say("switches_removed", (n) => `${n} ${n === "1" ? "switch" : "switches"} less`),
		...say("switches_changed", (n) => `${n} changed`),
		...say("cables_added", (n) => `${n} ${n === "1" ? "cable" : "cables"} to lay`),
		...say("cables_moved", (n) => `${n} ${n === "1" ? "cable" : "cables"} with other ends`),
		...say("cables_removed", (n) => `${n} ${n === "1" ? "cable" : "cables"} to pull`),
		...say("numbers_taken", (n) => `${n} ${n === "1" ? "number" : "numbers"} taken`),
		...say("numbers_given_back", (n) => `${n} given back`),
	];
}
