/** The margin of the Ladder: what one rung says of one setting, changed in place, with what that would reach before it is saved. */
import { useState } from "react";
import { Link } from "react-router";
import type { Failure } from "../api/client";
import { useChange } from "../api/edits";
import { useMay } from "../api/session";
import { WhoMay } from "../app/only";
import { useOpenFabric } from "../app/open";
import { Refusal } from "../app/refusal";
import { Facts, Margin, MarginHead } from "../ui/margin";
import { useSettled } from "../ui/settled";
import { counted } from "../ui/words";
import { rungName } from "./cell";
import { type RungSaid, type SettingRow, type Tried, useTried } from "./queries";
import { asSaid, isLong, isPlain, type Saying, sayingOf } from "./saying";

interface Props {
	setting: SettingRow;
	rung: string;
	said: RungSaid | undefined;
	/** How many settings the rung says something of. */
	entries: number;
}

export function LadderMargin({ setting, rung, said, entries }: Props) {
	const fabric = useOpenFabric();
	const mayEdit = useMay("edit", fabric.name);
	return (
		<Margin width={316}>
			<MarginHead kind={rungName(rung)} title={setting.words} />
			<Facts
				rows={[
					[
						"Setting",
						<span className="mono" key="name">
							{setting.name}
						</span>,
					],
					["It is", `a ${setting.kind}${setting.unit ? `, in ${setting.unit}` : ""}`],
					[
						"In",
						setting.files.map((file) => file.split("/").at(-1)).join(", ") || "no file of this fabric yet",
					],
					["On it", counted(said?.on ?? 0, "switch", "switches")],
					...(said?.says ? ([["It says", said.says]] as [string, string][]) : []),
					...(said?.why ? ([["Because", said.why]] as [string, string][]) : []),
					...(said?.hold ? ([["Held", said.hold]] as [string, string][]) : []),
				]}
			/>
			{rung === "barrio" && <p className="text-soft">This is what holds where nobody says anything.</p>}
			{rung === "office" && (
				<p className="text-soft">
					The office says it for every fabric.{" "}
					<Link className="button-plain" to="/office?file=office.yaml">
						Change it there
					</Link>
				</p>
			)}
			{!["barrio", "office"].includes(rung) && !isPlain(setting) && (
				<p className="text-soft">
					It is more than a line: write it in the brief’s text, under{" "}
					<span className="mono">{rung === "fabric" ? setting.name : `rungs, ${rung}`}</span>.
				</p>
			)}
			{!["barrio", "office"].includes(rung) && isPlain(setting) && mayEdit && (
				<SayForm
					key={`${rung} ${setting.name} ${fabric.version}`}
					setting={setting}
					rung={rung}
					said={said}
					entries={entries}
				/>
			)}
			<WhoMay />
		</Margin>
	);
}

function asks(setting: SettingRow): string {
	const columns = Object.keys(setting.columns);
	if (columns.length) return `Rows, pasted from a sheet: ${columns.join(", ")}`;
	if (isLong(setting)) return "Lines, each as it is to stand in the file";
	return setting.many ? "Values, with commas between" : "Value";
}

