/** A range seen closer: from all of it down to single numbers; a span of it can be selected, and then reserved or cut. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { client, got, type PoolRange, type Run } from "../api/client";
import { useOpenFabric } from "../app/open";
import { number } from "../ui/words";
import {
	commonGroups,
	marksOf,
	markText,
	panned,
	parseText,
	placeOf,
	prefixText,
	type Span,
	sizeOf,
	spanOf,
	stemText,
	within,
	zoomed,
} from "./span";
import { Strip } from "./strip";

interface Props {
	range: PoolRange;
	chosen: string | undefined;
	span: Span | null;
	onSpan: (span: Span | null, runs: Run[]) => void;
	onNumber: (text: string) => void;
}

export function Lens({ range, chosen, span, onSpan, onNumber }: Props) {
	const fabric = useOpenFabric();
	const whole = useMemo<Span>(
		() => ({ low: BigInt(range.low), high: BigInt(range.high) }),
		[range.low, range.high],
	);
	const [window, setWindow] = useState<Span>(() => inUse(range, whole));
	const shown = within(window, whole);
	const box = useRef<HTMLDivElement>(null);
	const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);
	const [over, setOver] = useState<Run | null>(null);
	const { data } = useStrip(range, shown);
	const runs = data?.runs ?? [];
	useWheel(
		box,
		(by, at) => setWindow((now) => zoomed(within(now, whole), whole, by, at)),
		(steps) => setWindow((now) => panned(within(now, whole), whole, steps)),
	);

	const placeAt = (clientX: number) => {
		const rect = box.current?.getBoundingClientRect();
		return rect ? Math.min(1, Math.max(0, (clientX - rect.left) / rect.width)) : 0;
	};
	const columns = () => box.current?.clientWidth ?? 800;
	const runAt = (at: number) => {
		const off = (run: Run) => Math.max(run.start - at, at - run.end, 0);
		const hits = runs.filter((run) => off(run) <= 2 / columns()).sort((one, two) => off(one) - off(two));
		return hits.find((run) => run.state !== "cut" && run.state !== "kept") ?? hits[0] ?? null;
	};
	const open = (run: Run, at: number) => {
		if (run.count > 1 || run.state === "cut" || run.state === "kept")
			setWindow(zoomed(shown, whole, "in", at));
		else onNumber(entryText(range, run));
	};
	const step = (by: 1 | -1) => {
		const singles = runs.filter((run) => run.count === 1 && run.state !== "cut" && run.state !== "kept");
		const now = singles.findIndex((run) => entryText(range, run) === chosen);
		const next = singles[now < 0 ? (by > 0 ? 0 : singles.length - 1) : now + by];
		if (next) onNumber(entryText(range, next));
		else setWindow(panned(shown, whole, by));
	};
	const mark = chosenPart(range, shown, chosen);
	const live = drag && { low: Math.min(drag.from, drag.to), high: Math.max(drag.from, drag.to) };
	const selected: [number, number] | undefined = live
		? [live.low, live.high]
		: span
			? [Math.max(0, placeOf(span.low, shown)), Math.min(1, placeOf(span.high + 1n, shown))]
			: undefined;
	const common = commonGroups(range.family, shown);
	return (
		<div className="mb-2">
			{/* biome-ignore lint/a11y/useSemanticElements: a strip that is zoomed by keys has no element of its own */}
			<div
				ref={box}
				role="group"
				aria-label={`${range.range} from ${data?.first ?? range.first} to ${data?.last ?? range.last}`}
				// biome-ignore lint/a11y/noNoninteractiveTabindex: it takes plus, minus and the arrow keys
				tabIndex={0}
				className="relative cursor-crosshair touch-none border border-hair bg-raised"
				onPointerDown={(event) => {
					event.currentTarget.setPointerCapture(event.pointerId);
					setDrag({ from: placeAt(event.clientX), to: placeAt(event.clientX) });
				}}
				onPointerMove={(event) => {
					const at = placeAt(event.clientX);
					if (drag) setDrag({ ...drag, to: at });
					else setOver(runAt(at));
				}}
				onPointerLeave={() => setOver(null)}
				onPointerUp={(event) => {
					const at = placeAt(event.clientX);
					const moved = drag && Math.abs(drag.to - drag.from) * columns() > 4;
					if (drag && moved) onSpan(spanOf(drag.from, drag.to, shown, columns()), runs);
					else {
						const run = runAt(at);
						if (run) open(run, at);
						else onSpan(null, runs);
					}
					setDrag(null);
				}}
				onKeyDown={(event) => {
					const acts: Record<string, () => void> = {
						"+": () => setWindow(zoomed(shown, whole, "in")),
						"=": () => setWindow(zoomed(shown, whole, "in")),
						"-": () => setWindow(zoomed(shown, whole, "out")),
						right: () => (event.shiftKey ? setWindow(panned(shown, whole, 1)) : step(1)),
						left: () => (event.shiftKey ? setWindow(panned(shown, whole, -1)) : step(-1)),
						"0": () => setWindow(inUse(range, whole)),
						escape: () => onSpan(null, runs),
					};
					const act = acts[event.key.replace("Arrow", "").toLowerCase()];
					if (act) {
						event.preventDefault();
						act();
					}
				}}
			>
				<Strip
					className="h-6"
					runs={runs}
					fabric={fabric.name}
					{...(mark ? { chosen: mark } : {})}
					{...(selected ? { span: selected } : {})}
				/>
			</div>
			<Axis range={range} window={shown} common={common} />
			<div className="flex items-center gap-4 text-[11.5px] text-soft">
				<span className="mono truncate">
					{over
						? describe(range, over)
						: common
							? `${stemText(shown, common)} and then`
							: `${data?.first ?? range.first} to ${data?.last ?? range.last}`}
				</span>
				<span className="ml-auto flex gap-3">
					<button
						type="button"
						className="button-plain"
						aria-label="Look closer"
						onClick={() => setWindow(zoomed(shown, whole, "in"))}
					>
						closer
					</button>
					<button
						type="button"
						className="button-plain"
						aria-label="Look from farther"
						disabled={sizeOf(shown) >= sizeOf(whole)}
						onClick={() => setWindow(zoomed(shown, whole, "out"))}
					>
						farther
					</button>
					<button type="button" className="button-plain" onClick={() => setWindow(inUse(range, whole))}>
						what is in use
					</button>
					<button type="button" className="button-plain" onClick={() => setWindow(whole)}>
						all of {range.range}
					</button>
				</span>
			</div>
		</div>
	);
}

