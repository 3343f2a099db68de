/** The Weave, small: which threads a change touches. What comes is hatched, what goes is broken, what stays is pale. */
import { useMemo } from "react";
import type { SwitchRow } from "../api/client";
import type { SwitchChange } from "./queries";

const WIDTH = 720;
const LEFT = 96;
const RIGHT = 118;

interface Thread {
	name: string;
	rack: string;
	state: "same" | "new" | "gone" | "quiet" | "touched";
}

const WORD: Record<Thread["state"], string> = {
	same: "stays as it is",
	new: "new",
	gone: "goes",
	quiet: "changed, touches nobody",
	touched: "changed, is noticed",
};

const TOUCHES = new Set(["session", "link", "port", "bridge", "daemon", "reboot", "unknown"]);

export function Picture({
	switches,
	touched,
}: {
	switches: readonly SwitchRow[];
	touched: readonly SwitchChange[];
}) {
	const [warp, weft] = useMemo(() => threads(switches, touched), [switches, touched]);
	const height = Math.min(150, Math.max(54, weft.length * 5 + 16));
	const step = (height - 16) / Math.max(1, weft.length);
	const across = (WIDTH - LEFT - RIGHT) / Math.max(1, warp.length);
	const bands = banded(weft, step);
	const states = [...new Set([...warp, ...weft].map((one) => one.state))];
	return (
		<figure className="my-1">
			<svg
				role="img"
				aria-label={`What is touched: ${states.map((one) => WORD[one]).join(", ")}`}
				viewBox={`0 0 ${WIDTH} ${height}`}
				className="block w-full max-w-[760px]"
			>
				{warp.map((one, at) => (
					<path
						key={one.name}
						d={`M${LEFT + across * (at + 0.5)} 2V${height - 2}`}
						{...stroke(one.state, "var(--walnut)", Math.min(3, across * 0.5))}
					>
						<title>{`${one.name}: ${WORD[one.state]}`}</title>
					</path>
				))}
				{weft.map((one, at) => (
					<path
						key={one.name}
						d={`M${LEFT} ${8 + step * (at + 0.5)}H${WIDTH - RIGHT}`}
						{...stroke(one.state, "var(--indigo)", Math.min(2, Math.max(0.4, step * 0.55)))}
					>
						<title>{`${one.name}: ${WORD[one.state]}`}</title>
					</path>
				))}
				{bands.map((band) => (
					<g key={band.from} className="text-[11px]">
						<text
							x={0}
							y={8 + step * (band.at + band.count / 2) + 4}
							fill={ink(band.state)}
							className="font-mono"
						>
							{band.from === band.to ? band.from : `${band.from}–${band.to}`}
						</text>
						<text x={WIDTH - RIGHT + 12} y={8 + step * (band.at + band.count / 2) + 4} fill={ink(band.state)}>
							{WORD[band.state]}
						</text>
					</g>
				))}
			</svg>
		</figure>
	);
}

function threads(switches: readonly SwitchRow[], touched: readonly SwitchChange[]): [Thread[], Thread[]] {
	const by = new Map(touched.map((one) => [one.name, one]));
	const state = (name: string): Thread["state"] => {
		const one = by.get(name);
		if (!one) return "same";
		if (one.state === "new" || one.state === "gone") return one.state;
		return TOUCHES.has(one.effect) ? "touched" : "quiet";
	};
	const there = switches
		.filter((one) => one.state !== "later")
		.map((one) => ({ name: one.name, rack: one.rack, role: one.role, state: state(one.name) }));
	const gone = touched
		.filter((one) => one.state === "gone")
		.map((one) => ({ name: one.name, rack: one.rack, role: one.role, state: "gone" as const }));
	const all = [...there, ...gone];
	return [all.filter((one) => one.role.endsWith("spine")), all.filter((one) => !one.role.endsWith("spine"))];
}

interface Band {
	state: Thread["state"];
	from: string;
	to: string;
	at: number;
	count: number;
}

/** Threads that are alike and lie together, told once, what changes before what stays; none over another. */
function banded(weft: readonly Thread[], step: number): Band[] {
	const bands: Band[] = [];
	weft.forEach((one, at) => {
		const last = bands.at(-1);
		if (last && last.state === one.state) {
			last.to = one.rack;
			last.count += 1;
		} else bands.push({ state: one.state, from: one.rack, to: one.rack, at, count: 1 });
	});
	const middle = (band: Band) => step * (band.at + band.count / 2);
	const told: Band[] = [];
	for (const band of [...bands].sort((one, other) => weight(other) - weight(one)))
		if (told.every((one) => Math.abs(middle(one) - middle(band)) >= 13)) told.push(band);
	return told;
}

const weight = (band: Band) => (band.state === "same" ? 0 : 10_000) + band.count;

const ink = (state: Thread["state"]) =>
	state === "new" || state === "touched"
		? "var(--weld-ink)"
		: state === "gone"
			? "var(--madder)"
			: "var(--soft)";

function stroke(state: Thread["state"], own: string, width: number) {
	switch (state) {
		case "new":
			return { stroke: "var(--weld)", strokeWidth: width + 0.8, strokeDasharray: "5 2" };
		case "gone":
			return { stroke: "var(--madder)", strokeWidth: width + 0.4, strokeDasharray: "2 5" };
		case "touched":
			return { stroke: "var(--weld)", strokeWidth: width + 1 };
		case "quiet":
			return { stroke: own, strokeWidth: width, strokeOpacity: 0.75 };
		default:
			return { stroke: own, strokeWidth: width, strokeOpacity: 0.22 };
	}
}
