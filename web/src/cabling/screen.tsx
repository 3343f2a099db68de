/** The cabling plan: a row per cable, the fronts it is plugged into, and why it is there. */
import { useMemo, useState } from "react";
import type { CableRow } from "../api/client";
import { cablingCsv, useDownload } from "../api/downloads";
import { useCables } from "../api/queries";
import { useOpenFabric } from "../app/open";
import { useRows } from "../app/present";
import { type Column, Grid } from "../ui/grid";
import { KeysDialog } from "../ui/keys";
import { usePlace } from "../ui/place";
import { counted } from "../ui/words";
import { CableMargin } from "./margin";

const COLUMNS: Column<CableRow>[] = [
	{
		id: "label",
		title: "cable",
		width: 84,
		value: (row) => row.label,
		mono: true,
		show: (row) => <b>{row.label}</b>,
	},
	{ id: "a_rack", title: "rack", width: 56, value: (row) => row.a_rack, mono: true },
	{ id: "a_unit", title: "U", width: 40, value: (row) => row.a_unit, mono: true },
	{ id: "a_switch", title: "leaf", width: 120, value: (row) => row.a_switch, mono: true },
	{ id: "a_port", title: "port", width: 52, value: (row) => row.a_port, mono: true },
	{ id: "b_rack", title: "rack", width: 56, value: (row) => row.b_rack, mono: true },
	{ id: "b_unit", title: "U", width: 40, value: (row) => row.b_unit, mono: true },
	{ id: "b_switch", title: "spine", width: 92, value: (row) => row.b_switch, mono: true },
	{ id: "b_port", title: "port", width: 56, value: (row) => row.b_port, mono: true },
	{
		id: "speed",
		title: "speed",
		width: 60,
		value: (row) => row.speed,
		mono: true,
		show: (row) => `${row.speed}G`,
	},
	{ id: "kind", title: "kind", width: 80, value: (row) => row.kind },
];

export function CablingScreen() {
	const fabric = useOpenFabric();
	const download = useDownload();
	const [place, goTo] = usePlace("cable");
	const [words, setWords] = useState("");
	const cables = useCables(fabric.name, fabric.version).data;
	const label = place.cable ?? "";
	const shown = useMemo(() => {
		const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
		return (cables ?? []).filter((cable) => {
			const text = Object.values(cable).join(" ").toLowerCase();
			return wanted.every((word) => text.includes(word));
		});
	}, [cables, words]);
	const others = useRows(fabric.name, "cable", label);
	const chosen = cables?.find((cable) => cable.label === label);
	return (
		<>
			<main className="flex min-w-0 flex-1 flex-col px-5 pt-3.5">
				<div className="mb-2 flex items-center gap-5">
					<h1 className="text-[17px] font-bold">Cabling plan</h1>
					<input
						className="field w-64"
						aria-label="Find cables"
						placeholder="rack, switch, port, label…"
						value={words}
						onChange={(event) => setWords(event.target.value)}
					/>
					<span className="text-soft">
						{shown.length === cables?.length
							? counted(shown.length, "cable")
							: `${shown.length} of ${counted(cables?.length ?? 0, "cable")}`}
					</span>
					<button
						type="button"
						className="button-plain ml-auto"
						onClick={() => void download(cablingCsv(fabric.name))}
					>
						Download as CSV
					</button>
				</div>
				{cables?.length === 0 ? (
					<p className="pt-8">
						There is nothing to cable yet. Add racks to the brief, and each leaf’s cables to the spines are
						planned.
					</p>
				) : (
					<Grid
						label="Cabling plan"
						rows={shown}
						columns={COLUMNS}
						rowKey={(row) => row.label}
						chosen={label}
						others={others}
						onChoose={(row) => goTo({ cable: row.label })}
					/>
				)}
			</main>
			<CableMargin cable={chosen} onOpen={(one) => goTo({ cable: one })} />
			<KeysDialog
				here={[
					["← ↑ ↓ →", "move through the cells"],
					["Shift + arrows", "choose a range"],
					["Ctrl C", "copy it, for a sheet"],
				]}
			/>
		</>
	);
}
