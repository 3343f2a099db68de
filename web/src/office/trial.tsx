/** The template tried on a switch while it is written: its file, with what is other than before. */
import { defaultHighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { unifiedMergeView } from "@codemirror/merge";
import { EditorState } from "@codemirror/state";
import { EditorView, lineNumbers } from "@codemirror/view";
import { useEffect, useRef, useState } from "react";
import type { Fault } from "../api/client";
import { useFabrics, useSwitches } from "../api/queries";
import { useSettled } from "../ui/settled";
import { counted, number } from "../ui/words";
import { Data } from "./data";
import { type Files, useTally, useTried } from "./queries";

interface Props {
	target: string;
	files: Files;
	onFaults: (faults: readonly Fault[]) => void;
}

const NONE: readonly Fault[] = [];

export function TrialPane({ target, files, onFaults }: Props) {
	const fabrics = useFabrics().data ?? [];
	const [fabric, setFabric] = useState(() => sessionStorage.getItem("tried fabric") ?? "");
	const name = fabrics.some((one) => one.name === fabric) ? fabric : (fabrics[0]?.name ?? "");
	const switches = useSwitches(name, fabrics.find((one) => one.name === name)?.version ?? 0).data ?? [];
	const [wanted, setWanted] = useState("");
	const at = switches.find((one) => one.name === wanted)?.name ?? switches.at(-1)?.name ?? "";
	const [path, setPath] = useState("");
	const [data, setData] = useState<Record<string, unknown> | null>(null);
	const settled = useSettled(files, 120);
	const tried = useTried(name, target, settled, at, data);
	const found = tried.error ? undefined : tried.data;
	const faults = tried.error?.problem.faults ?? found?.faults ?? NONE;
	useEffect(() => onFaults(faults), [faults, onFaults]);
	const paths = Object.keys(found?.files ?? {});
	const shown = paths.includes(path) ? path : (paths[0] ?? "");

	return (
		<section aria-label="Trial" className="flex min-h-0 w-[470px] flex-none flex-col border-l border-hair">
			<div className="flex items-center gap-2 border-b border-hair px-3 py-2">
				<span className="label-small">Tried on</span>
				<select
					className="field"
					aria-label="Fabric"
					value={name}
					onChange={(event) => {
						setFabric(event.target.value);
						setData(null);
						sessionStorage.setItem("tried fabric", event.target.value);
					}}
				>
					{fabrics.map((one) => (
						<option key={one.name}>{one.name}</option>
					))}
				</select>
				<select
					className="field mono min-w-0 flex-1"
					aria-label="Switch"
					value={at}
					onChange={(event) => {
						setWanted(event.target.value);
						setData(null);
					}}
				>
					{switches.map((one) => (
						<option key={one.key}>{one.name}</option>
					))}
				</select>
				<Data fabric={name} at={at} data={data} onData={setData} />
			</div>
			<div
				role="tablist"
				aria-label="Files"
				className="flex flex-wrap gap-x-4 border-b border-hair px-3 pt-1.5"
			>
				{paths.map((one) => (
					<button
						key={one}
						type="button"
						role="tab"
						aria-selected={one === shown}
						className={`mono pb-1 ${one === shown ? "border-b-2 border-indigo font-bold text-indigo" : "text-soft"}`}
						onClick={() => setPath(one)}
					>
						{one.split("/").at(-1)}
					</button>
				))}
				<span className="ml-auto pb-1 text-[12px] text-soft">
					{found && !faults.length ? `${found.took.toFixed(0)} ms` : ""}
				</span>
			</div>
			{faults.length > 0 && (
				<ul role="alert" className="border-b border-l-4 border-hair border-l-madder py-1.5 pl-3 text-madder">
					{faults.slice(0, 5).map((fault) => (
						<li key={fault.message}>{fault.message}</li>
					))}
				</ul>
			)}
			{found && shown && <Compared before={found.before[shown] ?? ""} after={found.files[shown] ?? ""} />}
			{!found?.files[shown] && <div className="flex-1" />}
			{found && found.missing.length > 0 && (
				<details className="border-t border-hair px-3 py-1.5">
					<summary className="cursor-pointer text-weld-ink">
						{counted(found.missing.length, "thing")} of the model in no file
					</summary>
					<ul className="max-h-32 overflow-y-auto pl-4 text-soft">
						{found.missing.map((one) => (
							<li key={one}>{one}</li>
						))}
					</ul>
				</details>
			)}
			<OverAll fabric={name} target={target} files={settled} />
		</section>
	);
}

/** How it goes over all switches of the fabric, in numbers, when it is asked for. */
function OverAll({ fabric, target, files }: { fabric: string; target: string; files: Files }) {
	const tally = useTally(fabric);
	const found = tally.data;
	const { reset } = tally;
	// biome-ignore lint/correctness/useExhaustiveDependencies: numbers of other files say nothing
	useEffect(() => reset(), [reset, files, fabric]);
	return (
		<div className="border-t border-hair px-3 py-2 text-[12.5px]">
			{!found && (
				<button
					type="button"
					className="button-plain"
					disabled={tally.isPending || !fabric}
					onClick={() => tally.mutate({ target, files })}
				>
					{tally.isPending ? "Trying all switches…" : `Try all switches of ${fabric}`}
				</button>
			)}
			{tally.error && <p className="text-madder">{tally.error.message}</p>}
			{found && (
				<>
					<p>
						<b>{found.written}</b> of {found.switches} switches are written, {number(found.lines)} lines;{" "}
						{found.same} as they are now.
					</p>
					<ul className="text-madder">
						{Object.entries(found.refused)
							.slice(0, 5)
							.map(([words, count]) => (
								<li key={words}>
									{count}: {words}
								</li>
							))}
					</ul>
					<ul className="text-weld-ink">
						{Object.entries(found.missing)
							.slice(0, 10)
							.map(([path, count]) => (
								<li key={path}>
									<span className="mono">{path}</span> is in no file of {count}
								</li>
							))}
					</ul>
				</>
			)}
		</div>
	);
}

/** A text with the lines that are other than before. */
function Compared({ before, after }: { before: string; after: string }) {
	const host = useRef<HTMLDivElement>(null);
	useEffect(() => {
		if (!host.current) return;
		const old = host.current.querySelector(".cm-scroller");
		const scrolled = old?.scrollTop ?? 0;
		const compares = before !== "" && before !== after;
		const editor = new EditorView({
			state: EditorState.create({
				doc: after,
				extensions: [
					lineNumbers(),
					EditorState.readOnly.of(true),
					EditorView.editable.of(false),
					EditorView.contentAttributes.of({ "aria-label": "What the switch gets" }),
					syntaxHighlighting(defaultHighlightStyle),
					...(compares
						? [
								unifiedMergeView({
									original: before,
									mergeControls: false,
									gutter: true,
									highlightChanges: false,
									collapseUnchanged: { margin: 3, minSize: 8 },
								}),
							]
						: []),
				],
			}),
		});
		host.current.replaceChildren(editor.dom);
		editor.scrollDOM.tabIndex = 0;
		editor.scrollDOM.scrollTop = scrolled;
		return () => editor.destroy();
	}, [before, after]);
	return <div ref={host} className="min-h-0 flex-1 overflow-hidden" />;
}
