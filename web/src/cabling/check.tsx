/** What the switches hear of each other against the plan: what is wrong, and the moves that put it right, a plug at a time. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Fabric, type Failure, got } from "../api/client";
import { MayOnly } from "../app/only";
import { useOpenFabric } from "../app/open";
import { counted, day } from "../ui/words";
import { type Checked, useNeighbours } from "./queries";

type Port = Checked["mends"][number]["moves"][number]["out"];

export function CheckView({ onCable }: { onCable: (label: string) => void }) {
	const { data, isPending } = useNeighbours();
	return (
		<section aria-label="Neighbours" className="flex min-h-0 gap-8 overflow-auto pb-3">
			<div className="w-[300px] flex-none">
				{data && (
					<>
						<p className="mb-1">
							Heard {day(data.taken_at)} by {data.author}:
						</p>
						<ul className="mb-3">
							{Object.entries(data.counts).map(([state, count]) => (
								<li
									key={state}
									className={state === "right" || state === "not heard of" ? "" : "text-madder"}
								>
									<b className="inline-block w-10 text-right tabular-nums">{count}</b> {state}
								</li>
							))}
						</ul>
					</>
				)}
				{!data && !isPending && (
					<p className="mb-3">Nobody has said yet what the switches hear of each other.</p>
				)}
				<MayOnly right="cable">
					<Bring />
				</MayOnly>
			</div>
			{data && <Todo found={data} onCable={onCable} />}
		</section>
	);
}

/** Tables as text: pasted, or files of several switches at once. */
function Bring() {
	const fabric = useOpenFabric();
	const queries = useQueryClient();
	const [text, setText] = useState("");
	const take = useMutation<Checked, Failure, string>({
		mutationFn: (body) =>
			got(
				client.POST("/api/v1/fabrics/{name}/neighbours", {
					params: { path: { name: fabric.name }, query: {} },
					body: body as never,
					bodySerializer: (said: unknown) => said as string,
					headers: { "Content-Type": "text/plain" },
				}),
			),
		onSuccess: (found) => {
			queries.setQueryData(["fabric", fabric.name, "neighbours", fabric.version], found);
			setText("");
		},
	});
	const [unread, setUnread] = useState("");
	const read = async (files: FileList) => {
		setUnread("");
		const tables: Record<string, unknown> = {};
		for (const file of files) {
			const content = await file.text();
			if (!content.trimStart().startsWith("{")) return take.mutate(content);
			try {
				const table = JSON.parse(content) as Record<string, unknown>;
				if ("lldp" in table) tables[file.name.replace(/\.json$/, "")] = table;
				else Object.assign(tables, table);
			} catch {
				return setUnread(
					`${file.name} is not JSON through and through; take it from the switch again. Nothing was taken.`,
				);
			}
		}
		take.mutate(JSON.stringify(tables));
	};
	return (
		<form
			onSubmit={(event) => {
				event.preventDefault();
				take.mutate(text);
			}}
		>
			<label className="label-small block" htmlFor="neighbours">
				What the switches hear: lldpd’s JSON, CSV, or lines of switch, port, neighbour, port
			</label>
			<textarea
				id="neighbours"
				className="field mono mt-1 h-20 w-full"
				placeholder={"leaf-r01a u1 spine-1 p1\nleaf-r01a u2 spine-1 p2"}
				value={text}
				onChange={(event) => setText(event.target.value)}
			/>
			<div className="mt-1 flex items-baseline gap-4">
				<button type="submit" className="button-main" disabled={!text.trim() || take.isPending}>
					Hold against the plan
				</button>
				<label className="button-plain cursor-pointer">
					Files, named after switches
					<input
						type="file"
						multiple
						className="sr-only"
						onChange={(event) => event.target.files?.length && void read(event.target.files)}
					/>
				</label>
			</div>
			{(unread || take.error) && (
				<p role="alert" className="mt-2 border-madder border-l-4 pl-2 text-madder">
					{unread || take.error?.message}
				</p>
			)}
		</form>
	);
}

