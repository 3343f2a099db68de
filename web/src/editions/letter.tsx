/** A change as a letter: what and why, what it does, in which order, and the lines. */
import { useState } from "react";
import type { Fabric } from "../api/client";
import { useSwitches } from "../api/queries";
import { useMay } from "../api/session";
import { counted, effectPhrases, number, share } from "../ui/words";
import { Apart } from "./apart";
import { Lines } from "./lines";
import { contracted } from "./names";
import { Picture } from "./picture";
import {
	type Comment,
	type Ripple,
	type Sides,
	type SwitchChange,
	useRipple,
	useSessions,
	useTouched,
} from "./queries";
import { Head, Said, Say } from "./saying";

interface Props {
	fabric: Fabric;
	sides: Sides;
	title: string;
	byline: string;
	why: string;
	comments: readonly Comment[];
	commentable: boolean;
	/** What it is held against, and what it is, as sides of files; nothing where there is nothing before it. */
	apart?: [string, string];
	/** Whether it is looked at file by file. */
	files: boolean;
	onFiles?: (files: boolean) => void;
}

export function Letter({
	fabric,
	sides,
	title,
	byline,
	why,
	comments,
	commentable,
	apart,
	files,
	onFiles,
}: Props) {
	const meaning = !files || !apart;
	const { data: ripple, error } = useRipple(fabric, sides, meaning);
	const touched = useTouched(fabric, sides, meaning).data ?? [];
	const switches = useSwitches(fabric.name, fabric.version).data ?? [];
	return (
		<main className="min-w-0 flex-1 overflow-y-auto px-7.5 pt-4 pb-10">
			<div className="flex flex-wrap items-baseline gap-x-3.5">
				<h2 className="text-[19px] font-bold">{title}</h2>
				<span className="text-soft">{byline}</span>
				{apart && onFiles && (
					<span className="ml-auto flex gap-4 text-[12.5px]">
						<button
							type="button"
							aria-pressed={meaning}
							className={meaning ? "font-bold" : "text-soft hover:text-indigo"}
							onClick={() => onFiles(false)}
						>
							What it does
						</button>
						<button
							type="button"
							aria-pressed={!meaning}
							className={meaning ? "text-soft hover:text-indigo" : "font-bold"}
							onClick={() => onFiles(true)}
						>
							File by file
						</button>
					</span>
				)}
			</div>
			{why && <p className="mt-1.5 max-w-[70ch] text-[14.5px] leading-relaxed whitespace-pre-wrap">{why}</p>}
			{!meaning && apart && (
				<Apart
					fabric={fabric}
					one={apart[0]}
					other={apart[1]}
					comments={comments}
					commentable={commentable}
				/>
			)}
			{meaning && error && <p className="mt-4 border-l-4 border-madder pl-3">{error.message}</p>}
			{meaning && !error && !ripple && <p className="mt-4 text-soft">What it does is worked out…</p>}
			{meaning && ripple && !error && (
				<>
					<Words fabric={fabric} ripple={ripple} comments={comments} commentable={commentable} />
					<Head>What it does</Head>
					{touched.length ? (
						<>
							<Picture switches={switches} touched={touched} />
							<Does touched={touched} ripple={ripple} />
							<Sums fabric={fabric} ripple={ripple} sides={sides} />
							<Head>In this order</Head>
							<Order ripple={ripple} />
						</>
					) : (
						<p className="text-soft">No file of any switch is other than {before(ripple)}.</p>
					)}
					<Lines fabric={fabric} sides={sides} comments={comments} commentable={commentable} />
				</>
			)}
		</main>
	);
}

const before = (ripple: Ripple) => (ripple.against ? `in edition ${ripple.against}` : "nothing");

type WordsProps = { ripple: Ripple } & Pick<Props, "fabric" | "comments" | "commentable">;

/** The words of the brief that are others now; each can be spoken of. */
function Words({ fabric, ripple, comments, commentable }: WordsProps) {
	const [whole, setWhole] = useState(false);
	const [at, setAt] = useState("");
	const may = useMay("say", fabric.name) && commentable;
	const shown = whole ? ripple.said : ripple.said.slice(0, 6);
	if (!shown.length) return null;
	const said = comments.filter(
		(one) => one.thing === "word" && ripple.said.some((word) => word.path === one.at),
	);
	const open = shown.find((one) => one.path === at);
	return (
		<>
			<p className="mt-2 leading-[1.9]">
				In the brief{" "}
				{shown.map((one, index) => (
					<span key={one.path}>
						{index > 0 && ", "}
						<button
							type="button"
							className="mono hover:text-indigo"
							aria-expanded={at === one.path}
							disabled={!may}
							onClick={() => setAt(at === one.path ? "" : one.path)}
						>
							{one.path}
						</button>{" "}
						from <s className="decoration-madder">{one.before}</s> to{" "}
						<b className="hatched px-1 font-semibold text-indigo">{one.after}</b>
					</span>
				))}
				{ripple.said.length > shown.length ? (
					<button type="button" className="button-plain ml-2" onClick={() => setWhole(true)}>
						and {ripple.said.length - shown.length} more
					</button>
				) : (
					"."
				)}
			</p>
			{(open || said.length > 0) && (
				<div className="my-1 border-l-[3px] border-woad py-0.5 pl-2.5">
					<Said fabric={fabric} comments={said} all={comments} may={may} />
					{open && may && (
						<Say
							fabric={fabric}
							label={`Comment on ${open.path}`}
							about={{ thing: "word", at: open.path, stood: open.after }}
						/>
					)}
				</div>
			)}
		</>
	);
}

