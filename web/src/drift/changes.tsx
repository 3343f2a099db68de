/** What changed on the switches since a moment, meant or not: each line as it was and as it is, and who was there. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Fabric, got } from "../api/client";
import type { components } from "../api/schema";
import { counted } from "../ui/words";

const SPANS = [
	[1, "the last hour"],
	[12, "last night"],
	[24, "this time yesterday"],
	[168, "a week ago"],
	[720, "a month ago"],
] as const;

/** Rows of a table that are other, folded where there are many. */
function Moved({ table }: { table: components["schemas"]["TableMoved"] }) {
	return (
		<details className="mt-1" open={table.count <= 4}>
			<summary>
				{table.words}{" "}
				<span className="text-soft">{counted(table.count, "row is other", "rows are other")}</span>
			</summary>
			{table.rows.map((row) => (
				<p key={row.key} className="mono ml-4 text-[12px] leading-relaxed">
					{row.key} {row.was && <s className="text-soft">{row.was}</s>}{" "}
					{row.now || <i className="text-soft">gone</i>}
				</p>
			))}
			{table.count > table.rows.length && (
				<p className="ml-4 text-soft">and {table.count - table.rows.length} more</p>
			)}
		</details>
	);
}

export function Changes({ fabric }: { fabric: Fabric }) {
	const [hours, setHours] = useState(12);
	const { data, error } = useQuery({
		queryKey: ["fabric", fabric.name, "staging", "changes", hours],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/drift/changes", {
					params: {
						path: { name: fabric.name },
						query: { since: new Date(Date.now() - hours * 3_600_000).toISOString() },
					},
				}),
			),
	});
	return (
		<section aria-label="What changed" className="mt-4">
			<p className="flex flex-wrap items-baseline gap-x-4">
				since
				{SPANS.map(([value, words]) => (
					<button
						key={value}
						type="button"
						aria-pressed={value === hours}
						className={value === hours ? "font-bold" : "text-soft hover:text-indigo"}
						onClick={() => setHours(value)}
					>
						{words}
					</button>
				))}
			</p>
			{error && <p className="mt-3 text-madder">{error.message}</p>}
			{!data && !error && <p className="mt-3 text-soft">Both moments are held against each other…</p>}
			{data && (
				<p className="mt-3 text-soft" aria-live="polite">
					{data.length
						? `${counted(data.length, "switch runs", "switches run")} otherwise than then`
						: "Nothing changed."}
				</p>
			)}
			<ul aria-label="Changed" className="mt-2">
				{data?.map((one) => (
					<li key={one.switch} className="border-t border-hair py-2">
						<p>
							<span className="mono font-bold">{one.switch}</span>{" "}
							<span className="text-soft">
								rack {one.rack}
								{one.signed_in.length > 0 &&
									`; ${[...new Set(one.signed_in.map((each) => each.who))].join(", ")} signed in`}
							</span>
						</p>
						{one.lines.map((line) => (
							<p
								key={`${line.path} ${line.within.join()} ${line.meant} ${line.found}`}
								className="mono mt-1 text-[12px] leading-relaxed"
							>
								<span className="text-soft">{[line.path, ...line.within].join(" › ")}</span>
								<br />
								{line.meant && <s className="text-soft">{line.meant}</s>} {line.found}
							</p>
						))}
						{one.tables.map((table) => (
							<Moved key={table.kind} table={table} />
						))}
						{one.came.map((words) => (
							<p key={words} className="mt-1 border-madder border-l-[3px] pl-2">
								{words}
							</p>
						))}
						{one.went.map((words) => (
							<p key={words} className="mt-1 border-moss border-l-[3px] pl-2 text-soft">
								no more: {words}
							</p>
						))}
					</li>
				))}
			</ul>
		</section>
	);
}
