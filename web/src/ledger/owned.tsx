/** Every number that a rack, a switch or a segment owns, whatever pool it is from. */

import { useOwned } from "../api/queries";
import type { components } from "../api/schema";
import { useOpenFabric } from "../app/open";
import { type Column, Grid } from "../ui/grid";
import { counted } from "../ui/words";

type Owned = components["schemas"]["Mine"];

const COLUMNS: Column<Owned>[] = [
	{ id: "number", title: "number", width: 150, value: (row) => row.number, mono: true },
	{ id: "use", title: "use", width: 110, value: (row) => row.use, mono: true },
	{ id: "key", title: "belongs to", width: 230, value: (row) => row.key, mono: true },
	{ id: "pool", title: "pool", width: 130, value: (row) => row.pool ?? "" },
];

export function OwnedNumbers({
	of,
	onClose,
	onOpen,
}: {
	of: string;
	onClose: () => void;
	onOpen: (pool: string, number: string) => void;
}) {
	const fabric = useOpenFabric();
	const { data, error } = useOwned(fabric.name, fabric.version, of);
	return (
		<section aria-label={`Numbers of ${of}`} className="flex min-h-0 flex-1 flex-col">
			<div className="mb-2 flex items-center gap-4">
				<h1 className="text-[17px] font-bold">Numbers of {of}</h1>
				<span className="text-soft">{data && counted(data.length, "number")}</span>
				<button type="button" className="button-plain ml-auto" onClick={onClose}>
					Back to the pools
				</button>
			</div>
			{error && <p className="border-l-4 border-madder pl-2.5 text-madder">{error.message}</p>}
			<Grid
				label={`Numbers of ${of}`}
				rows={data ?? []}
				columns={COLUMNS}
				rowKey={(row) => `${row.use} ${row.key}`}
				onChoose={(row) => row.pool && onOpen(row.pool, row.number)}
			/>
		</section>
	);
}
