/** The way of a flow from host to host, switch by switch, as the switches' own tables have it. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Fabric, type Failure, got } from "../api/client";
import { Refusal } from "../app/refusal";
import { clock, counted } from "../ui/words";
import { Earlier } from "./earlier";
import type { Flow, FlowStep } from "./queries";
import { FlowThreads } from "./threads";

interface Props {
	fabric: Fabric;
	may: boolean;
}

const of = (fabric: Fabric) => ({ params: { path: { name: fabric.name } } });

export function Following({ fabric, may }: Props) {
	const queries = useQueryClient();
	const [ends, setEnds] = useState({ source: "", target: "" });
	const [number, setNumber] = useState<number>();
	const [chosen, setChosen] = useState<string>();
	const { data: before } = useQuery({
		queryKey: ["fabric", fabric.name, "flows"],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/flows", of(fabric))),
	});
	const shown = number ?? before?.[0]?.number;
	const { data: flow } = useQuery({
		queryKey: ["fabric", fabric.name, "flow", shown],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/flows/{number}", {
					params: { path: { name: fabric.name, number: shown ?? 0 } },
				}),
			),
		enabled: shown !== undefined,
		refetchInterval: (query) => (query.state.data?.waits ? 1500 : false),
	});
	const follow = useMutation<{ number: number }, Failure, { source: string; target: string }>({
		mutationFn: (body) => got(client.POST("/api/v1/fabrics/{name}/flows", { ...of(fabric), body })),
		onSuccess: (begun) => {
			setNumber(begun.number);
			void queries.invalidateQueries({ queryKey: ["fabric", fabric.name, "flows"] });
		},
	});
	const end = (name: "source" | "target", label: string) => (
		<label className="flex items-baseline gap-2">
			{label}
			<input
				className="field mono w-44 max-w-full"
				value={ends[name]}
				required
				maxLength={100}
				placeholder="a host or an address"
				onChange={(event) => setEnds({ ...ends, [name]: event.target.value })}
			/>
		</label>
	);
	const back = () => {
		if (!flow) return;
		const turned = { source: flow.target, target: flow.source };
		setEnds(turned);
		follow.mutate(turned);
	};
	return (
		<section aria-label="The way of a flow" className="mt-4">
			{may && (
				<form
					className="flex flex-wrap items-baseline gap-x-3 gap-y-2"
					onSubmit={(event) => {
						event.preventDefault();
						follow.mutate(ends);
					}}
				>
					{end("source", "What goes from")}
					{end("target", "to")}
					<button type="submit" className="button-main" disabled={follow.isPending}>
						Follow it
					</button>
				</form>
			)}
			{before?.length === 0 && (
				<p className="mt-3 max-w-[64ch] text-soft">
					{may
						? "A flow is followed through what each switch on its way says of its own tables: every next hop, its share, and where it ends."
						: "No flow was followed yet. Whoever stages can have one followed."}
				</p>
			)}
			{follow.error && (
				<div className="mt-2">
					<Refusal failure={follow.error} />
				</div>
			)}
			{flow && (
				<>
					<p className="mt-5" aria-live="polite">
						<b className={flow.refused || (!flow.waits && flow.arrives < 1) ? "text-madder" : ""}>
							{flow.words}
						</b>{" "}
						<span className="text-soft">
							{flow.arrives > 0 &&
								flow.narrowest > 0 &&
								`Packets of up to ${flow.narrowest.toLocaleString("en")} bytes go through. `}
							{flow.waits_for.length > 0 &&
								`Waits for ${counted(flow.waits_for.length, "switch", "switches")}; idle ones answer within a minute. `}
							{flow.author || "Somebody"} asked at {clock(flow.at)}, by edition {flow.edition}.
						</span>{" "}
						{may && !flow.waits && (
							<button type="button" className="button-plain" disabled={follow.isPending} onClick={back}>
								And the way back
							</button>
						)}
					</p>
					{flow.steps.length > 0 && <FlowThreads flow={flow} chosen={chosen} onChoose={setChosen} />}
					<ol aria-label="Step by step" className="mt-2">
						{folded(flow)
							.filter((group) => !chosen || group.some((one) => one.switch === chosen))
							.map((group) => (
								<Stop key={`${group[0]?.depth} ${group[0]?.switch}`} group={group} flow={flow} />
							))}
					</ol>
				</>
			)}
			<Earlier
				label="Followed before"
				every={before}
				shown={shown}
				words={({ source, target }) => `${source} → ${target}`}
				onShow={setNumber}
			/>
		</section>
	);
}

/** Steps that do the same at the same distance, together. */
export function folded(flow: Flow): FlowStep[][] {
	const groups = new Map<string, FlowStep[]>();
	for (const step of flow.steps) {
		const ways = step.ways.map((way) => flow.steps[way.step]?.switch);
		const key = JSON.stringify([step.depth, step.words, step.ends, step.waits, ways]);
		groups.set(key, [...(groups.get(key) ?? []), step]);
	}
	return [...groups.values()];
}

function Stop({ group, flow }: { group: FlowStep[]; flow: Flow }) {
	const [first] = group;
	if (!first) return null;
	const names = group.map((one) => one.switch);
	const to = [...new Set(first.ways.map((way) => flow.steps[way.step]?.switch))];
	const short = first.ways.length > 0 && first.ways.length < first.planned;
	return (
		<li className="grid grid-cols-[180px_1fr] gap-x-4 border-t border-hair py-2 max-sm:grid-cols-1">
			<p>
				<span className="mono" title={names.join(", ")}>
					{names.slice(0, 3).join(", ")}
					{names.length > 3 && ` and ${names.length - 3} more`}
				</span>{" "}
				<span className="text-soft">{share(first.share)}</span>
			</p>
			<div className="min-w-0">
				{first.words.map((words) => (
					<p key={words}>{words}</p>
				))}
				{group.length === 1 &&
					first.ways.map((way) => (
						<p key={way.port} className="text-soft">
							<span className="mono">{way.port}</span>, cable <span className="mono">{way.cable}</span>, to{" "}
							<span className="mono">{flow.steps[way.step]?.switch}</span>
							{first.ways.length > 1 && `: ${share(way.share)} of it`}
						</p>
					))}
				{group.length > 1 && to.length > 0 && (
					<p className="text-soft">
						each to <span className="mono">{to.join(", ")}</span>
					</p>
				)}
				{short && (
					<p className="text-madder">
						by {first.ways.length} of {counted(first.planned, "planned way", "planned ways")}
					</p>
				)}
				{first.ends.map((one) => (
					<p key={one.words} className={one.arrives ? "font-bold" : "text-madder"}>
						{one.words}
					</p>
				))}
				{first.waits && <p className="text-soft">{flow.waits ? "has not answered yet" : "did not answer"}</p>}
			</div>
		</li>
	);
}

const share = (part: number) => (part > 0 ? `${Math.round(part * 1000) / 10} %` : "");
