/** A switch's steps as a short line of marks: solid where done, a bar where it is (with a thin one inside while it waits for its wave), a notch where it is wrong, hollow where it is yet to come. */
import { type Mark, STEPS } from "./line";

const SIZE = 10;
const HEIGHT = 14;

export function Marks({ marks, wide }: { marks: readonly Mark[]; wide: number }) {
	const at = marks.findIndex((one) => one !== "done");
	const words = at < 0 ? "handed over" : `${STEPS[at]}: ${marks[at]}`;
	return (
		<svg
			width={wide * STEPS.length}
			height={HEIGHT}
			role="img"
			aria-label={words}
			className="block flex-none"
		>
			{marks.map((one, step) => (
				<g key={STEPS[step]} transform={`translate(${step * wide} 0)`}>
					{step + 1 < marks.length && (
						<line
							x1={SIZE + 2}
							x2={wide - 1}
							y1={HEIGHT / 2}
							y2={HEIGHT / 2}
							stroke={one === "done" && marks[step + 1] !== "open" ? "var(--moss)" : "var(--hair)"}
							strokeWidth={one === "done" && marks[step + 1] !== "open" ? 2 : 1}
						/>
					)}
					<Sign mark={one} wide={wide} />
				</g>
			))}
		</svg>
	);
}

function Sign({ mark, wide }: { mark: Mark; wide: number }) {
	const top = (HEIGHT - SIZE) / 2;
	if (mark === "done") return <rect y={top} width={SIZE} height={SIZE} fill="var(--moss)" />;
	if (mark === "now" || mark === "ready")
		return (
			<>
				<rect
					x={-0.5}
					y={1}
					width={Math.max(SIZE, wide - 14)}
					height={12}
					fill="var(--raised)"
					stroke="var(--indigo)"
					strokeWidth={1.4}
				/>
				{mark === "now" ? (
					<rect x={-0.5} y={1} width={Math.max(SIZE, wide - 14) / 2} height={12} fill="var(--indigo)" />
				) : (
					<rect x={2} y={5.5} width={Math.max(SIZE, wide - 14) - 5} height={3} fill="var(--indigo)" />
				)}
			</>
		);
	if (mark === "wrong" || mark === "needs you")
		return (
			<path d={`M0 ${top - 1}h5v4l3 3h4v5h-12z`} fill={mark === "wrong" ? "var(--madder)" : "var(--weld)"} />
		);
	if (mark === "skipped")
		return <line x1={0} x2={SIZE} y1={HEIGHT / 2} y2={HEIGHT / 2} stroke="var(--soft)" strokeWidth={2} />;
	return (
		<rect
			x={1}
			y={top + 1}
			width={SIZE - 2}
			height={SIZE - 2}
			fill="none"
			stroke={mark === "unknown" ? "var(--madder)" : "var(--soft)"}
			strokeOpacity={0.7}
			strokeDasharray={mark === "unknown" ? "2 2" : undefined}
		/>
	);
}
