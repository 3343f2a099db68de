/** Because, for a number: whose it is, since when, by which rule, and the lines and cables that carry it. */
import { useState } from "react";
import { Link } from "react-router";
import type { Entry, Pool, PoolRange } from "../api/client";
import { useChange } from "../api/edits";
import { useBecause } from "../api/queries";
import { Chain } from "../app/chain";
import { MayOnly } from "../app/only";
import { useOpenFabric } from "../app/open";
import { Facts, Margin, MarginHead } from "../ui/margin";
import { clock, counted, day } from "../ui/words";
import { EndRest } from "./rest";
import { PoolSettings } from "./settings";

interface Props {
	entry: Entry | undefined;
	pool: Pool | undefined;
	ranges: PoolRange[];
	onClose: () => void;
}

export function LedgerMargin({ entry, pool, ranges, onClose }: Props) {
	return (
		<Margin width={288}>
			{entry ? (
				<>
					<button type="button" className="button-plain mb-1 text-[11.8px]" onClick={onClose}>
						‹ the pool {pool?.name}
					</button>
					<NumberReasons key={entry.id} entry={entry} pool={pool?.name ?? ""} />
				</>
			) : pool ? (
				<PoolSettings key={pool.name} pool={pool} ranges={ranges} />
			) : (
				<p className="text-soft">There is no pool yet. A fabric makes those that it draws from.</p>
			)}
		</Margin>
	);
}

const SAID: Record<string, string> = {
	held: "held by the draft",
	live: "live in the edition",
	resting: "resting",
	reserved: "waiting for its key",
};

function NumberReasons({ entry, pool }: { entry: Entry; pool: string }) {
	const fabric = useOpenFabric();
	const mine = entry.state !== "resting" && entry.state !== "reserved" && !entry.leaving;
	const version = entry.fabric === fabric.name ? fabric.version : 0;
	const { data } = useBecause(entry.fabric, version, mine ? { use: entry.use, key: entry.key } : null);
	const past = `/f/${fabric.name}/ledger/past?space=${encodeURIComponent(entry.space)}&number=${encodeURIComponent(entry.number)}`;
	const rows: [string, React.ReactNode][] = [
		["Use", entry.use],
		[
			"Belongs to",
			<span key="key" className="mono">
				{entry.key}
			</span>,
		],
		["Fabric", entry.fabric],
		["State", entry.leaving ? "live, leaves with the next edition" : (SAID[entry.state] ?? entry.state)],
		["Since", `${day(entry.since)}, ${clock(entry.since)}${entry.author ? `, ${entry.author}` : ""}`],
	];
	if (entry.rests_until) rows.push(["Rests until", `${day(entry.rests_until)}, ${clock(entry.rests_until)}`]);
	if (entry.pinned) rows.push(["Pinned", entry.note || "by hand"]);
	return (
		<>
			<MarginHead kind="Number" title={entry.number} mono />
			<Facts rows={rows} />
			<div className="mb-3 flex flex-wrap items-baseline gap-x-4">
				<Link className="button-plain" to={past}>
					All that it ever was
				</Link>
				{entry.fabric === fabric.name && entry.state !== "resting" && (
					<MayOnly right="number">
						<PinIt entry={entry} />
					</MayOnly>
				)}
				{entry.state === "resting" && (
					<MayOnly right="pools">
						<EndRest pool={pool} entries={[entry.id]}>
							End its rest
						</EndRest>
					</MayOnly>
				)}
			</div>
			{mine && data && (
				<>
					<div className="label-small mb-1.5">Because</div>
					<Chain steps={data.steps} />
					<Carried
						fabric={entry.fabric}
						cables={data.cables ?? []}
						lines={data.printed_on ?? []}
						more={data.more ?? 0}
					/>
				</>
			)}
			{entry.state === "resting" && (
				<p>
					{entry.key} gave it back. Until its rest is over only {entry.key} can have it again, so that nothing
					else answers at an address that someone still remembers.
				</p>
			)}
			{entry.state === "reserved" && (
				<p>It is pinned for {entry.key}, which is not there yet, and will have it when it comes.</p>
			)}
		</>
	);
}

function Carried({
	fabric,
	cables,
	lines,
	more,
}: {
	fabric: string;
	cables: string[];
	lines: { switch: string; file: string; line: number }[];
	more: number;
}) {
	const [all, setAll] = useState(false);
	const shown = all ? lines : lines.slice(0, 8);
	return (
		<section aria-label="Carried by" className="mt-1">
			<div className="label-small mb-1">Carried by</div>
			{cables.map((label) => (
				<Link key={label} className="mono block hover:text-indigo" to={`/f/${fabric}/cabling?cable=${label}`}>
					cable {label}
				</Link>
			))}
			{shown.map((at) => (
				<Link
					key={`${at.switch} ${at.file} ${at.line}`}
					className="mono block truncate text-[11.5px] hover:text-indigo"
					to={`/f/${fabric}/configs/${at.switch}?file=${encodeURIComponent(at.file)}&line=${at.line}`}
				>
					{at.switch} {at.file.split("/").at(-1)}:{at.line}
				</Link>
			))}
			{lines.length > shown.length && (
				<button type="button" className="button-plain" onClick={() => setAll(true)}>
					{counted(lines.length - shown.length, "more line")}
				</button>
			)}
			{more > 0 && (
				<p className="text-soft">{counted(more, "more switch", "more switches")} may print it too.</p>
			)}
			{lines.length === 0 && cables.length === 0 && <p className="text-soft">No file prints it.</p>}
		</section>
	);
}

function PinIt({ entry }: { entry: Entry }) {
	const fabric = useOpenFabric();
	const [open, setOpen] = useState(false);
	const [number, setNumber] = useState(entry.number);
	const [note, setNote] = useState(entry.note);
	const change = useChange(fabric.name);
	const pin = (wanted: string | null) =>
		change.mutate(
			{ kind: "pins", pins: [{ use: entry.use, key: entry.key, number: wanted, note }] },
			{ onSuccess: () => setOpen(false) },
		);
	if (!open)
		return (
			<>
				<button type="button" className="button-plain" onClick={() => setOpen(true)}>
					{entry.pinned ? "Change the pin" : "Pin it"}
				</button>
				{entry.pinned && (
					<button type="button" className="button-plain" onClick={() => pin(null)}>
						Let it go
					</button>
				)}
			</>
		);
	return (
		<form
			className="my-1 w-full space-y-2 border-l-4 border-hair pl-2.5"
			onSubmit={(event) => {
				event.preventDefault();
				pin(number);
			}}
		>
			<label className="block">
				<span className="label-small block">{entry.key} is to have</span>
				<input
					className="field mono w-full"
					value={number}
					onChange={(event) => setNumber(event.target.value)}
					required
				/>
			</label>
			<label className="block">
				<span className="label-small block">because</span>
				<input className="field w-full" value={note} onChange={(event) => setNote(event.target.value)} />
			</label>
			<button type="submit" className="button-main" disabled={change.isPending}>
				Pin it
			</button>
			<button type="button" className="button-plain ml-3" onClick={() => setOpen(false)}>
				Back
			</button>
		</form>
	);
}
