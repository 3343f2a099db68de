/** Rehearsal: the Weave of what is booted, alive; its questions as a report, failures first; and the evidence of each claim. */
import { useMay } from "../api/session";
import { useOpenFabric } from "../app/open";
import { KeysDialog, useKey } from "../ui/keys";
import { usePlace } from "../ui/place";
import { Composer } from "./composer";
import { Living } from "./living";
import { ClaimMargin, DrillMargin, RehearsalMargin } from "./margin";
import { byNeed, Past } from "./past";
import { isRunning, type Rehearsal, useClaims, useDrill, useRehearsals, useRehearse } from "./queries";
import { Report } from "./report";
import { Score } from "./score";

export function RehearsalScreen() {
	const fabric = useOpenFabric();
	const [place, go] = usePlace("job", "question", "claim", "drill", "moment", "new");
	const past = useRehearsals(fabric).data;
	const may = useMay("rehearse", fabric.name);
	const act = useRehearse(fabric, (job) => go({ job: String(job) }));
	const wanted = past?.find((one) => String(one.job) === place.job);
	const open = wanted ?? (place.job ? undefined : past?.[0]);
	const missing = past !== undefined && Boolean(place.job) && !wanted;
	const composing = may && Boolean(place.new);
	const at = open ? { job: String(open.job) } : {};
	const question = place.question ?? "";
	const step = (by: number) => {
		const all = byNeed(open?.answers ?? []).map((one) => one.question);
		const next = all[question ? all.indexOf(question) + by : by > 0 ? 0 : all.length - 1];
		if (next) go({ ...at, question: next });
	};
	useKey("j", () => step(1));
	useKey("k", () => step(-1));
	useKey("n", () => may && go({ ...at, new: "1" }));
	if (!past) return <p className="p-8 text-soft">The rehearsals are read…</p>;
	return (
		<>
			<Past
				past={past}
				open={open}
				question={question}
				drill={place.drill ?? ""}
				composing={composing}
				onOpen={(job) => go({ job: String(job) })}
				onQuestion={(id) => go({ ...at, question: id || undefined })}
				onDrill={(id) => go({ ...at, drill: id || undefined })}
				onNew={may ? () => go({ ...at, new: place.new ? undefined : "1" }) : undefined}
			/>
			{composing ? (
				<Composer
					fabric={fabric}
					busy={act.isPending}
					onBegin={(wish) => act.mutate(wish)}
					onLeave={() => go(at)}
				/>
			) : missing ? (
				<main className="flex-1 p-8">
					<p className="mb-2">There is no such rehearsal of this fabric any more.</p>
					<button type="button" className="button-plain" onClick={() => go({})}>
						See the newest
					</button>
				</main>
			) : open ? (
				<Opened
					key={open.job}
					one={open}
					question={question}
					claim={place.claim ?? ""}
					drill={place.drill ?? ""}
					moment={place.moment === undefined ? null : Number(place.moment)}
					onMoment={(moment) => go({ ...at, drill: place.drill, moment: moment.toFixed(2) })}
					onClaim={(claim) => go({ ...at, question, claim: claim === place.claim ? undefined : claim })}
					mayStop={may}
					onStop={() => act.mutate(open.job)}
				/>
			) : (
				<main className="flex-1 px-9 py-7">
					<h2 className="mb-2 text-[19px] font-bold tracking-tight">Before a switch is touched</h2>
					<p className="mb-4 max-w-[60ch] text-soft">
						Every switch of a slice that answers for this fabric boots from the very files that would leave,
						with hosts at its ports, and answers: are all sessions up, is every path there, does everybody
						reach whom they should, and nobody else?
					</p>
					{may ? (
						<button type="button" className="button-main" onClick={() => go({ new: "1" })}>
							Rehearse {fabric.name}
						</button>
					) : (
						<p className="text-soft">You may look at rehearsals, and begin none.</p>
					)}
				</main>
			)}
			<KeysDialog
				here={[
					["J K", "the question below, above"],
					["N", "rehearse"],
				]}
			/>
		</>
	);
}

interface OpenedProps {
	one: Rehearsal;
	question: string;
	claim: string;
	drill: string;
	moment: number | null;
	onMoment: (moment: number) => void;
	onClaim: (words: string) => void;
	mayStop: boolean;
	onStop: () => void;
}

function Opened({ one, question, claim, drill, moment, onMoment, onClaim, mayStop, onStop }: OpenedProps) {
	const fabric = useOpenFabric();
	const answer = one.answers.find((each) => each.question === question);
	const sessions = one.answers.some((each) => each.question === "sessions");
	const { data: wrong } = useClaims(fabric, one, "sessions", false);
	const { data: claims } = useClaims(fabric, one, question);
	const { data: played } = useDrill(fabric, one, drill);
	const chosen = claims?.find((each) => each.words === claim);
	const up = one.switches.filter((each) => each.words === "runs").length;
	return (
		<>
			<main className="flex min-h-0 min-w-0 flex-1 flex-col gap-3 px-7 pt-5 pb-3">
				<header className="flex items-baseline gap-4">
					<h2 className="text-[19px] font-bold tracking-tight">
						{one.edition ? `Edition ${one.edition}` : "The draft"}, {verdict(one)}
					</h2>
					<p className="text-soft" aria-live="polite">
						{isRunning(one)
							? one.under_way === "boots"
								? `${up} of ${one.switches.length} switches run`
								: one.under_way || one.words || "it waits for a worker"
							: one.words}
					</p>
				</header>
				{played ? (
					<div className="min-h-0 flex-1 overflow-auto">
						<Score drill={played} moment={moment} onMoment={onMoment} />
					</div>
				) : answer ? (
					<Report answer={answer} claims={claims} chosen={claim} onChoose={onClaim} />
				) : (
					<div className="min-h-0 flex-1 overflow-auto">
						<Living one={one} wrong={wrong ?? []} asked={sessions} />
					</div>
				)}
			</main>
			{played ? (
				<DrillMargin drill={played} moment={moment} />
			) : chosen ? (
				<ClaimMargin fabric={fabric} claim={chosen} />
			) : (
				<RehearsalMargin fabric={fabric.name} one={one} mayStop={mayStop} onStop={onStop} />
			)}
		</>
	);
}

function verdict(one: Rehearsal): string {
	if (isRunning(one)) return "under way";
	if (one.state === "failed") return "not rehearsed";
	if (one.state === "stopped") return "stopped";
	const no = one.answers.filter((each) => each.state === "no").length;
	const other = one.drills.filter((each) => !each.as_foretold).length;
	if (!no && other) return `${other} ${other === 1 ? "drill" : "drills"} not as foretold`;
	return no ? `${no} ${no === 1 ? "question says" : "questions say"} no` : "as planned";
}
