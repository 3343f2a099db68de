/** The leaves of a rack as one stands before them: the port under the cursor lights up, and a port that is clicked becomes the row. */
import type { Row } from "./queries";

interface Props {
	rows: Row[];
	at: Row | undefined;
	onPort: (key: string) => void;
}

const STEP = 16.5;

export function RackFaces({ rows, at, onPort }: Props) {
	const leaves = new Map<string, { port: string; row: Row }[]>();
	for (const row of rows) {
		const [first = "", ...rest] = row.leaf.split("+");
		for (const leaf of [first, ...rest.map((side) => first.slice(0, -1) + side)])
			for (const port of portsOf(row.ports)) leaves.set(leaf, [...(leaves.get(leaf) ?? []), { port, row }]);
	}
	return (
		<div className="mb-2 flex flex-wrap gap-x-8 gap-y-1.5">
			{[...leaves].map(([leaf, ports]) => {
				const hosts = sorted(ports.filter(({ row }) => !row.locked || row.locked.startsWith("a link")));
				const others = sorted(ports.filter(({ row }) => row.locked && !row.locked.startsWith("a link")));
				const half = Math.ceil(hosts.length / 2);
				const width = (half + Math.ceil(others.length / 2)) * STEP + 16;
				return (
					<div key={leaf} className="flex items-center gap-3">
						<span className="mono w-[92px] text-[12.5px]">{leaf}</span>
						<svg width={width} height="30" role="img" aria-label={`Ports of ${leaf}`}>
							{[...hosts, ...others].map(({ port, row }, index) => {
								const place = index < hosts.length ? index : index - hosts.length;
								const x = Math.floor(place / 2) * STEP + (index < hosts.length ? 0 : half * STEP + 14);
								const y = (place % 2) * 15 + 1;
								const lit = at?.key === row.key;
								return (
									// biome-ignore lint/a11y/noStaticElementInteractions: the same row stands in the grid
									<rect
										key={port}
										x={x + 1}
										y={y}
										width={13}
										height={11}
										rx={1.5}
										className="cursor-pointer"
										fill={row.locked ? "var(--walnut)" : row.host ? "var(--woad)" : "transparent"}
										fillOpacity={row.locked ? 0.85 : 0.6}
										stroke={lit ? "var(--indigo)" : row.host ? "var(--woad)" : "var(--faint)"}
										strokeWidth={lit ? 2.5 : 0.8}
										strokeDasharray={row.host || row.locked || !row.shut ? undefined : "2 2"}
										onClick={() => onPort(row.key)}
									>
										<title>{`${port}: ${row.host || row.locked || row.shut || "open"}`}</title>
									</rect>
								);
							})}
						</svg>
					</div>
				);
			})}
		</div>
	);
}

/** Port names of a short list of ranges: `h3..h4, h9`. */
export function portsOf(text: string): string[] {
	return text.split(", ").flatMap((part) => {
		const found = /^([a-z/]*?)(\d+)\.\.[a-z/]*?(\d+)$/.exec(part);
		if (!found) return [part];
		const [, stem = "", low = "0", high = "0"] = found;
		return Array.from(
			{ length: Number(high) - Number(low) + 1 },
			(_, index) => `${stem}${Number(low) + index}`,
		);
	});
}

const numberOf = (port: string): number => Number(/\d+/.exec(port)?.[0] ?? 0);
const sorted = <One extends { port: string }>(ports: One[]): One[] =>
	[...ports].sort(
		(one, two) =>
			one.port.localeCompare(two.port, undefined, { numeric: true }) ||
			numberOf(one.port) - numberOf(two.port),
	);
