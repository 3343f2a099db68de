/** A sheet that is brought in: read row by row, with the reason for each that cannot be taken; then all of it, or nothing. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Failure } from "../api/client";
import { type Column, Grid } from "../ui/grid";
import { useNotices } from "../ui/notices";
import { counted } from "../ui/words";

export type Mapping = Record<string, number>;

/** What every kind of sheet comes to. */
interface Read<R> {
	columns: string[];
	mapping: Mapping;
	total: number;
	counts: Record<string, number>;
	refused: number;
	rows: R[];
}

/** What every kind of row has. */
interface OfRow {
	line: number;
	outcome: string;
	reason: string;
	now: string;
}

interface Props<R extends OfRow, S extends Read<R>> {
	title: string;
	/** What the sheet is to hold, in a sentence or two. */
	about: string;
	/** Where one came from, and goes back to. */
	back: { to: string; name: string };
	fields: readonly string[];
	/** What becomes of a row, said of one and of several. */
	words: Record<string, [string, string]>;
	columns: Column<R>[];
	/** The word before what a row was until now, where that says more. */
	before: (row: R) => string;
	send: (act: "preview" | "take", content: Blob, mapping: Mapping | null, read: S | null) => Promise<S>;
	/** What is old once the sheet is taken. */
	stale: readonly string[];
	taken: (sheet: S) => string;
}

export function Bringing<R extends OfRow, S extends Read<R>>(props: Props<R, S>) {
	const { title, about, back, fields, words, columns, before, send, stale, taken } = props;
	const queries = useQueryClient();
	const navigate = useNavigate();
	const { tell } = useNotices();
	const [file, setFile] = useState<{ name: string; content: Blob } | null>(null);
	const [chosen, setChosen] = useState("");
	const look = useMutation<S, Failure, { content: Blob; mapping: Mapping | null }>({
		mutationFn: ({ content, mapping }) => send("preview", content, mapping, null),
	});
	const take = useMutation<S, Failure, S>({
		mutationFn: (sheet) => send("take", file?.content ?? new Blob(), sheet.mapping, sheet),
		onSuccess: (sheet) => {
			for (const key of stale) void queries.invalidateQueries({ queryKey: [key] });
			tell({ tone: "done", text: taken(sheet) });
			navigate(back.to);
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
	const shown: Column<R>[] = [
		{ id: "line", title: "line", width: 44, value: (row) => row.line },
		{
			id: "outcome",
			title: "what becomes of it",
			width: 168,
			value: (row) => row.outcome,
			show: (row) => (
				<span className={row.outcome === "refused" ? "border-l-4 border-madder pl-1.5 text-madder" : ""}>
					{words[row.outcome]?.[0]}
					{before(row)}
				</span>
			),
		},
		...columns,
	];
	return (
		<main className="flex min-w-0 flex-1 flex-col px-8 pt-5">
			<Link className="button-plain self-start" to={back.to}>
				‹ {back.name}
			</Link>
			<h1 className="mt-1 text-[17px] font-bold">{title}</h1>
			<p className="mb-3 max-w-[760px] text-soft">{about}</p>
			<div className="mb-3 flex flex-wrap items-center gap-x-5 gap-y-2">
				<label className="button-main cursor-pointer focus-within:outline-2 focus-within:outline-offset-1 focus-within:outline-indigo">
					Choose a file
					<input
						type="file"
						accept=".csv,.txt,.tsv,.xlsx,text/csv"
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
					fields.map((field) => (
						<label key={field} className="flex items-center gap-1.5">
							<span className="text-soft">{field}</span>
							<select
								className="field max-w-[130px] py-0.5"
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
								{count} {words[outcome]?.[count === 1 ? 0 : 1]}
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
						columns={shown}
						rowKey={(row) => String(row.line)}
						chosen={chosen}
						onChoose={(row) => setChosen(String(row.line))}
					/>
				</>
			)}
		</main>
	);
}
