/** What claims about the screen of drift are made of. */
import type { Drift } from "./queries";

/** A switch that is as meant, but for what is said otherwise. */
export const drift = (name: string, more: Partial<Drift> = {}): Drift => ({
	switch: name,
	rack: "r01",
	edition: 8,
	true: true,
	since: "2026-11-26T09:00:00Z",
	seen: "2026-11-27T09:05:00Z",
	effect: "none",
	back: "none",
	lines: [],
	gone: [],
	state: [],
	left: [],
	signed_in: [],
	agent: true,
	...more,
});
