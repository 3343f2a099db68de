/** Claims about how far switches are, on the Weave: a mark for each step by its shape, one mark from afar, and threads that are thin until the end. */
import { expect, test } from "vitest";
import type { Paint } from "../../ui/paint";
import type { Marks, Step } from "./scene";
import { far, presence, strip } from "./standing";

const PAINT = new Proxy({}, { get: (_, name) => String(name) }) as Paint;

function pen() {
	const drawn: string[] = [];
	const context = {
		fillStyle: "",
		strokeStyle: "",
		lineWidth: 1,
		fillRect(x: number, y: number, width: number, height: number) {
			drawn.push(`${this.fillStyle} ${[x, y, width, height].map((one) => Math.round(one)).join(" ")}`);
		},
		strokeRect() {
			drawn.push(`outline ${this.strokeStyle}`);
		},
	};
	return { drawn, context: context as unknown as CanvasRenderingContext2D };
}

const all = (steps: Record<string, Step[]>) =>
	({ standing: new Map(Object.entries(steps)) }) as unknown as Marks;

test("a thread is whole once its switch is handed over, and everywhere else while nobody stages", () => {
	const marks = all({ in: ["done", "done"], not: ["done", "now"] });
	expect([presence(marks, "in"), presence(marks, "not"), presence(marks, "nowhere")]).toEqual([1, 0.3, 0.3]);
	expect(presence({} as Marks, "not")).toBe(1);
});

test("each state of a step has a shape of its own, not only a colour", () => {
	const shapes = (["done", "now", "ready", "wrong", "needs you", "skipped", "open", "unknown"] as const).map(
		(step) => {
			const { drawn, context } = pen();
			strip(context, [step], 0, 10, PAINT);
			return drawn;
		},
	);
	expect(new Set(shapes.map((one) => one.join())).size).toBe(8);
	expect(shapes[0]).toEqual(["moss 0 7 7 7"]);
	expect(shapes[1]?.[0]).toBe("indigo 0 5 8 11");
	expect(shapes[3]).toHaveLength(2);
	expect(shapes[6]).toEqual(["outline faint"]);
});

test("steps stand side by side, and in the middle of a head where that is asked for", () => {
	const { drawn, context } = pen();
	strip(context, ["done", "done", "done"], 100, 10, PAINT);
	strip(context, ["done", "done", "done"], 100, 10, PAINT, true);
	expect(drawn.map((one) => Number(one.split(" ")[1]))).toEqual([100, 109, 118, 88, 97, 106]);
});

test("from afar the mark is what a switch is at", () => {
	const colours = (["done", "now", "wrong", "needs you", "open"] as const).map((step) => {
		const { drawn, context } = pen();
		far(context, ["done", step, "open"], 0, 0, 4, PAINT);
		return drawn[0]?.split(" ")[0];
	});
	expect(colours).toEqual(["hair", "indigo", "madder", "weld", "hair"]);
});
