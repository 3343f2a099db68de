/** Rack ranges as the brief writes them: longer or shorter by whole racks, at the end. */
export function countRacks(text: string): number {
	return text.split(",").reduce((sum, part) => sum + sizeOf(part.trim()), 0);
}

function sizeOf(part: string): number {
	const range = /^(\D[a-z0-9-]*?)(\d+)\.\.(\D[a-z0-9-]*?)(\d+)$/.exec(part);
	return range ? Math.max(0, Number(range[4]) - Number(range[2]) + 1) : 1;
}

/** The same racks with `count` in all: taken off the end, or named on from the last. */
export function resizeRacks(text: string, count: number): string {
	const parts = text.split(",").map((part) => part.trim());
	let now = countRacks(text);
	while (now > count && parts.length) {
		const last = parts.pop() ?? "";
		const range = /^(\D[a-z0-9-]*?)(\d+)\.\.(\D[a-z0-9-]*?)(\d+)$/.exec(last);
		const size = sizeOf(last);
		const keep = size - (now - count);
		now -= Math.min(size, now - count);
		if (range && keep > 0) parts.push(span(range[1] ?? "", range[2] ?? "", Number(range[2]) + keep - 1));
	}
	if (now < count) {
		const last = parts.pop() ?? "r01";
		const name = /^(\D[a-z0-9-]*?)(\d+)(?:\.\.\D[a-z0-9-]*?(\d+))?$/.exec(last);
		if (!name) return text;
		const end = Number(name[3] ?? name[2]) + count - now;
		parts.push(span(name[1] ?? "r", name[2] ?? "01", end));
	}
	return parts.join(", ");
}

function span(prefix: string, first: string, end: number): string {
	const last = String(end).padStart(first.length, "0");
	return last === first ? `${prefix}${first}` : `${prefix}${first}..${prefix}${last}`;
}