function SayForm({ setting, rung, said, entries }: Props) {
	const fabric = useOpenFabric();
	const before = sayingOf(setting, said);
	const [saying, setSaying] = useState<Saying>(before);
	const changed = JSON.stringify(saying) !== JSON.stringify(before);
	const silent = saying.text.trim() === "" && saying.hold.trim() !== "" && setting.kind !== "text";
	const value = asSaid(setting, saying, silent, rung === "fabric");
	const settled = useSettled(value, 250);
	const tried = useTried(fabric.name, fabric.version, setting.name, rung, settled, changed);
	const change = useChange(fabric.name, true);
	const put = (part: Partial<Saying>) => setSaying({ ...saying, ...part });
	const isFabric = rung === "fabric";
	const path = tried.data?.path;
	const failure: Failure | null = change.error ?? (changed ? tried.error : null);
	return (
		<form
			onSubmit={(event) => {
				event.preventDefault();
				if (path)
					change.mutate({ kind: "edit", edits: [[path, value]], note: `${setting.name} for ${rung}` });
			}}
			className="flex flex-col gap-2"
		>
			<label className="block" htmlFor="ladder-value">
				<span className="label-small block">{asks(setting)}</span>
				{isLong(setting) ? (
					<textarea
						id="ladder-value"
						className="field mono h-36 w-full text-[11.5px] whitespace-pre"
						spellCheck={false}
						value={saying.text}
						onChange={(event) => put({ text: event.target.value })}
					/>
				) : (
					<input
						id="ladder-value"
						className="field w-full"
						value={saying.text}
						placeholder={said?.says ? "nothing" : "says nothing yet"}
						onChange={(event) => put({ text: event.target.value })}
					/>
				)}
			</label>
			{setting.many && !isFabric && (
				<fieldset className="flex gap-4">
					{(
						[
							[false, "in place of wider ones"],
							[true, "beside wider ones"],
						] as const
					).map(([adds, words]) => (
						<label key={words} className="flex items-center gap-1.5">
							<input type="radio" name="adds" checked={saying.adds === adds} onChange={() => put({ adds })} />
							{words}
						</label>
					))}
				</fieldset>
			)}
			{!isFabric && (
				<label className="block">
					<span className="label-small block">Reason</span>
					<input
						className="field w-full"
						value={saying.why}
						onChange={(event) => put({ why: event.target.value })}
					/>
				</label>
			)}
			{!isFabric && (
				<label className="block">
					<span className="label-small block">Held against closer rungs, because</span>
					<input
						className="field w-full"
						value={saying.hold}
						placeholder="not held"
						onChange={(event) => put({ hold: event.target.value })}
					/>
				</label>
			)}
			{failure && <Refusal failure={failure} />}
			<div className="flex gap-3">
				<button type="submit" className="button-main" disabled={!changed || !path || change.isPending}>
					Say it
				</button>
				{said?.says && !isFabric && (
					<button
						type="button"
						className="button-plain"
						onClick={() =>
							change.mutate({
								kind: "edit",
								edits: [[entries > 1 ? said.path : `rungs."${rung}"`, null]],
								note: `${setting.name} for ${rung} taken out`,
							})
						}
					>
						Take it out
					</button>
				)}
			</div>
			{changed && tried.data && <Reached tried={tried.data} />}
		</form>
	);
}

/** What a change would reach: whom it gives another value, who keeps an exception, and the lines of one switch. */
function Reached({ tried }: { tried: Tried }) {
	const { changed, kept, rendered, sample, lines } = tried.reach;
	return (
		<section aria-label="What it would do" className="border-l-2 border-indigo pl-3">
			<p>
				<b>{counted(changed, "switch gets", "switches get")}</b> another value
				{rendered !== changed && `; the files of ${counted(rendered, "switch", "switches")} are made anew`}.
			</p>
			<p className="text-soft">
				{changed > 0 && lines.length === 0 && sample && `No line of ${sample} changes by it.`}
			</p>
			{Object.entries(kept).map(([rung, count]) => (
				<p key={rung} className="text-soft">
					{counted(count, "switch keeps", "switches keep")} what {rung} says.
				</p>
			))}
			{tried.findings.map((finding) => (
				<p key={finding.message} className="text-madder">
					{finding.message}
				</p>
			))}
			{lines.length > 0 && (
				<pre className="mono mt-1.5 max-h-60 overflow-auto text-[11px] break-words whitespace-pre-wrap leading-[1.45]">
					{lines
						.filter((line) => !line.startsWith("---"))
						.map((line, index) => (
							<span
								// biome-ignore lint/suspicious/noArrayIndexKey: lines of a text have no other name
								key={index}
								className={`block ${line.startsWith("+++") ? "text-soft" : line.startsWith("+") ? "text-indigo" : line.startsWith("-") ? "text-madder" : "text-soft"}`}
							>
								{line.startsWith("+++")
									? `${sample}  ${line.slice(4)}`
									: line.startsWith("@@")
										? "…"
										: `${line.slice(0, 1)} ${line.slice(1).trim()}`}
							</span>
						))}
				</pre>
			)}
		</section>
	);
}
