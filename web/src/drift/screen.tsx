/** Drift: what runs against what was meant. The worst first, or on the Weave; a switch's lines with the ways out beside it. */
import { useMemo } from "react";
import { useMay } from "../api/session";
import { useOpenFabric } from "../app/open";
import type { Step } from "../brief/weave/scene";
import { StoodWeave } from "../brief/weave/stood";
import { KeysDialog, useKey } from "../ui/keys";
import { useNarrow } from "../ui/narrow";
import { usePlace } from "../ui/place";
import { clock, counted, day } from "../ui/words";
import { Asking } from "./asking";
import { Changes } from "./changes";
import { Following } from "./flow";
import { Held } from "./held";
import { HoldButton } from "./hold";
import { DriftMargin } from "./margin";
import { type Drift, useDrift, useMend } from "./queries";
import { RuleSentence } from "./rule";

const VIEWS = [
	["", "What drifted"],
	["weave", "On the Weave"],
	["changes", "What changed"],
	["held", "What they hold"],
	["ask", "Ask the switches"],
	["flow", "Follow a flow"],
] as const;

export function DriftScreen() {
	const fabric = useOpenFabric();
	const [place, go] = usePlace("switch", "as", "kind");
	const { data: every } = useDrift(fabric);
	const mend = useMend(fabric);
	const may = useMay("stage", fabric.name);
	const narrow = useNarrow(820);
	const wrong = (every ?? []).filter((one) => !one.true);
	const chosen = every?.find((one) => one.switch === place.switch);
	const shown = VIEWS.find(([as]) => as === place.as && !(narrow && as === "weave"))?.[0] ?? "";
	const step = (by: number) => {
		const at = wrong.findIndex((one) => one.switch === place.switch);
		const next = wrong[at < 0 ? (by > 0 ? 0 : wrong.length - 1) : at + by];
		if (next) go({ ...place, switch: next.switch });
	};
	useKey("j", () => step(1));
	useKey("k", () => step(-1));
	const turn = (as: (typeof VIEWS)[number][0]) => () => go({ ...place, as: as === shown ? undefined : as });
	useKey("c", turn("changes"));
	useKey("a", turn("ask"));
	useKey("f", turn("flow"));
	useKey("h", turn("held"));
	useKey("w", turn("weave"));
	if (!every) return <p className="p-8 text-soft">What runs is held against what was meant…</p>;
	return (
		<>
			<main
				className={`flex min-h-0 min-w-0 flex-1 flex-col overflow-y-auto px-5 pt-5 pb-3 max-sm:px-3 ${narrow && chosen ? "hidden" : ""}`}
			>
				<header className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
					<h2 className="text-[19px] font-bold tracking-tight">{heading(every.length, wrong.length)}</h2>
					<p className="text-soft" aria-live="polite">
						{every.length > 0 && `seen last at ${clock(lastSeen(every))}`}
					</p>
					<span className="ml-auto flex gap-4">
						{may && <HoldButton fabric={fabric} />}
						{may && wrong.some((one) => one.agent && (one.lines.length || one.gone.length)) && (
							<button
								type="button"
								className="button-plain"
								disabled={mend.isPending}
								onClick={() => mend.mutate({ do: "back", switches: [] })}
							>
								Put all files back
							</button>
						)}
					</span>
				</header>
				{every.length > 0 && (
					<nav aria-label="Views" className="mt-2 flex flex-wrap gap-x-5 gap-y-1">
						{VIEWS.filter(([as]) => !(narrow && as === "weave")).map(([as, label]) => (
							<button
								key={as}
								type="button"
								aria-current={as === shown ? "true" : undefined}
								className={as === shown ? "font-bold" : "text-soft hover:text-indigo"}
								onClick={() => go({ ...place, as: as || undefined })}
							>
								{label}
							</button>
						))}
					</nav>
				)}
				{!shown && every.length > 0 && <RuleSentence fabric={fabric} may={may} />}
				{!every.length ? (
					<p className="mt-3 max-w-[64ch] text-soft">
						Nothing was looked at yet. A switch is looked at every five minutes from when it was handed over;
						of one without an agent, saved outputs are held against its edition.
					</p>
				) : shown === "changes" ? (
					<Changes fabric={fabric} />
				) : shown === "ask" ? (
					<Asking fabric={fabric} names={every.map((one) => one.switch)} chosen={chosen?.switch} may={may} />
				) : shown === "flow" ? (
					<Following fabric={fabric} may={may} />
				) : shown === "held" ? (
					<Held
						fabric={fabric}
						names={every.map((one) => one.switch)}
						chosen={chosen?.switch}
						kind={place.kind}
						onChoose={(name, kind) => go({ ...place, switch: name, kind })}
					/>
				) : shown === "weave" ? (
					<Woven every={every} chosen={chosen} onChoose={(name) => go({ ...place, switch: name })} />
				) : (
					<ul aria-label="Not as meant" className="mt-3">
						{wrong.map((one) => (
							<Row
								key={one.switch}
								one={one}
								chosen={one === chosen}
								onChoose={() => go({ ...place, switch: one === chosen ? undefined : one.switch })}
							/>
						))}
					</ul>
				)}
			</main>
			<DriftMargin
				key={chosen?.switch ?? ""}
				fabric={fabric}
				one={chosen}
				may={may}
				busy={mend.isPending}
				onDo={(deed) =>
					mend.mutateAsync(deed).then(
						() => true,
						() => false,
					)
				}
				onLeave={narrow ? () => go({ ...place, switch: undefined }) : undefined}
			/>
			<KeysDialog
				here={[
					["J K", "the switch below, above"],
					["W", "the Weave, and back"],
					["C", "what changed, and back"],
					["H", "what they hold, and back"],
					["A", "ask the switches, and back"],
					["F", "follow a flow, and back"],
				]}
			/>
		</>
	);
}

