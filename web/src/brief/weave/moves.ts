/** Moving through the Weave by keyboard. */
import type { Thread, Weave } from "../../api/client";
import type { Choice } from "./geometry";

const STEPS: Record<string, [number, number]> = {
	ArrowLeft: [-1, 0],
	ArrowRight: [1, 0],
	ArrowUp: [0, -1],
	ArrowDown: [0, 1],
	PageUp: [0, -20],
	PageDown: [0, 20],
	Home: [0, -1e6],
	End: [0, 1e6],
};

/** The choice after a key, or nothing when the key does not move. Above the first leaf are the super-spines. */
export function moved(weave: Weave, from: Choice, key: string): Choice | null {
	if (key === "Escape") return {};
	const step = STEPS[key];
	if (!step || !weave.leaves.length) return null;
	const now = weave.leaves.findIndex((one) => one.name === from.leaf);
	const chosen = [...weave.spines, ...weave.supers].find((one) => one.name === from.spine);
	const column = chosen ? chosen.plane + (chosen.plane ? -1 : 0) : 0;
	if (chosen?.role === "super-spine" && now < 0) return among(weave, chosen, step);
	const leafAt = now < 0 ? 0 : within(now + step[1], weave.leaves.length);
	if (now === 0 && step[1] === -1 && weave.supers.length) {
		const last = weave.supers.filter((one) => one.plane === column + 1).at(-1);
		return { spine: last?.name };
	}
	const leaf = weave.leaves[leafAt];
	const spines = weave.spines.filter((one) => one.pod === leaf?.pod);
	const place = now < 0 && !chosen ? 0 : within(column + (now < 0 ? 0 : step[0]), spines.length);
	return { spine: spines[place]?.name, leaf: leaf?.name };
}

/** Among the super-spines: left and right between planes, up and down within one, and down to the first leaf. */
function among(weave: Weave, from: Thread, [across, down]: [number, number]): Choice {
	const mine = weave.supers.filter((one) => one.plane === from.plane);
	const at = mine.indexOf(from);
	if (down > 0 && at === mine.length - 1) {
		const leaf = weave.leaves[0];
		return {
			leaf: leaf?.name,
			spine: weave.spines.find((one) => one.pod === leaf?.pod && one.plane === from.plane)?.name,
		};
	}
	const plane = weave.supers.filter((one) => one.plane === from.plane + across);
	const there = plane.length ? plane : mine;
	return { spine: there[within(at + down, there.length)]?.name };
}

const within = (index: number, count: number) => Math.max(0, Math.min(count - 1, index));
