/** Paints a strip on a canvas: thousands of runs cost what a screen has columns. Pattern tells the state, thread the owner. */
import type { Run } from "../api/client";

export interface Painted {
	runs: Run[];
	fabric: string;
	/** Parts from 0 to 1 of the strip that stand out: the chosen number, and the span that is being selected. */
	chosen?: [number, number];
	span?: [number, number];
}

interface Threads {
	mine: string;
	other: string;
	soft: string;
	hair: string;
	wash: string;
	indigo: string;
	line: string;
}

export function paint(canvas: HTMLCanvasElement, { runs, fabric, chosen, span }: Painted): void {
	const scale = devicePixelRatio || 1;
	const { width, height } = canvas.getBoundingClientRect();
	if (width === 0) return;
	canvas.width = Math.round(width * scale);
	canvas.height = Math.round(height * scale);
	const pen = canvas.getContext("2d");
	if (!pen) return;
	pen.scale(scale, scale);
	const threads = threadsOf(canvas);
	for (const run of [...runs].sort((one, two) => layer(one) - layer(two))) {
		const left = run.start * width;
		const wide = Math.max(
			1.5,
			(run.end - run.start) * width - (run.count === 1 && run.end - run.start > 0.006 ? 1 : 0),
		);
		run_(pen, run, left, wide, height, run.fabric === fabric ? threads.mine : threads.other, threads);
	}
	if (span) {
		pen.fillStyle = threads.line;
		pen.globalAlpha = 0.55;
		pen.fillRect(span[0] * width, 0, Math.max(2, (span[1] - span[0]) * width), height);
		pen.globalAlpha = 1;
		pen.strokeStyle = threads.indigo;
		pen.strokeRect(span[0] * width + 0.5, 0.5, Math.max(2, (span[1] - span[0]) * width) - 1, height - 1);
	}
	if (chosen) {
		pen.fillStyle = threads.indigo;
		pen.fillRect(chosen[0] * width, 0, Math.max(3, (chosen[1] - chosen[0]) * width - 1), height);
	}
}

/** What is reserved and cut lies below what is taken. */
const layer = (run: Run) => (run.state === "cut" ? 0 : run.state === "kept" ? 1 : 2);

function run_(
	pen: CanvasRenderingContext2D,
	run: Run,
	left: number,
	wide: number,
	height: number,
	thread: string,
	threads: Threads,
): void {
	pen.fillStyle = thread;
	pen.strokeStyle = thread;
	pen.setLineDash([]);
	pen.lineWidth = 1;
	switch (run.state) {
		case "live":
			pen.fillRect(left, 0, wide, height);
			break;
		case "leaving":
			pen.fillRect(left, 0, wide, height * 0.45);
			break;
		case "held":
			if (wide < 5) pen.fillRect(left, height * 0.3, wide, height * 0.7);
			else hatch(pen, left, wide, height);
			break;
		case "kept":
			pen.fillStyle = threads.soft;
			for (let x = left + 2; x < left + wide - 0.5; x += 4)
				for (let y = 2; y < height; y += 4) pen.fillRect(x, y, 1.3, 1.3);
			break;
		case "cut":
			pen.fillStyle = threads.wash;
			pen.fillRect(left, 0, wide, height);
			pen.strokeStyle = threads.hair;
			pen.strokeRect(left + 0.5, 0.5, Math.max(1, wide - 1), height - 1);
			break;
		default:
			if (run.state === "reserved") pen.setLineDash([2, 2]);
			pen.strokeRect(left + 0.5, 0.5, Math.max(1, wide - 1), height - 1);
			pen.setLineDash([]);
	}
}

function hatch(pen: CanvasRenderingContext2D, left: number, wide: number, height: number): void {
	pen.save();
	pen.beginPath();
	pen.rect(left, 0, wide, height);
	pen.clip();
	pen.lineWidth = 1.6;
	pen.beginPath();
	for (let x = Math.floor((left - height) / 4) * 4; x < left + wide; x += 4) {
		pen.moveTo(x, height);
		pen.lineTo(x + height, 0);
	}
	pen.stroke();
	pen.restore();
}

function threadsOf(canvas: HTMLCanvasElement): Threads {
	const style = getComputedStyle(canvas);
	const of = (name: string) => style.getPropertyValue(name).trim();
	return {
		mine: of("--walnut"),
		other: of("--woad"),
		soft: of("--soft"),
		hair: of("--hair"),
		wash: of("--wash"),
		indigo: of("--indigo"),
		line: of("--indigo-line"),
	};
}
