/** The work list of a rack, for a phone at the rack: tick what is laid, read labels, write lengths and light, note faults; also without a network. */
import { useEffect, useMemo, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import type { CableRow } from "../api/client";
import { client, every, got } from "../api/client";
import { useKept } from "../api/kept";
import { useMay } from "../api/session";
import { counted } from "../ui/words";
import { CableWork } from "./cablework";
import { useOutbox, withWaiting } from "./outbox";
import { type Elevation, useCableWork } from "./queries";

export function WorkList() {
	const { fabric = "" } = useParams();
	const [search, setSearch] = useSearchParams();
	const rack = search.get("rack") ?? "";
	const cables = useKept<CableRow[]>(`cables ${fabric}`, () =>
		every((query) =>
			client.GET("/api/v1/fabrics/{name}/cables", { params: { path: { name: fabric }, query } }),
		),
	);
	const may = useMay("cable", fabric);
	const { data: rows } = useCableWork(fabric);
	const outbox = useOutbox(fabric);
	const [open, setOpen] = useState("");
	const labels = useMemo(() => new Map((cables ?? []).map((cable) => [cable.link, cable.label])), [cables]);
	const worked = useMemo(() => withWaiting(rows ?? [], outbox.deeds, labels), [rows, outbox.deeds, labels]);
	useEffect(() => {
		document.body.style.overflow = "auto";
		void navigator.serviceWorker?.register("/work.js");
		return () => {
			document.body.style.overflow = "";
		};
	}, []);
	const racks = useMemo(() => {
		const found = new Map<string, CableRow[]>();
		for (const cable of cables ?? [])
			for (const one of new Set([cable.a_rack, cable.b_rack]))
				if (one) found.set(one, [...(found.get(one) ?? []), cable]);
		return new Map([...found].sort(([one], [other]) => one.localeCompare(other, "en", { numeric: true })));
	}, [cables]);
	const runs = useRuns(fabric, rack, racks.get(rack) ?? []);
	const isLaid = (cable: CableRow) => Boolean(worked.get(cable.link)?.laid_at);
	return (
		<div className="mx-auto min-h-dvh max-w-[560px] bg-paper px-4 pb-10">
			<header className="sticky top-0 z-10 -mx-4 border-hair border-b bg-paper px-4 py-3">
				<div className="flex items-baseline gap-3">
					<Link className="button-plain" to={rack ? `/f/${fabric}/work` : `/f/${fabric}/cabling`}>
						‹ {rack ? "Racks" : "Cabling"}
					</Link>
					<h1 className="text-[17px] font-bold">{rack ? `Rack ${rack}` : `Work in ${fabric}`}</h1>
					{rack && (
						<span className="ml-auto text-soft">
							{runs.filter(isLaid).length} of {runs.length} laid
						</span>
					)}
				</div>
				{outbox.deeds.length > 0 && (
					<p className="mt-1 border-weld border-l-4 pl-2 text-[13px]" aria-live="polite">
						{counted(outbox.deeds.length, "deed")} on this device{" "}
						{outbox.deeds.length === 1 ? "waits" : "wait"} for the network.
					</p>
				)}
				<Find
					cables={cables ?? []}
					onFound={(cable) => {
						setOpen(cable.label);
						if (rack !== cable.a_rack && rack !== cable.b_rack) setSearch({ rack: cable.a_rack });
					}}
				/>
			</header>
			{!may && <p className="mt-3 text-soft">You look on; a technician may tick.</p>}
			{rack && cables && !racks.has(rack) && (
				<p className="mt-4">
					No cable of {fabric} ends in a rack {rack}.{" "}
					<Link className="button-plain" to={`/f/${fabric}/work`}>
						Show the racks
					</Link>
				</p>
			)}
			{rack ? (
				<ul>
					{runs.map((cable) => (
						<CableWork
							key={cable.label}
							cable={cable}
							rack={rack}
							worked={worked.get(cable.link)}
							open={open === cable.label}
							may={may}
							onOpen={() => setOpen(open === cable.label ? "" : cable.label)}
							onDeed={(kind, more) => outbox.record(cable.link, kind, more)}
						/>
					))}
				</ul>
			) : (
				<ul>
					{[...racks].map(([name, here]) => {
						const laid = here.filter(isLaid).length;
						return (
							<li key={name} className="border-hair/60 border-b">
								<button
									type="button"
									className="flex min-h-12 w-full items-center gap-3 text-left"
									onClick={() => setSearch({ rack: name })}
								>
									<b className="mono w-20 text-[15px]">{name}</b>
									<span className="h-2 flex-1 border border-faint/50">
										<i className="block h-full bg-moss" style={{ width: `${(100 * laid) / here.length}%` }} />
									</span>
									<span className="w-28 text-right text-soft">
										{laid} of {here.length} laid
									</span>
								</button>
							</li>
						);
					})}
				</ul>
			)}
		</div>
	);
}

/** The cables of a rack in the order in which they are best run; by label until the server says that. */
function useRuns(fabric: string, rack: string, here: CableRow[]): CableRow[] {
	const found = useKept<Elevation>(rack ? `rack ${fabric} ${rack}` : "", () =>
		got(client.GET("/api/v1/fabrics/{name}/elevations/{rack}", { params: { path: { name: fabric, rack } } })),
	);
	return useMemo(() => {
		const place = new Map((found?.runs ?? []).map((label, at) => [label, at]));
		return [...here].sort((one, other) => (place.get(one.label) ?? 1e9) - (place.get(other.label) ?? 1e9));
	}, [found, here]);
}

/** A label that is typed, or read by a scanner that types. */
function Find({ cables, onFound }: { cables: CableRow[]; onFound: (cable: CableRow) => void }) {
	const [text, setText] = useState("");
	const [missing, setMissing] = useState("");
	return (
		<form
			className="mt-2"
			onSubmit={(event) => {
				event.preventDefault();
				const wanted = (text.match(/cable=([^&\s]+)/)?.[1] ?? text.split(/[\s|]/)[0] ?? "").toLowerCase();
				const cable = cables.find((one) => one.label.toLowerCase() === wanted);
				setMissing(cable ? "" : wanted);
				setText("");
				if (cable) onFound(cable);
			}}
		>
			<input
				className="field mono w-full py-2"
				aria-label="Label of a cable, typed or scanned"
				placeholder="label, typed or scanned"
				value={text}
				onChange={(event) => setText(event.target.value)}
			/>
			{missing && (
				<p role="alert" className="mt-1 text-madder">
					No cable bears {missing}.
				</p>
			)}
		</form>
	);
}
