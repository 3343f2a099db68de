/** Import a numbering plan: a sheet row by row, with the reason for each that cannot be taken; then all of it, or nothing. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { client, type Failure, got, type Sheet, type SheetRow } from "../api/client";
import { useOpenFabric } from "../app/open";
import { type Column, Grid } from "../ui/grid";
import { useNotices } from "../ui/notices";
import { counted } from "../ui/words";

const FIELDS = ["number", "owner", "use", "fabric", "note"] as const;
/** What becomes of a row, said of one and of several. */
const WORDS: Record<string, [string, string]> = {
	pinned: ["has it already, is pinned", "have theirs already, are pinned"],
	moves: ["moves to it", "move to theirs"],
	waits: ["waits for its switch", "wait for their switches"],
	reserved: ["reserved", "reserved"],
	refused: ["cannot be taken", "cannot be taken"],
};

const COLUMNS: Column<SheetRow>[] = [
	{ id: "line", title: "line", width: 44, value: (row) => row.line },
	{
		id: "outcome",
		title: "what becomes of it",
		width: 168,
		value: (row) => row.outcome,
		show: (row) => (
			<span className={row.outcome === "refused" ? "border-l-4 border-madder pl-1.5 text-madder" : ""}>
				{WORDS[row.outcome]?.[0]}
				{row.outcome === "moves" && ` from ${row.now}`}
			</span>
		),
	},
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
function send(
	fabric: string,
	act: "preview" | "take",
	sheet: Blob,
	mapping: Record<string, number> | null,
): Promise<Sheet> {
	return got(
		client.POST(`/api/v1/fabrics/{name}/numbers/${act}`, {
			params: { path: { name: fabric }, query: mapping ? { columns: JSON.stringify(mapping) } : {} },
			body: sheet as unknown as string,
			bodySerializer: () => sheet,
			headers: { "Content-Type": "text/csv" },
		}),
	);
}

export function ImportScreen() {
	const fabric = useOpenFabric();
	const queries = useQueryClient();
	const navigate = useNavigate();
	const { tell } = useNotices();
	const [file, setFile] = useState<{ name: string; content: Blob } | null>(null);
	const [chosen, setChosen] = useState("");
	const look = useMutation<Sheet, Failure, { content: Blob; mapping: Record<string, number> | null }>({
		mutationFn: ({ content, mapping }) => send(fabric.name, "preview", content, mapping),
	});
	const take = useMutation<Sheet, Failure, Sheet>({
		mutationFn: (sheet) => send(fabric.name, "take", file?.content ?? new Blob(), sheet.mapping),
		onSuccess: (sheet) => {
			void queries.invalidateQueries({ queryKey: ["pools"] });
			void queries.invalidateQueries({ queryKey: ["fabric"] });
			tell({ tone: "done", text: `${counted(sheet.total, "row")} taken; what they name is pinned.` });
			navigate(`/f/${fabric.name}/ledger`);
		},
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
	});
	const choose = (name: string, content: Blob) => {
		setFile({ name, content });
		look.mutate({ content, mapping: null });
	};
	const sheet = look.data;
	const map = (field: string, column: number) => {
		if (!sheet || !file) return;
		const mapping = Object.fromEntries(
			Object.entries({ ...sheet.mapping, [field]: column }).filter(([, at]) => at >= 0),
		);
		look.mutate({ content: file.content, mapping });
	};
	return (
		<main className="flex min-w-0 flex-1 flex-col px-8 pt-5">
			<Link className="button-plain self-start" to={`/f/${fabric.name}/ledger`}>
				‹ the ledger
			</Link>
			<h1 className="mt-1 text-[17px] font-bold">Import a numbering plan into {fabric.name}</h1>
			<p className="mb-3 max-w-[760px] text-soft">
				A CSV with a row for each number: the number, whose it is (a switch, a cable label, a segment), and if
				you like its use and a note. Rows without an owner are reserved. What is taken is pinned; nothing is
				taken by halves.
			</p>
			<div className="mb-3 flex flex-wrap items-center gap-x-5 gap-y-2">
				<label className="button-main cursor-pointer focus-within:outline-2 focus-within:outline-offset-1 focus-within:outline-indigo">
					Choose a file
					<input
						type="file"
						accept=".csv,.txt,.tsv,text/csv"
						className="sr-only"
						onChange={(event) => {
							const one = event.target.files?.[0];
							if (one) choose(one.name, one);
							event.target.value = "";
						}}
					/>
				</label>
				<textarea
					className="field mono h-8 w-64 resize-none overflow-hidden"
					aria-label="Or paste the rows here"
					placeholder="or paste the rows here"
					value=""
					onChange={() => undefined}
					onPaste={(event) => {
						event.preventDefault();
						choose("pasted rows", new Blob([event.clipboardData.getData("text/plain")]));
					}}
				/>
				{file && <span className="mono text-soft">{file.name}</span>}
				{sheet &&
					FIELDS.map((field) => (
						<label key={field} className="flex items-center gap-1.5">
							<span className="text-soft">{field}</span>
							<select
								className="field py-0.5"
								value={sheet.mapping[field] ?? -1}
								onChange={(event) => map(field, Number(event.target.value))}
							>
								<option value={-1}>not in it</option>
								{sheet.columns.map((heading, index) => (
									// biome-ignore lint/suspicious/noArrayIndexKey: headings may repeat, their places do not
									<option key={index} value={index}>
										{heading || `column ${index + 1}`}
									</option>
								))}
							</select>
						</label>
					))}
			</div>
			{look.error && (
				<p role="alert" className="mb-3 border-l-4 border-madder pl-2.5 text-madder">
					{look.error.message}
				</p>
			)}
			{look.isPending && <p className="text-soft">Reading…</p>}
			{sheet && (
				<>
					<div className="mb-2 flex items-center gap-5">
						<b>{counted(sheet.total, "row")}</b>
						{Object.entries(sheet.counts).map(([outcome, count]) => (
							<span
								key={outcome}
								className={outcome === "refused" ? "font-semibold text-madder" : "text-soft"}
							>
								{count} {WORDS[outcome]?.[count === 1 ? 0 : 1]}
							</span>
						))}
						<button
							type="button"
							className="button-main ml-auto"
							disabled={sheet.refused > 0 || sheet.total === 0 || take.isPending}
							onClick={() => take.mutate(sheet)}
						>
							{sheet.refused ? "Mend the sheet first" : `Take ${counted(sheet.total, "row")}`}
						</button>
					</div>
					<Grid
						label="Rows of the sheet"
						rows={sheet.rows}
						columns={COLUMNS}
						rowKey={(row) => String(row.line)}
						chosen={chosen}
						onChoose={(row) => setChosen(String(row.line))}
					/>
				</>
			)}
		</main>
	);
}
