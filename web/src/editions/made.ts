/** What the server answers of a draft, for tests. */
import type { Edition, Like, Review, Ripple, SwitchChange } from "./queries";

export const RIPPLE: Ripple = {
	version: 3,
	of: 0,
	against: 1,
	effect: "none",
	words: "touches nobody",
	added: 60,
	removed: 0,
	new: 0,
	gone: 0,
	changed: 30,
	untouched: 0,
	counts: { switches_changed: 30 },
	said: [{ path: "underlay.bfd.interval", before: "300", after: "100" }],
	effects: { none: 30 },
	sessions: 0,
	links: [],
	gateways: {},
	order: {
		waves: [
			{
				number: 1,
				switches: ["spine-1"],
				why: "every leaf has the others",
				bandwidth: 0.75,
				paths: 0.75,
				between: [],
				out: [],
			},
			{
				number: 2,
				switches: ["leaf-r01a", "leaf-r02a", "leaf-r03a"],
				why: "its hosts have the other",
				bandwidth: 1,
				paths: 1,
				between: [],
				out: ["leaf-r01a"],
			},
		],
		exact: true,
		bound: 2,
		unsafe: [],
		bandwidth: 0.75,
		paths: 0.75,
	},
};

const line = (after: string) => ({
	within: ["bfd", "profile fabric"],
	device: "",
	before: "",
	after,
	effect: "none" as const,
	words: "touches nobody",
	why: "timers of BFD are renegotiated",
	source: "RFC 5880, 6.8.3",
});

export const LIKE: Like = {
	path: "etc/frr/frr.conf",
	count: 30,
	switches: ["spine-1", "spine-2"],
	same: true,
	effect: "none",
	words: "touches nobody",
	lines: [line("receive-interval 100"), line("transmit-interval 100")],
	more: 0,
};

export const TOUCHED: SwitchChange[] = [
	{
		key: "spine/1",
		name: "spine-1",
		role: "spine",
		rack: "r00",
		state: "changed",
		added: 2,
		removed: 0,
		effect: "none",
		words: "touches nobody",
		sessions: 0,
		links: [],
		devices: [],
	},
	{
		key: "leaf/r13/a",
		name: "leaf-r13a",
		role: "leaf",
		rack: "r13",
		state: "new",
		added: 630,
		removed: 0,
		effect: "new",
		words: "only adds",
		sessions: 0,
		links: [],
		devices: [],
	},
];

export const REVIEW: Review = {
	offer: {
		title: "A quicker BFD",
		why: "After Sunday's rehearsal.",
		author: "Ines",
		offered_at: "2026-11-12T14:20:00Z",
	},
	agree: 1,
	people: [],
	seen: "a".repeat(64),
	voices: [],
	comments: [],
	editors: ["Ines"],
	may_agree: ["Olmo Reyes"],
	lacking: ["0 of 1 agree to what it is now. Ask Olmo Reyes."],
	rehearsed: false,
	despite: "",
};

export const EDITION: Edition = {
	number: 1,
	version: 1,
	title: "As cabled in spring",
	why: "",
	despite: "",
	sealed_by: "Nadia",
	sealed_at: "2026-05-04T09:30:00Z",
	asked_by: "Ines",
	agreed: [{ who: "Teo", at: "2026-05-04T09:20:00Z" }],
	counts: { switches_added: 30 },
	findings: [],
	program: "1",
};
