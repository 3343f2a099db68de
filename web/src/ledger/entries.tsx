/** The numbers of a pool as a sheet: find, sort, copy, and paste numbers or notes to pin them. */
import { useEffect, useState } from "react";
import type { Entry } from "../api/client";
import { useChange } from "../api/edits";
import { type EntryState, useEntries } from "../api/queries";
import { useOpenFabric } from "../app/open";
import { useRows } from "../app/present";
import { type Column, Grid } from "../ui/grid";
import { useNotices } from "../ui/notices";
import { counted, day, number } from "../ui/words";

const COLUMNS: Column<Entry>[] = [
	{
		id: "number",
		title: "number",
		width: 150,
		value: (row) => row.number,
		mono: true,
		show: (row) => <b className="font-semibold">{row.number}</b>,
	},
	{ id: "state", title: "state", width: 92, value: stateOf, show: (row) => <State entry={row} /> },
	{ id: "use", title: "use", width: 100, value: (row) => row.use, mono: true },
	{ id: "key", title: "belongs to", width: 180, value: (row) => row.key, mono: true },
	{ id: "fabric", title: "fabric", width: 66, value: (row) => row.fabric },
	{ id: "note", title: "pinned", width: 90, value: (row) => (row.pinned ? row.note || "pinned" : "") },
	{ id: "since", title: "since", width: 60, value: (row) => row.since, show: (row) => day(row.since) },
];

function stateOf(entry: Entry): string {
	if (entry.leaving) return "leaving";
	return entry.state === "reserved" ? "waiting" : entry.state;
}

function State({ entry }: { entry: Entry }) {
	const state = entry.leaving ? "leaving" : entry.state;
	return (
		<span className="flex items-center gap-1.5">
			<span className={`h-[10px] w-[14px] flex-none ${PATTERN[state]} [--thread:var(--walnut)]`} />
			{stateOf(entry)}
		</span>
	);
}

const PATTERN: Record<string, string> = {
	held: "run-held",
	live: "run-live",
	leaving: "run-leaving",
	resting: "run-resting",
	reserved: "run-reserved",
};
const STATES: [EntryState, string][] = [
	["", "any state"],
	["held", "held"],
	["live", "live"],
	["resting", "resting"],
	["reserved", "waiting"],
];

interface Props {
	pool: string;
	number: string;
	onChoose: (entry: Entry | undefined) => void;
	onNumber: (number: string) => void;
}

export function Entries({ pool, number: chosen, onChoose, onNumber }: Props) {
	const fabric = useOpenFabric();
	const { tell } = useNotices();
	const change = useChange(fabric.name);
	const [words, setWords] = useState("");
	const [asked, setAsked] = useState("");
	const [state, setState] = useState<EntryState>("");
	useEffect(() => {
		const timer = setTimeout(() => setAsked(words), 180);
		return () => clearTimeout(timer);
	}, [words]);
	const page = useEntries(pool, asked, state).data;
	const rows = page?.entries ?? [];
	const entry = rows.find((row) => row.number === chosen || row.number.split("/")[0] === chosen);
	useEffect(() => onChoose(entry), [entry, onChoose]);
	const others = useRows(fabric.name, "number", entry ? String(entry.id) : "");

	const paste = (onto: Entry[], column: string, cells: string[][]) => {
		if (column !== "number" && column !== "note") {
			tell({ tone: "wrong", text: "Paste onto the numbers to pin them, or onto the notes of pins." });
			return;
		}
		const foreign = onto.find((row) => row.fabric !== fabric.name);
		if (foreign) {
			tell({
				tone: "wrong",
				text: `${foreign.number} is of ${foreign.fabric}. Open that fabric to pin its numbers.`,
			});
			return;
		}
		const pins = onto.map((row, index) => {
			const cell = cells[index]?.[0]?.trim() ?? "";
			return column === "number"
				? { use: row.use, key: row.key, number: cell, note: row.note || "pasted" }
				: { use: row.use, key: row.key, number: row.number, note: cell };
		});
		change.mutate(
			{ kind: "pins", pins },
			{ onSuccess: () => tell({ tone: "done", text: `${counted(pins.length, "number")} pinned.` }) },
		);
	};

	return (
		<>
			<div className="mb-1.5 flex items-center gap-3">
				<input
					className="field w-56"
					aria-label="Find numbers"
					placeholder="number, owner, use, note…"
					value={words}
					onChange={(event) => setWords(event.target.value)}
				/>
				<select
					className="field py-[3px]"
					aria-label="State"
					value={state}
					onChange={(event) => setState(event.target.value as EntryState)}
				>
					{STATES.map(([value, word]) => (
						<option key={value} value={value}>
							{word}
						</option>
					))}
				</select>
				<span className="text-soft">
					{page && page.total > rows.length
						? `the first ${number(rows.length)} of ${counted(page.total, "number")}`
						: counted(rows.length, "number")}
				</span>
			</div>
			<Grid
				label={`Numbers of ${pool}`}
				rows={rows}
				columns={COLUMNS}
				rowKey={(row) => String(row.id)}
				chosen={entry ? String(entry.id) : ""}
				others={others}
				onChoose={(row) => onNumber(row.number)}
				onPaste={paste}
			/>
		</>
	);
}
