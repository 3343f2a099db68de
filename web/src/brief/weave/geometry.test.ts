/** Claims about where things stand in the Weave, and about moving through it. */
import { assert, test } from "vitest";
import { at, fitting, layOut, racksIn, rowsBetween } from "./geometry";
import { weaveOf } from "./made";
import { moved } from "./moves";

const SHAPES: [number, number, number, number][] = [
	[0, 2, 0, 2],
	[0, 4, 0, 13],
	[3, 4, 2, 5],
	[0, 64, 0, 512],
];

test("what is drawn at a place is what is found there, at any zoom", () => {
	for (const shape of SHAPES)
		for (const zoom of [0.3, 1, 2.5]) {
			const weave = weaveOf(...shape);
			const cloth = layOut(weave, 690, zoom);
			for (const row of cloth.rows.filter((one) => one.leaf).slice(0, 40)) {
				const { leaf } = row;
				assert.ok(leaf);
				const scroll = { x: 0, y: row.y - 200 };
				for (const { x, spines } of cloth.columns)
					assert.deepEqual(at(cloth, x, 200, scroll), { spine: spines.get(leaf.pod)?.name, leaf: leaf.name });
				assert.deepEqual(at(cloth, cloth.left.rack + 2, 200, scroll), { racks: leaf.rack });
			}
		}
});

test("heads of two tiers and super-spines of three are found where they are drawn", () => {
	const flat = layOut(weaveOf(0, 4, 0, 3), 690, 1);
	assert.deepEqual(at(flat, flat.columns[2]?.x ?? 0, 20, { x: 0, y: 0 }), { spine: "spine-3" });
	const tall = layOut(weaveOf(2, 3, 2, 2), 690, 1);
	const row = tall.rows[1];
	assert.ok(row);
	assert.deepEqual(at(tall, tall.columns[2]?.x ?? 0, row.y, { x: 0, y: 0 }), { spine: "super-3-2" });
});

test("rows stand apart, in order, and none is lost", () => {
	for (const shape of SHAPES) {
		const weave = weaveOf(...shape);
		const cloth = layOut(weave, 690, 1);
		assert.strictEqual(cloth.rows.filter((row) => row.leaf).length, weave.leaves.length);
		for (let index = 1; index < cloth.rows.length; index++)
			assert.ok((cloth.rows[index]?.y ?? 0) >= (cloth.rows[index - 1]?.y ?? 0) + 6);
		assert.ok((cloth.rows.at(-1)?.y ?? 0) < cloth.height);
		assert.strictEqual(
			new Set([...cloth.byName.keys()]).size,
			weave.leaves.length + weave.spines.length + weave.supers.length,
		);
	}
});

test("the rows between two heights are those that a plain search finds", () => {
	const cloth = layOut(weaveOf(3, 4, 2, 60), 690, 1);
	for (let top = -100; top < cloth.height + 100; top += 173) {
		const plain = cloth.rows.filter((row) => row.y >= top && row.y <= top + 600);
		assert.deepEqual(rowsBetween(cloth, top, top + 600), plain);
	}
});

test("the whole cloth fits the bench when it is asked to", () => {
	for (const shape of SHAPES) {
		const weave = weaveOf(...shape);
		const zoom = fitting(weave, 690, 590);
		assert.ok(layOut(weave, 690, zoom).height <= 590, `${shape}`);
		assert.ok(
			zoom === 1 || layOut(weave, 690, zoom * 1.05).height > 560,
			"and is no smaller than it must be",
		);
	}
});

test("a span of racks is every rack from one end to the other, whichever was chosen first", () => {
	const weave = weaveOf(0, 2, 0, 9);
	assert.deepEqual(racksIn(weave, "r003..r005"), ["r003", "r004", "r005"]);
	assert.deepEqual(racksIn(weave, "r005..r003"), ["r003", "r004", "r005"]);
	assert.deepEqual(racksIn(weave, "r004"), ["r004"]);
	assert.deepEqual(racksIn(weave, "r001..nowhere"), []);
	assert.deepEqual(racksIn(weave, undefined), []);
});

test("keys reach every crossing, stop at the edges, and pass from leaves to super-spines and back", () => {
	const weave = weaveOf(2, 3, 2, 2);
	let here = moved(weave, {}, "ArrowDown") ?? {};
	assert.deepEqual(here, { spine: "spine-p1-1", leaf: "leaf-p1-r001a" });
	for (let step = 0; step < 9; step++) here = moved(weave, here, "ArrowRight") ?? {};
	assert.deepEqual(here, { spine: "spine-p1-3", leaf: "leaf-p1-r001a" });
	here = moved(weave, here, "End") ?? {};
	assert.deepEqual(here, { spine: "spine-p2-3", leaf: "leaf-p2-r002b" });
	here = moved(weave, here, "Home") ?? {};
	here = moved(weave, here, "ArrowUp") ?? {};
	assert.deepEqual(here, { spine: "super-3-2" });
	here = moved(weave, here, "ArrowLeft") ?? {};
	assert.deepEqual(here, { spine: "super-2-2" });
	here = moved(weave, moved(weave, here, "ArrowUp") ?? {}, "ArrowDown") ?? {};
	here = moved(weave, here, "ArrowDown") ?? {};
	assert.deepEqual(here, { spine: "spine-p1-2", leaf: "leaf-p1-r001a" });
	assert.deepEqual(moved(weave, here, "Escape"), {});
	assert.strictEqual(moved(weave, here, "x"), null);
});
