/** Every pool at a glance: one strip a range, with what this fabric and others took of it. */
import type { Fabric, PoolRange, Run } from "../api/client";
import { number, share } from "../ui/words";

interface Props {
	ranges: PoolRange[];
	fabric: Fabric;
	current: string;
	onOpen: (pool: string) => void;
}

export function PoolStrips({ ranges, fabric, current, onOpen }: Props) {
	const mine = new Set(fabric.numbers.map((use) => use.pool));
	const sorted = [...ranges].sort((one, two) => Number(mine.has(two.pool)) - Number(mine.has(one.pool)));
	return (
		<section aria-label="Pools" className="max-h-[46%] overflow-y-auto pb-3">
			<div className="mb-1.5 flex items-center gap-5 text-[11.5px] text-soft">
				<Key className="bg-walnut">{fabric.name}</Key>
				<Key className="bg-woad">other fabrics</Key>
				<Key className="hatched-solid">resting</Key>
				<Key className="border border-hair">free</Key>
			</div>
			<ul>
				{sorted.map((range, index) => (
					<li key={`${range.pool} ${range.range}`}>
						<button
							type="button"
							aria-pressed={range.pool === current}
							onClick={() => onOpen(range.pool)}
							className={`grid w-full grid-cols-[130px_180px_1fr_225px] min-h-6 items-center gap-3 rounded-[2px] px-2 py-[3px] text-left hover:bg-raised ${range.pool === current ? "bg-chosen" : ""}`}
						>
							<span className={`truncate font-semibold ${range.pool === current ? "text-indigo" : ""}`}>
								{sorted[index - 1]?.pool === range.pool ? "" : range.pool}
							</span>
							<span className="mono truncate">{range.range}</span>
							<Strip runs={range.runs} fabric={fabric.name} />
							<span className="text-right whitespace-nowrap text-soft">
								{range.used_share > 0.85 && <b className="text-madder">runs low, </b>}
								{share(range.used_share)} used, {big(range.free)} free
							</span>
						</button>
					</li>
				))}
			</ul>
		</section>
	);
}

function Key({ className, children }: { className: string; children: React.ReactNode }) {
	return (
		<span className="flex items-center gap-1.5">
			<span className={`h-[9px] w-[9px] ${className}`} />
			{children}
		</span>
	);
}

export function Strip({ runs, fabric, tall = false }: { runs: Run[]; fabric: string; tall?: boolean }) {
	return (
		<span
			aria-hidden="true"
			className={`relative block overflow-hidden border border-hair bg-raised ${tall ? "h-5" : "h-3"}`}
		>
			{runs.map((run) => (
				<span
					key={`${run.low} ${run.state}`}
					className={`absolute inset-y-0 min-w-[2px] ${tone(run, fabric)}`}
					style={{ left: `${run.start * 100}%`, width: `${(run.end - run.start) * 100}%` }}
				/>
			))}
		</span>
	);
}

export function tone(run: Run, fabric: string): string {
	if (run.state === "resting") return "hatched-solid";
	return run.fabric === fabric ? "bg-walnut" : "bg-woad";
}

/** A count that may be far past what a person reads digit by digit. */
export function big(text: string): string {
	const value = BigInt(text);
	if (value < 10_000_000n) return number(value);
	const power = text.length - 1;
	return `${text[0]}.${text[1] ?? 0} × 10${String(power).replace(/\d/g, (digit) => "⁰¹²³⁴⁵⁶⁷⁸⁹"[Number(digit)] ?? "")}`;
}
