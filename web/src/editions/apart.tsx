/** Two sides as they stand in their files: words, numbers, switches, cables, and each file line by line, in one column or two. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Fabric, got } from "../api/client";
import type { components } from "../api/schema";
import { useMay } from "../api/session";
import { counted, number } from "../ui/words";
import { contracted } from "./names";
import type { Comment } from "./queries";
import { Head, Said, Say } from "./saying";

type View = components["schemas"]["ApartView"];
type Group = components["schemas"]["FileGroup"];
type Row = components["schemas"]["TextRow"];

interface Props {
	fabric: Fabric;
	one: string;
	other: string;
	comments: readonly Comment[];
	commentable: boolean;
}

const useApart = ({ fabric, one, other }: Omit<Props, "comments" | "commentable">) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "apart", fabric.version, one, other],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/apart", {
					params: { path: { name: fabric.name }, query: { one, other } },
				}),
			),
		placeholderData: keepPreviousData,
		retry: false,
	});

const LEVELS = [
	["words", "In the brief", "word"],
	["numbers", "Numbers", "number"],
	["switches", "Switches", "switch"],
	["cables", "Cables", "cable"],
] as const;

export function Apart(props: Props) {
	const { data, error } = useApart(props);
	if (error) return <p className="mt-4 border-l-4 border-madder pl-3">{error.message}</p>;
	if (!data) return <p className="mt-4 text-soft">Both sides are read…</p>;
	const none = Object.values(data.counts).every((count) => !count) && !data.unread;
	return (
		<>
			<p className="mt-2 text-soft">
				<b className="font-semibold text-ink">{props.one}</b> beside{" "}
				<b className="font-semibold text-ink">{props.other}</b>
				{none && ": they are the same, file for file"}.
			</p>
			{data.unread && <p className="mt-2 border-l-4 border-weld pl-3">{data.unread}</p>}
			{LEVELS.map(([key, title]) => (
				<Level key={key} {...props} kind={key} title={title} rows={data[key]} count={data.counts[key] ?? 0} />
			))}
			<Files {...props} data={data} />
		</>
	);
}

/** What a comment on a row of a level is about. */
const THING = { words: "word", numbers: "number", cables: "cable", switches: null } as const;

interface LevelProps extends Props {
	kind: keyof typeof THING;
	title: string;
	rows: View["words"];
	count: number;
}

function Level({ fabric, kind, title, rows, count, comments, commentable }: LevelProps) {
	const [whole, setWhole] = useState(false);
	const [at, setAt] = useState("");
	const may = useMay("say", fabric.name) && commentable && THING[kind] !== null;
	if (!count) return null;
	const shown = whole ? rows : rows.slice(0, 8);
	return (
		<>
			<Head>
				{title}: {number(count)}
			</Head>
			<ul>
				{shown.map((one) => {
					const said = comments.filter((each) => each.thing === THING[kind] && each.at === one.name);
					return (
						<li key={one.name} className="border-b border-hair/60 py-0.5">
							<div className="grid grid-cols-[minmax(160px,260px)_1fr_1fr] gap-4">
								<button
									type="button"
									className="mono truncate text-left enabled:hover:text-indigo"
									title={one.name}
									disabled={!may}
									aria-expanded={at === one.name}
									onClick={() => setAt(at === one.name ? "" : one.name)}
								>
									{one.name}
								</button>
								<span className="mono min-w-0 break-words text-soft">
									{one.one ? <s className="decoration-madder">{one.one}</s> : "not there"}
								</span>
								<span className="mono min-w-0 break-words">
									{one.other ? <span className="hatched px-1">{one.other}</span> : "not there"}
								</span>
							</div>
							{(at === one.name || said.length > 0) && (
								<div className="my-1 border-l-[3px] border-woad py-0.5 pl-2.5">
									<Said fabric={fabric} comments={said} all={comments} may={may} />
									{at === one.name && THING[kind] && (
										<Say
											fabric={fabric}
											label={`Comment on ${one.name}`}
											about={{ thing: THING[kind], at: one.name, stood: one.other || one.one }}
										/>
									)}
								</div>
							)}
						</li>
					);
				})}
			</ul>
			{rows.length > shown.length && (
				<button type="button" className="button-plain" onClick={() => setWhole(true)}>
					{number(count - shown.length)} more
				</button>
			)}
		</>
	);
}