function useStrip(range: PoolRange, shown: Span) {
	return useQuery({
		queryKey: ["pools", range.pool, "strip", range.family, String(shown.low), String(shown.high)],
		queryFn: () =>
			got(
				client.GET("/api/v1/pools/{pool}/strip", {
					params: {
						path: { pool: range.pool },
						query: { family: range.family, low: String(shown.low), high: String(shown.high) },
					},
				}),
			),
		placeholderData: (before) => before,
	});
}

/** The wheel zooms where it points, and pans sideways; the page does not scroll with it. */
function useWheel(
	box: React.RefObject<HTMLDivElement | null>,
	onZoom: (by: "in" | "out", at: number) => void,
	onPan: (steps: number) => void,
): void {
	const act = useRef({ onZoom, onPan });
	act.current = { onZoom, onPan };
	useEffect(() => {
		const found = box.current;
		if (!found) return;
		const turn = (event: WheelEvent) => {
			event.preventDefault();
			const rect = found.getBoundingClientRect();
			if (Math.abs(event.deltaX) > Math.abs(event.deltaY)) act.current.onPan(event.deltaX > 0 ? 1 : -1);
			else act.current.onZoom(event.deltaY < 0 ? "in" : "out", (event.clientX - rect.left) / rect.width);
		};
		found.addEventListener("wheel", turn, { passive: false });
		return () => found.removeEventListener("wheel", turn);
	}, [box]);
}

function Axis({ range, window, common }: { range: PoolRange; window: Span; common: number }) {
	return (
		<div aria-hidden="true" className="mono relative h-[15px] overflow-hidden text-[10.5px] text-soft">
			{marksOf(range.family, window, range.family === "number" ? 9 : 8).map((at) => {
				const place = placeOf(at, window);
				if (place > 0.93) return null;
				return (
					<span
						key={String(at)}
						className="absolute top-0 border-l border-hair pl-1"
						style={{ left: `${place * 100}%` }}
					>
						{markText(range.family, at, common)}
					</span>
				);
			})}
		</div>
	);
}

/** The part of a range that has numbers in it, with some air; all of it when none is taken. */
function inUse(range: PoolRange, whole: Span): Span {
	const taken = range.runs.filter((run) => run.state !== "cut" && run.state !== "kept");
	const first = taken[0];
	const last = taken.at(-1);
	if (!first || !last) return whole;
	const low = BigInt(first.low);
	const high = BigInt(last.high);
	const air = (high - low) / 10n + 8n;
	return within({ low: low - air, high: high + air }, whole);
}

/** The text of an entry, as the grid below has it. */
function entryText(range: PoolRange, run: Run): string {
	if (range.family === "number") return run.first;
	const low = BigInt(run.low);
	const size = BigInt(run.high) - low + 1n;
	return size === 1n ? run.first : prefixText(range.family, { low, size });
}

/** Where the chosen number stands on the strip, when it is in view. */
function chosenPart(range: PoolRange, shown: Span, chosen: string | undefined): [number, number] | null {
	const low = chosen === undefined ? null : parseText(range.family, chosen);
	const alike =
		chosen?.includes(":") === (range.family === "v6") && chosen?.includes(".") === (range.family === "v4");
	if (low === null || !alike || low < shown.low || low > shown.high) return null;
	const bits =
		(range.family === "v4" ? 32 : 128) - Number(chosen?.split("/")[1] ?? (range.family === "v4" ? 32 : 128));
	return [placeOf(low, shown), placeOf(low + (range.family === "number" ? 1n : 1n << BigInt(bits)), shown)];
}

function describe(range: PoolRange, run: Run): string {
	const where = run.first === run.last ? run.first : `${run.first} to ${run.last}`;
	if (run.state === "kept") return `${where}: reserved, ${run.fabric}`;
	if (run.state === "cut") return `${where}: pool ${run.fabric}`;
	const many = run.count > 1 ? `, ${number(run.count)} numbers` : "";
	return `${range.family === "number" ? run.first : where}: ${run.state} by ${run.fabric}${many}`;
}
