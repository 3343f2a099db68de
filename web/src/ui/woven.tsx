/** A fabric small, as a Weave: what is above as warp, leaves as weft, each thread as it stands, those that are alike told once. */
import type { SVGProps } from "react";

const WIDTH = 720;
const LEFT = 96;
const RIGHT = 118;

export interface Thread<Standing extends string> {
	name: string;
	rack: string;
	state: Standing;
}

/** How threads of a standing look: its word and ink, whether it is told before others, and the stroke of a thread of a colour and width. */
export interface Look {
	word: string;
	ink: string;
	first: boolean;
	stroke: (own: string, width: number) => SVGProps<SVGPathElement>;
}

interface Props<Standing extends string> {
	label: string;
	warp: readonly Thread<Standing>[];
	weft: readonly Thread<Standing>[];
	looks: Record<Standing, Look>;
}

export function Woven<Standing extends string>({ label, warp, weft, looks }: Props<Standing>) {
	const height = Math.min(150, Math.max(54, weft.length * 5 + 16));
	const step = (height - 16) / Math.max(1, weft.length);
	const across = (WIDTH - LEFT - RIGHT) / Math.max(1, warp.length);
	const bands = banded(weft, step, looks);
	return (
		<figure className="my-1">
			<svg
				role="img"
				aria-label={label}
				viewBox={`0 0 ${WIDTH} ${height}`}
				className="block w-full max-w-[760px]"
			>
				{warp.map((one, at) => (
					<path
						key={one.name}
						d={`M${LEFT + across * (at + 0.5)} 2V${height - 2}`}
						{...looks[one.state].stroke("var(--walnut)", Math.min(3, across * 0.5))}
					>
						<title>{`${one.name}: ${looks[one.state].word}`}</title>
					</path>
				))}
				{weft.map((one, at) => (
					<path
						key={one.name}
						d={`M${LEFT} ${8 + step * (at + 0.5)}H${WIDTH - RIGHT}`}
						{...looks[one.state].stroke("var(--indigo)", Math.min(2, Math.max(0.4, step * 0.55)))}
					>
						<title>{`${one.name}: ${looks[one.state].word}`}</title>
					</path>
				))}
				{bands.map((band) => (
					<g key={band.from} className="text-[11px]">
						<text
							x={0}
							y={8 + step * (band.at + band.count / 2) + 4}
							fill={looks[band.state].ink}
							className="font-mono"
						>
							{band.from === band.to ? band.from : `${band.from}–${band.to}`}
						</text>
						<text
							x={WIDTH - RIGHT + 12}
							y={8 + step * (band.at + band.count / 2) + 4}
							fill={looks[band.state].ink}
						>
							{looks[band.state].word}
						</text>
					</g>
				))}
			</svg>
		</figure>
	);
}

interface Band<Standing extends string> {
	state: Standing;
	from: string;
	to: string;
	at: number;
	count: number;
}

/** Threads that are alike and lie together, told once, what comes first before others; none over another. */
function banded<Standing extends string>(
	weft: readonly Thread<Standing>[],
	step: number,
	looks: Record<Standing, Look>,
): Band<Standing>[] {
	const bands: Band<Standing>[] = [];
	weft.forEach((one, at) => {
		const last = bands.at(-1);
		if (last && last.state === one.state) {
			last.to = one.rack;
			last.count += 1;
		} else bands.push({ state: one.state, from: one.rack, to: one.rack, at, count: 1 });
	});
	const middle = (band: Band<Standing>) => step * (band.at + band.count / 2);
	const weight = (band: Band<Standing>) => (looks[band.state].first ? 10_000 : 0) + band.count;
	const told: Band<Standing>[] = [];
	for (const band of [...bands].sort((one, other) => weight(other) - weight(one)))
		if (told.every((one) => Math.abs(middle(one) - middle(band)) >= 13)) told.push(band);
	return told;
}

/** What is above, and what is below. */
export const woven = <One extends { role: string }>(all: readonly One[]): [One[], One[]] => [
	all.filter((one) => one.role.endsWith("spine")),
	all.filter((one) => !one.role.endsWith("spine")),
];
