/** Where things stand in the Weave, in CSS pixels of the whole cloth at one zoom, before scrolling. */
import type { Thread, Weave } from "../../api/client";

const HEAD = 62;
const LEFT = { rack: 8, bar: 44, leaf: 52, ports: 128 };
/** Rows this tall show names, these show racks only, and above the last each link shows its ports. */
export const NAMED = 12;
export const DETAIL = 40;

export interface Row {
	kind: "leaf" | "super" | "pod";
	/** The leaf; of a row of super-spines, those of each plane, by column. */
	leaf?: Thread;
	supers?: (Thread | undefined)[];
	pod?: string;
	y: number;
	index: number;
	firstOfRack: boolean;
	rackRows: number;
}

export interface Cloth {
	/** Columns are places of spines in their pod; in two tiers each is one spine. */
	columns: { x: number; spines: Map<string, Thread> }[];
	rows: Row[];
	left: typeof LEFT & { threads: number };
	width: number;
	height: number;
	pitch: number;
	row: number;
	/** The height of the heads, which stay in view. */
	head: number;
	asn: number;
	/** The rows of each pod, from its own head to its last leaf. */
	bands: { pod: string; top: number; bottom: number }[];
	byName: Map<string, { row: Row; column: number }>;
}

/** Lay the cloth out for a bench of this width; zoom 1 is for reading names, less for the whole, more for links. */
export function layOut(weave: Weave, width: number, zoom: number): Cloth {
	const row = Math.max(0.4, 17 * zoom);
	const named = row >= NAMED;
	const longest = Math.max(8, ...weave.leaves.slice(0, 200).map((leaf) => leaf.name.length));
	const wide = Math.max(4, ...weave.leaves.slice(0, 200).map((leaf) => rackName(leaf).length));
	const rack = Math.max(0, wide - 5) * 6;
	const left = { ...LEFT, bar: LEFT.bar + rack, leaf: LEFT.leaf + rack, ports: 0, threads: 0 };
	left.ports = left.leaf + (named ? Math.min(170, longest * 7) + 10 : 0);
	left.threads = named ? left.ports + 24 * 3.5 + 14 : left.bar + 14;
	const count = Math.max(1, ...[...podsOf(weave).values()].map((spines) => spines.length));
	const room = (width - left.threads - (named ? 96 : 24)) / count;
	const least = Math.max(5, Math.min(34, 34 * zoom));
	const pitch = zoom > 1.6 ? Math.max(120, 60 * zoom) : Math.max(least, Math.min(110, Math.floor(room)));
	const columns = Array.from({ length: count }, (_, index) => ({
		x: Math.round(left.threads + pitch * (index + 0.5)),
		spines: new Map<string, Thread>(),
	}));
	for (const [pod, spines] of podsOf(weave))
		for (const [index, spine] of spines.entries()) columns[index]?.spines.set(pod, spine);
	const cloth: Cloth = {
		columns,
		rows: [],
		left,
		width: 0,
		height: 0,
		pitch,
		row,
		head: weave.pods.length ? 30 : HEAD,
		asn: left.threads + pitch * count + 14,
		bands: [],
		byName: new Map(),
	};
	const bottom = stack(weave, cloth);
	cloth.width = cloth.asn + (named ? 82 : 10);
	cloth.height = bottom + 12;
	columns.forEach(({ spines }, column) => {
		for (const [pod, spine] of spines) {
			const head = cloth.rows.find((one) => one.kind === "pod" && one.pod === pod);
			if (head) cloth.byName.set(spine.name, { row: head, column });
			else cloth.byName.set(spine.name, { row: { ...NOWHERE, pod }, column });
		}
	});
	return cloth;
}

/** A rack's name within its pod. */
export const rackName = (leaf: Thread) =>
	leaf.pod && leaf.rack.startsWith(`${leaf.pod}-`) ? leaf.rack.slice(leaf.pod.length + 1) : leaf.rack;

const NOWHERE: Row = { kind: "pod", y: 0, index: -1, firstOfRack: false, rackRows: 0 };

function podsOf(weave: Weave): Map<string, Thread[]> {
	const pods = new Map<string, Thread[]>();
	for (const spine of weave.spines) {
		const there = pods.get(spine.pod);
		if (there) there.push(spine);
		else pods.set(spine.pod, [spine]);
	}
	return pods;
}

