/** Hosts from a sheet: who is new, who changes, and why a row cannot be. */
import { client, got } from "../api/client";
import type { components } from "../api/schema";
import { Bringing, type Mapping } from "../app/bringing";
import { useOpenFabric } from "../app/open";
import type { Column } from "../ui/grid";
import { counted } from "../ui/words";

type HostSheet = components["schemas"]["HostSheetView"];
type HostRow = components["schemas"]["HostRowView"];

const FIELDS = [
	"host",
	"at",
	"rack",
	"leaf",
	"ports",
	"team",
	"plug",
	"lag",
	"untagged",
	"tagged",
	"note",
] as const;
const WORDS: Record<string, [string, string]> = {
	new: ["is new", "are new"],
	changes: ["changes", "change"],
	same: ["is so already", "are so already"],
	refused: ["cannot be taken", "cannot be taken"],
};

const COLUMNS: Column<HostRow>[] = [
	{ id: "host", title: "host", width: 150, value: (row) => row.host, mono: true },
	{ id: "at", title: "at", width: 170, value: (row) => row.at, mono: true },
	{ id: "carries", title: "carries", width: 170, value: (row) => row.carries },
	{
		id: "reason",
		title: "why",
		width: 420,
		value: (row) => row.reason,
		show: (row) => <span title={row.reason}>{row.reason}</span>,
	},
];

const send =
	(fabric: string) =>
	(
		act: "preview" | "take",
		sheet: Blob,
		mapping: Mapping | null,
		read: HostSheet | null,
	): Promise<HostSheet> => {
		const columns = mapping ? { columns: JSON.stringify(mapping) } : {};
		const given = {
			body: sheet as unknown as string,
			bodySerializer: () => sheet,
			headers: { "Content-Type": "text/csv" },
		};
		if (act === "preview")
			return got(
				client.POST("/api/v1/fabrics/{name}/hosts/preview", {
					params: { path: { name: fabric }, query: columns },
					...given,
				}),
			);
		return got(
			client.POST("/api/v1/fabrics/{name}/hosts/take", {
				params: { path: { name: fabric }, query: { ...columns, version: read?.version ?? 0 } },
				...given,
			}),
		);
	};

export function ImportHosts() {
	const fabric = useOpenFabric();
	return (
		<Bringing<HostRow, HostSheet>
			title={`Hosts of ${fabric.name} from a sheet`}
			about="A sheet (.xlsx or CSV) with a row for each host, or for a range of them: its name, where it is plugged in (r01 h1, or rack and ports in columns of their own), and its team, plug or segments. Hosts that the sheet does not name stay as they are; a column that it does not have says nothing of them."
			back={{ to: `/f/${fabric.name}/segments`, name: "the segments" }}
			fields={FIELDS}
			words={WORDS}
			columns={COLUMNS}
			before={() => ""}
			send={send(fabric.name)}
			stale={["fabric", "fabrics"]}
			taken={(sheet) => `${counted(sheet.total, "row")} taken, as one change that can be undone.`}
		/>
	);
}
