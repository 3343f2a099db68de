/** The margin of the Cabling screen: how the chosen cable goes, what it is and why, and what is printed on its ends. */
import { useState } from "react";
import { Link } from "react-router";
import type { CableRow } from "../api/client";
import { useBecause } from "../api/queries";
import { Chain } from "../app/chain";
import { MayOnly } from "../app/only";
import { useOpenFabric } from "../app/open";
import { Facts, Margin, MarginHead } from "../ui/margin";
import { clock, counted, day } from "../ui/words";
import { useOutbox } from "./outbox";
import { type Bundle, type Elevation, type Route, useDeedsOn, useRoute } from "./queries";

interface Props {
	cable: CableRow | undefined;
	rack: Elevation | undefined;
	/** What a link asks for and the plan does not have, in words; or nothing. */
	missing: string;
	onRack: (rack: string) => void;
	onCable: (label: string) => void;
}

export function CablingMargin({ cable, rack, missing, onRack, onCable }: Props) {
	return (
		<Margin width={316}>
			{cable ? (
				<CableWords cable={cable} onRack={onRack} />
			) : rack ? (
				<RackWords rack={rack} onCable={onCable} />
			) : missing ? (
				<NotThere said={missing} />
			) : (
				<>
					<MarginHead kind="Because" title="Choose a cable or a rack" />
					<p className="text-soft">
						A cable shows which holes it goes into, which way it lies, how long it is and why it is that part.
						A rack shows what stands in it and which bundles leave it.
					</p>
				</>
			)}
		</Margin>
	);
}

/** A link or a printed label may be older than the plan. */
function NotThere({ said }: { said: string }) {
	const fabric = useOpenFabric();
	return (
		<>
			<MarginHead kind="Not in the plan" title={said} />
			<p className="text-soft">
				The link or label that led here may be older than version {fabric.version} of {fabric.name}, or from
				another fabric.
			</p>
			<Link className="button-plain" to={`/f/${fabric.name}/cabling`}>
				Show all cables
			</Link>
		</>
	);
}

function CableWords({ cable, onRack }: { cable: CableRow; onRack: (rack: string) => void }) {
	const fabric = useOpenFabric();
	const route = useRoute(cable.label).data;
	const { data } = useBecause(fabric.name, fabric.version, { cable: cable.label });
	return (
		<>
			<MarginHead kind={`Cable, ${cable.speed}G`} title={cable.label} mono />
			<Facts
				rows={[
					[
						"From",
						<Where
							key="a"
							rack={cable.a_rack}
							unit={cable.a_unit}
							port={`${cable.a_switch} ${cable.a_port}`}
							onRack={onRack}
						/>,
					],
					[
						"To",
						<Where
							key="b"
							rack={cable.b_rack}
							unit={cable.b_unit}
							port={`${cable.b_switch} ${cable.b_port}`}
							onRack={onRack}
						/>,
					],
					...wayRows(cable, route),
					...(cable.plug ? ([["Plug", `shared, ${cable.plug}`]] as [string, string][]) : []),
					[
						"Part",
						cable.stock === null ? cable.kind : cable.via ? cable.part : `${cable.part}, ${cable.stock} m`,
					],
				]}
			/>
			<MayOnly right="cable">
				<Measuring cable={cable} />
			</MayOnly>
			<div className="label-small mb-1.5">Because</div>
			{data && <Chain steps={data.steps} />}
			<div className="label-small mt-3 mb-1.5">Labels, as printed</div>
			<Label label={cable.label} end="A" text={cable.label_a} />
			<Label label={cable.label} end="B" text={cable.label_b} />
			<History label={cable.label} />
		</>
	);
}

function wayRows(cable: CableRow, route: Route | undefined): [string, React.ReactNode][] {
	if (!route || cable.length === null) return [];
	if (cable.via) return throughPanels(cable, cable.via);
	const steps = route.trays.map((step) => `${step.tray} ${step.metres.toFixed(1)} m`);
	const way = route.trays.length
		? [`up ${route.up.toFixed(1)} m`, ...steps, `down ${route.down.toFixed(1)} m`]
		: [`${route.up.toFixed(1)} m up or down the rack`];
	way.push(`aside ${route.aside.toFixed(1)} m`, `slack ${route.slack} m`);
	return [
		["Way", way.join(", ")],
		[
			"Length",
			<span key="length">
				<b>{cable.length.toFixed(1)} m</b> worked out
				{cable.measured !== null && <>, {cable.measured.toFixed(1)} m measured</>}
			</span>,
		],
		...(route.bundle && route.bundle.cables > 1
			? ([
					[
						"Bundle",
						`${counted(route.bundle.cables, "cable")} from ${route.bundle.one} to ${route.bundle.other}, ${route.bundle.thick} mm thick`,
					],
				] as [string, string][])
			: []),
	];
}

/** Port, cord, panel, trunk, panel, cord, port. */
function throughPanels(cable: CableRow, via: NonNullable<CableRow["via"]>): [string, React.ReactNode][] {
	const cord = (metres: number | null, kind: string) =>
		`cord ${metres === null ? "" : `${metres} m, `}${kind}`;
	return [
		["Near", `${cord(via.lower_stock, via.lower_cord)}, to ${via.lower}`],
		["Through", `trunk ${via.trunk}`],
		["Far", `${cord(via.upper_stock, via.upper_cord)}, from ${via.upper}`],
		["Length", `${cable.length?.toFixed(1)} m in all`],
	];
}

