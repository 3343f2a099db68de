/** The heads of the Weave: each spine's name and how full its front is, over its thread. */
import type { Thread } from "../../api/client";
import { MONO, type Paint, SANS } from "../../ui/paint";
import { NAMED, type Row } from "./geometry";
import type { Scene } from "./scene";
import { far, strip } from "./standing";

/** The band along the top: the spines of a fabric of two tiers, or the planes of one of three. */
export function heads(scene: Scene) {
	const { context, cloth, view, weave, marks, paint, from, to } = scene;
	context.save();
	context.beginPath();
	context.rect(0, 0, view.width, cloth.head + 14);
	context.clip();
	context.fillStyle = paint.paper;
	context.fillRect(0, 0, view.width, cloth.head);
	context.save();
	context.beginPath();
	context.rect(cloth.left.threads - 4, 0, view.width, cloth.head);
	context.clip();
	context.translate(-view.scrollX, 0);
	for (let column = from; column < to; column++) {
		const thread = cloth.columns[column];
		if (!thread) continue;
		const spine = thread.spines.get("");
		if (weave.pods.length) plane(scene, column, thread.x);
		else if (spine) head(scene, spine, thread.x);
	}
	context.textAlign = "left";
	context.fillStyle = paint.soft;
	context.font = `450 10.8px ${SANS}`;
	if (cloth.row >= NAMED) context.fillText("ASN", cloth.asn, cloth.head - 6);
	context.restore();
	if (cloth.row >= NAMED) {
		context.textAlign = "left";
		context.fillStyle = paint.soft;
		context.font = `450 10.8px ${SANS}`;
		context.fillText("rack", cloth.left.rack, cloth.head - 6);
		context.fillText("leaf", cloth.left.leaf, cloth.head - 6);
		const [first] = marks.standing?.values() ?? [];
		const told = first ? (first.length === 1 ? "as meant" : "steps") : "host ports";
		context.fillText(told, cloth.left.ports, cloth.head - 6);
	}
	context.restore();
}

function plane({ context, cloth, paint }: Scene, column: number, x: number) {
	context.textAlign = "center";
	context.fillStyle = paint.soft;
	context.font = `560 12px ${SANS}`;
	context.fillText(cloth.pitch >= 60 ? `plane ${column + 1}` : String(column + 1), x, cloth.head - 8);
}

/** The head of a pod within the cloth: its name, and its spines over their threads. */
export function podHead(scene: Scene, row: Row) {
	const { context, cloth, marks, paint, view, from, to } = scene;
	const named = cloth.row >= NAMED;
	context.fillStyle = paint.hair;
	context.fillRect(0, row.y - (named ? 24 : 6), cloth.width + view.width, 1);
	for (let column = from; column < to; column++) {
		const thread = cloth.columns[column];
		const spine = thread?.spines.get(row.pod ?? "");
		if (!thread || !spine || !named) continue;
		const chosen = marks.chosen.spine === spine.name || marks.hovered.spine === spine.name;
		context.textAlign = "center";
		context.fillStyle = chosen ? paint.indigo : spine.state ? paint.madder : paint.ink;
		context.font = `${chosen ? 720 : 600} 11.6px ${SANS}`;
		const roomy = cloth.pitch >= 7 * spine.name.length;
		context.fillText(roomy ? spine.name : String(spine.plane), thread.x, row.y - 8);
		bar(context, spine, thread.x, row.y - 2, paint);
	}
}

function bar(context: CanvasRenderingContext2D, spine: Thread, x: number, y: number, paint: Paint) {
	const share = spine.ports ? spine.used / spine.ports : 0;
	context.fillStyle = paint.empty;
	context.fillRect(x - 20, y, 40, 4);
	context.fillStyle = share > 1 ? paint.madder : paint.walnut;
	context.fillRect(x - 20, y, 40 * Math.min(1, share), 4);
}

function head({ context, cloth, marks, paint }: Scene, spine: Thread, x: number) {
	const { pitch } = cloth;
	const chosen = marks.chosen.spine === spine.name;
	const steps = marks.standing?.get(spine.name);
	const roomy = pitch >= 76;
	context.textAlign = "center";
	context.fillStyle = chosen ? paint.indigo : spine.state ? paint.madder : paint.ink;
	context.font = `${chosen ? 720 : 640} ${pitch < 16 ? 8 : 12.5}px ${SANS}`;
	if (pitch >= 16 || spine.plane % 4 === 1)
		context.fillText(roomy ? spine.name : spine.name.replace(/^spine-/, ""), x, 12);
	if (roomy) {
		if (steps) strip(context, steps, x, 28, paint, true);
		else front(context, spine, x, paint);
		context.fillStyle = paint.soft;
		context.font = `440 10.8px ${MONO}`;
		context.fillText(spine.state || spine.loopback, x, 54);
	} else if (steps) far(context, steps, x - 2.5, 23, 8, paint);
	else {
		const half = Math.min(11, pitch / 2 - 1);
		context.fillStyle = paint.empty;
		context.fillRect(x - half, 20, 2 * half, 6);
		context.fillStyle = paint.walnut;
		context.fillRect(x - half, 20, (2 * half * spine.used) / Math.max(1, spine.ports), 6);
	}
}

/** The front of a spine in little: as many marks as it has ports, the used ones filled. */
function front(context: CanvasRenderingContext2D, spine: Thread, x: number, paint: Paint) {
	const rows = spine.ports > 48 ? 4 : 2;
	const columns = Math.ceil(spine.ports / rows);
	const width = Math.min(5, 84 / columns);
	const height = rows > 2 ? 5 : 5.5;
	const left = x - (columns * width) / 2;
	for (let index = 0; index < Math.min(spine.ports, 400); index++) {
		const px = left + Math.floor(index / rows) * width;
		const py = 18 + (index % rows) * height;
		if (index < spine.used) {
			context.fillStyle = paint.walnut;
			context.fillRect(px, py, width - 1, height - 1);
		} else {
			context.strokeStyle = paint.faint;
			context.lineWidth = 0.6;
			context.strokeRect(px + 0.3, py + 0.3, Math.max(0.4, width - 1.6), height - 1.6);
		}
	}
}