const PLURAL: Record<string, [string, string]> = {
	leaf: ["leaf", "leaves"],
	border: ["border leaf", "border leaves"],
	spine: ["spine", "spines"],
	"super-spine": ["super-spine", "super-spines"],
};

/** A row for each kind of switch and what happens to it, the worst first. */
function Does({ touched, ripple }: { touched: readonly SwitchChange[]; ripple: Ripple }) {
	const kinds = new Map<string, SwitchChange[]>();
	for (const one of touched) {
		const key = `${one.state} ${one.role} ${one.effect}`;
		kinds.set(key, [...(kinds.get(key) ?? []), one]);
	}
	return (
		<div>
			{[...kinds.values()].map((members) => {
				const one = members[0] as SwitchChange;
				const [single, many] = PLURAL[one.role] ?? ["switch", "switches"];
				const sum = (of: (member: SwitchChange) => number) =>
					members.reduce((all, each) => all + of(each), 0);
				const [added, removed, sessions] = [
					sum((m) => m.added),
					sum((m) => m.removed),
					sum((m) => m.sessions),
				];
				return (
					<div
						key={`${one.state} ${one.role} ${one.effect}`}
						className="grid grid-cols-[150px_1fr_minmax(150px,auto)] gap-4 border-b border-hair/70 py-1.5"
					>
						<b className="font-semibold">
							{counted(members.length, single, many)}
							{one.state === "changed" ? "" : one.state === "new" ? " new" : " less"}
						</b>
						<span>
							<span className="mono">{contracted(members.map((m) => m.name).sort(), 4)}</span>
							<span className="text-soft">
								{" "}
								+{number(added)} −{number(removed)} lines
								{sessions > 0 && `, ${counted(sessions, "session restarts", "sessions restart")}`}
							</span>
						</span>
						<span className={one.effect === "none" || one.effect === "new" ? "text-soft" : "font-semibold"}>
							{one.words}
						</span>
					</div>
				);
			})}
			{ripple.untouched > 0 && (
				<p className="py-1.5 text-soft">
					{counted(ripple.untouched, "switch stays", "switches stay")} exactly as they are.
				</p>
			)}
		</div>
	);
}

function Sums({ fabric, ripple, sides }: { fabric: Fabric; ripple: Ripple; sides: Sides }) {
	const [open, setOpen] = useState(false);
	const sessions = useSessions(fabric, sides, open).data ?? [];
	const gateways = Object.keys(ripple.gateways);
	const rest = effectPhrases(
		Object.fromEntries(Object.entries(ripple.counts).filter(([key]) => !key.startsWith("switches"))),
	);
	return (
		<>
			<p className="mt-2.5">
				{ripple.sessions ? (
					<button type="button" className="button-plain" aria-expanded={open} onClick={() => setOpen(!open)}>
						{counted(ripple.sessions, "session restarts", "sessions restart")}
					</button>
				) : (
					"No session restarts"
				)}
				{ripple.links.length > 0 && `; ${counted(ripple.links.length, "link goes down", "links go down")}`}
				{gateways.length > 0 &&
					`; ${counted(gateways.length, "segment loses its gateway", "segments lose their gateway")} for a moment: ${contracted(gateways, 5)}`}
				{rest.length > 0 && `; ${rest.join(", ")}`}.
			</p>
			{open && (
				<ul
					aria-label="Sessions that restart"
					className="mt-1 max-h-52 overflow-y-auto border-l-4 border-weld pl-3"
				>
					{sessions.map((one) => (
						<li key={`${one.ends.join(" ")} ${one.cable} ${one.families.join(" ")}`}>
							<span className="mono">
								{one.ends[0]} – {one.ends[1]}
							</span>{" "}
							<span className="text-soft">
								{one.cable && `${one.cable}, `}
								{one.families.join(", ")}; by {one.by.join(" and ")}
							</span>
						</li>
					))}
				</ul>
			)}
		</>
	);
}

function Order({ ripple }: { ripple: Ripple }) {
	const { waves, unsafe, exact, bound, bandwidth } = ripple.order;
	return (
		<>
			<ol className="space-y-1">
				{waves.map((wave) => (
					<li key={wave.number} className="grid grid-cols-[22px_1fr] items-baseline">
						<b>{wave.number}</b>
						<span>
							<span className="mono">{contracted(wave.switches, 6)}</span>{" "}
							<span className="text-soft">
								{wave.why}
								{wave.bandwidth < 1 &&
									`; ${share(wave.bandwidth)} of bandwidth stays between any two other leaves`}
								{wave.out.length > 0 && (
									<b className="font-semibold text-ink">
										; {contracted(wave.out, 4)} {wave.out.length === 1 ? "is" : "are"} cut off meanwhile
									</b>
								)}
							</span>
						</span>
					</li>
				))}
			</ol>
			{unsafe.map((words) => (
				<p key={words} className="mt-2 border-l-4 border-madder pl-3">
					<b>This cannot be ordered safely.</b> {words}
				</p>
			))}
			<p className="mt-2 text-soft">
				{exact
					? `No order with fewer than ${counted(waves.length, "wave")} keeps two of what stand in for each other apart`
					: `${counted(waves.length, "wave")}; none has fewer than ${bound}`}
				{unsafe.length === 0 &&
					(bandwidth < 1
						? `. At the worst moment ${share(bandwidth)} of bandwidth stays.`
						: ". Between all others all bandwidth stays at every moment.")}
			</p>
		</>
	);
}
