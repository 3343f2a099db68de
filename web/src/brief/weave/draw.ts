/** Draws the part of the Weave that is in view: spines as warp, leaves as weft, each crossing over or under. */
import type { Thread, Weave } from "../../api/client";
import { hatching, MONO, type Paint, SANS } from "../../ui/paint";
import { type Cloth, DETAIL, NAMED, type Row, rackName, rowsBetween } from "./geometry";
import { heads, podHead } from "./heads";
import { laying } from "./laying";
import type { Marks, Scene, View } from "./scene";
import { far, presence, strip } from "./standing";

export function draw(
	context: CanvasRenderingContext2D,
	cloth: Cloth,
	weave: Weave,
	view: View,
	marks: Marks,
	paint: Paint,
) {
	context.clearRect(0, 0, view.width, view.height);
	const from = Math.max(0, Math.floor(view.scrollX / cloth.pitch) - 1);
	const to = Math.min(
		cloth.columns.length,
		Math.ceil((view.scrollX + view.width - cloth.left.threads) / cloth.pitch) + 1,
	);
	const hatch = hatching(context, paint);
	const scene: Scene = { context, cloth, weave, view, marks, paint, hatch, from, to };
	context.save();
	context.beginPath();
	context.rect(0, cloth.head, view.width, view.height - cloth.head);
	context.clip();
	context.translate(0, -view.scrollY);
	const rows = rowsBetween(cloth, view.scrollY + cloth.head - 40, view.scrollY + view.height + 40);
	bands(scene, rows);
	// Names stay in view at the left; the threads scroll under them.
	context.save();
	context.beginPath();
	context.rect(cloth.left.threads - 4, view.scrollY, view.width, view.height);
	context.clip();
	context.translate(-view.scrollX, 0);
	warp(scene);
	weft(scene, rows);
	for (const row of rows) if (row.kind === "super") superRow(scene, row);
	for (const row of rows) laying(scene, row);
	if (cloth.row >= NAMED) for (const row of rows) asnOf(scene, row);
	if (cloth.row >= DETAIL) for (const row of rows) details(scene, row);
	for (const row of rows) if (row.kind === "pod") podHead(scene, row);
	outline(scene);
	context.restore();
	for (const row of rows) labels(scene, row);
	context.restore();
	heads(scene);
}

/** Chosen racks lie on a band of their own. */
function bands({ context, cloth, marks, paint, view }: Scene, rows: Row[]) {
	if (!marks.racks.size) return;
	context.fillStyle = paint.chosen;
	for (const row of rows)
		if (row.leaf && marks.racks.has(row.leaf.rack))
			context.fillRect(0, row.y - cloth.row / 2 - 1, view.width, cloth.row + 2);
}

function warp({ context, cloth, weave, view, marks, paint, from, to }: Scene) {
	const top = Math.max(view.scrollY, cloth.head);
	const width = cloth.pitch < 12 ? 1 : 2.6;
	const offsets = cloth.pitch < 12 ? [-0.5] : [-4.5, 1.9];
	const tall = weave.pods.length > 0;
	for (const band of cloth.bands) {
		if (band.bottom < view.scrollY || band.top > view.scrollY + view.height) continue;
		const start = tall ? band.top + (cloth.row >= NAMED ? 38 : 10) : top;
		for (let column = from; column < to; column++) {
			const thread = cloth.columns[column];
			const spine = thread?.spines.get(band.pod);
			if (!thread || !spine) continue;
			const chosen = marks.chosen.spine === spine.name && !marks.chosen.leaf;
			context.fillStyle = chosen
				? paint.indigo
				: spine.state === "out of service"
					? paint.madder
					: paint.walnut;
			context.globalAlpha = dimmed(marks, spine) ? 0.25 : presence(marks, spine.name);
			const y = Math.max(start, top);
			for (const offset of offsets)
				if (spine.state) broken(context, thread.x + offset, y, width, band.bottom + 8 - y);
				else context.fillRect(thread.x + offset, y, width, band.bottom + 8 - y);
		}
	}
	context.globalAlpha = 1;
	if (tall) planes({ context, cloth, weave, view, marks, paint, from, to } as Scene);
}

