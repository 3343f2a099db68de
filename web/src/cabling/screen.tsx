/** Cabling: the hall from above with the way of what is chosen; under it the sheet of cables, or both ends of one. */
import { useMemo } from "react";
import { Link } from "react-router";
import { cablingCsv, useDownload } from "../api/downloads";
import { useCables } from "../api/queries";
import { useMay } from "../api/session";
import { useOpenFabric } from "../app/open";
import { KeysDialog, useKey } from "../ui/keys";
import { usePlace } from "../ui/place";
import { counted } from "../ui/words";
import { CheckView } from "./check";
import { useDrawing } from "./drawing";
import { Ends } from "./ends";
import { FloorPicture } from "./floor/view";
import { CablingMargin } from "./margin";
import { OrderView } from "./order";
import { type Floor, useElevation, useFloor, useRoute } from "./queries";
import { RackView } from "./rack";
import { CableSheet } from "./sheet";
import { lyingOf, useHeard, useWorked } from "./standing";
import { Unplaced } from "./unplaced";
import { Woven } from "./woven";

const NO_POINTS: { x: number; y: number }[] = [];

export function CablingScreen() {
	const fabric = useOpenFabric();
	const download = useDownload();
	const [place, goTo] = usePlace("cable", "rack", "view", "draw");
	const cables = useCables(fabric.name, fabric.version).data;
	const floor = useFloor().data;
	const label = place.cable ?? "";
	const rack = place.rack ?? "";
	const cable = cables?.find((one) => one.label === label);
	const route = useRoute(cable ? label : "").data;
	const { data: elevation, error } = useElevation(rack);
	const noRack = error?.problem.status === 404;
	const noCable = label !== "" && cables !== undefined && !cable;
	const missing = noCable ? `There is no cable ${label}` : noRack ? `Nothing stands in a rack ${rack}` : "";
	const view = (VIEWS.find(([name]) => name === place.view)?.[0] ?? "sheet") as View;
	const work = useWorked(cables);
	const heard = useHeard();
	const lying = useMemo(() => lyingOf(cables ?? [], work.worked, heard), [cables, work.worked, heard]);
	const mayDraw = useMay("edit", fabric.name);
	const { drawing, tools } = useDrawing(floor, rack, mayDraw && place.draw === "1");
	const racks = useMemo(
		() => (cable ? [cable.a_rack, cable.b_rack].filter(Boolean) : rack ? [rack] : []),
		[cable, rack],
	);
	useKey("e", () => goTo({ ...place, view: view === "ends" ? undefined : "ends" }));
	const may = useMay("cable", fabric.name);
	useKey("d", () => mayDraw && goTo({ ...place, draw: place.draw ? undefined : "1" }));
	useKey("Escape", () => goTo({}));
	const choose = (next: string) =>
		goTo({ rack: next || undefined, view: next ? place.view : undefined, draw: place.draw });
	return (
		<>
			<main className="flex min-w-0 flex-1 flex-col px-5 pt-3.5">
				<div className="mb-1 flex items-baseline gap-5">
					<h1 className="flex-none text-[17px] font-bold">
						{floor?.placed ? "The hall, from above" : "Cabling plan"}
					</h1>
					<span className="truncate text-soft">{floor?.placed && summary(floor)}</span>
					<DrawButton
						on={place.draw === "1"}
						there={mayDraw && floor?.placed === true}
						onDraw={(on) => goTo({ ...place, draw: on ? "1" : undefined })}
					/>
					<Link
						className="button-plain flex-none"
						to={`/f/${fabric.name}/work${rack ? `?rack=${rack}` : ""}`}
					>
						Work list
					</Link>
					<button
						type="button"
						className="button-plain flex-none"
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
					<div className="relative flex h-[46%] min-h-[180px] flex-none">
						<FloorPicture
							floor={floor}
							racks={racks}
							route={route?.points ?? NO_POINTS}
							laid={work.shares}
							bundles={cable ? [] : (elevation?.bundles ?? [])}
							drawing={drawing}
							onChoose={choose}
						/>
						{tools}
					</div>
				)}
				{floor && <Findings floor={floor} />}
				{cables && cables.length > 0 && (
					<>
						<Views
							view={view}
							laid={[...work.worked.values()].filter((one) => one.laid_at).length}
							wrong={[...heard.values()].filter((one) => one !== "right").length}
							of={cables.length}
							onView={(next) => goTo({ ...place, view: next === "sheet" ? undefined : next })}
						/>
						{view === "order" ? (
							<OrderView rack={rack} />
						) : view === "check" ? (
							<CheckView onCable={(one) => goTo({ cable: one, view: "check" })} />
						) : view === "weave" ? (
							<Woven
								cables={cables}
								lying={lying}
								chosen={cable}
								onCable={(one) => goTo({ cable: one, view: "weave" })}
							/>
						) : view === "ends" && cable ? (
							<Ends cable={cable} lying={lying} onOpen={(one) => goTo({ cable: one, view: "ends" })} />
						) : view === "ends" && elevation ? (
							<RackView rack={elevation} />
						) : (
							<CableSheet
								cables={cables}
								chosen={label}
								rack={rack}
								worked={work.worked}
								heard={heard}
								onChoose={(one) => goTo({ cable: one, view: place.view })}
								onMeasured={
									may
										? (lengths) => {
												for (const [link, number] of lengths) work.record(link, "measured", { number });
											}
										: undefined
								}
							/>
						)}
					</>
				)}
			</main>
			<CablingMargin
				cable={cable}
				rack={noCable ? undefined : elevation}
				missing={missing}
				onRack={(one) => goTo({ rack: one, view: "ends" })}
				onCable={(one) => goTo({ cable: one, view: "ends" })}
			/>
			<KeysDialog
				here={[
					["← ↑ ↓ →", "on the plan from rack to rack, in the sheet from cell to cell"],
					["+ − 0", "zoom the plan; the whole of it"],
					["D", "draw the hall: T a tray, R turns a row, Alt + arrows move it"],
					["E", "both ends of what is chosen, or the sheet"],
					["Esc", "let go of what is chosen"],
					["Shift + arrows, Ctrl C", "choose a range of the sheet, and copy it"],
					["Ctrl V", "on measured lengths, take a column of them from a sheet"],
				]}
			/>
		</>
	);
}

