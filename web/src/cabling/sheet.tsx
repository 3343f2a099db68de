/** Every cable as a row of a sheet, found by words. */
import { useMemo, useState } from "react";
import type { CableRow } from "../api/client";
import { useOpenFabric } from "../app/open";
import { useRows } from "../app/present";
import { type Column, Grid } from "../ui/grid";
import { counted, day } from "../ui/words";
import type { Worked } from "./queries";

/** A cable with what was done to it. */
export interface Row extends CableRow {
	state: string;
	wrong: boolean;
}

const COLUMNS: Column<Row>[] = [
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
		title: "length, m",
		width: 70,
		value: (row) => row.length ?? "",
		mono: true,
		show: (row) => row.length?.toFixed(1) ?? "",
	},
	{
		id: "measured",
		title: "measured",
		width: 70,
		value: (row) => row.measured ?? "",
		mono: true,
		show: (row) => row.measured?.toFixed(1) ?? "",
	},
	{
		id: "stock",
		title: "take, m",
		width: 56,
		value: (row) => row.stock ?? "",
		mono: true,
		show: (row) => row.stock ?? "",
	},
	{ id: "part", title: "part", width: 112, value: (row) => row.part || `${row.kind} ${row.speed}G` },
	{
		id: "state",
		title: "state",
		width: 96,
		value: (row) => row.state,
		show: (row) => (
			<span className={row.wrong ? "text-madder" : row.state ? "" : "text-soft"}>
				{row.state || "to lay"}
			</span>
		),
	},
];

interface Props {
	cables: CableRow[];
	chosen: string;
	/** Only the cables that end in this rack. */
	rack: string;
	worked: ReadonlyMap<string, Worked>;
	/** What the switches hear of each cable, by its label. */
	heard: ReadonlyMap<string, string>;
	onChoose: (label: string) => void;
	/** Lengths that were measured, by the key of the link. */
	onMeasured?: (lengths: Map<string, number>) => void;
}

/** The state of a cable in a word or two, the worst first. */
function stateOf(worked: Worked | undefined, heard: string | undefined): { state: string; wrong: boolean } {
	if (worked?.fault) return { state: worked.fault, wrong: true };
	if (heard && heard !== "right") return { state: heard, wrong: true };
	if (worked?.wrong_label) return { state: worked.wrong_label, wrong: true };
	const said = [worked?.laid_at && `laid ${day(worked.laid_at)}`, heard && "heard"].filter(Boolean);
	return { state: said.join(", "), wrong: false };
}

export function CableSheet({ cables, chosen, rack, worked, heard, onChoose, onMeasured }: Props) {
	const fabric = useOpenFabric();
	const [words, setWords] = useState("");
	const others = useRows(fabric.name, "cable", chosen);
	const shown = useMemo(() => {
		const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
		const rows = cables.map(
			(cable): Row => ({ ...cable, ...stateOf(worked.get(cable.link), heard.get(cable.label)) }),
		);
		return rows.filter((cable) => {
			if (rack && cable.a_rack !== rack && cable.b_rack !== rack) return false;
			const text = Object.values(cable).join(" ").toLowerCase();
			return wanted.every((word) => text.includes(word));
		});
	}, [cables, words, rack, worked, heard]);
	return (
		<section aria-label="Cables" className="flex min-h-0 flex-1 flex-col">
			<div className="mb-1 flex items-center gap-4">
				<input
					className="field w-60"
					aria-label="Find cables"
					placeholder="rack, switch, port, label, part, state…"
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
				onPaste={onMeasured && ((rows, column, cells) => onMeasured(pasted(rows, column, cells)))}
			/>
		</section>
	);
}

/** The lengths of a column that was pasted on measured ones; what is no length is left out. */
function pasted(rows: Row[], column: string, cells: string[][]): Map<string, number> {
	const found = new Map<string, number>();
	if (column !== "measured") return found;
	rows.forEach((row, at) => {
		const metres = Number.parseFloat((cells[at]?.[0] ?? "").replace(",", "."));
		if (metres > 0) found.set(row.link, metres);
	});
	return found;
}
