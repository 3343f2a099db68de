/** What a switch holds beside its files: its tables as they are, and as they were after each change. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { client, type Fabric, got } from "../api/client";
import type { components } from "../api/schema";
import { clock, counted, day, number } from "../ui/words";
import { Found } from "./found";

type Table = components["schemas"]["TableView"];
type Change = components["schemas"]["TableChange"];

interface Props {
	fabric: Fabric;
	names: readonly string[];
	chosen: string | undefined;
	kind: string | undefined;
	onChoose: (name: string | undefined, kind?: string) => void;
}

/** Rows that are on screen at once; who looks for one among more says words of it. */
const MOST = 400;

export function Held({ fabric, names, chosen, kind, onChoose }: Props) {
	const [words, setWords] = useState("");
	const looked = useDeferredValue(words.trim());
	const { data: tables } = useQuery({
		queryKey: ["fabric", fabric.name, "staging", "tables", chosen],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/tables/{switch}", {
					params: { path: { name: fabric.name, switch: chosen ?? "" } },
				}),
			),
		enabled: chosen !== undefined,
	});
	const table = tables?.find((one) => one.kind === kind) ?? tables?.[0];
	return (
		<section aria-label="What switches hold" className="mt-4">
			<div className="flex flex-wrap items-end gap-x-5 gap-y-2">
				<label className="flex flex-col gap-1">
					Where is
					<input
						type="search"
						className="field mono w-72 max-w-full"
						value={words}
						placeholder="a MAC, an address, a serial number"
						onChange={(event) => setWords(event.target.value)}
					/>
				</label>
				<label className="flex flex-col gap-1">
					or what is on
					<input
						className="field mono w-44"
						list="held-switches"
						key={chosen}
						defaultValue={chosen}
						placeholder="a switch"
						onChange={(event) => names.includes(event.target.value) && onChoose(event.target.value)}
					/>
				</label>
				<datalist id="held-switches">
					{names.map((name) => (
						<option key={name} value={name} />
					))}
				</datalist>
			</div>
			{looked.length === 1 ? (
				<p className="mt-3 text-soft">Two characters at least.</p>
			) : looked ? (
				<Found
					fabric={fabric}
					words={looked}
					onShow={(name, of) => {
						setWords("");
						onChoose(name, of);
					}}
				/>
			) : chosen && tables ? (
				<>
					<Kinds every={tables} shown={table?.kind} onShow={(one) => onChoose(chosen, one)} />
					{table ? (
						<Rows key={`${chosen} ${table.kind}`} fabric={fabric} name={chosen} table={table} />
					) : (
						<p className="mt-3 text-soft">
							{chosen} has told nothing of itself yet. Its agent does at its next look, or saved outputs of it
							are held against its edition.
						</p>
					)}
				</>
			) : (
				<p className="mt-3 max-w-[64ch] text-soft">
					At each look a switch tells its devices, VLANs, neighbours, sessions, routes, VNIs and MACs, its
					hardware and its software. What changed of them is kept, so that one sees where something was last
					night.
				</p>
			)}
		</section>
	);
}

interface KindsProps {
	every: readonly Table[];
	shown: string | undefined;
	onShow: (kind: string) => void;
}

function Kinds({ every, shown, onShow }: KindsProps) {
	return (
		<p className="mt-4 flex flex-wrap items-baseline gap-x-5 gap-y-1">
			{every.map((one) => (
				<button
					key={one.kind}
					type="button"
					aria-pressed={one.kind === shown}
					className={one.kind === shown ? "font-bold" : "text-soft hover:text-indigo"}
					onClick={() => onShow(one.kind)}
				>
					{one.words} <span className="text-[12px] font-normal text-soft">{number(one.count)}</span>
				</button>
			))}
		</p>
	);
}

interface RowsProps {
	fabric: Fabric;
	name: string;
	table: Table;
}

