/** The page of one number: what it is now, and all that it ever was. */
import { Link, Navigate } from "react-router";
import type { PastState } from "../api/client";
import { useNumberHistory } from "../api/queries";
import { useOpenFabric } from "../app/open";
import { usePlace } from "../ui/place";
import { clock, day } from "../ui/words";

export function PastScreen() {
	const fabric = useOpenFabric();
	const [place] = usePlace("space", "number");
	const number = place.number ?? "";
	const { data, error } = useNumberHistory(place.space ?? "", number);
	const now = data?.filter((state) => state.until === null) ?? [];
	if (!number) return <Navigate to={`/f/${fabric.name}/ledger`} replace />;
	return (
		<main className="min-w-0 flex-1 overflow-y-auto px-10 pt-6 pb-10">
			<Link
				className="button-plain"
				to={`/f/${fabric.name}/ledger?pool=${data?.[0]?.pool ?? ""}&number=${encodeURIComponent(number)}`}
			>
				‹ the ledger
			</Link>
			<h1 className="mt-1 font-mono text-[19px] font-bold">{number}</h1>
			<p className="mb-5 text-soft">
				{error?.message ??
					(data === undefined
						? "Looking…"
						: data.length === 0
							? "Nobody ever had it."
							: now.length === 0
								? "It is free now."
								: `It is ${saying(now[0] as PastState)}.`)}
			</p>
			<ol className="chain max-w-[760px]">
				{data?.map((state) => (
					<li key={`${state.since} ${state.state} ${state.key} ${state.until}`}>
						<div className="flex items-baseline gap-3">
							<b className="font-semibold">{saying(state)}</b>
							<span className="mono text-soft">{state.number}</span>
						</div>
						<div>
							from {when(state.since)} {state.until ? `to ${when(state.until)}` : "until now"}
						</div>
						<div className="text-[11.8px] text-soft">
							{by(state.act, state.author, state.version, state.why)}
							{state.until && `; ended: ${by(state.ended_act, state.ended_by, state.ended_version, "")}`}
							{state.note && `; note: ${state.note}`}
						</div>
					</li>
				))}
			</ol>
		</main>
	);
}

const when = (at: string) => `${day(at)}, ${clock(at)}`;

function saying(state: PastState): string {
	const of = `${state.use} of ${state.key} in ${state.fabric}`;
	if (state.leaving) return `live as ${of}, leaving with the next edition`;
	if (state.state === "resting") return `resting, given back by ${state.key} of ${state.fabric}`;
	if (state.state === "reserved") return `pinned for ${state.key} of ${state.fabric}, which is not there yet`;
	return `${state.state} as ${of}${state.pinned ? ", pinned" : ""}`;
}

function by(act: string, author: string, version: number | null, why: string): string {
	const parts = [act, author && `by ${author}`, version !== null && `version ${version}`, why && `“${why}”`];
	return parts.filter(Boolean).join(", ");
}