const WORD: Record<Group["state"], string> = {
	changed: "",
	"only one": "goes",
	"only other": "comes",
};

function Files({ data, ...props }: Props & { data: View }) {
	const [open, setOpen] = useState("");
	const [columns, setColumns] = useState(2);
	if (!data.files.length) return null;
	return (
		<>
			<div className="flex items-baseline gap-4">
				<Head>Files: {counted(data.counts.files ?? 0, "kind of change", "kinds of change")}</Head>
				<button
					type="button"
					className="button-plain text-[12.5px]"
					onClick={() => setColumns(columns === 2 ? 1 : 2)}
				>
					{columns === 2 ? "in one column" : "side by side"}
				</button>
			</div>
			<ul>
				{data.files.map((group) => {
					const first = group.switches[0] ?? "";
					const path = first ? `switches/${first}/${group.path}` : group.path;
					const key = `${path} ${group.state}`;
					return (
						<li key={key} className="border-b border-hair/60 py-1">
							<button
								type="button"
								aria-expanded={open === key}
								className="flex w-full items-baseline gap-3 text-left hover:text-indigo"
								onClick={() => setOpen(open === key ? "" : key)}
							>
								<span className="mono">{group.path}</span>
								<span className="text-soft">
									{first ? contracted(group.switches, 4) : "of the fabric"}
									{group.switches.length > 4 && ` (${group.switches.length})`}
								</span>
								<span className="ml-auto whitespace-nowrap">
									{WORD[group.state] || `+${number(group.come)} −${number(group.gone)}`}
								</span>
							</button>
							{open === key && <Text {...props} path={path} columns={columns} />}
						</li>
					);
				})}
			</ul>
		</>
	);
}

function Text({
	fabric,
	one,
	other,
	path,
	columns,
}: Omit<Props, "comments" | "commentable"> & { path: string; columns: number }) {
	const { data, error } = useQuery({
		queryKey: ["fabric", fabric.name, "apart", fabric.version, one, other, path],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/apart/file", {
					params: { path: { name: fabric.name }, query: { one, other, path } },
				}),
			),
	});
	if (error) return <p className="text-madder">{error.message}</p>;
	if (!data) return <p className="text-soft">…</p>;
	return (
		<div
			className={`my-2 grid font-mono text-[11.5px] leading-[1.55] ${columns === 2 ? "grid-cols-2 gap-x-4" : "grid-cols-1"}`}
		>
			{data.map((row, at) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: rows stand in their order, and some are alike
				<Sides key={at} row={row} columns={columns} />
			))}
		</div>
	);
}

const GONE = "border-l-[3px] border-dashed border-madder text-soft line-through decoration-madder";
const COME = "hatched border-l-[3px] border-weld";
const SAME = "border-l-[3px] border-transparent";

function Sides({ row, columns }: { row: Row; columns: number }) {
	if (row.kind === "folded")
		return (
			<div className="col-span-full pl-2 text-soft">
				… {counted(row.folded, "line is", "lines are")} the same
			</div>
		);
	const left = <Line at={row.one} text={row.text} look={row.kind === "same" ? SAME : row.one ? GONE : ""} />;
	const right = (
		<Line at={row.other} text={row.beside} look={row.kind === "same" ? SAME : row.other ? COME : ""} />
	);
	if (columns === 2)
		return (
			<>
				{left}
				{right}
			</>
		);
	return (
		<>
			{row.one > 0 && left}
			{row.other > 0 && row.kind !== "same" && right}
		</>
	);
}

function Line({ at, text, look }: { at: number; text: string; look: string }) {
	return (
		<div className={`flex min-w-0 gap-2 ${look}`}>
			<span className="w-8 flex-none text-right text-soft no-underline">{at || ""}</span>
			<span className="min-w-0 break-all whitespace-pre-wrap">{text}</span>
		</div>
	);
}
