/** The colours and textures that the Weave is drawn with, read from the theme once a drawing. */

export type Paint = Record<
	| "paper"
	| "raised"
	| "ink"
	| "soft"
	| "faint"
	| "hair"
	| "indigo"
	| "pale"
	| "chosen"
	| "weld"
	| "weldInk"
	| "weldPale"
	| "woad"
	| "walnut"
	| "madder"
	| "moss"
	| "empty",
	string
>;

const NAMES: Record<keyof Paint, string> = {
	paper: "--paper",
	raised: "--raised",
	ink: "--ink",
	soft: "--soft",
	faint: "--faint",
	hair: "--hair",
	indigo: "--indigo",
	pale: "--indigo-pale",
	chosen: "--chosen",
	weld: "--weld",
	weldInk: "--weld-ink",
	weldPale: "--weld-pale",
	woad: "--woad",
	walnut: "--walnut",
	madder: "--madder",
	moss: "--moss",
	empty: "--empty",
};

export function paints(): Paint {
	const style = getComputedStyle(document.documentElement);
	const found = {} as Paint;
	for (const name of Object.keys(NAMES) as (keyof Paint)[])
		found[name] = style.getPropertyValue(NAMES[name]).trim();
	return found;
}

export const SANS = '"Atkinson Hyperlegible Next Variable", sans-serif';
export const MONO = '"Atkinson Hyperlegible Mono Variable", monospace';

/** Changed just now: diagonal hatching. */
export function hatching(context: CanvasRenderingContext2D, paint: Paint): CanvasPattern | string {
	const tile = document.createElement("canvas");
	tile.width = tile.height = 5;
	const small = tile.getContext("2d");
	if (!small) return paint.weld;
	small.fillStyle = paint.weldPale;
	small.fillRect(0, 0, 5, 5);
	small.strokeStyle = paint.weld;
	small.lineWidth = 1.6;
	small.beginPath();
	for (const [x, y] of [
		[-1, 6],
		[-1, 1],
		[4, 6],
	] as const) {
		small.moveTo(x, y);
		small.lineTo(x + 7, y - 7);
	}
	small.stroke();
	return context.createPattern(tile, "repeat") ?? paint.weld;
}
