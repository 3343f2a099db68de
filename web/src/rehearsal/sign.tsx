/** The signs of a rehearsal, by shape before colour: settled is solid, wrong is notched, waiting is hollow. */
import { type Answer, type DrillBrief, isRunning, type Rehearsal } from "./queries";

export type Standing = "yes" | "no" | "not asked" | "waits";

const WORDS: Record<Standing, string> = {
	yes: "yes",
	no: "no",
	"not asked": "not asked",
	waits: "not asked yet",
};

export function Sign({ standing, size = 11 }: { standing: Standing; size?: number }) {
	const d = standing === "no" ? "M0 0H5L3.4 4.6H7.2L6 6H11V11H0Z" : "M0 0H11V11H0Z";
	const fill = standing === "yes" ? "var(--moss)" : standing === "no" ? "var(--madder)" : "none";
	return (
		<svg width={size} height={size} viewBox="-0.5 -0.5 12 12" role="img" aria-label={WORDS[standing]}>
			<path
				d={d}
				fill={fill}
				stroke={standing === "yes" || standing === "no" ? fill : "var(--faint)"}
				strokeDasharray={standing === "waits" ? "2 1.6" : undefined}
			/>
		</svg>
	);
}

/** How a question came out, in a few words. */
export function came(one: Answer): string {
	if (one.state === "not asked") return one.why;
	if (one.failed) return `${one.failed} of ${one.claims} do not hold`;
	return `all ${one.claims}`;
}

/** How a drill went, in a few words. */
export function went(one: DrillBrief): string {
	const lost = one.lost
		? `${one.longest.toFixed(2)} s on ${one.touched} of ${one.flows} flows`
		: "nothing was lost";
	return one.as_foretold ? `as foretold, ${lost}` : `not as foretold, ${lost}`;
}

/** Whether a rehearsal that is over found something, or did not come to its end. */
export const isBad = (one: Rehearsal): boolean =>
	one.state === "failed" ||
	(!isRunning(one) &&
		(one.answers.some((each) => each.state === "no") || one.drills.some((each) => !each.as_foretold)));

/** The newest rehearsal in a word or three, for the street. */
export function inAWord(one: Rehearsal): string {
	if (isRunning(one)) return "under way";
	if (one.state === "stopped") return "stopped";
	if (one.state === "failed") return "did not come up";
	const no = one.answers.filter((each) => each.state === "no").length;
	if (no) return `${no} said no`;
	const other = one.drills.filter((each) => !each.as_foretold).length;
	if (other) return `${other} not as foretold`;
	return one.other ? "of another state" : "all said yes";
}
