/** Import a numbering plan: which row pins which number, and which waits or cannot be. */
import { client, got, type Sheet, type SheetRow } from "../api/client";
import { Bringing, type Mapping } from "../app/bringing";
import { useOpenFabric } from "../app/open";
import type { Column } from "../ui/grid";
import { counted } from "../ui/words";

const FIELDS = ["number", "owner", "use", "fabric", "note"] as const;
const WORDS: Record<string, [string, string]> = {
	pinned: ["has it already, is pinned", "have theirs already, are pinned"],
	moves: ["moves to it", "move to theirs"],
	waits: ["waits for its switch", "wait for their switches"],
	reserved: ["reserved", "reserved"],
	refused: ["cannot be taken", "cannot be taken"],
};

const COLUMNS: Column<SheetRow>[] = [
	{ id: "number", title: "number", width: 140, value: (row) => row.number, mono: true },
	{ id: "use", title: "use", width: 90, value: (row) => row.use, mono: true },
	{ id: "owner", title: "owner", width: 130, value: (row) => row.owner, mono: true },
	{
		id: "reason",
		title: "why",
		width: 420,
		value: (row) => row.reason || row.note,
		show: (row) => <span title={row.reason}>{row.reason || row.note}</span>,
	},
];

/** Sends the bytes as they are, so that the server sees the sheet's own encoding. */
const send =
	(fabric: string) =>
	(act: "preview" | "take", sheet: Blob, mapping: Mapping | null): Promise<Sheet> =>
		got(
			client.POST(`/api/v1/fabrics/{name}/numbers/${act}`, {
				params: { path: { name: fabric }, query: mapping ? { columns: JSON.stringify(mapping) } : {} },
				body: sheet as unknown as string,
				bodySerializer: () => sheet,
				headers: { "Content-Type": "text/csv" },
			}),
		);

export function ImportScreen() {
	const fabric = useOpenFabric();
	return (
		<Bringing<SheetRow, Sheet>
			title={`Import a numbering plan into ${fabric.name}`}
			about="A sheet (.xlsx or CSV) with a row for each number: the number, whose it is (a switch, a cable label, a segment), and if you like its use and a note. Rows without an owner are reserved. What is taken is pinned; nothing is taken by halves."
			back={{ to: `/f/${fabric.name}/ledger`, name: "the ledger" }}
			fields={FIELDS}
			words={WORDS}
			columns={COLUMNS}
			before={(row) => (row.outcome === "moves" ? ` from ${row.now}` : "")}
			send={send(fabric.name)}
			stale={["pools", "fabric"]}
			taken={(sheet) => `${counted(sheet.total, "row")} taken; what they name is pinned.`}
		/>
	);
}
