/** The Weave, small: which threads a change touches. What comes is hatched, what goes is broken, what stays is pale. */
import { useMemo } from "react";
import type { SwitchRow } from "../api/client";
import { type Look, type Thread, Woven, woven } from "../ui/woven";
import type { SwitchChange } from "./queries";

type Standing = "same" | "new" | "gone" | "quiet" | "touched";

const TOUCHES = new Set(["session", "link", "port", "bridge", "daemon", "reboot", "unknown"]);
const LOOKS: Record<Standing, Look> = {
	same: {
		word: "stays as it is",
		ink: "var(--soft)",
		first: false,
		stroke: (own, width) => ({ stroke: own, strokeWidth: width, strokeOpacity: 0.22 }),
	},
	new: {
		word: "new",
		ink: "var(--weld-ink)",
		first: true,
		stroke: (_, width) => ({ stroke: "var(--weld)", strokeWidth: width + 0.8, strokeDasharray: "5 2" }),
	},
	gone: {
		word: "goes",
		ink: "var(--madder)",
		first: true,
		stroke: (_, width) => ({ stroke: "var(--madder)", strokeWidth: width + 0.4, strokeDasharray: "2 5" }),
	},
	quiet: {
		word: "changed, touches nobody",
		ink: "var(--soft)",
		first: true,
		stroke: (own, width) => ({ stroke: own, strokeWidth: width, strokeOpacity: 0.75 }),
	},
	touched: {
		word: "changed, is noticed",
		ink: "var(--weld-ink)",
		first: true,
		stroke: (_, width) => ({ stroke: "var(--weld)", strokeWidth: width + 1 }),
	},
};

export function Picture({
	switches,
	touched,
}: {
	switches: readonly SwitchRow[];
	touched: readonly SwitchChange[];
}) {
	const [warp, weft] = useMemo(() => woven(threads(switches, touched)), [switches, touched]);
	const states = [...new Set([...warp, ...weft].map((one) => one.state))];
	return (
		<Woven
			label={`What is touched: ${states.map((one) => LOOKS[one].word).join(", ")}`}
			warp={warp}
			weft={weft}
			looks={LOOKS}
		/>
	);
}

function threads(
	switches: readonly SwitchRow[],
	touched: readonly SwitchChange[],
): (Thread<Standing> & { role: string })[] {
	const by = new Map(touched.map((one) => [one.name, one]));
	const state = (name: string): Standing => {
		const one = by.get(name);
		if (!one) return "same";
		if (one.state === "new" || one.state === "gone") return one.state;
		return TOUCHES.has(one.effect) ? "touched" : "quiet";
	};
	const there = switches
		.filter((one) => one.state !== "later")
		.map((one) => ({ name: one.name, rack: one.rack, role: one.role, state: state(one.name) }));
	const gone = touched
		.filter((one) => one.state === "gone")
		.map((one) => ({ name: one.name, rack: one.rack, role: one.role, state: "gone" as const }));
	return [...there, ...gone];
}
