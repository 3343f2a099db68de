/** The floor in pixels: how the plan is fitted and zoomed, which rack is where, and which is next to which. */
import type { Floor, Spot } from "../queries";

/** Pixels for a millimetre, and where the plan's corner lies. */
export interface View {
	scale: number;
	x: number;
	y: number;
}

export interface Box {
	x: number;
	y: number;
	width: number;
	depth: number;
}

/** Everything that is drawn of a floor, in mm. */
export function extent(floor: Floor): Box {
	const boxes: Box[] = floor.rooms.length ? floor.rooms : floor.racks;
	if (!boxes.length) return { x: 0, y: 0, width: 1, depth: 1 };
	const x = Math.min(...boxes.map((box) => box.x));
	const y = Math.min(...boxes.map((box) => box.y));
	return {
		x,
		y,
		width: Math.max(...boxes.map((box) => box.x + box.width)) - x,
		depth: Math.max(...boxes.map((box) => box.y + box.depth)) - y,
	};
}

const EDGE = 10;

/** The view that shows the whole floor in so many pixels. */
export function fitted(floor: Floor, width: number, height: number): View {
	const box = extent(floor);
	const scale = Math.min((width - 2 * EDGE) / box.width, (height - 2 * EDGE) / box.depth);
	return { scale, x: EDGE - box.x * scale, y: (height - box.depth * scale) / 2 - box.y * scale };
}

/** A view that is larger or smaller by a factor, with one point of the screen kept in its place. */
export function zoomed(view: View, factor: number, atX: number, atY: number): View {
	const scale = Math.max(0.0005, Math.min(1, view.scale * factor));
	const by = scale / view.scale;
	return { scale, x: atX - (atX - view.x) * by, y: atY - (atY - view.y) * by };
}

const holds = (box: Box, x: number, y: number) =>
	x >= box.x && x < box.x + box.width && y >= box.y && y < box.y + box.depth;

/** The rack under a point of the screen. */
export function rackAt(floor: Floor, view: View, atX: number, atY: number): Spot | undefined {
	const x = (atX - view.x) / view.scale;
	const y = (atY - view.y) / view.scale;
	return floor.racks.find((rack) => holds(rack, x, y));
}

const TOWARDS: Record<string, [number, number]> = {
	ArrowLeft: [-1, 0],
	ArrowRight: [1, 0],
	ArrowUp: [0, -1],
	ArrowDown: [0, 1],
};

/** The nearest rack in the direction of an arrow key; the first one when none is chosen. */
export function neighbour(floor: Floor, chosen: string, key: string): Spot | undefined {
	const towards = TOWARDS[key];
	if (!towards) return undefined;
	const from = floor.racks.find((rack) => rack.rack === chosen);
	if (!from) return floor.racks[0];
	const middle = (rack: Spot) => [rack.x + rack.width / 2, rack.y + rack.depth / 2] as const;
	const [x, y] = middle(from);
	let best: Spot | undefined;
	let least = Number.POSITIVE_INFINITY;
	for (const rack of floor.racks) {
		const [rx, ry] = middle(rack);
		const ahead = (rx - x) * towards[0] + (ry - y) * towards[1];
		const aside = Math.abs((rx - x) * towards[1]) + Math.abs((ry - y) * towards[0]);
		const cost = ahead + 3 * aside;
		if (ahead > 100 && cost < least) {
			best = rack;
			least = cost;
		}
	}
	return best;
}

/** The part of a floor that is in view, in mm. */
export function shown(view: View, width: number, height: number): Box {
	return {
		x: -view.x / view.scale,
		y: -view.y / view.scale,
		width: width / view.scale,
		depth: height / view.scale,
	};
}

export const meets = (one: Box, other: Box) =>
	one.x < other.x + other.width &&
	other.x < one.x + one.width &&
	one.y < other.y + other.depth &&
	other.y < one.y + one.depth;
