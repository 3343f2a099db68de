/** One switch against what was meant: each line meant beside found, the ways out, and when it was true. */
import { useState } from "react";
import type { Fabric } from "../api/client";
import { useMay } from "../api/session";
import { Facts, Margin, MarginHead } from "../ui/margin";
import { clock, day } from "../ui/words";
import { TakeOver } from "./over";
import { asOne, type Deed, type Drift, type DriftLine, useHistory } from "./queries";

interface Props {
	fabric: Fabric;
	one: Drift | undefined;
	may: boolean;
	busy: boolean;
	/** Done, and whether it was taken. */
	onDo: (deed: Deed) => Promise<boolean>;
	/** On a phone the switch has the whole window, and this leads back. */
	onLeave?: () => void;
}

const EFFECTS: Record<string, string> = {
	none: "nothing notices",
	new: "something new",
	service: "a service notices",
	gone: "something goes",
	session: "sessions restart",
	link: "links go down",
	port: "ports go down",
	bridge: "the whole bridge notices",
	daemon: "routing starts anew",
	reboot: "the switch starts anew",
	unknown: "what notices is not known",
};

export function DriftMargin({ fabric, one, may, busy, onDo, onLeave }: Props) {
	const edits = useMay("edit", fabric.name);
	const { data: spans } = useHistory(fabric, one?.switch ?? "", one?.seen ?? "");
	if (onLeave && !one) return null;
	if (!one)
		return (
			<Margin width={340}>
				<MarginHead kind="what runs" title="Choose a switch" />
				<p className="text-soft">
					What of it is other than its edition has it, and the ways out, are told here.
				</p>
			</Margin>
		);
	return (
		<Margin width={onLeave ? window.innerWidth : 340}>
			{onLeave && (
				<button type="button" className="button-plain mb-2" onClick={onLeave}>
					‹ all of it
				</button>
			)}
			<MarginHead kind={`rack ${one.rack}`} title={one.switch} mono />
			<Facts
				rows={[
					["meant by", `edition ${one.edition}`],
					["as it is", `since ${day(one.since)}, ${clock(one.since)}`],
					...(one.lines.length || one.gone.length
						? ([["put back", EFFECTS[one.back] ?? one.back]] as [string, string][])
						: []),
					...(one.signed_in.length
						? ([["was there", one.signed_in.map(person).join("; ")]] as [string, string][])
						: []),
				]}
			/>
			{one.true && <p className="mb-3">All is as meant.</p>}
			{!one.agent && !one.true && (
				<p className="mb-3 text-soft">
					No agent runs here: it was held against saved outputs, and its files are copied by hand.
				</p>
			)}
			{may && one.agent && (one.lines.length > 0 || one.gone.length > 0) && (
				<button
					type="button"
					className="button-main mb-3"
					disabled={busy}
					onClick={() => void onDo({ do: "back", switches: [one.switch] })}
				>
					Put its files back
				</button>
			)}
			<ul aria-label="Lines">
				{one.lines.map((line) => (
					<Line
						key={`${line.path} ${line.within.join()} ${asOne(line)}`}
						fabric={fabric}
						name={one.switch}
						line={line}
						may={may}
						edits={edits}
						busy={busy}
						onLeave={(why, until) =>
							onDo({ do: "leave", switch: one.switch, path: line.path, line: asOne(line), why, until })
						}
					/>
				))}
			</ul>
			{one.gone.map((path) => (
				<p key={path} className="mb-2 border-madder border-l-[3px] pl-2">
					<span className="mono text-[12px]">{path}</span> is not there
				</p>
			))}
			{one.state.map((words) => (
				<p key={words} className="mb-2 border-madder border-l-[3px] pl-2 leading-snug">
					{words}
				</p>
			))}
			{one.left.length > 0 && (
				<>
					<div className="label-small mt-3 mb-1">Left as it is</div>
					{one.left.map((line) => (
						<p key={asOne(line)} className="mb-2 text-soft leading-snug">
							<span className="mono text-[12px]">{asOne(line)}</span> until {day(line.until ?? "")}:{" "}
							{line.why}
						</p>
					))}
				</>
			)}
			{spans && spans.length > 1 && (
				<>
					<div className="label-small mt-3 mb-1">When it was true</div>
					<ol className="text-[12px]">
						{spans.slice(0, 12).map((span) => (
							<li key={span.since} className={span.true ? "text-soft" : "text-madder"}>
								{day(span.since)}, {clock(span.since)} to {clock(span.until)}{" "}
								{span.true ? "all true" : [...span.files, ...span.state][0]}
							</li>
						))}
					</ol>
				</>
			)}
		</Margin>
	);
}

/** Who was signed in when it changed, from where, since when. */
const person = (one: Drift["signed_in"][number]) =>
	`${one.who}${one.source ? ` from ${one.source}` : ""}, ${clock(one.at)}`;

interface LineProps {
	fabric: Fabric;
	name: string;
	line: DriftLine;
	may: boolean;
	/** Whether one may change the draft. */
	edits: boolean;
	busy: boolean;
	onLeave: (why: string, until: string) => Promise<boolean>;
}

function Line({ fabric, name, line, may, edits, busy, onLeave }: LineProps) {
	const [open, setOpen] = useState<"" | "leave" | "over">("");
	const [why, setWhy] = useState("");
	const [until, setUntil] = useState(inDays(30));
	return (
		<li className="mb-3 border-madder border-l-[3px] pl-2">
			<div className="text-[11.5px] text-soft">
				{[line.path, ...line.within].join(" › ")}: {EFFECTS[line.effect] ?? line.effect}
			</div>
			<dl className="mono grid grid-cols-[46px_1fr] text-[12px] leading-relaxed">
				<dt className="text-soft">meant</dt>
				<dd className="min-w-0 break-words">{line.meant || <i className="text-soft">nothing</i>}</dd>
				<dt className="text-soft">found</dt>
				<dd className="min-w-0 break-words font-[600]">
					{line.found || <i className="font-normal text-soft">nothing</i>}
				</dd>
			</dl>
			<span className="flex gap-4">
				{may && (
					<button
						type="button"
						className="button-plain"
						onClick={() => setOpen(open === "leave" ? "" : "leave")}
					>
						Leave it
					</button>
				)}
				{edits && (
					<button
						type="button"
						className="button-plain"
						onClick={() => setOpen(open === "over" ? "" : "over")}
					>
						Take it over
					</button>
				)}
			</span>
			{open === "over" && <TakeOver fabric={fabric} name={name} line={line} onDone={() => setOpen("")} />}
			{open === "leave" && (
				<form
					className="mt-1"
					onSubmit={(event) => {
						event.preventDefault();
						// What was typed stays where it was refused.
						void onLeave(why, until).then((taken) => setOpen(taken ? "" : "leave"));
					}}
				>
					<label className="block">
						Why?
						<input
							className="field mt-0.5 w-full"
							value={why}
							onChange={(event) => setWhy(event.target.value)}
						/>
					</label>
					<label className="mt-1 block">
						Until
						<input
							type="date"
							className="field mt-0.5"
							value={until}
							onChange={(event) => setUntil(event.target.value)}
						/>
					</label>
					<button type="submit" className="button-main mt-2" disabled={busy || !why.trim()}>
						Leave this line
					</button>
				</form>
			)}
		</li>
	);
}

const inDays = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);
