/** Segments: what is on each port. Who is where, where a segment is, and what is free. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link } from "react-router";
import { hostsSheet, useDownload } from "../api/downloads";
import { useChange } from "../api/edits";
import { useMay } from "../api/session";
import { useOpenFabric } from "../app/open";
import { useRows } from "../app/present";
import { KeysDialog } from "../ui/keys";
import { usePlace } from "../ui/place";
import { counted } from "../ui/words";
import { FIRST, type Place } from "./cells";
import { RackFaces } from "./faces";
import { SegmentsMargin } from "./margin";
import { type Column, type Row, type Sieve, useCarrying, useRowsAt, WINDOW } from "./queries";
import { Sheet } from "./sheet";

const START: { at: Place; anchor: Place } = {
	at: { row: 0, column: FIRST },
	anchor: { row: 0, column: FIRST },
};

export function SegmentsScreen() {
	const fabric = useOpenFabric();
	const download = useDownload();
	const mayEdit = useMay("edit", fabric.name);
	const change = useChange(fabric.name, true);
	const [place, goTo] = usePlace("rack", "host", "segment", "team", "find", "show", "at");
	const asked = place.rack || place.host || place.segment || place.team || place.find || place.show;
	const first = fabric.brief.racks?.length ? firstRack(fabric.brief.racks[0]?.racks ?? "") : "";
	const sieve = useMemo<Sieve>(
		() => (asked ? clean({ ...place, at: undefined }) : { rack: fabric.brief.pods ? undefined : first }),
		[asked, place, first, fabric.brief.pods],
	);
	const { data } = useCarrying(fabric.name, fabric.version, sieve);
	const [span, setSpan] = useState<[number, number]>([0, 0]);
	const row = useRowsAt(fabric.name, fabric.version, sieve, span[0], span[1]);
	const [{ at, anchor }, setChosen] = useState(START);
	/** One cell; a range is chosen by the grid alone. */
	const setAt = (place: Place) => setChosen({ at: place, anchor: place });
	useChosenInAddress(place, goTo, at, row, data?.columns, (there) => setAt(there));
	const onSeen = useCallback((from: number, to: number) => setSpan([from, to]), []);
	const here = row(at.row);
	const others = useRows(fabric.name, "port", here?.key ?? "");
	const look = (next: Record<string, string | undefined>) => {
		setChosen(START);
		goTo(next);
	};
	if (!data) return <div className="p-8 text-soft">Opening…</div>;
	const rack = sieve.rack ?? "";
	const shown = Array.from({ length: Math.min(data.total, 400) }, (_, index) => row(index)).filter(
		(one) => !!one,
	);
	const empty = data.columns.length === 0;
	return (
		<>
			<main className="flex min-w-0 flex-1 flex-col pt-3.5 pl-5">
				<div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1 pr-5">
					<h1 className="text-[17px] font-bold">{titleOf(sieve, rack)}</h1>
					<span className="text-soft">
						{counted(data.total, "port")} shown · {counted(data.hosts, "host")} in all · {data.free} ports
						free
					</span>
					<span className="ml-auto flex items-baseline gap-2">
						<Choose label="Rack" value={rack} options={data.racks} onChoose={(one) => look({ rack: one })} />
						<Choose
							label="Segment"
							value={sieve.segment ?? ""}
							options={data.columns.map((one) => one.name)}
							onChoose={(one) => look({ segment: one })}
						/>
						<Choose
							label="Team"
							value={sieve.team ?? ""}
							options={data.teams}
							onChoose={(one) => look({ team: one })}
						/>
						<input
							className="field h-7 w-40"
							aria-label="Find ports"
							placeholder="host, leaf, port…"
							value={place.find ?? ""}
							onChange={(event) => look({ find: event.target.value || undefined })}
						/>
						{mayEdit && (
							<Link className="button-plain" to={`/f/${fabric.name}/segments/import`}>
								From a sheet
							</Link>
						)}
						<button
							type="button"
							className="button-plain"
							onClick={() => void download(hostsSheet(fabric.name, "xlsx"))}
						>
							As a sheet
						</button>
					</span>
				</div>
				{rack && (
					<RackFaces
						rows={shown}
						at={here}
						onPort={(key) =>
							setAt({
								row: Math.max(
									0,
									shown.findIndex((one) => one.key === key),
								),
								column: at.column,
							})
						}
					/>
				)}
				{empty ? (
					<p className="max-w-[60ch] pt-8">
						No segment is here yet. Add one to the brief, and its column stands here for every port.
					</p>
				) : (
					<Sheet
						columns={data.columns}
						total={data.total}
						row={row}
						at={at}
						anchor={anchor}
						others={others}
						mayEdit={mayEdit}
						onChoose={(to, from) => {
							change.reset();
							setChosen({ at: to, anchor: from });
						}}
						onSeen={onSeen}
						onFill={(cells) => change.mutate({ kind: "fill", cells })}
						onAttach={(rows, hosts) => change.mutate({ kind: "attach", rows, hosts, plug: "", team: "" })}
						onDress={(hosts, field, value) => change.mutate({ kind: "dress", hosts, field, value })}
						known={{ plug: data.plugs, team: data.teams }}
						onDetach={(hosts) => change.mutate({ kind: "detach", hosts })}
					/>
				)}
				<p className="flex gap-4 border-t border-hair py-1.5 pr-5 text-[11.8px] text-soft">
					<span>
						<kbd>T</kbd> tagged <kbd>U</kbd> untagged <kbd>Del</kbd> none
					</span>
					<span>
						<kbd>Ctrl D</kbd> fill down <kbd>Ctrl R</kbd> right
					</span>
					<span className="ml-auto">{change.isPending ? "Saving…" : ""}</span>
				</p>
			</main>
			<SegmentsMargin
				fabric={fabric}
				row={here}
				column={data.columns[at.column - FIRST]}
				columns={data.columns}
				at={at}
				failure={change.error}
				onSieve={look}
			/>
			<KeysDialog
				here={[
					["← ↑ ↓ →", "move through the cells"],
					["Shift + arrows", "choose a range"],
					["T, U, Del", "tagged, untagged, not here"],
					["Ctrl D, Ctrl R", "fill down, fill right"],
					["Ctrl C, Ctrl V", "copy and paste, as a sheet does"],
					["Enter", "name a host at a free port; say its team or plug"],
				]}
			/>
		</>
	);
}