/** In three tiers, a plane's thread runs from its super-spines through the spines of all pods. */
function planes({ context, cloth, paint, from, to, view }: Scene) {
	const first = cloth.rows[0];
	const last = cloth.bands.at(-1);
	if (!first || !last) return;
	context.fillStyle = paint.walnut;
	context.globalAlpha = 0.35;
	const top = Math.max(first.y - 6, view.scrollY);
	for (let column = from; column < to; column++) {
		const x = cloth.columns[column]?.x ?? 0;
		context.fillRect(x - 0.5, top, 1, Math.max(0, last.top + 12 - top));
	}
	context.globalAlpha = 1;
}

/** A thread that is not in service: in pieces. */
function broken(context: CanvasRenderingContext2D, x: number, y: number, width: number, height: number) {
	for (let at = y - (y % 12); at < y + height; at += 12) context.fillRect(x, at, width, 7);
}

const dimmed = (marks: Marks, thread: Thread) => marks.found !== null && !marks.found.has(thread.name);

function weft(scene: Scene, rows: Row[]) {
	const { context, cloth, marks, paint, hatch } = scene;
	// From very far some threads stand for all, so that it still looks woven; what is marked is always drawn.
	const every = Math.max(1, Math.round(3 / cloth.row));
	for (const row of rows) {
		const { leaf } = row;
		if (!leaf) continue;
		const chosen = marks.chosen.leaf === leaf.name;
		const marked = chosen || leaf.state || marks.fresh.has(leaf.key) || marks.found?.has(leaf.name);
		if (row.index % every && !marked) continue;
		context.globalAlpha = dimmed(marks, leaf) ? 0.2 : presence(marks, leaf.name);
		context.fillStyle = marks.fresh.has(leaf.key)
			? hatch
			: chosen
				? paint.indigo
				: leaf.state === "out of service"
					? paint.madder
					: paint.pale;
		if (cloth.row < 7 || cloth.pitch < 12) line(scene, row);
		else if (leaf.state === "planned later") hollow(scene, row);
		else over(scene, row, leaf);
	}
	context.globalAlpha = 1;
}

/** From afar a leaf is one line through all spines; what is not in service has gaps. */
function line({ context, cloth, from, to }: Scene, row: Row) {
	const first = cloth.columns[from];
	const last = cloth.columns[to - 1];
	if (!first || !last) return;
	const half = cloth.pitch / 2;
	const height = Math.max(1, Math.min(2, cloth.row * 0.45));
	const left = first.x - half;
	const width = last.x + half - left;
	if (!row.leaf?.state) context.fillRect(left, row.y - height / 2, width, height);
	else for (let x = left; x < left + width; x += 14) context.fillRect(x, row.y - height / 2, 8, height);
}

function over({ context, cloth, from, to }: Scene, row: Row, leaf: Thread) {
	const { lanes } = leaf;
	const offsets = lanes === 1 ? [0] : lanes === 2 ? [-2.6, 2.6] : [-4, 0, 4];
	const half = cloth.pitch / 2;
	const end = cloth.columns.length - 1;
	const gap = Math.min(6.6, cloth.pitch / 4);
	for (let column = from; column < to; column++) {
		const x = cloth.columns[column]?.x ?? 0;
		const left = column === 0 ? x - Math.min(half, 33) : x - half;
		const right = column === end ? x + Math.min(half, 33) : x + half;
		const notch = leaf.state === "out of service" ? 5 : 0;
		for (const offset of offsets) {
			const top = row.y + offset - 1.1;
			if ((column + row.index) % 2 === 0 && !notch) context.fillRect(left, top, right - left, 2.2);
			else {
				context.fillRect(left, top, x - gap - left - notch, 2.2);
				context.fillRect(x + gap + notch, top, right - x - gap - notch, 2.2);
			}
		}
	}
}

