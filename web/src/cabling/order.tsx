/** What to order, against what is in stock; and what to print for the hall. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Failure, got } from "../api/client";
import { labelRows, useDownload } from "../api/downloads";
import { type LabelSheet, type Pages, usePages } from "../api/jobs";
import { useOpenFabric } from "../app/open";
import { useEditions } from "../editions/queries";
import { number } from "../ui/words";
import { type Material, useMaterials } from "./queries";

export function OrderView({ rack }: { rack: string }) {
	const fabric = useOpenFabric();
	const [racks, setRacks] = useState(rack);
	const [since, setSince] = useState("");
	const editions = useEditions(fabric.name).data ?? [];
	const { data, error } = useMaterials(racks, since);
	const weigh = useMutation<Material[], Failure, File>({
		mutationFn: (file) =>
			got(
				client.POST("/api/v1/fabrics/{name}/materials", {
					params: { path: { name: fabric.name }, query: { rack: racks, since: Number(since) || undefined } },
					body: file as unknown as string,
					bodySerializer: () => file,
					headers: { "Content-Type": "text/csv" },
				}),
			),
	});
	const rows = weigh.data ?? data ?? [];
	const priced = rows.every((row) => row.price !== null);
	const sum = rows.reduce((total, row) => total + row.order * (row.price ?? 0), 0);
	return (
		<section aria-label="To order" className="flex min-h-0 gap-8 overflow-auto pb-3">
			<div className="flex-1">
				<table className="w-full text-[13px]">
					<thead>
						<tr className="text-left text-soft text-[11.5px]">
							{["part", "what it is", "length", "needed", "spare", "in stock", "order", "price"].map(
								(title, at) => (
									<th key={title} className={`py-1 pr-4 font-normal ${at > 1 ? "text-right" : ""}`}>
										{title}
									</th>
								),
							)}
						</tr>
					</thead>
					<tbody>
						{rows.map((row) => (
							<tr key={`${row.part} ${row.length}`} className="border-hair/60 border-t tabular-nums">
								<td className="mono py-0.5 pr-4">{row.part}</td>
								<td className="pr-4">
									{row.name} <span className="text-soft">{row.maker}</span>
								</td>
								<td className="pr-4 text-right">{row.length === null ? "" : `${row.length} m`}</td>
								<td className="pr-4 text-right">{number(row.needed)}</td>
								<td className="pr-4 text-right">{number(row.spare)}</td>
								<td className="pr-4 text-right">{number(row.stocked)}</td>
								<td className="pr-4 text-right font-semibold">{number(row.order)}</td>
								<td className="text-right">{row.price === null ? "" : number(row.price)}</td>
							</tr>
						))}
					</tbody>
				</table>
				{error && (
					<p role="alert" className="mt-1 border-madder border-l-4 pl-2 text-madder">
						{error.message}
					</p>
				)}
				<div className="mt-2 flex items-baseline gap-5">
					<label className="text-soft">
						racks{" "}
						<input
							className="field mono w-24 py-0"
							aria-label="Only for these racks"
							placeholder="r01..r04"
							value={racks}
							onChange={(event) => setRacks(event.target.value)}
						/>
					</label>
					<label className="text-soft">
						since version{" "}
						<input
							className="field mono w-14 py-0"
							aria-label="Only what came since this version"
							value={since}
							placeholder={String(fabric.version)}
							list="editions"
							onChange={(event) => setSince(event.target.value.replace(/\D/g, ""))}
						/>
					</label>
					<datalist id="editions">
						{editions.map((one) => (
							<option key={one.number} value={one.version} label={`edition ${one.number}: ${one.title}`} />
						))}
					</datalist>
					<label className="button-plain cursor-pointer">
						Weigh against what is in stock
						<input
							type="file"
							accept=".csv,.xlsx"
							className="sr-only"
							onChange={(event) => event.target.files?.[0] && weigh.mutate(event.target.files[0])}
						/>
					</label>
					{priced && rows.length > 0 && (
						<span className="ml-auto">
							together <b className="tabular-nums">{number(Math.round(sum))}</b> by the catalogue’s prices
						</span>
					)}
				</div>
				{weigh.error && (
					<p role="alert" className="mt-2 border-madder border-l-4 pl-2 text-madder">
						{weigh.error.message}
					</p>
				)}
			</div>
			<Printing />
		</section>
	);
}

const SHEETS: [LabelSheet, string][] = [
	["a4-70x37", "A4, 70 × 37 mm"],
	["a4-48x25", "A4, 48 × 25 mm"],
	["a4-38x21", "A4, 38 × 21 mm"],
	["letter-67x25", "Letter, 67 × 25 mm"],
];
const PAGES: [Pages, string][] = [
	["cover", "Cover, with what to order"],
	["racks", "A page for each rack"],
	["bundles", "A card for each bundle"],
	["labels", "Labels for all ends"],
];

function Printing() {
	const fabric = useOpenFabric();
	const download = useDownload();
	const pages = usePages(fabric.name);
	const [size, setSize] = useState<LabelSheet>("a4-70x37");
	return (
		<div className="w-[230px] flex-none border-hair border-l pl-5">
			<h2 className="mb-1 font-semibold">To print</h2>
			<ul>
				{PAGES.map(([what, words]) => (
					<li key={what}>
						<button
							type="button"
							className="button-plain"
							disabled={pages.isPending}
							onClick={() => pages.mutate({ what, size })}
						>
							{words}
						</button>
					</li>
				))}
			</ul>
			<label className="label-small mt-2 block">
				Sheets of labels
				<select
					className="field mt-0.5 block w-full"
					value={size}
					onChange={(event) => setSize(event.target.value as LabelSheet)}
				>
					{SHEETS.map(([value, words]) => (
						<option key={value} value={value}>
							{words}
						</option>
					))}
				</select>
			</label>
			<button
				type="button"
				className="button-plain mt-2"
				onClick={() => void download(labelRows(fabric.name))}
			>
				Labels as CSV, for a label printer
			</button>
		</div>
	);
}
