/** Adopting: what a network that runs seems to be, part by part; only what somebody takes enters the draft. */
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { useMay } from "../api/session";
import { Refusal } from "../app/refusal";
import { Screen } from "../app/screen";
import { KeysDialog, useKey } from "../ui/keys";
import { usePlace } from "../ui/place";
import { clock, counted, day, number } from "../ui/words";
import { LookForm } from "./look";
import { AdoptMargin } from "./margin";
import { first, ofPart, PARTS, SURE, type View, waiting, waitingOdd } from "./parts";
import { type Adoption, type Difference, useAdoption, useSay } from "./queries";
import { AdoptedWeave } from "./woven";

export function AdoptScreen() {
	const { fabric = "" } = useParams();
	const { data: found, error } = useAdoption(fabric);
	return (
		<Screen title={`Adopting ${fabric}`}>
			{found ? (
				<Adopted found={found} />
			) : (
				<main className="mx-auto max-w-[720px] px-8 py-8">
					{error && error.problem.status !== 404 ? (
						<Refusal failure={error} />
					) : error ? (
						<>
							<h1 className="mb-3 text-[22px] font-bold tracking-tight">
								Nothing that runs was looked at yet
							</h1>
							<LookForm name={fabric} />
						</>
					) : (
						<p className="text-soft">It is read…</p>
					)}
				</main>
			)}
		</Screen>
	);
}

function Adopted({ found }: { found: Adoption }) {
	const [place, go] = usePlace("part", "at");
	const say = useSay(found.fabric);
	const may = useMay("edit", found.fabric);
	const navigate = useNavigate();
	const [anew, setAnew] = useState(false);
	const view = (place.part as View | undefined) ?? first(found);
	const rows = keysOf(found, view);
	const chosen = place.at && rows.includes(place.at) ? place.at : undefined;
	const alike = found.switches.filter((one) => one.alike).length;
	const step = (by: number) => {
		const at = chosen ? rows.indexOf(chosen) + by : by > 0 ? 0 : rows.length - 1;
		if (rows[at]) go({ part: view, at: rows[at] });
	};
	const proposal = found.proposals.find((one) => one.key === chosen);
	useKey("j", () => step(1));
	useKey("k", () => step(-1));
	useKey("t", () => proposal && !proposal.said && may && say.mutate({ do: "take", keys: [proposal.key] }));
	return (
		<div className="flex min-h-0 flex-1">
			<main className="flex min-h-0 min-w-0 flex-1 flex-col overflow-y-auto px-6 pt-5 pb-6">
				<header className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
					<h1 className="text-[19px] font-bold tracking-tight">
						{found.kind === "drawn"
							? `${counted(found.switches.length, "switch", "switches")} of ${found.fabric}, as drawn`
							: alike === found.switches.length
								? `All ${counted(alike, "switch", "switches")} of ${found.fabric} would be written as they run`
								: `${number(alike)} of ${counted(found.switches.length, "switch", "switches")} of ${found.fabric} would be written as they run`}
					</h1>
					<span className="ml-auto flex gap-4">
						{may && (
							<button type="button" className="button-plain" onClick={() => setAnew(!anew)}>
								Look again
							</button>
						)}
						{found.exists && (
							<button
								type="button"
								className="button-plain"
								onClick={() => navigate(`/f/${found.fabric}/brief`)}
							>
								To the draft
							</button>
						)}
					</span>
				</header>
				<p className="mt-0.5 text-soft">
					{found.source}, looked at by {found.author || "somebody"} on {day(found.at)}, {clock(found.at)};{" "}
					{counted(found.numbers, "number")}, each pinned to its owner when what it belongs to is taken
				</p>
				{anew && (
					<div className="mt-3 border-y border-hair py-3">
						<LookForm name={found.fabric} onDone={() => setAnew(false)} />
					</div>
				)}
				<div className="mt-5 grid grid-cols-[132px_minmax(280px,1fr)_minmax(240px,400px)] gap-x-7 max-lg:grid-cols-[120px_1fr]">
					<Tabs found={found} view={view} onView={(part) => go({ part })} />
					<section>
						<Rows
							found={found}
							view={view}
							chosen={chosen}
							onChoose={(at) => go({ part: view, at: at === chosen ? undefined : at })}
						/>
						{may && view !== "odd" && view !== "differs" && waiting(found, view) > 0 && (
							<button
								type="button"
								className="button-main mt-4"
								disabled={say.isPending}
								onClick={() =>
									say.mutate({
										do: "take",
										keys: ofPart(found, view).flatMap((one) => (one.said ? [] : [one.key])),
									})
								}
							>
								{waiting(found, view) === 1 ? "Take it" : `Take all ${waiting(found, view)}`}
							</button>
						)}
						{say.error && (
							<div className="mt-3">
								<Refusal failure={say.error} />
							</div>
						)}
					</section>
					<section
						aria-label={found.kind === "drawn" ? "As it is drawn" : "As it runs"}
						className="max-lg:col-span-2 max-lg:mt-6"
					>
						<AdoptedWeave
							switches={found.switches}
							drawn={found.kind === "drawn"}
							chosen={found.oddities.find((one) => one.key === chosen)?.switch}
							onChoose={(name) => {
								const odd = found.oddities.find((one) => one.switch === name);
								if (odd) go({ part: "odd", at: odd.key });
							}}
						/>
						{found.kind !== "drawn" && (
							<p className="mt-2 text-[12px] text-soft">
								A whole thread would be written as it runs; a broken one otherwise, madder where something of
								it fits no pattern; a dotted one could not be read.
							</p>
						)}
					</section>
				</div>
			</main>
			<AdoptMargin
				proposal={view === "odd" || view === "differs" ? undefined : proposal}
				oddity={view === "odd" ? found.oddities.find((one) => one.key === chosen) : undefined}
				difference={view === "differs" ? found.differences.find((one) => keyOf(one) === chosen) : undefined}
				may={may}
				busy={say.isPending}
				onDo={(deed) => say.mutate(deed)}
			/>
			<KeysDialog
				here={[
					["J K", "the line below, above"],
					["T", "take what is chosen"],
				]}
			/>
		</div>
	);
}

