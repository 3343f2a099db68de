/** A switch of the roll call as a line of marks: what each step is, and what it is at in words. */
import type { Step } from "../brief/weave/scene";
import type { Drain, Expected, Knock, Staged, Staging } from "./queries";

export const STEPS = [
	"expected",
	"knocked",
	"admitted",
	"software",
	"first boot",
	"all files",
	"checked",
	"saved",
	"handed over",
];

export type Mark = Step;

const DRAINS: Record<Drain["state"], string> = {
	told: "to be drained",
	asked: "to be drained",
	drained: "drained",
	kept: "not drained",
	returns: "carries again soon",
};

export interface Line {
	name: string;
	rack: string;
	unit: number;
	model: string;
	airflow: string;
	box: string;
	wave: number;
	marks: Mark[];
	now: string;
	/** Whether somebody has to do something about it. */
	needs: boolean;
	expected: Expected;
	knock?: Knock;
	staged?: Staged;
}

/** The lines of a roll call, those of a staging by wave, then those that are in none. */
export function linesOf(
	roll: readonly Expected[],
	knocks: readonly Knock[],
	staging: Staging | null | undefined,
	drains: readonly Drain[] = [],
): Line[] {
	const staged = new Map(staging?.switches.map((one) => [one.name, one]));
	const knocking = new Map(
		knocks.filter((one) => one.state === "waits" && one.expected).map((one) => [one.expected, one]),
	);
	const drained = new Map(drains.map((one) => [one.switch, one]));
	const lines = roll.map((expected) => {
		const line = lineOf(expected, knocking.get(expected.name), staged.get(expected.name));
		const drain = drained.get(expected.name);
		return drain ? { ...line, now: `${DRAINS[drain.state]}: ${drain.words}` } : line;
	});
	return [...lines].sort((one, other) => (one.wave || 1e9) - (other.wave || 1e9));
}

function lineOf(expected: Expected, knock: Knock | undefined, staged: Staged | undefined): Line {
	const box = expected.serial || expected.mac;
	const at = staged && staged.step !== "expected" ? STEPS.indexOf(staged.step) : standing(expected, knock);
	const line = {
		name: expected.name,
		rack: expected.rack,
		unit: expected.unit,
		model: expected.model,
		airflow: expected.airflow,
		box,
		wave: staged?.wave ?? 0,
		expected,
		knock,
		staged,
	};
	const marks = STEPS.map((_, step): Mark => {
		if (staged?.state === "skipped" && step >= at) return "skipped";
		if (step < at) return "done";
		if (step > at) return box ? "open" : "unknown";
		return mark(expected, knock, staged);
	});
	const now = words(expected, knock, staged);
	return { ...line, marks, now, needs: staged?.state === "failed" || knock !== undefined };
}

/** The step that a switch is at before any staging has to do with it. */
function standing(expected: Expected, knock: Knock | undefined): number {
	if (expected.admitted) return 2;
	return knock ? 1 : 0;
}

function mark(expected: Expected, knock: Knock | undefined, staged: Staged | undefined): Mark {
	if (staged?.state === "failed") return "wrong";
	// It has done its part, and waits for the others of its wave.
	if (staged?.state === "works") return ["commit", "hold"].includes(staged.task) ? "ready" : "now";
	if (staged?.state === "done" || expected.admitted) return "done";
	if (knock) return "needs you";
	return expected.serial || expected.mac ? "open" : "unknown";
}

function words(expected: Expected, knock: Knock | undefined, staged: Staged | undefined): string {
	if (staged && staged.step !== "expected" && staged.words) return staged.words;
	if (knock) return knock.faults.length ? `knocks, and ${knock.faults[0]}` : "knocks; let it in";
	if (expected.admitted) return staged ? "waits for its wave" : "let in";
	if (!expected.serial && !expected.mac) return "no box yet: scan it";
	return "has not knocked yet";
}

export interface Sums {
	all: number;
	through: number;
	works: number;
	needs: number;
	unbound: number;
}

/** How it stands; `strangers` knock and are nobody that is expected. */
export function sums(lines: readonly Line[], strangers = 0): Sums {
	return {
		all: lines.length,
		through: lines.filter((one) => one.staged?.step === "handed over").length,
		works: lines.filter((one) => one.staged?.state === "works").length,
		needs: lines.filter((one) => one.needs).length + strangers,
		unbound: lines.filter((one) => !one.box).length,
	};
}

/** The wave that is under way: the first in which somebody is not through; 0 when none is. */
export function waveOf(staging: Staging | null | undefined): number {
	const open = staging?.switches.filter((one) => one.state !== "skipped" && one.step !== "handed over") ?? [];
	return open.length ? Math.min(...open.map((one) => one.wave)) : 0;
}

/** How far staging is, for the street. */
export function inShort(staging: Staging | null | undefined, newest: number): string {
	if (!newest) return "no edition yet";
	if (!staging) return "nothing yet";
	const through = staging.switches.filter((one) => one.step === "handed over").length;
	const words = `${through} of ${staging.switches.length} in`;
	return staging.state === "paused" ? `${words}, paused` : words;
}
