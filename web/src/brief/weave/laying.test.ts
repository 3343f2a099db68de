/** Claims about what is laid, as the Weave draws it: how far a square is filled, and in which colour. */
import { expect, test } from "vitest";
import { TALL, WEAVE } from "../../testing";
import type { Paint } from "../../ui/paint";
import { layOut } from "./geometry";
import { laying } from "./laying";
import type { Lying, Scene } from "./scene";

const PAINT = { paper: "paper", madder: "madder", moss: "moss", faint: "faint" } as Paint;

/** The rectangles that are filled on the crossing of the first leaf with the first spine. */
function filled(lying: Map<string, Lying> | undefined, weave = WEAVE) {
	const cloth = layOut(weave, 690, 1);
	const row = cloth.rows.find((one) => one.leaf);
	if (!row?.leaf) throw new Error("a weave without leaves");
	const drawn: { colour: string; height: number }[] = [];
	const outlines: string[] = [];
	const context = {
		fillStyle: "",
		strokeStyle: "",
		lineWidth: 1,
		fillRect(_x: number, _y: number, _width: number, height: number) {
			drawn.push({ colour: this.fillStyle, height });
		},
		strokeRect() {
			outlines.push(this.strokeStyle);
		},
	};
	const scene = {
		context,
		cloth,
		weave,
		marks: { laying: lying },
		paint: PAINT,
		from: 0,
		to: 1,
	} as unknown as Scene;
	laying(scene, row);
	const spine = cloth.columns[0]?.spines.get(row.leaf.pod);
	return { drawn, outlines, stem: `${row.leaf.key}~${spine?.key}~`, lanes: row.leaf.lanes };
}

test("while nobody looks at cabling nothing is drawn", () => {
	expect(filled(undefined).drawn).toEqual([]);
});

test("a square is empty before anything is laid, half full in between, and full in the end", () => {
	const { stem, lanes, drawn } = filled(new Map());
	expect(lanes).toBe(2);
	const side = drawn[0]?.height ?? 0;
	expect(drawn.filter((one) => one.colour === "moss").map((one) => one.height)).toEqual([0]);
	const half = filled(new Map([[`${stem}1`, "laid"]]));
	expect(half.drawn.find((one) => one.colour === "moss")?.height).toBeCloseTo(side / 2);
	expect(half.outlines).toEqual(["faint"]);
	const full = filled(
		new Map([
			[`${stem}1`, "laid"],
			[`${stem}2`, "laid"],
		]),
	);
	expect(full.drawn.find((one) => one.colour === "moss")?.height).toBe(side);
	expect(full.outlines).toEqual(["moss"]);
});

test("one cable that does not lie as planned marks the crossing, with a notch and not by colour alone", () => {
	const { stem } = filled(new Map());
	const { drawn, outlines } = filled(
		new Map([
			[`${stem}1`, "laid"],
			[`${stem}2`, "wrong"],
		]),
	);
	expect(drawn.map((one) => one.colour)).toEqual(["paper", "madder", "paper"]);
	expect(outlines).toEqual(["madder"]);
});

test("in a fabric of pods a leaf is marked at the spines of its own pod", () => {
	const { stem } = filled(new Map(), TALL);
	expect(stem).toMatch(/^leaf\/p\d+-.*~spine\/p\d+\/1~$/);
});
