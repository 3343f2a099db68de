/** Where racks stand, from a sheet: which move, which are new, and why a row cannot be. */
import { client, got } from "../api/client";
import type { components } from "../api/schema";
import { Bringing, type Mapping } from "../app/bringing";
import { useOpenFabric } from "../app/open";
import type { Column } from "../ui/grid";
import { counted } from "../ui/words";

type RackSheet = components["schemas"]["RackSheetView"];
type RackRow = components["schemas"]["RackRowView"];

const FIELDS = ["rack", "hall", "x", "y", "faces", "width", "depth"] as const;
const WORDS: Record<string, [string, string]> = {
	new: ["is placed", "are placed"],
	moves: ["moves", "move"],
	same: ["stands so already", "stand so already"],
	refused: ["cannot be taken", "cannot be taken"],
};
const COLUMNS: Column<RackRow>[] = [
	{ id: "rack", title: "rack", width: 100, value: (row) => row.rack, mono: true },
	{ id: "place", title: "where", width: 260, value: (row) => row.place },
	{ id: "reason", title: "why", width: 420, value: (row) => row.reason },
];

const send =
	(fabric: string) =>
	(
		act: "preview" | "take",
		sheet: Blob,
		mapping: Mapping | null,
		read: RackSheet | null,
	): Promise<RackSheet> => {
		const columns = mapping ? { columns: JSON.stringify(mapping) } : {};
		const given = {
			body: sheet as unknown as string,
			bodySerializer: () => sheet,
			headers: { "Content-Type": "text/csv" },
		};
		const path = { name: fabric };
		if (act === "preview")
			return got(
				client.POST("/api/v1/fabrics/{name}/floor/preview", { params: { path, query: columns }, ...given }),
			);
		const query = { ...columns, version: read?.version ?? 0 };
		return got(client.POST("/api/v1/fabrics/{name}/floor/take", { params: { path, query }, ...given }));
	};

export function ImportRacks() {
	const fabric = useOpenFabric();
	return (
		<Bringing<RackRow, RackSheet>
			title={`Where the racks of ${fabric.name} stand, from a sheet`}
			about="A sheet (.xlsx or CSV) with a row for each rack: its name, its hall, its north-west corner in metres from the hall’s (x to the east, y to the south), and the side its front looks to; width and depth where they are other than now. Racks that the sheet does not name stay where they are."
			back={{ to: `/f/${fabric.name}/cabling`, name: "the cabling" }}
			fields={FIELDS}
			words={WORDS}
			columns={COLUMNS}
			before={(row) => (row.outcome === "moves" ? `, from ${row.now}` : "")}
			send={send(fabric.name)}
			stale={["fabric", "fabrics"]}
			taken={(sheet) => `${counted(sheet.total, "rack")} placed, as one change that can be undone.`}
		/>
	);
}