/** Put the rows under each other: super-spines, then each pod's head and leaves. */
function stack(weave: Weave, cloth: Cloth): number {
	const { row } = cloth;
	let y = cloth.head + (weave.pods.length ? 12 : 20);
	const push = (part: Partial<Row> & Pick<Row, "kind">) => {
		const made = { firstOfRack: false, rackRows: 0, ...part, y, index: cloth.rows.length };
		cloth.rows.push(made);
		return made;
	};
	const perPlane = weave.supers.filter((one) => one.plane === 1).length;
	for (let number = 0; number < perPlane; number++) {
		const supers = cloth.columns.map(
			(_, column) => weave.supers.filter((one) => one.plane === column + 1)[number],
		);
		const made = push({ kind: "super", supers });
		supers.forEach((one, column) => {
			if (one) cloth.byName.set(one.name, { row: made, column });
		});
		y += Math.max(row, 7);
	}
	const gap = Math.min(4, row / 4);
	const sizes = new Map<string, number>();
	for (const leaf of weave.leaves) sizes.set(leaf.rack, (sizes.get(leaf.rack) ?? 0) + 1);
	const byPod = new Map<string, Thread[]>();
	for (const leaf of weave.leaves) {
		const there = byPod.get(leaf.pod);
		if (there) there.push(leaf);
		else byPod.set(leaf.pod, [leaf]);
	}
	for (const pod of weave.pods.length ? weave.pods : [""]) {
		const top = y;
		if (pod) {
			y += row >= NAMED ? 30 : 9;
			push({ kind: "pod", pod });
			y += row >= NAMED ? 20 : 6;
		}
		let before = "";
		for (const leaf of byPod.get(pod) ?? []) {
			const firstOfRack = leaf.rack !== before;
			if (firstOfRack && before) y += gap;
			before = leaf.rack;
			const made = push({ kind: "leaf", leaf, firstOfRack, rackRows: sizes.get(leaf.rack) ?? 1 });
			cloth.byName.set(leaf.name, { row: made, column: -1 });
			y += row;
		}
		cloth.bands.push({ pod, top, bottom: y - row / 2 });
		y += pod ? Math.max(8, row / 2) : 0;
	}
	return y;
}

/** The zoom at which the whole cloth is as tall as the bench, or 1 when it is smaller. */
export function fitting(weave: Weave, width: number, height: number): number {
	let low = 0.02;
	let high = 1;
	if (layOut(weave, width, high).height <= height) return high;
	for (let step = 0; step < 9; step++) {
		const middle = (low + high) / 2;
		if (layOut(weave, width, middle).height <= height) low = middle;
		else high = middle;
	}
	return low;
}

/** The rows between two heights, found by halving. */
export function rowsBetween(cloth: Cloth, top: number, bottom: number): Row[] {
	let low = 0;
	let high = cloth.rows.length;
	while (low < high) {
		const middle = (low + high) >> 1;
		if ((cloth.rows[middle]?.y ?? 0) < top) low = middle + 1;
		else high = middle;
	}
	const found: Row[] = [];
	for (let index = low; index < cloth.rows.length; index++) {
		const row = cloth.rows[index];
		if (!row || row.y > bottom) break;
		found.push(row);
	}
	return found;
}

export interface Choice {
	spine?: string;
	leaf?: string;
	/** Racks chosen by their names at the left: one, or a span written `r03..r07` by its ends. */
	racks?: string;
}

/** What is at a place of the bench: a crossing, a switch, a rack's name, or nothing. */
export function at(cloth: Cloth, x: number, y: number, scroll: { x: number; y: number }): Choice {
	const across = x + scroll.x;
	const column = cloth.columns.findIndex((one) => Math.abs(one.x - across) <= cloth.pitch / 2);
	const flat = cloth.bands.length === 1 && !cloth.bands[0]?.pod;
	if (y <= cloth.head) {
		const spine = flat ? cloth.columns[column]?.spines.get("") : undefined;
		return spine && x > cloth.left.threads ? { spine: spine.name } : {};
	}
	const down = y + scroll.y;
	const reach = Math.max(cloth.row / 2, 3);
	const row = rowsBetween(cloth, down - reach, down + reach).reduce<Row | undefined>(
		(best, one) => (best && Math.abs(best.y - down) <= Math.abs(one.y - down) ? best : one),
		undefined,
	);
	if (!row) return {};
	if (row.kind === "super") {
		const one = row.supers?.[column];
		return one && x >= cloth.left.threads ? { spine: one.name } : {};
	}
	if (row.kind === "pod") {
		const one = cloth.columns[column]?.spines.get(row.pod ?? "");
		return one && x >= cloth.left.threads ? { spine: one.name } : {};
	}
	const leaf = row.leaf;
	if (!leaf) return {};
	if (x < cloth.left.bar) return { racks: leaf.rack };
	if (x < cloth.left.threads || across > cloth.asn - 6) return { leaf: leaf.name };
	const spine = cloth.columns[column]?.spines.get(leaf.pod);
	return spine ? { spine: spine.name, leaf: leaf.name } : { leaf: leaf.name };
}

/** The racks of a span, in the order of the cloth: `r03..r07` is every rack from the one to the other. */
export function racksIn(weave: Weave, span: string | undefined): string[] {
	if (!span) return [];
	const all = [...new Set(weave.leaves.map((leaf) => leaf.rack))];
	const [first, last] = span.split("..");
	const from = all.indexOf(first ?? "");
	const to = last ? all.indexOf(last) : from;
	if (from < 0 || to < 0) return [];
	return all.slice(Math.min(from, to), Math.max(from, to) + 1);
}
