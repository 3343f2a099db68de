/** How cables stand: what was done to each, what the switches hear of it, and what that comes to. */
import { useMemo } from "react";
import type { CableRow } from "../api/client";
import { useOpenFabric } from "../app/open";
import type { Lying } from "../brief/weave/scene";
import { useOutbox, withWaiting } from "./outbox";
import { useCableWork, useNeighbours, type Worked } from "./queries";

/** What was done to cables, with what is on its way from this page. */
export function useWorked(cables: CableRow[] | undefined) {
	const fabric = useOpenFabric();
	const { data } = useCableWork(fabric.name);
	const { deeds, record } = useOutbox(fabric.name);
	const labels = useMemo(() => new Map((cables ?? []).map((cable) => [cable.link, cable.label])), [cables]);
	const worked = useMemo(() => withWaiting(data ?? [], deeds, labels), [data, deeds, labels]);
	const shares = useMemo(() => shareLaid(cables ?? [], worked), [cables, worked]);
	return { worked, shares, record };
}

/** The share of the cables at each rack that is laid. */
function shareLaid(cables: CableRow[], worked: ReadonlyMap<string, Worked>): Map<string, number> {
	const all = new Map<string, number>();
	const laid = new Map<string, number>();
	for (const cable of cables)
		for (const rack of new Set([cable.a_rack, cable.b_rack])) {
			all.set(rack, (all.get(rack) ?? 0) + 1);
			if (worked.get(cable.link)?.laid_at) laid.set(rack, (laid.get(rack) ?? 0) + 1);
		}
	return new Map([...laid].map(([rack, count]) => [rack, count / (all.get(rack) ?? 1)]));
}

/** How each cable lies, by its label: laid, or otherwise than planned; nothing of those that are to be laid yet. */
export function lyingOf(
	cables: CableRow[],
	worked: ReadonlyMap<string, Worked>,
	heard: ReadonlyMap<string, string>,
): Map<string, Lying> {
	const found = new Map<string, Lying>();
	for (const cable of cables) {
		const one = worked.get(cable.link);
		const there = heard.get(cable.label);
		if (one?.fault || one?.wrong_label || (there && there !== "right")) found.set(cable.label, "wrong");
		else if (one?.laid_at || there) found.set(cable.label, "laid");
	}
	return found;
}

/** What the switches hear of cables, by their labels: `right`, or how one lies otherwise. */
export function useHeard(): ReadonlyMap<string, string> {
	const { data } = useNeighbours();
	return useMemo(() => {
		const found = new Map((data?.right ?? []).map((label) => [label, "right"]));
		for (const one of data?.cables ?? []) found.set(one.label, one.state);
		return found;
	}, [data]);
}
