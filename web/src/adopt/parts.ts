/** The parts that an adoption is looked at in, and what there is in each. */
import type { Adoption, Proposal } from "./queries";

export const PARTS = [
	["numbers", "Pools"],
	["shape", "Shape"],
	["models", "Models"],
	["routing", "Routing"],
	["carried", "What it carries"],
	["attached", "Who is attached"],
	["settings", "Settings"],
	["additions", "Lines of its own"],
] as const;
export type Part = (typeof PARTS)[number][0];
export type View = Part | "odd" | "differs";

export const SURE: Record<Proposal["sure"], string> = {
	certain: "certain",
	likely: "likely",
	"a guess": "a guess",
};

export const ofPart = (found: Adoption, part: Part): Proposal[] =>
	found.proposals.filter((one) => one.part === part);

/** How much of a part waits for somebody. */
export const waiting = (found: Adoption, part: Part): number =>
	ofPart(found, part).filter((one) => !one.said).length;

export const waitingOdd = (found: Adoption): number => found.oddities.filter((one) => !one.said).length;

/** The part to begin with: the first in which something waits. */
export const first = (found: Adoption): View =>
	PARTS.find(([part]) => part !== "numbers" && waiting(found, part))?.[0] ??
	(waitingOdd(found) ? "odd" : "differs");

/** An edit as the brief would have it. */
export function asBrief(value: unknown, indent = 0): string {
	const pad = "  ".repeat(indent);
	if (Array.isArray(value)) {
		if (value.every((one) => typeof one !== "object")) return `[${value.join(", ")}]`;
		return value.map((one) => `\n${pad}- ${asBrief(one, indent + 1).trimStart()}`).join("");
	}
	if (value && typeof value === "object")
		return Object.entries(value)
			.map(([key, one]) => {
				const deep =
					one && typeof one === "object" && !(Array.isArray(one) && one.every((x) => typeof x !== "object"));
				return `\n${pad}${key}:${deep ? "" : " "}${asBrief(one, indent + 1)}`;
			})
			.join("");
	return String(value);
}
