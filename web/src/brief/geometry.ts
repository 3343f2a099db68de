/** Where things stand in the Weave, in CSS pixels of the whole cloth, before scrolling. */
import type { LeafThread, SpineThread, Weave } from "../api/client";

export const HEAD = 62;
export const ROW = 17;
export const RACK_GAP = 4;
const LEFT = { rack: 8, bar: 44, leaf: 52, ports: 128 };

export interface LeafRow {
	leaf: LeafThread;
	y: number;
	firstOfRack: boolean;
	rackRows: number;
}

export interface Cloth {
	spines: { spine: SpineThread; x: number }[];
	rows: LeafRow[];
	left: typeof LEFT & { threads: number };
	width: number;
	height: number;
	pitch: number;
	asn: number;
}

/** Lay the cloth out for a bench of this width; it grows past it when there are many spines. */
export function layOut(weave: Weave, width: number): Cloth {
	const longest = Math.max(8, ...weave.leaves.map((leaf) => leaf.name.length));
	const ports = LEFT.leaf + Math.min(160, longest * 7) + 10;
	const threads = ports + 24 * 3.5 + 14;
	const count = Math.max(1, weave.spines.length);
	const pitch = 2 * Math.floor(Math.max(34, Math.min(110, (width - threads - 96) / count)) / 2);
	const spines = weave.spines.map((spine, index) => ({
		spine,
		x: Math.round(threads + pitch * (index + 0.5)),
	}));
	const rows: LeafRow[] = [];
	let y = HEAD + 20;
	weave.leaves.forEach((leaf, index) => {
		const firstOfRack = index === 0 || weave.leaves[index - 1]?.rack !== leaf.rack;
		if (firstOfRack && index > 0) y += RACK_GAP;
		const rackRows = firstOfRack ? weave.leaves.filter((other) => other.rack === leaf.rack).length : 0;
		rows.push({ leaf, y, firstOfRack, rackRows });
		y += ROW;
	});
	const asn = threads + pitch * count + 14;
	return { spines, rows, left: { ...LEFT, ports, threads }, width: asn + 82, height: y + 8, pitch, asn };
}

/** What is at a place of the bench: a crossing, a spine's head, a leaf's label, or nothing. */
export function at(
	cloth: Cloth,
	x: number,
	y: number,
	scroll: { x: number; y: number },
): { spine?: string; leaf?: string } {
	const acrossThreads = x + scroll.x;
	const column = cloth.spines.find((thread) => Math.abs(thread.x - acrossThreads) <= cloth.pitch / 2)?.spine
		.name;
	if (y <= HEAD) return column && x > cloth.left.threads ? { spine: column } : {};
	const row = cloth.rows.find((one) => Math.abs(one.y - y - scroll.y) <= ROW / 2)?.leaf.name;
	if (!row) return {};
	if (x < cloth.left.threads || acrossThreads > cloth.asn - 6) return { leaf: row };
	return column ? { spine: column, leaf: row } : { leaf: row };
}
