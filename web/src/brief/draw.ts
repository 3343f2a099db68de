/** Draws the part of the Weave that is in view: spines as warp, leaves as weft, each crossing over or under. */
import type { Weave } from "../api/client";
import { type Cloth, HEAD, type LeafRow, ROW } from "./geometry";

export interface View {
	scrollX: number;
	scrollY: number;
	width: number;
	height: number;
}

export interface Marks {
	chosen: { spine?: string; leaf?: string };
	hovered: { spine?: string; leaf?: string };
	fresh: Set<string>;
}

type Paint = Record<
	| "paper"
	| "ink"
	| "soft"
	| "faint"
	| "hair"
	| "indigo"
	| "pale"
	| "weld"
	| "weldInk"
	| "weldPale"
	| "woad"
	| "walnut"
	| "empty",
	string
>;

export function paints(): Paint {
	const style = getComputedStyle(document.documentElement);
	const read = (name: string) => style.getPropertyValue(name).trim();
	return {
		paper: read("--paper"),
		ink: read("--ink"),
		soft: read("--soft"),
		faint: read("--faint"),
		hair: read("--hair"),
		indigo: read("--indigo"),
		pale: read("--indigo-pale"),
		weld: read("--weld"),
		weldInk: read("--weld-ink"),
		weldPale: read("--weld-pale"),
		woad: read("--woad"),
		walnut: read("--walnut"),
		empty: read("--empty"),
	};
}

const SANS = '"Atkinson Hyperlegible Next Variable", sans-serif';
const MONO = '"Atkinson Hyperlegible Mono Variable", monospace';

export function draw(
	context: CanvasRenderingContext2D,
	cloth: Cloth,
	weave: Weave,
	view: View,
	marks: Marks,
	paint: Paint,
) {
	context.clearRect(0, 0, view.width, view.height);
	const hatch = hatching(context, paint);
	context.save();
	context.beginPath();
	context.rect(0, HEAD, view.width, view.height - HEAD);
	context.clip();
	context.translate(0, -view.scrollY);
	const rows = cloth.rows.filter(
		(row) => row.y > view.scrollY + HEAD - ROW && row.y < view.scrollY + view.height + ROW,
	);
	// Names stay in view at the left; the threads scroll under them.
	context.save();
	context.beginPath();
	context.rect(cloth.left.threads - 4, view.scrollY, view.width, view.height);
	context.clip();
	context.translate(-view.scrollX, 0);
	warp(context, cloth, view, marks, paint);
	for (const row of rows) weft(context, cloth, row, weave.lanes, marks, paint, hatch);
	for (const row of rows) numbers(context, cloth, row, marks, paint, hatch);
	outline(context, cloth, marks, paint);
	context.restore();
	for (const row of rows) labels(context, cloth, row, marks, paint);
	context.restore();
	heads(context, cloth, view, marks, paint);
}

function hatching(context: CanvasRenderingContext2D, paint: Paint): CanvasPattern | string {
	const tile = document.createElement("canvas");
	tile.width = tile.height = 5;
	const small = tile.getContext("2d");
	if (!small) return paint.weld;
	small.fillStyle = paint.weldPale;
	small.fillRect(0, 0, 5, 5);
	small.strokeStyle = paint.weld;
	small.lineWidth = 1.6;
	small.beginPath();
	small.moveTo(-1, 6);
	small.lineTo(6, -1);
	small.moveTo(-1, 1);
	small.lineTo(1, -1);
	small.moveTo(4, 6);
	small.lineTo(6, 4);
	small.stroke();
	return context.createPattern(tile, "repeat") ?? paint.weld;
}

function warp(context: CanvasRenderingContext2D, cloth: Cloth, view: View, marks: Marks, paint: Paint) {
	const last = cloth.rows.at(-1);
	if (!last) return;
	for (const { spine, x } of cloth.spines) {
		context.fillStyle = marks.chosen.spine === spine.name && !marks.chosen.leaf ? paint.indigo : paint.walnut;
		for (const offset of [-4.5, 1.9])
			context.fillRect(
				x + offset,
				Math.max(view.scrollY, HEAD),
				2.6,
				last.y + 10 - Math.max(view.scrollY, HEAD),
			);
	}
}

function weft(
	context: CanvasRenderingContext2D,
	cloth: Cloth,
	row: LeafRow,
	lanes: number,
	marks: Marks,
	paint: Paint,
	hatch: CanvasPattern | string,
) {
	const index = cloth.rows.indexOf(row);
	const chosen = marks.chosen.leaf === row.leaf.name;
	context.fillStyle = marks.fresh.has(row.leaf.key) ? hatch : chosen ? paint.indigo : paint.pale;
	const offsets = lanes === 1 ? [0] : lanes === 2 ? [-2.6, 2.6] : [-4, 0, 4];
	const half = cloth.pitch / 2;
	cloth.spines.forEach(({ x }, column) => {
		const left = column === 0 ? x - Math.min(half, 33) : x - half;
		const right = column === cloth.spines.length - 1 ? x + Math.min(half, 33) : x + half;
		for (const offset of offsets) {
			const top = row.y + offset - 1.1;
			if ((column + index) % 2 === 0) context.fillRect(left, top, right - left, 2.2);
			else {
				context.fillRect(left, top, x - 6.6 - left, 2.2);
				context.fillRect(x + 6.6, top, right - x - 6.6, 2.2);
			}
		}
	});
}

