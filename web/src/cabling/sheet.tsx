/** Every cable as a row of a sheet, found by words. */
import { useMemo, useState } from "react";
import type { CableRow } from "../api/client";
import { useOpenFabric } from "../app/open";
import { useRows } from "../app/present";
import { type Column, Grid } from "../ui/grid";
import { counted } from "../ui/words";

const COLUMNS: Column<CableRow>[] = [
	{
		id: "label",
		title: "cable",
		width: 74,
		value: (row) => row.label,
		mono: true,
		show: (row) => <b>{row.label}</b>,
	},
	{ id: "a_rack", title: "rack", width: 46, value: (row) => row.a_rack, mono: true },
	{ id: "a_unit", title: "U", width: 34, value: (row) => row.a_unit, mono: true },
	{ id: "a_switch", title: "from", width: 104, value: (row) => row.a_switch, mono: true },
	{ id: "a_port", title: "port", width: 48, value: (row) => row.a_port, mono: true },
	{ id: "b_rack", title: "rack", width: 46, value: (row) => row.b_rack, mono: true },
	{ id: "b_unit", title: "U", width: 34, value: (row) => row.b_unit, mono: true },
	{ id: "b_switch", title: "to", width: 84, value: (row) => row.b_switch, mono: true },
	{ id: "b_port", title: "port", width: 48, value: (row) => row.b_port, mono: true },
	{
		id: "length",
		title: "length",
		width: 58,
		value: (row) => row.length ?? "",
		mono: true,
		show: (row) => (row.length === null ? "" : `${row.length.toFixed(1)} m`),
	},
	{
		id: "stock",
		title: "take",
		width: 50,
		value: (row) => row.stock ?? "",
		mono: true,
		show: (row) => (row.stock === null ? "" : `${row.stock} m`),
	},
	{ id: "part", title: "part", width: 130, value: (row) => row.part || `${row.kind} ${row.speed}G` },
];

interface Props {
	cables: CableRow[];
	chosen: string;
	/** Only the cables that end in this rack. */
	rack: string;
	onChoose: (label: string) => void;
}

export function CableSheet({ cables, chosen, rack, onChoose }: Props) {
	const fabric = useOpenFabric();
	const [words, setWords] = useState("");
	const others = useRows(fabric.name, "cable", chosen);
	const shown = useMemo(() => {
		const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
		return cables.filter((cable) => {
			if (rack && cable.a_rack !== rack && cable.b_rack !== rack) return false;
			const text = Object.values(cable).join(" ").toLowerCase();
			return wanted.every((word) => text.includes(word));
		});
	}, [cables, words, rack]);
	return (
		<section aria-label="Cables" className="flex min-h-0 flex-1 flex-col">
			<div className="mb-1 flex items-center gap-4">
				<input
					className="field w-60"
					aria-label="Find cables"
					placeholder="rack, switch, port, label, part…"
					value={words}
					onChange={(event) => setWords(event.target.value)}
				/>
				<span className="text-soft">
					{shown.length === cables.length
						? counted(shown.length, "cable")
						: `${shown.length} of ${counted(cables.length, "cable")}`}
					{rack && ` in ${rack}`}
				</span>
			</div>
			<Grid
				label="Cabling plan"
				rows={shown}
				columns={COLUMNS}
				rowKey={(row) => row.label}
				chosen={chosen}
				others={others}
				onChoose={(row) => onChoose(row.label)}
			/>
		</section>
	);
}
