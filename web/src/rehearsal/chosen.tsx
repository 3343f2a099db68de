/** The slice on the whole Weave: which threads boot, and which they answer for. */
import type { SwitchRow } from "../api/client";
import { type Look, Woven, woven } from "../ui/woven";

const LOOKS: Record<"boots" | "answered", Look> = {
	boots: {
		word: "boots",
		ink: "var(--ink)",
		first: true,
		stroke: (own, width) => ({ stroke: own, strokeWidth: width + 0.8 }),
	},
	answered: {
		word: "is answered for",
		ink: "var(--soft)",
		first: false,
		stroke: (own, width) => ({ stroke: own, strokeWidth: width, strokeOpacity: 0.22 }),
	},
};

export function Chosen({ switches, names }: { switches: readonly SwitchRow[]; names: readonly string[] }) {
	const here = new Set(names);
	const threads = switches
		.filter((one) => one.state !== "later")
		.map((one) => ({
			name: one.name,
			rack: one.rack,
			role: one.role,
			state: here.has(one.name) ? ("boots" as const) : ("answered" as const),
		}));
	if (!threads.length) return null;
	const [warp, weft] = woven(threads);
	const boots = threads.filter((one) => one.state === "boots").length;
	return (
		<Woven label={`${boots} of ${threads.length} switches boot`} warp={warp} weft={weft} looks={LOOKS} />
	);
}
