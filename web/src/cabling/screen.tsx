/** Cabling: the hall from above with the way of what is chosen; under it the sheet of cables, or both ends of one. */
import { useMemo } from "react";
import { cablingCsv, useDownload } from "../api/downloads";
import { useCables } from "../api/queries";
import { useOpenFabric } from "../app/open";
import { KeysDialog, useKey } from "../ui/keys";
import { usePlace } from "../ui/place";
import { counted } from "../ui/words";
import { Ends } from "./ends";
import { FloorPicture } from "./floor/view";
import { CablingMargin } from "./margin";
import { type Floor, useElevation, useFloor, useRoute } from "./queries";
import { RackView } from "./rack";
import { CableSheet } from "./sheet";
import { Unplaced } from "./unplaced";

const NO_POINTS: { x: number; y: number }[] = [];

export function CablingScreen() {
	const fabric = useOpenFabric();
	const download = useDownload();
	const [place, goTo] = usePlace("cable", "rack", "view");
	const cables = useCables(fabric.name, fabric.version).data;
	const floor = useFloor().data;
	const label = place.cable ?? "";
	const rack = place.rack ?? "";
	const cable = cables?.find((one) => one.label === label);
	const route = useRoute(cable ? label : "").data;
	const elevation = useElevation(rack).data;
	const ends = place.view === "ends";
	const racks = useMemo(
		() => (cable ? [cable.a_rack, cable.b_rack].filter(Boolean) : rack ? [rack] : []),
		[cable, rack],
	);
	useKey("e", () => goTo({ ...place, view: ends ? undefined : "ends" }));
	useKey("Escape", () => goTo({}));
	const choose = (next: string) => goTo(next ? { rack: next, view: place.view } : {});
	return (
		<>
			<main className="flex min-w-0 flex-1 flex-col px-5 pt-3.5">
				<div className="mb-1 flex items-baseline gap-5">
					<h1 className="text-[17px] font-bold">{floor?.placed ? "The hall, from above" : "Cabling plan"}</h1>
					<span className="text-soft">{floor?.placed && summary(floor)}</span>
					<button
						type="button"
						className="button-plain ml-auto"
						onClick={() => void download(cablingCsv(fabric.name))}
					>
						Download as CSV
					</button>
				</div>
				{cables?.length === 0 && (
					<p className="pt-8">
						There is nothing to cable yet. Add racks to the brief, and each leaf’s cables to the spines are
						planned.
					</p>
				)}
				{floor && !floor.placed && cables && cables.length > 0 && <Unplaced />}
				{floor?.placed && (
					<div className="flex h-[46%] min-h-[180px] flex-none">
						<FloorPicture
							floor={floor}
							racks={racks}
							route={route?.points ?? NO_POINTS}
							bundles={cable ? [] : (elevation?.bundles ?? [])}
							onChoose={choose}
						/>
					</div>
				)}
				{floor && <Findings floor={floor} />}
				{cables && cables.length > 0 && (
					<>
						<Views ends={ends} onEnds={(next) => goTo({ ...place, view: next ? "ends" : undefined })} />
						{ends && cable ? (
							<Ends cable={cable} onOpen={(one) => goTo({ cable: one, view: "ends" })} />
						) : ends && elevation ? (
							<RackView rack={elevation} />
						) : (
							<CableSheet
								cables={cables}
								chosen={label}
								rack={rack}
								onChoose={(one) => goTo({ cable: one, view: place.view })}
							/>
						)}
					</>
				)}
			</main>
			<CablingMargin
				cable={cable}
				rack={elevation}
				onRack={(one) => goTo({ rack: one, view: "ends" })}
				onCable={(one) => goTo({ cable: one, view: "ends" })}
			/>
			<KeysDialog
				here={[
					["← ↑ ↓ →", "on the plan from rack to rack, in the sheet from cell to cell"],
					["+ − 0", "zoom the plan; the whole of it"],
					["E", "both ends of what is chosen, or the sheet"],
					["Esc", "let go of what is chosen"],
					["Shift + arrows, Ctrl C", "choose a range of the sheet, and copy it"],
				]}
			/>
		</>
	);
}

function summary(floor: Floor): string {
	const rows = new Set(floor.racks.map((rack) => `${rack.hall} ${rack.row}`)).size;
	const full = Math.max(0, ...floor.trays.map((tray) => tray.filled));
	return `${counted(floor.racks.length, "rack")} in ${counted(rows, "row")}, ${counted(floor.cables, "cable")} of ${counted(Math.round(floor.metres), "metre")}, trays ${Math.round(full)} % full at the worst`;
}

function Views({ ends, onEnds }: { ends: boolean; onEnds: (ends: boolean) => void }) {
	const tab = (on: boolean, to: boolean, words: string) => (
		<button
			type="button"
			aria-pressed={on}
			className={`border-b-2 pb-0.5 ${on ? "border-indigo font-semibold" : "border-transparent text-soft hover:text-indigo"}`}
			onClick={() => onEnds(to)}
		>
			{words}
		</button>
	);
	return (
		<div className="mt-1 mb-2 flex flex-none gap-4 border-t border-hair pt-2">
			{tab(!ends, false, "Sheet")}
			{tab(ends, true, "Ends and racks")}
		</div>
	);
}

function Findings({ floor }: { floor: Floor }) {
	if (!floor.findings.length) return null;
	return (
		<details className="flex-none text-[13px]">
			<summary className="cursor-pointer text-madder">
				{counted(floor.findings.length, "finding")}: {floor.findings[0]?.message}
			</summary>
			<ul className="max-h-28 overflow-y-auto">
				{floor.findings.slice(1).map((one) => (
					<li key={one.message} className="border-madder border-l-4 pl-2">
						{one.message}
					</li>
				))}
			</ul>
		</details>
	);
}