/** The chosen cell stands in the address, as a port and a segment, and is chosen again where the address names one. */
function useChosenInAddress(
	place: Record<string, string | undefined>,
	goTo: (next: Record<string, string | undefined>) => void,
	at: Place,
	row: (index: number) => Row | undefined,
	columns: Column[] | undefined,
	choose: (there: Place) => void,
) {
	const found = useRef(!place.at);
	const key = row(at.row)?.key;
	useEffect(() => {
		if (found.current || !columns || !row(0)) return;
		found.current = true;
		const [port, segment] = (place.at ?? "").split("~");
		const index = Array.from({ length: WINDOW }, (_, one) => row(one)).findIndex((one) => one?.key === port);
		const column = columns.findIndex((one) => one.name === segment);
		if (index >= 0) choose({ row: index, column: column >= 0 ? column + FIRST : FIRST });
	});
	useEffect(() => {
		if (!found.current || !key || !columns) return;
		const said = [key, columns[at.column - FIRST]?.name].filter(Boolean).join("~");
		if (said === place.at || (at === START.at && !place.at)) return;
		// Keys come faster than an address may change.
		const soon = setTimeout(() => goTo({ ...place, at: said }), 300);
		return () => clearTimeout(soon);
	}, [key, at, columns, place, goTo]);
}

const clean = (place: Record<string, string | undefined>): Sieve =>
	Object.fromEntries(Object.entries(place).filter(([, value]) => value)) as Sieve;

/** The first rack that a range of racks names. */
export const firstRack = (racks: string): string => racks.split(/\.\.|,/)[0]?.trim() ?? "";

function titleOf(sieve: Sieve, rack: string): string {
	if (sieve.host) return sieve.host;
	if (sieve.segment) return `Where ${sieve.segment} is`;
	if (sieve.team) return `Hosts of ${sieve.team}`;
	if (sieve.find) return `Ports with “${sieve.find}”`;
	return rack ? `Rack ${rack}` : "All ports";
}

interface ChooseProps {
	label: string;
	value: string;
	options: string[];
	onChoose: (one: string) => void;
}

function Choose({ label, value, options, onChoose }: ChooseProps) {
	if (!options.length) return null;
	return (
		<select
			aria-label={label}
			className="field h-7 max-w-[130px]"
			value={value}
			onChange={(event) => onChoose(event.target.value)}
		>
			<option value="" disabled>
				{label.toLowerCase()}…
			</option>
			{options.map((one) => (
				<option key={one} value={one}>
					{one}
				</option>
			))}
		</select>
	);
}