function Rows({ fabric, name, table }: RowsProps) {
	const path = { name: fabric.name, switch: name, kind: table.kind };
	const [back, setBack] = useState(0);
	const [words, setWords] = useState("");
	const looked = useDeferredValue(words.trim());
	const key = ["fabric", fabric.name, "staging", "table", name, table.kind];
	const { data: changes } = useQuery({
		queryKey: [...key, "changes", table.times],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/tables/{switch}/{kind}/changes", {
					params: { path, query: { limit: 500 } },
				}),
			),
		placeholderData: keepPreviousData,
	});
	const steps = changes?.length ?? 0;
	const moment = back === 0 ? undefined : (changes?.[back]?.at ?? table.since);
	const { data: held } = useQuery({
		queryKey: [...key, moment, looked, table.times],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/tables/{switch}/{kind}", {
					params: { path, query: { words: looked, moment } },
				}),
			),
		placeholderData: keepPreviousData,
	});
	const moved = new Map(changes?.[back]?.rows.map((one) => [one.key, one]));
	const gone = changes?.[back]?.rows.filter((one) => !one.now) ?? [];
	return (
		<>
			<div className="mt-3 flex flex-wrap items-center gap-x-5 gap-y-2 text-soft">
				<input
					type="search"
					aria-label="Only rows with"
					placeholder="only rows with"
					className="field mono w-52"
					value={words}
					onChange={(event) => setWords(event.target.value)}
				/>
				{steps > 0 && (
					<label className="flex min-w-0 flex-1 items-center gap-3">
						<span className="whitespace-nowrap" aria-live="polite">
							{told(back, changes, table)}
						</span>
						<input
							type="range"
							className="min-w-24 max-w-80 flex-1 accent-indigo"
							aria-label="As it was"
							aria-valuetext={told(back, changes, table)}
							min={0}
							max={steps}
							value={steps - back}
							onChange={(event) => setBack(steps - Number(event.target.value))}
						/>
					</label>
				)}
				{steps === 0 && <span>as it is since {when(table.since)}, when it was told first</span>}
			</div>
			<table className="mt-3 w-full text-[12.5px]">
				<tbody className="mono">
					{gone.map((one) => (
						<tr key={`gone ${one.key}`} className="border-b border-hair/60">
							<td className="w-[38%] border-madder border-l-[3px] py-1 pr-3 pl-2 align-top">
								<s className="text-soft">{one.key}</s>
							</td>
							<td className="py-1 text-soft">
								<s>{one.was}</s>
							</td>
						</tr>
					))}
					{held?.rows.slice(0, MOST).map((one) => (
						<tr key={one.key} className="border-b border-hair/60">
							<td
								className={`w-[38%] border-l-[3px] py-1 pr-3 pl-2 align-top break-words ${moved.has(one.key) ? "border-indigo" : "border-transparent"}`}
							>
								{one.key}
							</td>
							<td className="min-w-0 py-1 break-words">
								{moved.get(one.key)?.was && <s className="mr-2 text-soft">{moved.get(one.key)?.was}</s>}
								{one.words}
							</td>
						</tr>
					))}
				</tbody>
			</table>
			{held && held.count === 0 && gone.length === 0 && (
				<p className="mt-2 text-soft">{looked ? "No row has these words." : "It was empty."}</p>
			)}
			{held && held.count > MOST && (
				<p className="mt-2 text-soft">
					The first {MOST} of {counted(held.count, "row")}; say words of those you look for.
				</p>
			)}
		</>
	);
}

const when = (moment: string) => `${day(moment)}, ${clock(moment)}`;

/** At which moment one looks: now, after a change, or when it was told first. */
function told(back: number, changes: readonly Change[] | undefined, table: Table): string {
	const at = changes?.[back]?.at;
	if (back === 0) return `now; changed ${at ? when(at) : ""}`;
	return at ? `as changed ${when(at)}` : `as first told ${when(table.since)}`;
}