interface WhereProps {
	rack: string;
	unit: number;
	port: string;
	onRack: (rack: string) => void;
}

function Where({ rack, unit, port, onRack }: WhereProps) {
	return (
		<span className="mono">
			{rack && (
				<>
					<button type="button" className="button-plain min-h-0" onClick={() => onRack(rack)}>
						{rack}
					</button>{" "}
					U{unit}{" "}
				</>
			)}
			{port}
		</span>
	);
}

/** A length that was measured, written over the one that was worked out. */
function Measuring({ cable }: { cable: CableRow }) {
	const fabric = useOpenFabric();
	const { record } = useOutbox(fabric.name);
	const [text, setText] = useState("");
	const metres = Number(text.replace(",", "."));
	return (
		<form
			className="mb-3 flex items-baseline gap-2"
			onSubmit={(event) => {
				event.preventDefault();
				if (!(metres > 0)) return;
				record(cable.link, "measured", { number: metres });
				setText("");
			}}
		>
			<input
				className="field mono w-20 py-0.5"
				aria-label="Measured length in metres"
				placeholder="metres"
				value={text}
				onChange={(event) => setText(event.target.value)}
			/>
			<button type="submit" className="button-plain" disabled={!(metres > 0)}>
				it measures so
			</button>
		</form>
	);
}

/** A label as it is printed, with the code that opens this cable. */
function Label({ label, end, text }: { label: string; end: "A" | "B"; text: string }) {
	const fabric = useOpenFabric();
	return (
		<img
			className="mb-1.5 w-full border border-ink bg-white"
			src={`/api/v1/fabrics/${fabric.name}/cables/${label}/label.svg?end=${end.toLowerCase()}&v=${fabric.version}`}
			alt={text}
		/>
	);
}

const WORDS: Record<string, string> = {
	laid: "laid",
	"taken out": "taken out",
	"scanned a": "label at end A read as",
	"scanned b": "label at end B read as",
	measured: "measured",
	"light a": "light received at end A",
	"light b": "light received at end B",
	fault: "fault:",
	mended: "the fault was mended",
};

/** What was done to a cable, the newest first. */
function History({ label }: { label: string }) {
	const { data } = useDeedsOn(label);
	if (!data?.length) return null;
	return (
		<>
			<div className="label-small mt-3 mb-1">What was done</div>
			<ul className="mb-3">
				{[...data].reverse().map((deed) => (
					<li key={deed.id} className="border-b border-hair/60 py-[3px]">
						{WORDS[deed.kind] ?? deed.kind}
						{deed.text && ` ${deed.text}`}
						{deed.number !== null && ` ${deed.number} ${deed.kind === "measured" ? "m" : "dBm"}`}
						<span className="text-soft">
							{" "}
							by {deed.author}, {day(deed.done_at)} {clock(deed.done_at)}
						</span>
					</li>
				))}
			</ul>
		</>
	);
}

function RackWords({ rack, onCable }: { rack: Elevation; onCable: (label: string) => void }) {
	const limit = (value: string, most: string | 0 | null) => (most ? `${value} of ${most}` : value);
	return (
		<>
			<MarginHead kind="Rack" title={rack.rack} mono />
			<Facts
				rows={[
					["Units", `${rack.units} of ${rack.height}`],
					[
						"Power",
						limit(
							`${rack.watts.toLocaleString("en")} W`,
							rack.feed && `${rack.feed.toLocaleString("en")} W a feed`,
						),
					],
					["Weight", limit(`${rack.weight} kg`, rack.most_weight && `${rack.most_weight} kg`)],
				]}
			/>
			<div className="label-small mb-1">Bundles to other racks</div>
			{rack.bundles.length === 0 && <p className="text-soft">No cable leaves this rack.</p>}
			<ul>
				{rack.bundles.map((bundle) => (
					<li key={`${bundle.one} ${bundle.other}`} className="border-b border-hair/60 py-[3px]">
						<BundleLine bundle={bundle} rack={rack.rack} onCable={onCable} />
					</li>
				))}
			</ul>
		</>
	);
}

function BundleLine({
	bundle,
	rack,
	onCable,
}: {
	bundle: Bundle;
	rack: string;
	onCable: (label: string) => void;
}) {
	const to = bundle.one === rack ? bundle.other : bundle.one;
	const long =
		bundle.shortest === null
			? "no way"
			: bundle.shortest === bundle.longest
				? `${bundle.longest} m`
				: `${bundle.shortest} to ${bundle.longest} m`;
	return (
		<button
			type="button"
			className="flex w-full gap-2 text-left hover:text-indigo"
			onClick={() => onCable(bundle.first)}
		>
			<b className="mono w-12 font-semibold">{to}</b>
			<span className="flex-1">{counted(bundle.cables, "cable")}</span>
			<span className="text-soft">{long}</span>
		</button>
	);
}