function labels(context: CanvasRenderingContext2D, cloth: Cloth, row: LeafRow, marks: Marks, paint: Paint) {
	const { leaf, y } = row;
	const fresh = marks.fresh.has(leaf.key);
	context.textAlign = "left";
	if (row.firstOfRack) {
		const tall = row.rackRows * ROW;
		context.fillStyle = fresh ? paint.weldInk : paint.ink;
		context.font = `${fresh ? 700 : 560} ${leaf.rack.length > 4 ? 10.5 : 12.5}px ${SANS}`;
		const rack = leaf.rack.length > 6 ? `${leaf.rack.slice(0, 5)}…` : leaf.rack;
		context.fillText(rack, cloth.left.rack, y + (tall - ROW) / 2 + 4);
		context.fillStyle = fresh ? paint.weld : paint.hair;
		context.fillRect(cloth.left.bar - 1, y - 6, 2.4, tall - 5);
	}
	const chosen = marks.chosen.leaf === leaf.name;
	const hovered = marks.hovered.leaf === leaf.name;
	context.fillStyle = chosen || hovered ? paint.indigo : paint.ink;
	context.font = `${chosen ? 700 : 440} 11.4px ${MONO}`;
	context.fillText(leaf.name, cloth.left.leaf, y + 4);
	const used = leaf.host_ports ? leaf.ports_carrying / leaf.host_ports : 0;
	for (let port = 0; port < 24; port++) {
		context.fillStyle = port < used * 24 ? paint.woad : paint.empty;
		context.fillRect(cloth.left.ports + port * 3.5, y - 3.5, 2.6, 7);
	}
}

function numbers(
	context: CanvasRenderingContext2D,
	cloth: Cloth,
	{ leaf, y }: LeafRow,
	marks: Marks,
	paint: Paint,
	hatch: CanvasPattern | string,
) {
	context.textAlign = "left";
	context.fillStyle = marks.chosen.leaf === leaf.name ? paint.indigo : paint.soft;
	context.font = `440 11px ${MONO}`;
	context.fillText(String(leaf.asn), cloth.asn, y + 4);
	if (marks.fresh.has(leaf.key)) {
		context.fillStyle = hatch;
		context.fillRect(cloth.asn + 72, y - 4, 8, 8);
	}
}

function outline(context: CanvasRenderingContext2D, cloth: Cloth, marks: Marks, paint: Paint) {
	for (const [mark, width] of [
		[marks.hovered, 1],
		[marks.chosen, 2],
	] as const) {
		const x = cloth.spines.find((thread) => thread.spine.name === mark.spine)?.x;
		const y = cloth.rows.find((row) => row.leaf.name === mark.leaf)?.y;
		if (x === undefined || y === undefined) continue;
		context.strokeStyle = paint.indigo;
		context.lineWidth = width;
		context.beginPath();
		context.roundRect(x - 13, y - 9, 26, 18, 2);
		context.stroke();
	}
}

function heads(context: CanvasRenderingContext2D, cloth: Cloth, view: View, marks: Marks, paint: Paint) {
	context.save();
	context.beginPath();
	context.rect(0, 0, view.width, HEAD + 14);
	context.clip();
	context.fillStyle = paint.paper;
	context.fillRect(0, 0, view.width, HEAD);
	context.save();
	context.beginPath();
	context.rect(cloth.left.threads - 4, 0, view.width, HEAD);
	context.clip();
	context.translate(-view.scrollX, 0);
	const roomy = cloth.pitch >= 76;
	for (const { spine, x } of cloth.spines) {
		const chosen = marks.chosen.spine === spine.name;
		context.textAlign = "center";
		context.fillStyle = chosen ? paint.indigo : paint.ink;
		context.font = `${chosen ? 720 : 640} 12.5px ${SANS}`;
		context.fillText(roomy ? spine.name : spine.name.replace(/^spine-/, ""), x, 12);
		if (roomy) {
			front(context, spine.ports, spine.rows, x, paint);
			context.fillStyle = paint.soft;
			context.font = `440 10.8px ${MONO}`;
			context.fillText(spine.loopback, x, HEAD - 8);
		} else {
			const used = spine.ports.filter(Boolean).length / spine.ports.length;
			context.fillStyle = paint.empty;
			context.fillRect(x - 11, 20, 22, 6);
			context.fillStyle = paint.walnut;
			context.fillRect(x - 11, 20, 22 * used, 6);
		}
	}
	context.textAlign = "left";
	context.fillStyle = paint.soft;
	context.font = `450 10.8px ${SANS}`;
	context.fillText("ASN", cloth.asn, HEAD - 6);
	context.restore();
	context.textAlign = "left";
	context.fillStyle = paint.soft;
	context.font = `450 10.8px ${SANS}`;
	context.fillText("rack", cloth.left.rack, HEAD - 6);
	context.fillText("leaf", cloth.left.leaf, HEAD - 6);
	context.fillText("host ports", cloth.left.ports, HEAD - 6);
	context.restore();
}

/** The front of a spine in little: its ports in their real rows, the used ones filled. */
function front(
	context: CanvasRenderingContext2D,
	ports: (string | null)[],
	rows: number,
	x: number,
	paint: Paint,
) {
	const columns = Math.ceil(ports.length / rows);
	const width = Math.min(5, 84 / columns);
	const height = rows > 2 ? 5 : 5.5;
	const left = x - (columns * width) / 2;
	ports.forEach((leaf, index) => {
		const px = left + Math.floor(index / rows) * width;
		const py = 18 + (index % rows) * height;
		if (leaf) {
			context.fillStyle = paint.walnut;
			context.fillRect(px, py, width - 1, height - 1);
		} else {
			context.strokeStyle = paint.faint;
			context.lineWidth = 0.6;
			context.strokeRect(px + 0.3, py + 0.3, width - 1.6, height - 1.6);
		}
	});
}