function heading(looked: number, wrong: number): string {
	if (!looked) return "Is it still as it was meant?";
	return wrong
		? `${counted(wrong, "switch is", "switches are")} not as meant`
		: `All ${counted(looked, "switch", "switches")} are as meant`;
}

const lastSeen = (every: readonly Drift[]) =>
	every
		.map((one) => one.seen)
		.sort()
		.at(-1) ?? "";

interface RowProps {
	one: Drift;
	chosen: boolean;
	onChoose: () => void;
}

function Row({ one, chosen, onChoose }: RowProps) {
	const words = [
		one.lines.length && counted(one.lines.length, "line"),
		one.gone.length && counted(one.gone.length, "file is gone", "files are gone"),
		...one.state.slice(0, 1),
	].filter(Boolean);
	return (
		<li
			className={`grid min-h-8 grid-cols-[52px_104px_92px_1fr] items-center gap-x-2 border-b border-hair/60 max-sm:grid-cols-[44px_1fr] ${chosen ? "bg-chosen" : ""}`}
		>
			<span className="mono text-soft">{one.rack}</span>
			<button
				type="button"
				aria-pressed={chosen}
				className="mono text-left hover:text-indigo"
				onClick={onChoose}
			>
				{one.switch}
			</button>
			<span className="text-[12px] text-soft max-sm:hidden" title={`since ${one.since}`}>
				{since(one.since)}
			</span>
			<span className="min-w-0 truncate text-[12.5px] max-sm:col-span-2" title={words.join("; ")}>
				{words.join("; ")}
				{one.state.length > 1 && ` and ${one.state.length - 1} more`}
			</span>
		</li>
	);
}

/** Since when, as short as it says it: a clock today, a day before. */
function since(moment: string): string {
	const today = new Date().toDateString() === new Date(moment).toDateString();
	return `since ${today ? clock(moment) : day(moment)}`;
}

interface WovenProps {
	every: readonly Drift[];
	chosen: Drift | undefined;
	onChoose: (name: string) => void;
}

/** The Weave, whose threads are whole where all is as meant. */
function Woven({ every, chosen, onChoose }: WovenProps) {
	const standing = useMemo(
		() => new Map(every.map((one): [string, Step[]] => [one.switch, [one.true ? "done" : "wrong"]])),
		[every],
	);
	return (
		<StoodWeave
			label="As meant, on the Weave"
			standing={standing}
			chosen={chosen?.switch}
			onChoose={({ name }) => name && onChoose(name)}
		/>
	);
}
