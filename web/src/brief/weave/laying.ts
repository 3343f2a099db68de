/** What is laid, on the Weave: a square on each crossing, filled by the share of its links that is laid, and notched where one does not lie as planned. */
import type { Row } from "./geometry";
import type { Scene } from "./scene";

export function laying({ context, cloth, marks, paint, from, to }: Scene, { leaf, y }: Row) {
	if (!marks.laying || !leaf) return;
	const side = Math.max(2, Math.min(9, cloth.row - 3, cloth.pitch - 3));
	for (let column = from; column < to; column++) {
		const spine = cloth.columns[column]?.spines.get(leaf.pod);
		const x = cloth.columns[column]?.x ?? 0;
		if (!spine) continue;
		let laid = 0;
		let wrong = 0;
		for (let lane = 1; lane <= leaf.lanes; lane++) {
			const found = marks.laying.get(`${leaf.key}~${spine.key}~${lane}`);
			if (found === "laid") laid += 1;
			if (found === "wrong") wrong += 1;
		}
		const [left, top] = [x - side / 2, y - side / 2];
		context.fillStyle = paint.paper;
		context.fillRect(left, top, side, side);
		context.fillStyle = wrong ? paint.madder : paint.moss;
		const share = wrong ? 1 : laid / Math.max(1, leaf.lanes);
		context.fillRect(left, top + side * (1 - share), side, side * share);
		if (wrong && side > 4) {
			context.fillStyle = paint.paper;
			context.fillRect(x - 1, top, 2, side);
		}
		context.strokeStyle = wrong ? paint.madder : share === 1 ? paint.moss : paint.faint;
		context.lineWidth = 1;
		context.strokeRect(left, top, side, side);
	}
}
