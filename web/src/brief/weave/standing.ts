/** How far each switch is on its way from a box, on the Weave: its steps as small marks by its name, and threads that are thin until it is handed over. */
import type { Paint } from "../../ui/paint";
import type { Marks, Step } from "./scene";

/** How wide the strip of steps is for each of them. */
const WIDE = 9;
const SIZE = 6.5;

/** How much of a thread is seen: all of it once its switch is handed over. */
export function presence(marks: Marks, name: string): number {
	const steps = marks.standing?.get(name);
	return !marks.standing || steps?.every((one) => one === "done") ? 1 : 0.3;
}

/** The steps of a switch from left to right; in the middle of `x` when it is said so. */
export function strip(
	context: CanvasRenderingContext2D,
	steps: readonly Step[],
	x: number,
	y: number,
	paint: Paint,
	middle = false,
) {
	const left = middle ? x - (steps.length * WIDE - (WIDE - SIZE)) / 2 : x;
	steps.forEach((step, index) => {
		sign(context, step, left + index * WIDE, y - SIZE / 2, paint);
	});
}

/** From afar a switch has one mark: what it is at. */
export function far(
	context: CanvasRenderingContext2D,
	steps: readonly Step[],
	x: number,
	y: number,
	size: number,
	paint: Paint,
) {
	context.fillStyle = colour(steps.find((one) => one !== "done") ?? "done", paint);
	context.fillRect(x, y - size / 2, 5, size);
}

function colour(step: Step, paint: Paint): string {
	if (step === "done") return paint.moss;
	if (step === "now" || step === "ready") return paint.indigo;
	if (step === "wrong" || step === "unknown") return paint.madder;
	return step === "needs you" ? paint.weld : paint.hair;
}

function sign(context: CanvasRenderingContext2D, step: Step, x: number, y: number, paint: Paint) {
	context.fillStyle = colour(step, paint);
	if (step === "open" || step === "unknown") {
		context.strokeStyle = step === "open" ? paint.faint : paint.madder;
		context.lineWidth = 0.8;
		context.strokeRect(x + 0.5, y + 0.5, SIZE - 1, SIZE - 1);
	} else if (step === "skipped") {
		context.fillStyle = paint.soft;
		context.fillRect(x, y + SIZE / 2 - 0.75, SIZE, 1.5);
	} else if (step === "now" || step === "ready") {
		// A bar, taller than what is done; a thin one inside while it waits for its wave.
		context.fillRect(x - 0.5, y - 2, SIZE + 1, SIZE + 4);
		if (step === "ready") {
			context.fillStyle = paint.paper;
			context.fillRect(x + 1, y, SIZE - 2, SIZE);
		}
	} else {
		context.fillRect(x, y, SIZE, SIZE);
		if (step === "wrong" || step === "needs you") {
			context.fillStyle = paint.paper;
			context.fillRect(x + SIZE / 2, y, SIZE / 2, SIZE / 2);
		}
	}
}