const keyOf = (one: Difference) => [one.path, ...one.within, one.before, one.after].join("\n");

function keysOf(found: Adoption, view: View): string[] {
	if (view === "odd") return found.oddities.map((one) => one.key);
	if (view === "differs") return found.differences.map(keyOf);
	return ofPart(found, view).map((one) => one.key);
}

interface TabsProps {
	found: Adoption;
	view: View;
	onView: (view: View) => void;
}

/** The parts down the page, each with how much waits in it. */
function Tabs({ found, view, onView }: TabsProps) {
	const tabs: [View, string, number, number][] = [
		...PARTS.map(([part, label]): [View, string, number, number] => [
			part,
			label,
			waiting(found, part),
			ofPart(found, part).length,
		]),
		["odd", "Fits no pattern", waitingOdd(found), found.oddities.length],
		["differs", "Would be otherwise", found.differences.length, found.differences.length],
	];
	return (
		<nav aria-label="Parts" className="flex flex-col items-stretch border-t border-hair">
			{tabs
				.filter(([, , , count]) => count > 0)
				.map(([part, label, open]) => (
					<button
						key={part}
						type="button"
						aria-current={part === view ? "page" : undefined}
						className={`flex min-h-8 items-baseline justify-between gap-2 border-b border-hair/60 py-1.5 text-left ${part === view ? "font-bold text-indigo" : "text-soft hover:text-indigo"}`}
						onClick={() => onView(part)}
					>
						{label} {open > 0 ? <span className="text-[12px]">{number(open)}</span> : <Done />}
					</button>
				))}
		</nav>
	);
}

const Done = () => (
	<span role="img" aria-label="settled" className="text-[12px] text-moss">
		✓
	</span>
);

interface RowsProps {
	found: Adoption;
	view: View;
	chosen: string | undefined;
	onChoose: (key: string) => void;
}

function Rows({ found, view, chosen, onChoose }: RowsProps) {
	if (view === "odd")
		return (
			<List label="Fits no pattern">
				{found.oddities.map((one) => (
					<Row
						key={one.key}
						at={one.key}
						chosen={chosen}
						onChoose={onChoose}
						mark={one.said}
						title={one.words}
						aside={one.switch}
					/>
				))}
			</List>
		);
	if (view === "differs")
		return (
			<List label="Would be otherwise">
				{found.differences.map((one) => (
					<Row
						key={keyOf(one)}
						at={keyOf(one)}
						chosen={chosen}
						onChoose={onChoose}
						mono
						title={one.after || `no ${one.before}`}
						aside={one.switches.length > 1 ? `${one.switches.length} switches` : (one.switches[0] ?? "")}
					/>
				))}
			</List>
		);
	return (
		<List label="Proposals">
			{ofPart(found, view).map((one) => (
				<Row
					key={one.key}
					at={one.key}
					chosen={chosen}
					onChoose={onChoose}
					mark={one.said}
					title={one.title}
					aside={one.said || SURE[one.sure]}
				/>
			))}
		</List>
	);
}

const List = ({ label, children }: { label: string; children: React.ReactNode }) => (
	<ul aria-label={label} className="border-t border-hair">
		{children}
	</ul>
);

interface RowProps {
	at: string;
	chosen: string | undefined;
	onChoose: (key: string) => void;
	title: string;
	aside: string;
	mark?: string;
	mono?: boolean;
}

/** A line: hollow while it waits, filled once it is in the draft, struck where it was refused or left out. */
function Row({ at, chosen, onChoose, title, aside, mark = "", mono = false }: RowProps) {
	const struck = mark === "refused" || mark === "left out";
	const kept = mark === "taken" || mark === "kept" || mark === "mended";
	return (
		<li className={`border-b border-hair/60 ${at === chosen ? "bg-chosen" : ""}`}>
			<button
				type="button"
				aria-pressed={at === chosen}
				className="grid min-h-8 w-full grid-cols-[14px_1fr_auto] items-center gap-x-2 py-1 text-left hover:text-indigo"
				onClick={() => onChoose(at)}
			>
				<span
					aria-hidden="true"
					className={`h-2.5 w-2.5 rounded-full border ${kept ? "border-moss bg-moss" : struck ? "border-soft" : "border-indigo"}`}
				/>
				<span
					className={`min-w-0 truncate ${mono ? "mono text-[12px]" : ""} ${struck ? "text-soft line-through" : ""}`}
					title={title}
				>
					{title}
				</span>
				<span className="text-[12px] text-soft">{aside}</span>
			</button>
		</li>
	);
}