function DrawButton({ on, there, onDraw }: { on: boolean; there: boolean; onDraw: (on: boolean) => void }) {
	if (!there) return <span className="ml-auto" />;
	return (
		<button
			type="button"
			aria-pressed={on}
			className="button-plain ml-auto flex-none"
			onClick={() => onDraw(!on)}
		>
			{on ? "Done drawing" : "Draw the hall"}
		</button>
	);
}

function summary(floor: Floor): string {
	const rows = new Set(floor.racks.map((rack) => `${rack.hall} ${rack.row}`)).size;
	const full = Math.max(0, ...floor.trays.map((tray) => tray.filled));
	return `${counted(floor.racks.length, "rack")} in ${counted(rows, "row")}, ${counted(floor.cables, "cable")} of ${counted(Math.round(floor.metres), "metre")}, trays ${Math.round(full)} % full at the worst`;
}

const VIEWS = [
	["sheet", "Sheet"],
	["ends", "Ends and racks"],
	["order", "To order and to print"],
	["check", "Check"],
	["weave", "Weave"],
] as const;
type View = (typeof VIEWS)[number][0];

interface ViewsProps {
	view: View;
	laid: number;
	wrong: number;
	of: number;
	onView: (view: View) => void;
}

function Views({ view, laid, wrong, of, onView }: ViewsProps) {
	return (
		<div className="mt-1 mb-2 flex flex-none gap-4 border-t border-hair pt-2">
			{VIEWS.map(([name, words]) => (
				<button
					key={name}
					type="button"
					aria-pressed={name === view}
					className={`border-b-2 pb-0.5 ${name === view ? "border-indigo font-semibold" : "border-transparent text-soft hover:text-indigo"}`}
					onClick={() => onView(name)}
				>
					{words}
				</button>
			))}
			<span className="ml-auto text-soft">
				{laid} of {of} laid
				{wrong > 0 && <b className="ml-3 font-semibold text-madder">{wrong} not as planned</b>}
			</span>
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
