/** A flow drawn as threads from its host, by each switch, to where it ends: as wide as the share that goes there. */
import type { Flow, FlowStep } from "./queries";

const WIDTH = 860;
const NAME = 92;

interface Props {
	flow: Flow;
	chosen: string | undefined;
	onChoose: (name: string | undefined) => void;
}

export function FlowThreads({ flow, chosen, onChoose }: Props) {
	const last = Math.max(...flow.steps.map((one) => one.depth));
	const columns = Array.from({ length: last + 1 }, (_, depth) =>
		flow.steps.filter((one) => one.depth === depth),
	);
	const most = Math.max(...columns.map((column) => column.length));
	const pitch = Math.max(18, Math.min(44, 300 / most));
	const height = Math.max(70, most * pitch + 20);
	const across = (depth: number) => NAME + 20 + (depth + 0.5) * ((WIDTH - 2 * NAME - 40) / (last + 1));
	const down = (step: FlowStep) => {
		const column = columns[step.depth] ?? [];
		return height / 2 + (column.indexOf(step) - (column.length - 1) / 2) * pitch;
	};
	const starts = columns[0] ?? [];
	const ended = flow.steps.filter((one) => one.ends.length > 0);
	return (
		// biome-ignore lint/a11y/useSemanticElements: a drawing whose parts are buttons
		<svg
			viewBox={`0 0 ${WIDTH} ${height}`}
			className="mt-3 w-full max-w-[860px]"
			role="group"
			aria-label="The flow, drawn"
		>
			{starts.map((step) => (
				<Thread
					key={step.switch}
					from={[NAME, height / 2]}
					to={[across(0), down(step)]}
					share={1 / starts.length}
				/>
			))}
			{flow.steps.flatMap((step) =>
				step.ways.map((way) => {
					const next = flow.steps[way.step];
					return next ? (
						<Thread
							key={`${step.depth} ${step.switch} ${way.port}`}
							from={[across(step.depth), down(step)]}
							to={[across(next.depth), down(next)]}
							share={step.share * way.share}
						/>
					) : null;
				}),
			)}
			{ended.map((step) => (
				<Thread
					key={`${step.depth} ${step.switch}`}
					from={[across(step.depth), down(step)]}
					to={
						step.ends.every((one) => one.arrives)
							? [WIDTH - NAME, height / 2]
							: [across(step.depth) + half(step) + 44, down(step) + 14]
					}
					share={step.share}
					lost={!step.ends.every((one) => one.arrives)}
				/>
			))}
			<End x={NAME - 6} y={height / 2} words={flow.source} anchor="end" />
			{ended.some((step) => step.ends.some((one) => one.arrives)) && (
				<End x={WIDTH - NAME + 6} y={height / 2} words={flow.target} anchor="start" />
			)}
			{flow.steps.map((step) => (
				// biome-ignore lint/a11y/useSemanticElements: a button of a drawing
				<g
					key={`${step.depth} ${step.switch}`}
					role="button"
					tabIndex={0}
					aria-pressed={step.switch === chosen}
					aria-label={step.switch}
					className="cursor-pointer"
					onClick={() => onChoose(step.switch === chosen ? undefined : step.switch)}
					onKeyDown={(event) => {
						if (event.key === "Enter" || event.key === " ") {
							event.preventDefault();
							onChoose(step.switch === chosen ? undefined : step.switch);
						}
					}}
				>
					<rect
						x={across(step.depth) - half(step)}
						y={down(step) - 8}
						width={2 * half(step)}
						height={16}
						className={step.switch === chosen ? "fill-chosen" : "fill-paper"}
					/>
					<text
						x={across(step.depth)}
						y={down(step) + 4}
						textAnchor="middle"
						className={`mono text-[11px] ${step.waits ? "fill-soft" : "fill-ink"} ${step.switch === chosen ? "font-bold" : ""}`}
					>
						{step.switch}
					</text>
				</g>
			))}
		</svg>
	);
}

/** Half of the room that a name takes. */
const half = (step: FlowStep) => step.switch.length * 3.4 + 5;

interface ThreadProps {
	from: [number, number];
	to: [number, number];
	share: number;
	lost?: boolean;
}

function Thread({ from, to, share, lost = false }: ThreadProps) {
	const middle = (from[0] + to[0]) / 2;
	return (
		<path
			d={`M${from[0]},${from[1]} C${middle},${from[1]} ${middle},${to[1]} ${to[0]},${to[1]}`}
			fill="none"
			strokeWidth={Math.max(1, share * 7)}
			strokeLinecap="round"
			strokeDasharray={lost ? "1 4" : undefined}
			className={lost ? "stroke-madder" : "stroke-indigo/60"}
		/>
	);
}

function End({ x, y, words, anchor }: { x: number; y: number; words: string; anchor: "start" | "end" }) {
	return (
		<text x={x} y={y + 4} textAnchor={anchor} className="mono fill-ink text-[11px] font-bold">
			{words}
		</text>
	);
}
