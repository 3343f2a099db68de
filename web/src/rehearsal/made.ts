/** A rehearsal as the server tells it, for claims about the screen. */
import type { Answer, Claim, Drill, Preview, Rehearsal } from "./queries";

const answer = (question: string, title: string, more: Partial<Answer> = {}): Answer => ({
	question,
	title,
	state: "yes",
	why: "",
	seconds: 1.2,
	claims: 4,
	failed: 0,
	...more,
});

export const runs = (key: string, name: string, rack: string) => ({
	key,
	name,
	rack,
	words: "runs",
	seconds: 4.2,
	failed: false,
});

export const REHEARSAL: Rehearsal = {
	job: 7,
	version: 12,
	edition: 0,
	other: false,
	change: false,
	state: "done",
	words: "sessions: no; 1 of 2 questions say yes (8 claims)",
	author: "Ines Marrero",
	asked_at: "2026-11-20T09:00:00Z",
	began_at: "2026-11-20T09:00:01Z",
	ended_at: "2026-11-20T09:01:10Z",
	ground: "a kernel of its own",
	under_way: "",
	switches: [
		runs("spine/1", "spine-1", "s01"),
		runs("leaf/r01/a", "leaf-r01a", "r01"),
		runs("leaf/r01/b", "leaf-r01b", "r01"),
	],
	hosts: 3,
	of_hosts: 9,
	whole: false,
	left_out: ["3 of 4 spines"],
	cannot: ["how wide paths are over all spines"],
	not_run: ["table inet own: this kernel has no nftables for inet"],
	outside: ["harbour-router"],
	booted: 41,
	seconds: 69,
	questions: 3,
	joined: [
		{ upper: "spine-1", lower: "leaf-r01a" },
		{ upper: "spine-1", lower: "leaf-r01b" },
	],
	answers: [
		answer("cables", "every port hears whom the cabling plan says"),
		answer("sessions", "every planned session is up", { state: "no", failed: 1 }),
		answer("shared", "both leaves of a shared host are known", {
			state: "not asked",
			why: "no host is shared",
			claims: 0,
		}),
	],
	to_drill: 1,
	drills: [
		{
			id: "spine-1",
			words: "spine-1 is away",
			as_foretold: false,
			flows: 2,
			touched: 1,
			lost: 470,
			longest: 2.1,
		},
	],
};

const flow = (one: string, longest: number, lost: number) => ({
	one: `${one} in tide-grid`,
	other: "two in tide-grid",
	way: "across",
	sent: 12000,
	received: 12000 - lost,
	doubled: 0,
	silences: lost ? [{ begins: 2, ends: 2 + longest, lost }] : [],
	heard: Array.from({ length: 120 }, (_, at) => (lost && at >= 20 && at < 20 + longest * 10 ? 0 : 1)),
	most: 1.9,
	longest,
	back: 0,
});

export const DRILL: Drill = {
	id: "spine-1",
	words: "spine-1 is away",
	away: ["spine-1"],
	at: 2,
	until: 7,
	seconds: 12,
	rate: 1000,
	late: 0,
	up_again: 7.4,
	stands: true,
	faults: ["one in tide-grid → two in tide-grid heard nothing for 2.10 s; 1.9 s at most were foretold"],
	flows: [flow("one", 2.1, 470), flow("three", 0, 0)],
	left: [
		{
			one: "leaf-r01a",
			other: "leaf-r02a",
			of_paths: 2,
			paths: 1,
			found: 1,
			bandwidth: 100,
			found_bandwidth: 100,
		},
	],
	said: [
		{ at: 2.31, who: "leaf-r01a", words: "bgpd: neighbor u1(spine-1) Down BFD down received" },
		{ at: 8.4, who: "leaf-r01a", words: "bgpd: neighbor u1(spine-1) Up" },
	],
	waves: [],
	restarted: [],
	told: 0,
};

export const CLAIM: Claim = {
	words: "leaf-r01b holds its session with spine-1",
	holds: false,
	about: "leaf-r01b",
	expected: "AS 65002 with AS 65000",
	found: "it is Active (bad AS)",
	command: "vtysh -c 'show bgp vrf all neighbors json'",
	said: '{"bgpState": "Active"}',
	because: "switches/leaf-r01b/fabric_ports/u1/peer_asn",
	other: "spine-1",
};

export const PREVIEW: Preview = {
	whole: false,
	switches: ["spine-1", "leaf-r01a"],
	outside: [],
	hosts: 2,
	of_hosts: 5,
	left_out: ["3 of 4 spines"],
	cannot: ["how wide paths are"],
	parts: [3],
	losses: [
		{ id: "spine-1", words: "spine-1 is away" },
		{ id: "spine-1:p1", words: "the link spine-1 p1 to leaf-r01a u1 is away" },
	],
	questions: [
		{ id: "cables", title: "every port hears whom the cabling plan says" },
		{ id: "bfd", title: "BFD watches every link" },
	],
};