/** Planned for later: an outline of the thread that will be. */
function hollow({ context, cloth, paint, from, to }: Scene, row: Row) {
	const first = cloth.columns[from];
	const last = cloth.columns[to - 1];
	if (!first || !last) return;
	context.strokeStyle = paint.soft;
	context.lineWidth = 0.8;
	context.setLineDash([3, 2]);
	const half = Math.min(cloth.pitch / 2, 33);
	context.strokeRect(first.x - half, row.y - 2.5, last.x - first.x + 2 * half, 5);
	context.setLineDash([]);
}

function superRow({ context, cloth, marks, paint, hatch, from, to }: Scene, row: Row) {
	const half = Math.min(cloth.pitch / 2 - 3, 33);
	const height = cloth.row >= 7 ? 4.4 : 2;
	for (let column = from; column < to; column++) {
		const one = row.supers?.[column];
		const x = cloth.columns[column]?.x ?? 0;
		if (!one) continue;
		context.globalAlpha = dimmed(marks, one) ? 0.25 : 1;
		context.fillStyle = marks.fresh.has(one.key)
			? hatch
			: marks.chosen.spine === one.name
				? paint.indigo
				: one.state === "out of service"
					? paint.madder
					: paint.walnut;
		if (one.state) {
			context.fillRect(x - half, row.y - height / 2, half - 4, height);
			context.fillRect(x + 4, row.y - height / 2, half - 4, height);
		} else context.fillRect(x - half, row.y - height / 2, 2 * half, height);
	}
	context.globalAlpha = 1;
}

function asnOf({ context, cloth, marks, paint, hatch }: Scene, { leaf, y }: Row) {
	if (!leaf) return;
	context.textAlign = "left";
	context.fillStyle = marks.chosen.leaf === leaf.name ? paint.indigo : paint.soft;
	context.font = `440 11px ${MONO}`;
	context.fillText(String(leaf.asn), cloth.asn, y + 4);
	if (marks.fresh.has(leaf.key)) {
		context.fillStyle = hatch;
		context.fillRect(cloth.asn + 72, y - 4, 8, 8);
	}
}

/** Close up, each crossing tells its ports: on the spine, then on the leaf. */
function details({ context, cloth, weave, paint, from, to, marks }: Scene, { leaf, y }: Row) {
	if (!leaf) return;
	context.font = `440 10.4px ${MONO}`;
	context.textAlign = "left";
	for (let column = from; column < to; column++) {
		const thread = cloth.columns[column];
		const spine = thread?.spines.get(leaf.pod);
		if (!thread || !spine) continue;
		const down = weave.fronts[spine.front]?.down ?? [];
		const up = weave.fronts[leaf.front]?.up ?? [];
		const uplinks = weave.uplinks[leaf.group]?.[column] ?? [];
		leaf.at.forEach((position, lane) => {
			const key = `${leaf.key}~${spine.key}~${lane + 1}`;
			const state = weave.marked[key];
			context.fillStyle = state ? paint.madder : paint.ink;
			context.globalAlpha = dimmed(marks, leaf) ? 0.3 : 1;
			const text = `${down[position] ?? "?"} · ${up[uplinks[lane] ?? -1] ?? "?"}${state ? ` ${state}` : ""}`;
			context.fillText(text, thread.x + 10, y - 4 - 12 * (leaf.at.length - 1 - lane));
		});
	}
	context.globalAlpha = 1;
}

