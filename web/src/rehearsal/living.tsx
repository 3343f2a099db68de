/** The Weave of what is rehearsed, alive: each thread by its switch's state, each crossing by the sessions over it. */
import type { Claim, Rehearsal } from "./queries";

const LEFT = 132;
const TOP = 92;

interface Props {
	one: Rehearsal;
	/** Claims that do not hold, about sessions. */
	wrong: readonly Claim[];
	/** Whether sessions were asked for yet. */
	asked: boolean;
}

type Switch = Rehearsal["switches"][number];

const isLeaf = (one: Switch) => one.key.startsWith("leaf/");

export function Living({ one, wrong, asked }: Props) {
	const uppers = one.switches.filter((each) => !isLeaf(each));
	// In three tiers spines are the weft of the super-spines, and the warp of their leaves.
	const weft = one.switches.filter((each) => each.key.startsWith("spine/"));
	const leaves = [...(weft.length < uppers.length ? weft : []), ...one.switches.filter(isLeaf)];
	if (!one.switches.length) return null;
	const step = Math.min(110, Math.max(26, 480 / Math.max(1, uppers.length)));
	const x = (at: number) => LEFT + 34 + at * step;
	// A few rows are drawn far apart, many as close as their names allow.
	const row = Math.max(25, Math.min(46, 420 / Math.max(1, leaves.length)));
	const rows: { leaf: Switch; y: number; first: boolean }[] = [];
	let y = TOP + 12;
	for (const [at, leaf] of leaves.entries()) {
		const first = at === 0 || leaves[at - 1]?.rack !== leaf.rack;
		if (at > 0) y += first ? row + 9 : row;
		rows.push({ leaf, y, first });
	}
	const bottom = y + 22;
	const right = x(uppers.length - 1) + 34;
	const joined = new Set(one.joined.map(({ upper, lower }) => `${upper} ${lower}`));
	const bad = new Set(
		wrong.flatMap((claim) => [`${claim.about} ${claim.other}`, `${claim.other} ${claim.about}`]),
	);
	const words = (name: string) => one.switches.find((each) => each.name === name)?.words ?? "";
	return (
		<svg
			width={right + 190}
			height={bottom + 8}
			className="block max-w-full"
			aria-label={`${one.switches.filter((each) => each.words === "runs").length} of ${one.switches.length} switches run`}
			role="img"
		>
			{uppers.map((each, at) => (
				<g key={each.key}>
					<text
						transform={`translate(${x(at) + 4} ${TOP - 14}) rotate(-38)`}
						className="font-mono text-[11.5px]"
						fill="var(--ink)"
					>
						{each.name}
					</text>
					<Thread state={each} d={`M${x(at)} ${TOP - 6}V${bottom}`} color="var(--walnut)" />
				</g>
			))}
			{rows.map(({ leaf, y: at, first }) => (
				<g key={leaf.key}>
					{first && (
						<text x={2} y={at + 4} className="text-[11px]" fill="var(--soft)">
							{leaf.rack}
						</text>
					)}
					<text
						x={LEFT - 6}
						y={at + 4}
						textAnchor="end"
						className="font-mono text-[11.5px]"
						fill="var(--ink)"
					>
						{leaf.name}
					</text>
					<Thread state={leaf} d={`M${LEFT} ${at}H${right}`} color="var(--indigo)" />
					<text x={right + 10} y={at + 4} className="text-[11px]" fill="var(--soft)">
						{leaf.words === "runs"
							? `${leaf.seconds.toFixed(1)} s`
							: leaf.failed
								? "did not come up"
								: leaf.words}
					</text>
					{uppers.map((upper, place) =>
						joined.has(`${upper.name} ${leaf.name}`) ? (
							<Crossing
								key={upper.key}
								x={x(place)}
								y={at}
								standing={
									bad.has(`${upper.name} ${leaf.name}`)
										? "wrong"
										: asked && words(upper.name) === "runs" && leaf.words === "runs"
											? "holds"
											: "waits"
								}
							/>
						) : null,
					)}
				</g>
			))}
		</svg>
	);
}

function Thread({ state, d, color }: { state: Switch; d: string; color: string }) {
	if (state.failed) return <path d={d} stroke="var(--madder)" strokeWidth={3} strokeDasharray="14 6 3 6" />;
	if (state.words === "runs") return <path d={d} stroke={color} strokeWidth={3} />;
	const boots = state.words === "boots";
	return (
		<path
			d={d}
			stroke={boots ? color : "var(--hair)"}
			strokeWidth={boots ? 3 : 2}
			strokeDasharray={boots ? "6 4" : "2 4"}
			className={boots ? "motion-safe:animate-pulse" : undefined}
		/>
	);
}

function Crossing({ x, y, standing }: { x: number; y: number; standing: "holds" | "wrong" | "waits" }) {
	const at = `translate(${x - 5.5} ${y - 5.5})`;
	if (standing === "wrong")
		return (
			<path
				transform={at}
				d="M0 0H5L3.4 4.6H7.2L6 6H11V11H0Z"
				fill="var(--madder)"
				stroke="var(--paper)"
				strokeWidth={1.5}
			/>
		);
	return (
		<rect
			transform={at}
			width={11}
			height={11}
			fill={standing === "holds" ? "var(--moss)" : "var(--paper)"}
			stroke={standing === "holds" ? "var(--paper)" : "var(--faint)"}
			strokeWidth={1.5}
		/>
	);
}
