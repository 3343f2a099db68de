/** A drill as a score: time to the right, a line a flow, gaps where nothing came; any moment can be chosen to read what the daemons said then. */
import { number } from "../ui/words";
import type { Drill } from "./queries";

const NAMES = 196;
const WIDE = 470;
const ROW = 39;
const TOP = 44;

interface Props {
	drill: Drill;
	/** The moment that is chosen, in seconds; nothing when none is. */
	moment: number | null;
	onMoment: (at: number) => void;
}

export function Score({ drill, moment, onMoment }: Props) {
	const x = (at: number) => NAMES + (at / drill.seconds) * WIDE;
	const height = TOP + drill.flows.length * ROW + 26;
	const changes = drill.waves.length > 0;
	const step = Math.max(2, 2 * Math.ceil(drill.seconds / 14));
	const ticks = Array.from({ length: Math.floor(drill.seconds / step) + 1 }, (_, at) => at * step);
	return (
		<section aria-label={drill.words}>
			<div className="flex items-baseline gap-4">
				<h3 className="text-[16px] font-bold">{changes ? drill.words : `${drill.words}, and comes back`}</h3>
				<p className="text-soft">
					{drill.flows.length} flows, {number(drill.rate)} packets a second each; sessions{" "}
					{drill.stands ? `stand again after ${drill.up_again.toFixed(0)} s` : "do not stand again"}
				</p>
			</div>
			{drill.faults.length > 0 && (
				<ul className="mt-1 max-w-[90ch] text-madder">
					{drill.faults.slice(0, 4).map((words) => (
						<li key={words}>{words}</li>
					))}
					{drill.faults.length > 4 && <li>and {drill.faults.length - 4} more</li>}
				</ul>
			)}
			<svg
				width={NAMES + WIDE + 14}
				height={height}
				className="mt-2 block"
				role="img"
				aria-label={inWords(drill)}
			>
				{bands(drill).map(([from, to, words]) => (
					<g key={from}>
						<rect
							x={x(from)}
							y={TOP - 16}
							width={Math.max(1, x(to) - x(from) - 1)}
							height={height - TOP}
							fill="var(--wash)"
						/>
						<text x={x(from) + 4} y={TOP - 5} className="text-[11px]" fill="var(--soft)">
							{words}
						</text>
					</g>
				))}
				{ticks.map((at) => (
					<g key={at}>
						<text x={x(at)} y={12} textAnchor="middle" className="font-mono text-[11px]" fill="var(--faint)">
							{at} s
						</text>
						<path d={`M${x(at)} 20V${height - 20}`} stroke="var(--hair)" strokeDasharray="1 5" />
					</g>
				))}
				{drill.flows.map((flow, row) => {
					const y = TOP + row * ROW;
					const wrong = flow.longest > flow.most;
					const worst = Math.max(...flow.silences.map((one) => one.ends - one.begins), 0);
					return (
						<g key={`${flow.one} ${flow.other}`}>
							<text x={0} y={y + 10} className="font-mono text-[11px]" fill="var(--ink)">
								{flow.one.slice(0, 27)}
							</text>
							<text x={0} y={y + 23} className="font-mono text-[11px]" fill="var(--soft)">
								→ {flow.other.slice(0, 25)}
							</text>
							<Line heard={flow.heard} x={x} y={y + 13} />
							{flow.silences
								.filter((one) => one.ends - one.begins > 0.05)
								.map((one) => (
									<g
										key={one.begins}
										stroke={wrong ? "var(--madder)" : "var(--weld)"}
										fill="none"
										strokeWidth={1.6}
									>
										<path d={`M${x(one.begins)} ${y + 6}l4 6l-4 6`} />
										<path d={`M${x(one.ends)} ${y + 6}l-4 6l4 6`} />
									</g>
								))}
							<text
								x={NAMES + WIDE}
								y={y + 3}
								textAnchor="end"
								className="text-[10.5px]"
								fill={wrong ? "var(--madder)" : "var(--soft)"}
							>
								{worst > 0
									? `${worst.toFixed(2)} s, ${number(flow.sent - flow.received)} packets; ${flow.most.toFixed(1)} s foretold`
									: flow.way}
							</text>
						</g>
					);
				})}
				{moment !== null && (
					<g>
						<path d={`M${x(moment) - 5} ${TOP - 22}h10l-5 6z`} fill="var(--ink)" />
						<path d={`M${x(moment)} ${TOP - 16}V${height - 20}`} stroke="var(--ink)" />
					</g>
				)}
			</svg>
			<label className="mt-0.5 flex items-center gap-3" style={{ paddingLeft: NAMES - 62 }}>
				<span className="label-small w-12">moment</span>
				<input
					type="range"
					className="flex-none accent-[var(--indigo)]"
					style={{ width: WIDE }}
					min={0}
					max={drill.seconds}
					step={0.05}
					value={moment ?? drill.at}
					aria-valuetext={`${(moment ?? drill.at).toFixed(2)} seconds`}
					onChange={(event) => onMoment(Number(event.target.value))}
				/>
			</label>
		</section>
	);
}

/** The times in which something was away, or the waves of a change: from when to when, and in a word. */
const bands = (drill: Drill): [number, number, string][] =>
	drill.waves.length
		? drill.waves.map((wave): [number, number, string] => [wave.at, wave.until, String(wave.number)])
		: [[drill.at, drill.until, "away"]];

/** What was heard, a tick for each tenth of a second, as high as its share. */
function Line({ heard, x, y }: { heard: readonly number[]; x: (at: number) => number; y: number }) {
	const d = heard
		.map((share, at) => (share > 0 ? `M${x(at / 10 + 0.05)} ${y + 4}v${-(2 + 7 * share)}` : ""))
		.join("");
	return <path d={d} stroke="var(--indigo)" strokeWidth={2} />;
}

/** The longest silence of all flows while something was away, in seconds. */
export const longest = (drill: Drill): number => Math.max(...drill.flows.map((one) => one.longest), 0);

function inWords(drill: Drill): string {
	const lost = drill.flows.filter((one) => one.sent > one.received);
	return `${lost.length} of ${drill.flows.length} flows lost packets, the longest silence was ${longest(drill).toFixed(2)} seconds`;
}
