/** Claims about drift on screen: the worst first, each line meant beside found, put back or left with a reason, and when it was true. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { type Asked, OLMO, Refusal, serve, show, somebody } from "../testing";
import { asOne, type Drift } from "./queries";
import { DriftScreen } from "./screen";
import { drift } from "./testing";

const F = "/fabrics/marlin/drift";
const LINE = {
	path: "etc/frr/frr.conf",
	within: ["router bgp 4200065001"],
	meant: "timers bgp 3 9",
	found: "timers bgp 7 21",
	effect: "session",
	why: "",
	until: null,
};

const WRONG = drift("leaf-r01a", {
	true: false,
	effect: "session",
	back: "session",
	lines: [LINE],
	gone: ["etc/hosts"],
	state: ["its clock follows none of its time servers yet", "sshd takes passwords"],
	signed_in: [{ who: "teo", source: "10.90.7.5", at: "2026-11-26T08:55:00Z", until: null }],
});

function drifted(
	every: Drift[],
	at = "/f/marlin/drift",
	who = OLMO,
	answers: Record<string, unknown> = {},
): Asked[] {
	const asked = serve({
		[`GET ${F}`]: every,
		[`GET ${F}/rule`]: { back: "nothing" },
		[`GET ${F}/leaf-r01a/history`]: [
			{
				edition: 8,
				since: "2026-11-27T08:00:00Z",
				until: "2026-11-27T09:05:00Z",
				true: false,
				files: ["etc/frr/frr.conf"],
				state: [],
			},
			{
				edition: 8,
				since: "2026-11-26T08:00:00Z",
				until: "2026-11-27T08:00:00Z",
				true: true,
				files: [],
				state: [],
			},
		],
		...answers,
	});
	show(<DriftScreen />, at, undefined, true, who);
	return asked;
}

const posted = (asked: Asked[]) => asked.filter((one) => one.method !== "GET");

test("before anything was looked at it says when that will be", async () => {
	drifted([]);
	expect(await screen.findByText(/looked at every five minutes/)).toBeTruthy();
	expect(screen.getByRole("heading", { name: "Is it still as it was meant?" })).toBeTruthy();
});

test("what is not as meant is listed with what of it, and what is true is not", async () => {
	drifted([WRONG, drift("leaf-r01b")]);
	const list = within(await screen.findByRole("list", { name: "Not as meant" }));
	expect(screen.getByRole("heading", { name: "1 switch is not as meant" })).toBeTruthy();
	expect(list.getByText(/1 line; 1 file is gone; its clock follows none .* and 1 more/)).toBeTruthy();
	expect(list.queryByText("leaf-r01b")).toBeNull();
	await userEvent.keyboard("j");
	expect(await screen.findByText("etc/frr/frr.conf › router bgp 4200065001: sessions restart")).toBeTruthy();
});

test("a line stands meant beside found; when it was true is told; and it is put back", async () => {
	const asked = drifted([WRONG], "/f/marlin/drift?switch=leaf-r01a", OLMO, {
		[`POST ${F}/back`]: { staging: 4 },
	});
	const margin = within(await screen.findByLabelText("Because"));
	expect(margin.getByText("timers bgp 3 9")).toBeTruthy();
	expect(margin.getByText("timers bgp 7 21")).toBeTruthy();
	expect(margin.getByText("etc/hosts")).toBeTruthy();
	expect(margin.getByText("sshd takes passwords")).toBeTruthy();
	expect(margin.getByText(/teo from 10.90.7.5/)).toBeTruthy();
	expect((await margin.findAllByText(/all true/)).length).toBe(1);
	await userEvent.click(margin.getByRole("button", { name: "Put its files back" }));
	expect(await screen.findByText(/put back as a staging/)).toBeTruthy();
	expect(posted(asked)[0]?.body).toEqual({ switches: ["leaf-r01a"] });
	await userEvent.click(screen.getByRole("button", { name: "Put all files back" }));
	await waitFor(() => expect(posted(asked)[1]?.body).toEqual({ switches: [] }));
});

test("a line is left as it is with a reason and a day; a refusal is told", async () => {
	const asked = drifted([WRONG], "/f/marlin/drift?switch=leaf-r01a", OLMO, {
		[`PUT ${F}/leaf-r01a/left`]: new Refusal(422, "The day is over already. Say one that is to come."),
	});
	await userEvent.click(await screen.findByRole("button", { name: "Leave it" }));
	const leave = screen.getByRole<HTMLButtonElement>("button", { name: "Leave this line" });
	expect(leave.disabled).toBe(true);
	await userEvent.type(screen.getByLabelText("Why?"), "until the firewall is there");
	await userEvent.click(leave);
	expect(await screen.findByText(/The day is over already/)).toBeTruthy();
	expect(screen.getByLabelText<HTMLInputElement>("Why?").value).toBe("until the firewall is there");
	expect(posted(asked)[0]?.body).toMatchObject({
		path: "etc/frr/frr.conf",
		line: "timers bgp 3 9 → timers bgp 7 21",
		why: "until the firewall is there",
	});
});

test("a line is taken over by a way that was tried, and each says whom else it touches", async () => {
	const way = { key: "k1", title: "BGP keepalive: 7", places: ["underlay.timers.keepalive"], others: 29 };
	const asked = drifted([WRONG], "/f/marlin/drift?switch=leaf-r01a", OLMO, {
		[`GET ${F}/leaf-r01a/ways`]: {
			said: false,
			ways: [way, { ...way, key: "k2", title: "on leaf-r01a, an addition", others: 0 }],
		},
		[`POST ${F}/leaf-r01a/over`]: { version: 9 },
	});
	await userEvent.click(await screen.findByRole("button", { name: "Take it over" }));
	const found = within(await screen.findByRole("list", { name: "Ways to take it over" }));
	expect(found.getByText("29 other switches get other files too")).toBeTruthy();
	expect(found.getByText("no other switch is touched")).toBeTruthy();
	await userEvent.click(found.getAllByRole("button", { name: "Let the draft say so" })[1] as HTMLElement);
	expect(await screen.findByText(/The draft says so\. It is drift until/)).toBeTruthy();
	expect(posted(asked)[0]?.body).toMatchObject({ path: "etc/frr/frr.conf", key: "k2" });
});

test("where no word means a line, and where the draft says it already, it is told", async () => {
	drifted([WRONG], "/f/marlin/drift?switch=leaf-r01a", OLMO, {
		[`GET ${F}/leaf-r01a/ways`]: { said: false, ways: [] },
	});
	await userEvent.click(await screen.findByRole("button", { name: "Take it over" }));
	expect(await screen.findByText(/No word, setting or addition means this line/)).toBeTruthy();
});

test("switches are asked a command of the list, and those that answer alike stand together", async () => {
	const asked = drifted([WRONG, drift("leaf-r01b")], "/f/marlin/drift?as=ask&switch=leaf-r01a", OLMO, {
		"GET /commands": [{ command: "show bgp summary", words: "sessions", own: false }],
		"GET /fabrics/marlin/asks": [],
		"POST /fabrics/marlin/asks": { number: 3 },
		"GET /fabrics/marlin/asks/3": {
			number: 3,
			command: "show bgp summary",
			author: "Nadia",
			at: "2026-11-27T09:05:00Z",
			waits: false,
			answers: [
				{ switches: ["leaf-r01a", "leaf-r01b"], answer: "8 sessions", code: 0 },
				{ switches: ["spine-1"], answer: null, code: null },
			],
		},
	});
	await userEvent.type(await screen.findByLabelText("A command that only looks"), "show bgp summary");
	await userEvent.click(screen.getByRole("button", { name: "Ask 2 switches" }));
	const answers = within(await screen.findByRole("list", { name: "Answers" }));
	expect(answers.getByText("leaf-r01a, leaf-r01b")).toBeTruthy();
	expect(answers.getByText("8 sessions")).toBeTruthy();
	expect(answers.getByText("no answer in time")).toBeTruthy();
	expect(posted(asked)[0]?.body).toEqual({ command: "show bgp summary", switches: [] });
});

test("what changed since last night is told as it was and as it is, with who was there", async () => {
	const asked = drifted([WRONG], "/f/marlin/drift?as=changes", OLMO, {
		[`GET ${F}/changes`]: [
			{
				switch: "leaf-r01a",
				rack: "r01",
				lines: [LINE],
				came: ["sshd takes passwords"],
				went: ["its clock is late"],
				signed_in: WRONG.signed_in,
				tables: [
					{
						kind: "macs",
						words: "MACs",
						count: 7,
						rows: [{ key: "02:00:5e:00:01:01 VLAN 110", was: "on p1", now: "" }],
					},
				],
			},
		],
	});
	const list = within(await screen.findByRole("list", { name: "Changed" }));
	expect(await list.findByText("timers bgp 3 9")).toBeTruthy();
	expect(list.getByText(/teo signed in/)).toBeTruthy();
	expect(list.getByText("no more: its clock is late")).toBeTruthy();
	expect(list.getByText("7 rows are other")).toBeTruthy();
	expect(list.getByText("on p1")).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "a week ago" }));
	await waitFor(() => expect(asked.filter((one) => one.path.endsWith("/changes")).length).toBe(2));
});

test("where no agent runs nothing can be put back, and it says so", async () => {
	drifted([{ ...WRONG, agent: false }], "/f/marlin/drift?switch=leaf-r01a");
	expect(await screen.findByText(/No agent runs here/)).toBeTruthy();
	for (const name of ["Put its files back", "Put all files back"])
		expect(screen.queryByRole("button", { name })).toBeNull();
});

test("an archive that nobody can read is refused in words, and the field takes another", async () => {
	const words = "This is no ZIP and no tar.gz.";
	const asked = drifted([WRONG], undefined, undefined, { [`POST ${F}/outputs`]: new Refusal(422, words) });
	await screen.findByRole("button", { name: "Hold saved outputs" });
	const field = screen.getByLabelText("Saved outputs");
	await userEvent.upload(field, new File(["x"], "holiday.zip"));
	expect(await screen.findByText(words)).toBeTruthy();
	await userEvent.upload(field, new File(["x"], "holiday.zip"));
	await waitFor(() => expect(asked.filter((one) => one.path.endsWith("/outputs")).length).toBe(2));
});

test("a rule that cannot be said is refused, and the word stays as it was", async () => {
	const words = "Nothing is sealed of marlin yet.";
	drifted([WRONG], undefined, undefined, { [`PUT ${F}/rule`]: new Refusal(422, words) });
	await userEvent.selectOptions(await screen.findByLabelText("Put back by itself"), "all");
	expect(await screen.findByText(words)).toBeTruthy();
	expect((screen.getByLabelText("Put back by itself") as HTMLSelectElement).value).toBe("nothing");
});

test("saved outputs are held against the plan, and what came of it is told", async () => {
	const held = {
		true: ["spine-1"],
		drifted: ["leaf-r01a"],
		unheld: ["leaf-r99: no edition has it with files"],
	};
	const asked = drifted([WRONG], undefined, undefined, { [`POST ${F}/outputs`]: held });
	await screen.findByRole("button", { name: "Hold saved outputs" });
	await userEvent.upload(screen.getByLabelText("Saved outputs"), new File(["zip"], "night.zip"));
	expect(
		await screen.findByText("1 of 2 switches are as meant; leaf-r99: no edition has it with files"),
	).toBeTruthy();
	expect(asked.some((one) => one.method === "POST" && one.path.endsWith("/outputs"))).toBe(true);
});

test("what is put back by itself is a word that is said anew", async () => {
	const asked = drifted([WRONG], undefined, undefined, { [`PUT ${F}/rule`]: null });
	await userEvent.selectOptions(await screen.findByLabelText("Put back by itself"), "harmless");
	await waitFor(() => expect(asked.find((one) => one.method === "PUT")?.body).toEqual({ back: "harmless" }));
});

test("who may only read sees all of it and does nothing", async () => {
	drifted([WRONG], "/f/marlin/drift?switch=leaf-r01a", somebody(["read"]));
	await screen.findByText("timers bgp 7 21");
	for (const name of [
		"Put its files back",
		"Put all files back",
		"Leave it",
		"Take it over",
		"Hold saved outputs",
	])
		expect(screen.queryByRole("button", { name })).toBeNull();
});

test("what is left as it is stands apart, with its reason", async () => {
	const left = { ...LINE, why: "the firewall comes", until: "2026-12-24" };
	drifted([drift("leaf-r01a", { left: [left] })], "/f/marlin/drift?switch=leaf-r01a");
	expect(await screen.findByText("All is as meant.")).toBeTruthy();
	expect(screen.getByText(/until .*: the firewall comes/)).toBeTruthy();
});

test("a line reads as one: what was meant, and what is found in its place", () => {
	expect([LINE, { ...LINE, found: "" }, { ...LINE, meant: "" }].map(asOne)).toEqual([
		"timers bgp 3 9 → timers bgp 7 21",
		"timers bgp 3 9",
		"timers bgp 7 21",
	]);
});
