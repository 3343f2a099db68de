/** What the server answers of a roll call and a staging, for tests. */
import { STEPS } from "./line";
import type { Expected, Knock, LogLine, Staged, Staging } from "./queries";

export const expected = (name: string, more: Partial<Expected> = {}): Expected => ({
	name,
	rack: "r01",
	unit: 42,
	role: "leaf",
	model: "Lonja E6",
	airflow: "front to back",
	serial: `LJ-${name}`.toUpperCase(),
	mac: "",
	admitted: false,
	address: "",
	last_heard: null,
	faults: [],
	...more,
});

export const knock = (name: string, more: Partial<Knock> = {}): Knock => ({
	key: name.padEnd(43, "A"),
	serial: `LJ-${name}`.toUpperCase(),
	mac: "",
	model: "Lonja E6",
	address: "10.90.1.41",
	state: "waits",
	why: "",
	expected: name,
	planned_there: "",
	faults: [],
	first_at: "2026-11-27T09:00:00Z",
	last_at: "2026-11-27T09:01:00Z",
	...more,
});

export const staged = (
	name: string,
	step: string,
	state: Staged["state"],
	more: Partial<Staged> = {},
): Staged => ({
	name,
	rack: "r01",
	wave: 1,
	step,
	state,
	words: `${step}, ${state}`,
	task: "",
	attempt: 0,
	since: "2026-11-27T09:02:00Z",
	until_at: null,
	...more,
});

export const staging = (switches: Staged[], more: Partial<Staging> = {}): Staging => ({
	id: 3,
	edition: 8,
	state: "runs",
	words: "",
	at_once: 8,
	stop_after: 1,
	author: "Nadia Oke",
	began_at: "2026-11-27T09:00:00Z",
	ended_at: null,
	left: 720,
	steps: STEPS,
	switches,
	...more,
});

export const LOG: LogLine[] = [
	{
		at: "2026-11-27T09:02:00Z",
		step: "admitted",
		words: "it was let in",
		command: "",
		code: null,
		output: "",
		seconds: null,
	},
	{
		at: "2026-11-27T09:02:10Z",
		step: "all files",
		words: "ran",
		command: "vtysh --dryrun --inputfile next/frr.conf",
		code: 1,
		output: "line 3: % Unknown command",
		seconds: 0.2,
	},
];
