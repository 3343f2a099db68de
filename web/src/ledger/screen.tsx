/** The ledger: every pool as a strip of what is taken and free, and the entries of one pool with their reasons. */
import { useState } from "react";
import type { Entry } from "../api/client";
import { useEntries, usePools } from "../api/queries";
import { type Column, Grid } from "../ui/grid";
import { usePlace } from "../ui/place";
import { ScreenKeys, useOpenFabric } from "../ui/street";
import { counted, day } from "../ui/words";
import { Lens } from "./lens";
import { NumberMargin } from "./margin";
import { PoolActions } from "./pool";
import { PoolStrips } from "./strips";

const COLUMNS: Column<Entry>[] = [
	{
		id: "number",
		title: "number",
		width: 170,
		value: (row) => row.number,
		mono: true,
		show: (row) => <b className="font-semibold">{row.number}</b>,
	},
	{ id: "use", title: "use", width: 110, value: (row) => row.use, mono: true },
	{ id: "key", title: "belongs to", width: 190, value: (row) => row.key, mono: true },
	{ id: "fabric", title: "fabric", width: 80, value: (row) => row.fabric },
	{ id: "state", title: "state", width: 80, value: (row) => row.state },
	{ id: "since", title: "since", width: 70, value: (row) => row.since, show: (row) => day(row.since) },
];

export function LedgerScreen() {
	const fabric = useOpenFabric();
	const [place, goTo] = usePlace("pool", "number");
	const [words, setWords] = useState("");
	const ranges = usePools().data ?? [];
	const pool = place.pool ?? fabric.numbers[0]?.pool ?? ranges[0]?.pool ?? "";
	const number = place.number ?? "";
	const entries = useEntries(pool).data ?? [];
	const wanted = words.trim().toLowerCase();
	const shown = entries.filter((entry) =>
		`${entry.number} ${entry.use} ${entry.key} ${entry.fabric} ${entry.state}`.toLowerCase().includes(wanted),
	);
	const chosen = entries.find((entry) => entry.number === number || String(entry.id) === number);
	return (
		<>
			<main className="flex min-w-0 flex-1 flex-col px-5 pt-3.5">
				<PoolStrips ranges={ranges} fabric={fabric} current={pool} onOpen={(name) => goTo({ pool: name })} />
				<section
					aria-label={`Pool ${pool}`}
					className="flex min-h-0 flex-1 flex-col border-t border-hair pt-3"
				>
					<div className="mb-2 flex items-center gap-4">
						<h1 className="text-[17px] font-bold">{pool}</h1>
						<input
							className="field w-52"
							aria-label="Find numbers"
							placeholder="number, owner, use…"
							value={words}
							onChange={(event) => setWords(event.target.value)}
						/>
						<span className="text-soft">{counted(shown.length, "number")}</span>
						<PoolActions pool={pool} resting={entries.filter((entry) => entry.state === "resting").length} />
					</div>
					{ranges
						.filter((range) => range.pool === pool)
						.map((range) => (
							<Lens
								key={`${pool} ${range.range}`}
								range={range}
								chosen={chosen?.number}
								onNumber={(text) => goTo({ pool, number: text })}
							/>
						))}
					<Grid
						label={`Numbers of ${pool}`}
						rows={shown}
						columns={COLUMNS}
						rowKey={(row) => String(row.id)}
						chosen={chosen ? String(chosen.id) : ""}
						onChoose={(row) => goTo({ pool, number: row.number })}
					/>
				</section>
			</main>
			<NumberMargin entry={chosen} />
			<ScreenKeys
				keys={[
					["+ −", "look closer at a strip, and back (with the strip chosen)"],
					["← ↑ ↓ →", "move through the cells"],
					["Ctrl C", "copy a range, for a sheet"],
				]}
			/>
		</>
	);
}