const port = (one: Port) => `${one.switch} ${one.port}`;

function Todo({ found, onCable }: { found: Checked; onCable: (label: string) => void }) {
	if (!found.mends.length && !found.unknown.length)
		return <p className="text-moss">All that was heard lies as planned.</p>;
	return (
		<div className="min-w-0 flex-1">
			<h2 className="mb-1 font-semibold">
				{found.moves ? `Put right by moving ${counted(found.moves, "plug")}` : "To do"}
			</h2>
			<ol className="list-decimal pl-5">
				{found.mends
					.flatMap((mend) => steps(mend, onCable))
					.map((step, at) => (
						// biome-ignore lint/suspicious/noArrayIndexKey: a list of work is done in its order
						<li key={at} className="border-b border-hair/60 py-0.5">
							{step}
						</li>
					))}
			</ol>
			{found.unknown.map((pair) => (
				<p key={port(pair.one)} className="mt-1 text-madder">
					<span className="mono">{port(pair.one)}</span> hears{" "}
					<span className="mono">{port(pair.other)}</span>, and no cable is planned there.
				</p>
			))}
			{found.findings.map((one) => (
				<p key={one.message} className="mt-1 border-weld border-l-4 pl-2">
					{one.message}
				</p>
			))}
			{found.instead && <Instead instead={found.instead} />}
		</div>
	);
}

function steps(mend: Checked["mends"][number], onCable: (label: string) => void): React.ReactNode[] {
	const cable = (label: string) => (
		<button type="button" className="button-plain mono min-h-0" onClick={() => onCable(label)}>
			{label || "the cable"}
		</button>
	);
	const at = (one: Port) => <b className="mono font-semibold">{port(one)}</b>;
	return [
		...mend.pull.map((pair) => (
			<>
				Pull the cable from {at(pair.one)} to {at(pair.other)}
			</>
		)),
		...mend.moves.map((move) =>
			move.loose ? (
				<>
					Take {cable(move.label)} out of {at(move.out)} and let it hang
				</>
			) : (
				<>
					Move {cable(move.label)} from {at(move.out)} to {at(move.into)}
				</>
			),
		),
		...mend.moves
			.filter((move) => move.loose)
			.map((move) => (
				<>
					Put {cable(move.label)}, which hangs, into {at(move.into)}
				</>
			)),
		...mend.lay.map((pair) => (
			<>
				Lay a cable from {at(pair.one)} to {at(pair.other)}
			</>
		)),
	];
}

/** The other way round: the plan follows the cables. */
function Instead({ instead }: { instead: NonNullable<Checked["instead"]> }) {
	const fabric = useOpenFabric();
	const queries = useQueryClient();
	const follow = useMutation<Fabric, Failure>({
		mutationFn: () =>
			got(
				client.POST("/api/v1/fabrics/{name}/neighbours/follow", {
					params: { path: { name: fabric.name }, query: { version: fabric.version } },
				}),
			),
		onSuccess: (after) => {
			queries.setQueryData(["fabric", fabric.name], after);
			queries.setQueryData(["version", fabric.name], { version: after.version });
		},
	});
	return (
		<div className="mt-3 border-weld border-l-4 pl-3">
			<p>
				Or leave the cables where they are and change the plan: {counted(instead.pins.length, "position")} in
				the Ledger, and {instead.left ? `${counted(instead.left, "plug")} still to move` : "no plug to move"},
				against {counted(instead.moves, "plug")}.
			</p>
			<MayOnly right="number">
				<button
					type="button"
					className="button-plain"
					disabled={follow.isPending}
					onClick={() => follow.mutate()}
				>
					Let the plan follow the cables
				</button>
			</MayOnly>
			{follow.error && (
				<p role="alert" className="mt-1 text-madder">
					{follow.error.message}
				</p>
			)}
		</div>
	);
}
