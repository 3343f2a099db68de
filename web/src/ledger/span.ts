/** Windows and spans of integers, as wide as IPv6 needs them: zooming, panning, snapping, and how they read. */
export interface Span {
	low: bigint;
	high: bigint;
}

export type Family = "v4" | "v6" | "number";

export const sizeOf = (span: Span): bigint => span.high - span.low + 1n;

/** A window kept inside a whole, at its size as long as that fits. */
export function within(window: Span, whole: Span): Span {
	const size = window.high - window.low;
	if (size >= whole.high - whole.low) return whole;
	if (window.low < whole.low) return { low: whole.low, high: whole.low + size };
	if (window.high > whole.high) return { low: whole.high - size, high: whole.high };
	return window;
}

/** A window `by` times as wide (a half, a double), around a place from 0 to 1; never under eight numbers. */
export function zoomed(window: Span, whole: Span, by: "in" | "out", at = 0.5): Span {
	const size = sizeOf(window);
	const next = by === "in" ? size / 2n : size * 2n;
	const width = next < 8n ? 8n : next;
	const centre = window.low + part(size, at);
	const low = centre - part(width, at);
	return within({ low, high: low + width - 1n }, whole);
}

export function panned(window: Span, whole: Span, steps: number): Span {
	const by = (sizeOf(window) / 8n || 1n) * BigInt(Math.trunc(steps));
	return within({ low: window.low + by, high: window.high + by }, whole);
}

/** So much of a size, from 0 to 1, without losing digits that a float has not. */
export const part = (size: bigint, share: number): bigint =>
	(size * BigInt(Math.round(share * 1e6))) / 1_000_000n;

/** Where a number stands in a window, from 0 to 1. */
export const placeOf = (value: bigint, window: Span): number =>
	Number(((value - window.low) * 1_000_000n) / sizeOf(window)) / 1e6;

/** Two places of a window as a span of whole numbers, snapped to blocks that a few pixels hold. */
export function spanOf(one: number, two: number, window: Span, columns: number): Span {
	const [left, right] = one < two ? [one, two] : [two, one];
	const pixel = sizeOf(window) / BigInt(Math.max(1, Math.round(columns)));
	let step = 1n;
	while (step * 2n <= pixel * 24n) step *= 2n;
	const low = ((window.low + part(sizeOf(window), left)) / step) * step;
	const high = ((window.low + part(sizeOf(window), right)) / step) * step + step - 1n;
	return { low: later(low, window.low), high: sooner(high, window.high) };
}

/** An integer as its family writes it; IPv6 as RFC 5952 does. */
export function textOf(family: Family, value: bigint): string {
	if (family === "number") return value.toString();
	if (family === "v4")
		return [24n, 16n, 8n, 0n].map((shift) => ((value >> shift) & 255n).toString()).join(".");
	const groups = Array.from({ length: 8 }, (_, index) => (value >> BigInt(112 - 16 * index)) & 0xffffn);
	const run = longestZeros(groups);
	const text = groups.map((group) => group.toString(16));
	if (run.length < 2) return text.join(":");
	return `${text.slice(0, run.start).join(":")}::${text.slice(run.start + run.length).join(":")}`;
}

function longestZeros(groups: bigint[]): { start: number; length: number } {
	let best = { start: 0, length: 0 };
	for (let start = 0; start < groups.length; start++) {
		let end = start;
		while (end < groups.length && groups[end] === 0n) end++;
		if (end - start > best.length) best = { start, length: end - start };
	}
	return best;
}

/** The lowest integer of an address, a prefix or a number as it is written. */
export function parseText(family: Family, text: string): bigint | null {
	const base = text.split("/")[0] ?? "";
	try {
		if (family === "number") return BigInt(base);
		if (family === "v4") return base.split(".").reduce((sum, part) => (sum << 8n) | BigInt(part), 0n);
		const [head = "", tail] = base.split("::");
		const groups = (half: string) => (half ? half.split(":") : []);
		const [left, right] = [groups(head), groups(tail ?? "")];
		const zeros = tail === undefined ? [] : Array(8 - left.length - right.length).fill("0");
		return [...left, ...zeros, ...right].reduce((sum, group) => (sum << 16n) | BigInt(`0x${group}`), 0n);
	} catch {
		return null;
	}
}

