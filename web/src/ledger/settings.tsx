/** The margin for a pool: how it hands out numbers, to whom, what it holds and keeps, and what a renumbering would do. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, type GrowthRow, got, type Pool, type PoolRange } from "../api/client";
import { useChange } from "../api/edits";
import { useEntries, useGrowth, useReservations } from "../api/queries";
import { MayOnly, Settled, WhoMay } from "../app/only";
import { useOpenFabric } from "../app/open";
import { Facts, MarginHead } from "../ui/margin";
import { counted, day, share } from "../ui/words";
import { usePoolAct } from "./act";
import { EndRest } from "./rest";
import { sizeText } from "./span";

const PLANS: Record<string, [string, string]> = {
	lowest: ["lowest free", "A new key takes the lowest number that is free."],
	position: [
		"by position",
		"Rack, leaf and spine say the number: rack 7, leaf b always has the same, with room for the growth declared.",
	],
	"best-fit": [
		"best fit",
		"A prefix takes the smallest hole that it fits in, so that large holes stay whole.",
	],
};
const KINDS: Record<string, string> = {
	"": "nothing yet",
	addresses: "addresses",
	asn: "ASNs",
	vlan: "VLANs",
	vni: "VNIs",
	pair: "pair domains",
};

export function PoolSettings({ pool, ranges }: { pool: Pool; ranges: PoolRange[] }) {
	const fabric = useOpenFabric();
	const params = { path: { pool: pool.name } };
	const change = usePoolAct(
		(body: { plan?: Pool["plan"]; rest?: number; warn?: number; private_to?: string }) =>
			got(client.PATCH("/api/v1/pools/{pool}", { params, body })),
	);
	const uses = fabric.numbers.filter((use) => use.pool === pool.name).map((use) => use.use);
	return (
		<>
			<MarginHead kind={`Pool of ${KINDS[pool.kind]}`} title={pool.name} />
			<WhoMay right="pools" />
			<Settled right="pools">
				<div className="mb-3 space-y-2">
					<label className="flex items-baseline justify-between gap-2">
						<span className="text-soft">New numbers</span>
						<select
							className="field py-0.5"
							value={pool.plan}
							onChange={(event) => change.mutate({ plan: event.target.value as Pool["plan"] })}
						>
							{Object.entries(PLANS).map(([plan, [word]]) => (
								<option key={plan} value={plan}>
									{word}
								</option>
							))}
						</select>
					</label>
					<p className="text-[11.8px] text-soft">{PLANS[pool.plan]?.[1]} What is held stays where it is.</p>
					<Amount
						label="Given back, it rests for"
						unit="days"
						value={pool.rest / 24}
						onSave={(days) => change.mutate({ rest: days * 24 })}
					/>
					<Amount
						label="Say that it runs low from"
						unit="%"
						value={Math.round(pool.warn * 100)}
						onSave={(percent) => change.mutate({ warn: percent / 100 })}
					/>
					<label className="flex items-center justify-between gap-2">
						<span className="text-soft">Only {pool.private_to ?? fabric.name} draws from it</span>
						<input
							type="checkbox"
							checked={pool.private_to !== null}
							onChange={(event) => change.mutate({ private_to: event.target.checked ? fabric.name : "" })}
						/>
					</label>
				</div>
				<Facts
					rows={[
						["Scope", pool.scope],
						...(pool.parent ? [["Cut from", pool.parent] as [string, string]] : []),
						...(pool.cut.length ? [["Cut from it", pool.cut.join(", ")] as [string, string]] : []),
					]}
				/>
				<GrowthFacts pool={pool.name} />
				<Ranges pool={pool.name} ranges={ranges} />
				<Reservations pool={pool.name} />
				<EndRests pool={pool.name} />
				{uses.length === 0 && <DeletePool pool={pool.name} />}
			</Settled>
			{uses.length > 0 && (
				<MayOnly right="number">
					<Renumber uses={uses} plan={PLANS[pool.plan]?.[0] ?? ""} />
				</MayOnly>
			)}
		</>
	);
}

function Amount({
	label,
	unit,
	value,
	onSave,
}: {
	label: string;
	unit: string;
	value: number;
	onSave: (value: number) => void;
}) {
	const [text, setText] = useState<string | null>(null);
	const save = () => {
		const said = Number(text);
		if (text !== null && Number.isFinite(said) && said >= 0 && said !== value) onSave(said);
		setText(null);
	};
	return (
		<label className="flex items-baseline justify-between gap-2">
			<span className="text-soft">{label}</span>
			<span className="whitespace-nowrap">
				<input
					className="field w-14 py-0.5 text-right"
					inputMode="decimal"
					value={text ?? String(Math.round(value * 100) / 100)}
					onChange={(event) => setText(event.target.value)}
					onBlur={save}
					onKeyDown={(event) => event.key === "Enter" && save()}
				/>{" "}
				{unit}
			</span>
		</label>
	);
}

function GrowthFacts({ pool }: { pool: string }) {
	const fabric = useOpenFabric();
	const rows = (useGrowth(fabric.name, fabric.version).data?.rows ?? []).filter((row) => row.pool === pool);
	if (rows.length === 0) return <p className="mb-3 text-soft">{fabric.name} draws nothing from it.</p>;
	const word: Record<string, string> = { v4: "IPv4", v6: "IPv6", number: "numbers" };
	const grown = (row: GrowthRow) =>
		row.grown === row.now ? "" : `, ${sizeText(BigInt(row.grown))} when grown`;
	return (
		<Facts
			rows={rows.map((row) => [
				`${fabric.name}, ${word[row.family]}`,
				<span key={row.family}>
					{sizeText(BigInt(row.now))} now{grown(row)}; {share(row.share_grown)} of the pool then
					{row.leaves !== null &&
						row.leaves < 1_000_000 &&
						`; lasts ${sizeText(BigInt(row.leaves))} more leaves`}
					{row.short && <b className="text-madder">; too small for the growth declared</b>}
				</span>,
			])}
		/>
	);
}

function Ranges({ pool, ranges }: { pool: string; ranges: PoolRange[] }) {
	const [text, setText] = useState("");
	const params = { path: { pool } };
	const add = usePoolAct(
		(range: string) => got(client.POST("/api/v1/pools/{pool}/ranges", { params, body: { range } })),
		(_, range) => `${range} is in ${pool}.`,
	);
	const drop = usePoolAct(
		(range: string) =>
			got(client.DELETE("/api/v1/pools/{pool}/ranges", { params: { ...params, query: { range } } })),
		(_, range) => `${range} is no longer in ${pool}.`,
	);
	return (
		<section className="mb-3">
			<div className="label-small mb-1">Ranges</div>
			{ranges.map((range) => (
				<div key={range.range} className="border-b border-hair/60 py-[3px]">
					<div className="flex items-baseline">
						<span className="mono break-all">{range.range}</span>
						<button
							type="button"
							className="button-plain ml-auto pl-2 text-[11.8px]"
							aria-label={`take out ${range.range}`}
							onClick={() => drop.mutate(range.range)}
						>
							take out
						</button>
					</div>
					{range.findings.map((found) => (
						<p key={found.code} className="text-[11.8px] text-weld-ink">
							{found.message}
						</p>
					))}
				</div>
			))}
			<form
				className="mt-1.5 flex gap-2"
				onSubmit={(event) => {
					event.preventDefault();
					add.mutate(text, { onSuccess: () => setText("") });
				}}
			>
				<input
					className="field mono min-w-0 flex-1 py-0.5"
					aria-label={`A range for ${pool}`}
					placeholder="10.62.0.0/20, 30000..30999"
					value={text}
					onChange={(event) => setText(event.target.value)}
				/>
				<button type="submit" className="button-plain" disabled={!text.trim() || add.isPending}>
					Add
				</button>
			</form>
		</section>
	);
}

function Reservations({ pool }: { pool: string }) {
	const kept = useReservations(pool).data ?? [];
	const end = usePoolAct((reservation: number) =>
		got(client.DELETE("/api/v1/reservations/{reservation}", { params: { path: { reservation } } })),
	);
	return (
		<section className="mb-3">
			<div className="label-small mb-1">Reserved</div>
			{kept.length === 0 && (
				<p className="text-[11.8px] text-soft">
					Nothing. Drag over the strip to select a span and reserve it.
				</p>
			)}
			{kept.map((one) => (
				<div key={one.id} className="flex items-baseline border-b border-hair/60 py-[3px]">
					<div className="min-w-0">
						<div className="mono break-all">{one.range}</div>
						<div className="text-[11.8px] text-soft">
							{one.note}
							{one.author && `; ${one.author}`}, {day(one.at)}
						</div>
					</div>
					<button
						type="button"
						className="button-plain ml-auto pl-2 text-[11.8px]"
						aria-label={`End the reservation of ${one.range}`}
						onClick={() => end.mutate(one.id)}
					>
						end
					</button>
				</div>
			))}
		</section>
	);
}

function EndRests({ pool }: { pool: string }) {
	const resting = useEntries(pool, "", "resting").data?.total ?? 0;
	if (resting === 0) return null;
	return (
		<div className="mb-3">
			<EndRest pool={pool}>End the rest of {counted(resting, "number")}</EndRest>
		</div>
	);
}

/** What drawing the numbers of this pool anew would move, and the button that does it. */
function Renumber({ uses, plan }: { uses: string[]; plan: string }) {
	const fabric = useOpenFabric();
	const [asked, setAsked] = useState(false);
	const change = useChange(fabric.name);
	const found = useQuery({
		queryKey: ["pools", "renumbering", fabric.name, fabric.version, uses, plan],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/renumbering", {
					params: { path: { name: fabric.name }, query: { uses } },
				}),
			),
		enabled: asked,
		retry: false,
	});
	if (!asked)
		return (
			<button type="button" className="button-plain" onClick={() => setAsked(true)}>
				What would a renumbering move?
			</button>
		);
	const moves = found.data?.moves ?? [];
	return (
		<section aria-label="Renumbering">
			<div className="label-small mb-1">Drawn anew, {plan}</div>
			{found.error && <p className="border-l-4 border-madder pl-2.5 text-madder">{found.error.message}</p>}
			{found.data && moves.length === 0 && <p className="text-soft">Nothing would move.</p>}
			<ol className="mono max-h-48 overflow-y-auto text-[11.5px]">
				{moves.slice(0, 200).map((move) => (
					<li key={`${move.use} ${move.key}`} className="border-b border-hair/60 py-0.5">
						<span className="text-soft">{move.key}</span>
						<br />
						{move.now} → <b>{move.then}</b>
					</li>
				))}
			</ol>
			{moves.length > 0 && (
				<button
					type="button"
					className="button-main mt-2"
					disabled={change.isPending}
					onClick={() => change.mutate({ kind: "renumber", uses }, { onSuccess: () => setAsked(false) })}
				>
					Move {counted(moves.length, "number")}
				</button>
			)}
			<button type="button" className="button-plain mt-2 block" onClick={() => setAsked(false)}>
				Leave them where they are
			</button>
		</section>
	);
}

function DeletePool({ pool }: { pool: string }) {
	const gone = usePoolAct(
		() => got(client.DELETE("/api/v1/pools/{pool}", { params: { path: { pool } } })),
		() => `Pool ${pool} is gone.`,
	);
	return (
		<button type="button" className="button-plain" onClick={() => gone.mutate(undefined)}>
			Delete this pool
		</button>
	);
}
