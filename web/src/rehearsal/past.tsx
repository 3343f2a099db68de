/** The rehearsals of a fabric, newest first, and the questions of the one that is open: those that said no first. */
import { clock, counted, day } from "../ui/words";
import { type Answer, isRunning, type Rehearsal } from "./queries";
import { came, isBad, Sign, type Standing, went } from "./sign";

interface Props {
	past: readonly Rehearsal[];
	open: Rehearsal | undefined;
	question: string;
	drill: string;
	composing: boolean;
	onOpen: (job: number) => void;
	onQuestion: (question: string) => void;
	onDrill: (drill: string) => void;
	onNew?: () => void;
}

export function Past({ past, open, question, drill, composing, onOpen, onQuestion, onDrill, onNew }: Props) {
	return (
		<nav
			aria-label="Rehearsals"
			className="w-[236px] flex-none overflow-y-auto border-r border-hair py-4.5 pr-3 pl-5"
		>
			<div className="mb-2 flex items-baseline justify-between">
				<h1 className="text-[15px] font-bold">Rehearsed</h1>
				{onNew && (
					<button type="button" className="button-plain" aria-pressed={composing} onClick={onNew}>
						Rehearse…
					</button>
				)}
			</div>
			<ol aria-label="Every rehearsal">
				{past.map((one) => (
					<li key={one.job}>
						<button
							type="button"
							aria-current={!composing && open?.job === one.job ? "true" : undefined}
							className={`flex w-full gap-2.5 rounded-[3px] px-1.5 py-1 text-left ${!composing && open?.job === one.job ? "bg-chosen" : "hover:bg-raised"}`}
							onClick={() => onOpen(one.job)}
						>
							<span className="mt-[3px]">
								<Sign standing={standingOf(one)} />
							</span>
							<span className="min-w-0">
								<b className="block text-[12.5px] font-[640]">
									{one.edition ? `edition ${one.edition}` : `draft, version ${one.version}`}
									{one.change && ", then the draft"}
								</b>
								<span className="block text-[11.5px] leading-snug break-words">{inShort(one)}</span>
								<span className="block text-[11px] text-soft">
									{day(one.asked_at)}, {clock(one.asked_at)}, {one.author}
								</span>
								{one.other && (
									<span className="block text-[11px] text-weld-ink">the draft has changed since</span>
								)}
							</span>
						</button>
					</li>
				))}
			</ol>
			{!past.length && (
				<p className="mt-2 text-soft">
					Nothing was rehearsed yet. A rehearsal boots this fabric, or a slice that answers for it, on real
					routing daemons, and asks it questions before a switch is touched.
				</p>
			)}
			{open && !composing && open.answers.length > 0 && (
				<>
					<div className="label-small mt-5 mb-1">Questions</div>
					<ol aria-label="Questions">
						{byNeed(open.answers).map((one) => (
							<li key={one.question}>
								<button
									type="button"
									aria-current={question === one.question ? "true" : undefined}
									className={`flex w-full gap-2.5 rounded-[3px] px-1.5 py-1 text-left ${question === one.question ? "bg-chosen" : "hover:bg-raised"}`}
									onClick={() => onQuestion(question === one.question ? "" : one.question)}
								>
									<span className="mt-[3px]">
										<Sign standing={one.state as Standing} />
									</span>
									<span className="min-w-0">
										<span className="block leading-snug">{one.title}</span>
										<span className="block text-[11.5px] text-soft">{came(one)}</span>
									</span>
								</button>
							</li>
						))}
					</ol>
				</>
			)}
			{open && !composing && open.drills.length > 0 && (
				<>
					<div className="label-small mt-5 mb-1">Drills</div>
					<ol aria-label="Drills">
						{open.drills.map((one) => (
							<li key={one.id}>
								<button
									type="button"
									aria-current={drill === one.id ? "true" : undefined}
									className={`flex w-full gap-2.5 rounded-[3px] px-1.5 py-1 text-left ${drill === one.id ? "bg-chosen" : "hover:bg-raised"}`}
									onClick={() => onDrill(drill === one.id ? "" : one.id)}
								>
									<span className="mt-[3px]">
										<Sign standing={one.as_foretold ? "yes" : "no"} />
									</span>
									<span className="min-w-0">
										<span className="block leading-snug">{one.words}</span>
										<span className="block text-[11.5px] text-soft">{went(one)}</span>
									</span>
								</button>
							</li>
						))}
					</ol>
				</>
			)}
		</nav>
	);
}

const NEED = ["no", "yes", "not asked"];

/** Questions that said no first, those that were not asked last. */
export const byNeed = (answers: readonly Answer[]): Answer[] =>
	[...answers].sort((one, other) => NEED.indexOf(one.state) - NEED.indexOf(other.state));

function standingOf(one: Rehearsal): Standing {
	if (isRunning(one)) return "waits";
	return one.state !== "done" || isBad(one) ? "no" : "yes";
}

function inShort(one: Rehearsal): string {
	if (one.state === "waiting") return one.words || "waits for a worker";
	if (one.state === "working") return one.under_way || "begins";
	if (one.state === "failed") return "it did not come to its end";
	if (one.state === "stopped") return "stopped on the way";
	const no = one.answers.filter((each) => each.state === "no").length;
	const yes = one.answers.filter((each) => each.state === "yes").length;
	const drills = one.drills.length
		? `; ${one.drills.filter((each) => each.as_foretold).length} of ${one.drills.length} drills as foretold`
		: "";
	return (no ? `${no} said no, ${yes} yes` : `${counted(yes, "question")}, all yes`) + drills;
}
