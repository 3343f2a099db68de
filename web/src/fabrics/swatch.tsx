/** A swatch of a fabric's cloth: its spines as warp, its leaves as weft, as many as there is room for. */
export function Swatch({ spines, leaves }: { spines: number; leaves: number }) {
	const warp = Math.min(spines, 8);
	const weft = Math.min(leaves, 11);
	const xs = Array.from(
		{ length: warp },
		(_, index) => 36 + (index - (warp - 1) / 2) * (64 / Math.max(warp, 4)),
	);
	const ys = Array.from({ length: weft }, (_, index) => 5 + index * 5);
	return (
		<svg width="72" height="60" viewBox="0 0 72 60" aria-hidden="true" className="flex-none">
			{xs.map((x) => (
				<line key={x} x1={x} x2={x} y1="0" y2="60" stroke="var(--walnut)" strokeWidth="2.6" />
			))}
			{ys.map((y, row) => (
				<g key={y} stroke="var(--indigo-pale)" strokeWidth="2">
					{xs.map((x, column) => {
						const left = column === 0 ? 0 : (x + (xs[column - 1] ?? 0)) / 2;
						const right = column === warp - 1 ? 72 : (x + (xs[column + 1] ?? 72)) / 2;
						return (row + column) % 2 === 0 ? (
							<line key={x} x1={left} x2={right} y1={y} y2={y} />
						) : (
							<path key={x} d={`M${left} ${y}H${x - 3}M${x + 3} ${y}H${right}`} />
						);
					})}
				</g>
			))}
		</svg>
	);
}