function labels({ context, cloth, marks, paint }: Scene, row: Row) {
	const { leaf, y } = row;
	context.textAlign = "left";
	if (row.kind === "super" && row.supers && cloth.row >= 7) {
		context.fillStyle = paint.ink;
		context.font = `440 11.4px ${MONO}`;
		const number = row.supers.find(Boolean)?.name.split("-").at(-1) ?? "";
		context.fillText(cloth.row >= NAMED ? `super-spine ${number}` : number, cloth.left.rack, y + 4);
	}
	if (row.kind === "pod") {
		context.fillStyle = paint.hair;
		context.fillRect(0, row.y - (cloth.row >= NAMED ? 24 : 6), cloth.left.threads, 1);
		context.fillStyle = paint.ink;
		context.font = `700 ${cloth.row >= NAMED ? 13 : 9}px ${SANS}`;
		context.fillText(cloth.row >= NAMED ? `pod ${row.pod}` : (row.pod ?? ""), cloth.left.rack, y);
	}
	if (!leaf) return;
	const fresh = marks.fresh.has(leaf.key);
	const named = cloth.row >= NAMED;
	const tall = row.rackRows * cloth.row;
	const picked = marks.racks.has(leaf.rack);
	context.globalAlpha = dimmed(marks, leaf) ? 0.35 : 1;
	if (row.firstOfRack) {
		if (tall >= 9) {
			context.fillStyle = picked ? paint.indigo : fresh ? paint.weldInk : paint.ink;
			const size = Math.min(12.5, Math.max(8.5, tall * 0.8));
			context.font = `${fresh || picked ? 700 : 560} ${size}px ${SANS}`;
			context.fillText(rackName(leaf), cloth.left.rack, y + (tall - cloth.row) / 2 + 4);
		}
		context.fillStyle = marks.full.has(leaf.rack)
			? paint.madder
			: picked
				? paint.indigo
				: fresh
					? paint.weld
					: paint.hair;
		context.fillRect(cloth.left.bar - 1, y - cloth.row / 2 + 2, 2.4, Math.max(1, tall - 4));
		if (marks.full.has(leaf.rack))
			context.fillRect(cloth.left.bar + 2.5, y - cloth.row / 2 + 2, 1.2, Math.max(1, tall - 4));
	}
	const steps = marks.standing?.get(leaf.name);
	if (!named && steps) far(context, steps, cloth.left.bar + 4, y, Math.max(1, cloth.row - 1), paint);
	if (named) name(context, cloth, leaf, y, marks, paint);
	context.globalAlpha = 1;
}

function name(
	context: CanvasRenderingContext2D,
	cloth: Cloth,
	leaf: Thread,
	y: number,
	marks: Marks,
	paint: Paint,
) {
	const chosen = marks.chosen.leaf === leaf.name;
	const found = marks.found?.has(leaf.name);
	context.fillStyle =
		chosen || found || marks.hovered.leaf === leaf.name ? paint.indigo : leaf.state ? paint.soft : paint.ink;
	context.font = `${chosen || found ? 700 : 440} 11.4px ${MONO}`;
	context.fillText(leaf.name, cloth.left.leaf, y + 4);
	if (leaf.state) {
		context.font = `450 10.6px ${SANS}`;
		context.fillStyle = leaf.state === "out of service" ? paint.madder : paint.soft;
		context.fillText(leaf.state, cloth.left.ports, y + 4);
		return;
	}
	const steps = marks.standing?.get(leaf.name);
	if (steps) {
		strip(context, steps, cloth.left.ports, y, paint);
		return;
	}
	const used = leaf.ports ? leaf.used / leaf.ports : 0;
	for (let port = 0; port < 24; port++) {
		context.fillStyle = port < used * 24 ? paint.woad : paint.empty;
		context.fillRect(cloth.left.ports + port * 3.5, y - 3.5, 2.6, 7);
	}
}

function outline({ context, cloth, marks, paint }: Scene) {
	for (const [mark, width] of [
		[marks.hovered, 1],
		[marks.chosen, 2],
	] as const) {
		const leaf = cloth.byName.get(mark.leaf ?? "");
		const spine = cloth.byName.get(mark.spine ?? "");
		if (!spine) continue;
		const x = cloth.columns[spine.column]?.x;
		const y = leaf ? leaf.row.y : spine.row.kind === "super" ? spine.row.y : undefined;
		if (x === undefined || y === undefined) continue;
		context.strokeStyle = paint.indigo;
		context.lineWidth = width;
		context.beginPath();
		const wide = leaf ? Math.min(26, cloth.pitch) : Math.min(72, cloth.pitch);
		const tall = Math.max(6, Math.min(18, cloth.row + 1));
		context.roundRect(x - wide / 2, y - tall / 2, wide, tall, 2);
		context.stroke();
	}
}
