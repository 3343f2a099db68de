/** Claims about the floor in pixels: what is fitted is in view, a zoom keeps its place, and arrows go to the rack that lies that way. */
import { expect, test } from "vitest";
import type { Floor, Spot } from "../queries";
import { extent, fitted, meets, neighbour, rackAt, shown, zoomed } from "./geometry";

const spot = (rack: string, x: number, y: number): Spot => ({
	rack,
	hall: "models",
	row: y < 3000 ? "north" : "south",
	x,
	y,
	width: 600,
	depth: 1200,
	faces: "south",
	units: 0,
	height: 42,
	watts: 0,
	feed: null,
	cables: 0,
	wrong: false,
});
const FLOOR = {
	rooms: [{ name: "models", x: 2000, y: 1000, width: 9000, depth: 6000 }],
	racks: [spot("r01", 3000, 2000), spot("r02", 3600, 2000), spot("r03", 4200, 2000), spot("r04", 3600, 5000)],
} as Floor;

test("the whole floor is in view, whatever the window", () => {
	for (const [width, height] of [
		[900, 300],
		[300, 900],
		[40, 40],
	] as const) {
		const view = fitted(FLOOR, width, height);
		const window = shown(view, width, height);
		const box = extent(FLOOR);
		expect(window.x).toBeLessThanOrEqual(box.x);
		expect(window.y).toBeLessThanOrEqual(box.y);
		expect(window.x + window.width).toBeGreaterThanOrEqual(box.x + box.width);
		expect(window.y + window.depth).toBeGreaterThanOrEqual(box.y + box.depth);
	}
});

test("a zoom keeps what is under the pointer there, in and out, and ends somewhere", () => {
	let view = fitted(FLOOR, 900, 300);
	const under = () => [(400 - view.x) / view.scale, (120 - view.y) / view.scale] as const;
	const [x, y] = under();
	for (const factor of [1.4, 1.4, 0.5, 3, 1e-9, 1e9]) {
		view = zoomed(view, factor, 400, 120);
		expect(under()[0]).toBeCloseTo(x, 3);
		expect(under()[1]).toBeCloseTo(y, 3);
	}
	expect(view.scale).toBe(1);
});

test("a rack is found where it is drawn, and nothing between", () => {
	const view = fitted(FLOOR, 900, 300);
	const at = (x: number, y: number) =>
		rackAt(FLOOR, view, view.x + x * view.scale, view.y + y * view.scale)?.rack;
	expect(at(3300, 2600)).toBe("r01");
	expect(at(3601, 2600)).toBe("r02");
	expect(at(3300, 4000)).toBeUndefined();
});

test("an arrow goes to the nearest rack that lies that way, and to the first when none is chosen", () => {
	expect(neighbour(FLOOR, "", "ArrowDown")?.rack).toBe("r01");
	expect(neighbour(FLOOR, "r01", "ArrowRight")?.rack).toBe("r02");
	expect(neighbour(FLOOR, "r03", "ArrowLeft")?.rack).toBe("r02");
	expect(neighbour(FLOOR, "r01", "ArrowDown")?.rack).toBe("r04");
	expect(neighbour(FLOOR, "r04", "ArrowUp")?.rack).toBe("r02");
	expect(neighbour(FLOOR, "r01", "ArrowLeft")).toBeUndefined();
	expect(neighbour(FLOOR, "r01", "x")).toBeUndefined();
});

test("boxes that only touch do not meet", () => {
	const box = { x: 0, y: 0, width: 10, depth: 10 };
	expect(meets(box, { x: 10, y: 0, width: 5, depth: 5 })).toBe(false);
	expect(meets(box, { x: 9, y: 9, width: 5, depth: 5 })).toBe(true);
});