/** The aligned blocks that make up a span, as (low, size); of addresses each is a prefix. */
export function blocksOf(span: Span): { low: bigint; size: bigint }[] {
	const found = [];
	let low = span.low;
	while (low <= span.high) {
		let size = low === 0n ? 1n << 127n : low & -low;
		while (low + size - 1n > span.high) size /= 2n;
		found.push({ low, size });
		low += size;
	}
	return found;
}

/** A span as it is written: a prefix when it is one, else its first and last. */
export function spanText(family: Family, span: Span): string {
	const [block, ...more] = blocksOf(span);
	if (family === "number") return span.low === span.high ? `${span.low}` : `${span.low}..${span.high}`;
	if (block && more.length === 0) return prefixText(family, block);
	return `${textOf(family, span.low)}..${textOf(family, span.high)}`;
}

export function prefixText(family: Family, block: { low: bigint; size: bigint }): string {
	const bits = block.size.toString(2).length - 1;
	return `${textOf(family, block.low)}/${(family === "v4" ? 32 : 128) - bits}`;
}

const groupsOf = (value: bigint): string[] =>
	Array.from({ length: 8 }, (_, index) => ((value >> BigInt(112 - 16 * index)) & 0xffffn).toString(16));

/**
 * How many groups of IPv6 addresses the ends of a window have in common. Of a long address only the end changes while one
 * looks closer, so the rest is said once.
 */
export function commonGroups(family: Family, window: Span): number {
	if (family !== "v6") return 0;
	const [one, two] = [groupsOf(window.low), groupsOf(window.high)];
	const differ = one.findIndex((group, index) => group !== two[index]);
	return differ < 0 ? 7 : differ;
}

/** A mark on the axis: of IPv6 the groups after those in common, without the zeros at the end. */
export function markText(family: Family, value: bigint, common: number): string {
	if (family !== "v6") return textOf(family, value);
	const groups = groupsOf(value).slice(common);
	while (groups.length > 1 && groups.at(-1) === "0") groups.pop();
	return groups.join(":");
}

/** What the axis does not repeat. */
export const stemText = (window: Span, common: number): string =>
	`${groupsOf(window.low).slice(0, common).join(":")}:`.replace(/(^|:)0(:0)+:/, "::");

/** Round places for marks under a strip: at most `most`, on powers of two for addresses and of ten for numbers. */
export function marksOf(family: Family, window: Span, most: number): bigint[] {
	let step = 1n;
	const wanted = sizeOf(window) / BigInt(most) + 1n;
	if (family === "number") {
		const factors = [2n, 5n, 10n];
		let power = 1n;
		for (let index = 0; step < wanted; index++) {
			step = power * (factors[index % 3] ?? 10n);
			if (index % 3 === 2) power *= 10n;
		}
	} else while (step < wanted) step *= 2n;
	const marks = [];
	for (let at = ((window.low + step - 1n) / step) * step; at <= window.high; at += step) marks.push(at);
	return marks;
}

/** A size as people say it: in full up to millions, then as a power. */
export function sizeText(size: bigint): string {
	if (size < 10_000_000n) return new Intl.NumberFormat("en").format(size);
	const text = size.toString();
	const power = String(text.length - 1).replace(/\d/g, (digit) => "⁰¹²³⁴⁵⁶⁷⁸⁹"[Number(digit)] ?? "");
	return `${text[0]}.${text[1] ?? 0} × 10${power}`;
}

/** For how many more leaves a pool lasts, in words. */
export const lastsText = (leaves: number): string =>
	leaves > 1_000_000
		? "not in a lifetime"
		: `after ${new Intl.NumberFormat("en").format(leaves)} more leaves`;

/** `Math.max` and `Math.min` take no bigints. */
const later = (one: bigint, other: bigint): bigint =>
	[one, other].reduce((now, next) => (next > now ? next : now));
const sooner = (one: bigint, other: bigint): bigint =>
	[one, other].reduce((now, next) => (next < now ? next : now));
