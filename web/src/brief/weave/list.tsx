/** The Weave as a table: the same switches and what they are linked to, for reading aloud, sorting and copying. */
import type { Thread, Weave } from "../../api/client";
import { type Column, Grid } from "../../ui/grid";
import type { Choice } from "./geometry";

const COLUMNS: Column<Thread>[] = [
	{ id: "name", title: "switch", width: 120, value: (row) => row.name, mono: true },
	{ id: "role", title: "role", width: 76, value: (row) => row.role },
	{ id: "rack", title: "rack", width: 70, value: (row) => row.rack },
	{ id: "model", title: "model", width: 110, value: (row) => row.model },
	{ id: "loopback", title: "loopback", width: 96, value: (row) => row.loopback, mono: true },
	{ id: "asn", title: "ASN", width: 90, value: (row) => row.asn, mono: true },
	{ id: "lanes", title: "links a spine", width: 84, value: (row) => row.lanes || "" },
	{ id: "ports", title: "ports used", width: 90, value: (row) => `${row.used} of ${row.ports}` },
	{ id: "state", title: "state", width: 100, value: (row) => row.state || "in service" },
];

export function WeaveList({
	weave,
	chosen,
	onChoose,
	find,
}: {
	weave: Weave;
	chosen: Choice;
	onChoose: (choice: Choice) => void;
	find: string;
}) {
	const words = find.trim().toLowerCase();
	const rows = [...weave.supers, ...weave.spines, ...weave.leaves].filter(
		(one) => !words || `${one.name} ${one.rack} ${one.model} ${one.state}`.toLowerCase().includes(words),
	);
	return (
		<Grid
			label="Switches of the Weave"
			rows={rows}
			columns={COLUMNS}
			rowKey={(row) => row.name}
			chosen={chosen.leaf ?? chosen.spine}
			onChoose={(row) =>
				onChoose(row.role === "leaf" || row.role === "border" ? { leaf: row.name } : { spine: row.name })
			}
		/>
	);
}
