/** All fabrics, each a row with its own small weave; and a new one. */
import { Link } from "react-router";
import type { FabricRow, Sums } from "../api/client";
import { useFabrics } from "../api/queries";
import { useMay } from "../api/session";
import { Palette } from "../app/palette";
import { Me } from "../door/me";
import { Home } from "../ui/home";
import { KeysDialog } from "../ui/keys";
import { clock, counted, day, number, ratio } from "../ui/words";
import { DeleteFabric } from "./delete";
import { Deleted } from "./deleted";
import { NewFabric } from "./new";
import { Swatch } from "./swatch";
import { Waiting } from "./waiting";

export function FabricList() {
	const { data: fabrics, error } = useFabrics();
	const mayCreate = useMay("create");
	return (
		<div className="grid h-dvh grid-rows-[60px_1fr]">
			<header className="flex items-end gap-5 border-b border-hair px-5">
				<Home />
				<span className="ml-auto pb-3 text-[13.5px] text-soft">
					<Link className="button-plain mr-5" to="/office">
						Office
					</Link>
					<Link className="button-plain mr-5" to="/catalogue">
						Catalogue
					</Link>
					<kbd>Ctrl K</kbd> search{" "}
					{mayCreate && (
						<>
							<kbd className="ml-3">N</kbd> new fabric{" "}
						</>
					)}
					<kbd className="ml-3">?</kbd> keys
				</span>
				<Me />
			</header>
			<main className="overflow-y-auto px-12 py-9">
				<div className="mx-auto max-w-[1080px]">
					<div className="mb-5 flex items-baseline gap-4">
						<h1 className="text-[22px] font-bold tracking-tight">Fabrics</h1>
						{fabrics && fabrics.length > 0 && mayCreate && <NewFabric />}
					</div>
					<Waiting />
					{error && <p className="text-madder">{error.message}</p>}
					{!fabrics && !error && <p className="py-4 text-soft">Opening…</p>}
					{fabrics?.length === 0 && (mayCreate ? <Empty /> : <Nothing />)}
					<ul className="border-t border-hair">
						{fabrics?.map((fabric) => (
							<Row key={fabric.name} fabric={fabric} />
						))}
					</ul>
					<Deleted />
				</div>
			</main>
			<Palette />
			<KeysDialog here={[["N", "a new fabric"]]} />
		</div>
	);
}

function Empty() {
	return (
		<div className="border-t border-hair py-8">
			<p className="mb-3 max-w-[56ch]">
				No fabric is here yet. Name one, and its brief opens: how many spines, which racks, which switches.
				Everything else (numbers, configurations, cables) follows from it and moves with it.
			</p>
			<NewFabric main />
		</div>
	);
}

function Nothing() {
	return (
		<p className="max-w-[56ch] border-t border-hair py-8">
			No fabric is open to you yet. Its architect, or whoever keeps this Barrio, can share one with you.
		</p>
	);
}

function Row({ fabric }: { fabric: FabricRow }) {
	const mayDelete = useMay("delete", fabric.name);
	return (
		<li className="group flex items-center border-b border-hair hover:bg-raised focus-within:bg-raised">
			<Link to={`/f/${fabric.name}/brief`} className="flex min-w-0 flex-1 items-center gap-6 py-4">
				{fabric.sums ? <Reads fabric={fabric} sums={fabric.sums} /> : <Unreadable fabric={fabric} />}
			</Link>
			{mayDelete && <DeleteFabric fabric={fabric} />}
		</li>
	);
}

function Reads({ fabric, sums }: { fabric: FabricRow; sums: Sums }) {
	return (
		<>
			<Swatch spines={Math.max(1, Math.round(sums.spines / sums.pods))} leaves={sums.leaves} />
			<div className="min-w-0 flex-1">
				<div className="text-[16px] font-bold">{fabric.title || fabric.name}</div>
				<div className="line-clamp-2 text-soft" title={fabric.line}>
					{fabric.line.split(": ").slice(1).join(": ")}
				</div>
			</div>
			<Figure
				value={sums.leaf_uplinks_used ? `${ratio(sums.oversubscription)} : 1` : "–"}
				label="oversubscription"
			/>
			<Figure value={number(sums.host_ports)} label="host ports" />
			<Figure value={number(sums.cables)} label="cables" />
			<Figure value={`${sums.spine_ports_used} of ${sums.spine_ports}`} label="spine ports used" />
			<div className="w-40 text-right text-soft">
				{fabric.findings ? (
					<div className="text-madder">{counted(fabric.findings, "finding")}</div>
				) : (
					<div>no findings</div>
				)}
				<Saved fabric={fabric} />
			</div>
		</>
	);
}

/** A brief that an earlier Barrio took and this one refuses. */
function Unreadable({ fabric }: { fabric: FabricRow }) {
	return (
		<>
			<Swatch spines={0} leaves={0} />
			<div className="min-w-0 flex-1">
				<div className="text-[16px] font-bold">{fabric.title || fabric.name}</div>
				<div className="line-clamp-2 border-l-4 border-madder pl-2.5 text-madder">
					{fabric.wrong?.line ? `Line ${fabric.wrong.line}: ` : ""}
					{fabric.wrong?.message}
				</div>
			</div>
			<div className="w-60 text-right text-soft">
				<div className="text-madder">its brief cannot be read; mend it</div>
				<Saved fabric={fabric} />
			</div>
		</>
	);
}

function Saved({ fabric }: { fabric: FabricRow }) {
	return (
		<div className="label-small">
			saved {day(fabric.saved_at)}, {clock(fabric.saved_at)}
		</div>
	);
}

function Figure({ value, label }: { value: string; label: string }) {
	return (
		<div className="w-28">
			<div className="text-[17px] font-semibold tracking-tight">{value}</div>
			<div className="label-small">{label}</div>
		</div>
	);
}
