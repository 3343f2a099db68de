/** A range seen closer: starts at the part in use, and goes down to single numbers. */
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { client, got, type PoolRange } from "../api/client";
import { useOpenFabric } from "../ui/street";
import { number } from "../ui/words";
import { tone } from "./strips";

interface Window {
	low: bigint;
	high: bigint;
}

interface Props {
	range: PoolRange;
	chosen: string | undefined;
	onNumber: (text: string) => void;
}

export function Lens({ range, chosen, onNumber }: Props) {
	const fabric = useOpenFabric();
	const whole = useMemo<Window>(
		() => ({ low: BigInt(range.low), high: BigInt(range.high) }),
		[range.low, range.high],
	);
	const [window, setWindow] = useState<Window>(() => inUse(range, whole));
	const shown = within(window, whole);
	const size = shown.high - shown.low + 1n;
	const { data } = useQuery({
		queryKey: ["pools", range.pool, "strip", range.family, String(shown.low), String(shown.high)],
		queryFn: () =>
			got(
				client.GET("/api/pools/{pool}/strip", {
					params: {
						path: { pool: range.pool },
						query: { family: range.family, low: String(shown.low), high: String(shown.high) },
					},
				}),
			),
		placeholderData: (before) => before,
	});
	const zoom = (by: "in" | "out", at = 0.5) => {
		const next = by === "in" ? size / 2n : size * 2n;
		const width = next < 8n ? 8n : next;
		const centre = shown.low + (size * BigInt(Math.round(at * 1000))) / 1000n;
		const low = centre - (width * BigInt(Math.round(at * 1000))) / 1000n;
		setWindow(within({ low, high: low + width - 1n }, whole));
	};
	const pan = (steps: bigint) =>
		setWindow(
			within(
				{ low: shown.low + (size / 8n || 1n) * steps, high: shown.high + (size / 8n || 1n) * steps },
				whole,
			),
		);
	return (
		<div className="mb-2.5">
			{/* biome-ignore lint/a11y/useSemanticElements: a strip that is zoomed by keys has no element of its own */}
			<div
				role="group"
				aria-label={`${range.range} from ${data?.first} to ${data?.last}`}
				// biome-ignore lint/a11y/noNoninteractiveTabindex: it takes plus, minus and the arrow keys
				tabIndex={0}
				className="relative h-6 overflow-hidden border border-hair bg-raised"
				onWheel={(event) => {
					const box = event.currentTarget.getBoundingClientRect();
					if (event.deltaX) pan(event.deltaX > 0 ? 1n : -1n);
					else zoom(event.deltaY < 0 ? "in" : "out", (event.clientX - box.left) / box.width);
				}}
				onKeyDown={(event) => {
					if (event.key === "+" || event.key === "=") zoom("in");
					else if (event.key === "-") zoom("out");
					else if (event.key === "ArrowRight") pan(1n);
					else if (event.key === "ArrowLeft") pan(-1n);
					else if (event.key === "0") setWindow(inUse(range, whole));
				}}
			>
				{data?.runs.map((run) => {
					const on = run.count === 1 && chosen?.split("/")[0] === run.first;
					return (
						<button
							key={`${run.low} ${run.state}`}
							type="button"
							tabIndex={-1}
							title={`${run.first === run.last ? run.first : `${run.first} to ${run.last}`}: ${run.state} by ${run.fabric}${run.count > 1 ? `, ${number(run.count)} numbers` : ""}`}
							aria-label={`${run.first}, ${run.state} by ${run.fabric}`}
							onClick={(event) => {
								if (run.count === 1)
									onNumber(data ? numberOf(range, run.first, BigInt(run.high) - BigInt(run.low) + 1n) : "");
								else {
									const box = event.currentTarget.parentElement?.getBoundingClientRect();
									if (box) zoom("in", (event.clientX - box.left) / box.width);
								}
							}}
							className={`absolute inset-y-0 min-w-[2px] border-r border-raised/60 ${on ? "bg-indigo" : tone(run, fabric.name)}`}
							style={{ left: `${run.start * 100}%`, width: `${(run.end - run.start) * 100}%` }}
						/>
					);
				})}
			</div>
			<div className="mono flex items-center gap-3 text-soft">
				<span>{data?.first}</span>
				<span className="ml-auto flex gap-2 font-sans text-[11.5px]">
					<button type="button" className="button-plain" aria-label="Look closer" onClick={() => zoom("in")}>
						closer
					</button>
					<button
						type="button"
						className="button-plain"
						aria-label="Look from farther"
						disabled={size >= whole.high - whole.low + 1n}
						onClick={() => zoom("out")}
					>
						farther
					</button>
					<button type="button" className="button-plain" onClick={() => setWindow(whole)}>
						all of {range.range}
					</button>
				</span>
				<span className="ml-auto">{data?.last}</span>
			</div>
		</div>
	);
}

/** The part of a range that has numbers in it, with some air; all of it when none is taken. */
function inUse(range: PoolRange, whole: Window): Window {
	const first = range.runs[0];
	const last = range.runs.at(-1);
	if (!first || !last) return whole;
	const low = BigInt(first.low);
	const high = BigInt(last.high);
	const air = (high - low) / 10n + 8n;
	return within({ low: low - air, high: high + air }, whole);
}

function within(window: Window, whole: Window): Window {
	const size = window.high - window.low;
	const most = whole.high - whole.low;
	if (size >= most) return whole;
	if (window.low < whole.low) return { low: whole.low, high: whole.low + size };
	if (window.high > whole.high) return { low: whole.high - size, high: whole.high };
	return window;
}

/** The text of an entry from its first address and how many integers it spans. */
function numberOf(range: PoolRange, first: string, size: bigint): string {
	if (range.family === "number") return first;
	const bits = size.toString(2).length - 1;
	return `${first}/${(range.family === "v4" ? 32 : 128) - bits}`;
}
