/** A gate woven of the house's threads: warp and weft, with an opening where one comes in. */
const WARP = 13;
const WEFT = 17;
const STEP = 30;
const WIDTH = (WARP + 1) * STEP;
const HEIGHT = (WEFT + 1) * STEP;

/** The opening is an arch, seven threads wide: how far down each thread goes there. */
const lintel = (column: number): number => [7, 7, 8, 10][Math.abs(column - 6)] ?? WEFT + 1;
const isOpen = (row: number, column: number): boolean => row + 1 > lintel(column);

const numbers = (count: number) => Array.from({ length: count }, (_, at) => at);

const warp = numbers(WARP).map((column) => ({
	x: (column + 1) * STEP,
	end: Math.min(lintel(column) * STEP, HEIGHT),
}));

/** The pieces of each weft thread: whole above the arch, to its sides below. */
const weft = numbers(WEFT).flatMap((row) => {
	const y = (row + 1) * STEP;
	const inside = numbers(WARP).filter((column) => isOpen(row, column));
	const first = inside[0];
	const last = inside.at(-1);
	if (first === undefined || last === undefined) return [{ y, from: 0, to: WIDTH }];
	return [
		{ y, from: 0, to: first * STEP },
		{ y, from: (last + 2) * STEP, to: WIDTH },
	];
});

const knots = numbers(WEFT).flatMap((row) =>
	numbers(WARP)
		.filter((column) => (row + column) % 2 === 0 && !isOpen(row, column))
		.map((column) => ({
			x: (column + 1) * STEP,
			y: (row + 1) * STEP,
			lit: (row * 7 + column * 3) % 11 === 0,
		})),
);

export function Gate() {
	return (
		<div className="flex items-center justify-center overflow-hidden border-r border-hair bg-raised max-[760px]:hidden">
			<svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="h-[78%] max-h-[620px]" aria-hidden="true">
				{weft.map(({ y, from, to }) => (
					<line
						key={`${y} ${from}`}
						x1={from}
						x2={to}
						y1={y}
						y2={y}
						stroke="var(--walnut)"
						strokeWidth={2}
						strokeOpacity={0.55}
					/>
				))}
				{warp.map(({ x, end }) => (
					<line key={x} x1={x} x2={x} y1={0} y2={end} stroke="var(--indigo)" strokeWidth={2.5} />
				))}
				{knots.map(({ x, y, lit }) => (
					<rect
						key={`${x} ${y}`}
						x={x - 4.5}
						y={y - 4.5}
						width={9}
						height={9}
						fill={lit ? "var(--weld)" : "var(--indigo)"}
					/>
				))}
			</svg>
		</div>
	);
}
