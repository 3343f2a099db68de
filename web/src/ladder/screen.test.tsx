/** Claims about the Ladder on screen: what holds and what is beaten, the keys, what a change would reach before it is said, and who may say it. */
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { type Asked, OLMO, Refusal, serve, show, somebody, switchRow } from "../testing";
import type { RungSaid, SettingRow, Tried } from "./queries";
import { LadderScreen } from "./screen";

const F = "/fabrics/marlin";
const rung = (name: string, says = "", more: Partial<RungSaid> = {}): RungSaid => ({
	rung: name,
	path: `rungs."${name}"."services.ntp"`,
	says,
	value: says ? says.split(", ") : null,
	adds: false,
	why: "",
	hold: "",
	on: 30,
	wins: says ? 30 : 0,
	beaten: {},
	...more,
});
const setting = (
	name: string,
	words: string,
	rungs: RungSaid[],
	more: Partial<SettingRow> = {},
): SettingRow => ({
	name,
	words,
	kind: "list of hosts",
	unit: "",
	many: true,
	columns: {},
	files: ["etc/chrony/chrony.conf"],
	climb: {
		rungs,
		outcomes: [
			{ words: "10.90.0.21", on: 26 },
			{ words: "10.90.0.99", on: 4 },
		],
	},
	...more,
});
const NTP = setting("services.ntp", "Time servers", [
	rung("barrio"),
	rung("office", "10.90.0.9", { wins: 0, beaten: { fabric: 30 } }),
	rung("fabric", "10.90.0.21", { wins: 26, beaten: { "rack r07": 4 } }),
	rung("rack r07", "10.90.0.99", { on: 4, wins: 4, why: "its own clock" }),
]);
const STORM = setting(
	"overlay.storm",
	"Frames to all that a port may send",
	[rung("barrio", "500", { value: 500 }), rung("office"), rung("fabric"), rung("rack r07")],
	{ kind: "number", unit: "frames a second", many: false, files: ["etc/nftables.conf"] },
);
const USERS = setting("services.users", "Who may sign in", [rung("barrio"), rung("office"), rung("fabric")], {
	kind: "users by name",
});
const TRIED: Tried = {
	path: 'rungs."rack r07"."services.ntp"',
	reach: {
		changed: 4,
		kept: { "switch leaf/r07/a": 1 },
		rendered: 5,
		sample: "leaf-r07a",
		lines: [
			"--- before",
			"+++ etc/chrony/chrony.conf",
			"@@ -1 +1 @@",
			"-server 10.90.0.99",
			"+server 10.90.0.77",
		],
	},
	findings: [],
};

function ladder(
	settings: SettingRow[],
	answers: Record<string, unknown> = {},
	at = "/f/marlin/ladder",
	who = OLMO,
): Asked[] {
	const asked = serve({
		[`GET ${F}/settings`]: settings,
		[`GET ${F}/switches`]: [switchRow("leaf-r07a", "leaf"), switchRow("leaf-r08a", "leaf", { rack: "r08" })],
		...answers,
	});
	show(<LadderScreen />, at, undefined, true, who);
	return asked;
}
const cell = (name: string) => screen.findByRole("button", { name });

test("what holds is solid, what is beaten is struck with who has it instead, and the end of it is counted", async () => {
	ladder([NTP, STORM]);
	const beaten = await cell("services.ntp, the office");
	expect(within(beaten).getByText("10.90.0.9").className).toContain("line-through");
	expect(within(beaten).getByText("fabric on 30")).toBeTruthy();
	const holds = await cell("services.ntp, the whole fabric");
	expect(within(holds).getByText("10.90.0.21").className).not.toContain("line-through");
	expect(within(holds).getByText("holds for 26 switches")).toBeTruthy();
	expect(screen.getAllByTitle("10.90.0.99 on 4").length).toBe(2);
});

test("arrows go from rung to rung and from setting to setting, and stop at the edges", async () => {
	ladder([NTP, STORM], {}, "/f/marlin/ladder?rung=rack%20r07&setting=services.ntp");
	await cell("services.ntp, rack r07");
	await userEvent.keyboard("{ArrowRight}{ArrowRight}");
	expect((await cell("overlay.storm, rack r07")).getAttribute("aria-pressed")).toBe("true");
	await userEvent.keyboard("{ArrowDown}{ArrowUp}{ArrowLeft}");
	expect((await cell("services.ntp, the whole fabric")).getAttribute("aria-pressed")).toBe("true");
	expect(screen.getByRole("heading", { name: "Time servers" })).toBeTruthy();
	await userEvent.keyboard("{Enter}");
	expect(document.activeElement?.id).toBe("ladder-value");
});

test("a change tells whom it would reach and which lines, before it is said", async () => {
	const asked = ladder(
		[NTP],
		{ [`POST ${F}/settings/services.ntp/try`]: TRIED, [`POST ${F}/edits`]: { version: 2 } },
		"/f/marlin/ladder?rung=rack%20r07&setting=services.ntp",
	);
	const field = await screen.findByLabelText("Values, with commas between");
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "Say it" }).disabled).toBe(true);
	await userEvent.clear(field);
	await userEvent.type(field, "10.90.0.77");
	const reach = within(await screen.findByLabelText("What it would do"));
	expect(reach.getByText("4 switches get")).toBeTruthy();
	expect(reach.getByText("1 switch keeps what switch leaf/r07/a says.")).toBeTruthy();
	expect(reach.getByText("+ server 10.90.0.77")).toBeTruthy();
	expect(asked.some((one) => one.path === `${F}/edits`)).toBe(false);
	await userEvent.click(screen.getByRole("button", { name: "Say it" }));
	const sent = asked.find((one) => one.path === `${F}/edits`)?.body as { edits: [string, unknown][] };
	expect(sent.edits).toEqual([[TRIED.path, { value: ["10.90.0.77"], why: "its own clock" }]]);
});

const ALSO = [...STORM.climb.rungs.slice(0, 3), rung("rack r07", "9")];
test.each([
	["the only word of a rung is taken out with its rung", STORM, 'rungs."rack r07"'],
	[
		"one of several words of a rung is taken out alone",
		{ ...STORM, climb: { ...STORM.climb, rungs: ALSO } },
		'rungs."rack r07"."services.ntp"',
	],
])("%s", async (_, storm, path) => {
	const place = "/f/marlin/ladder?rung=rack%20r07&setting=services.ntp";
	const asked = ladder([NTP, storm], { [`POST ${F}/edits`]: { version: 2 } }, place);
	await userEvent.click(await screen.findByRole("button", { name: "Take it out" }));
	const sent = asked.find((one) => one.path === `${F}/edits`)?.body as { edits: [string, unknown][] };
	expect(sent.edits).toEqual([[path, null]]);
});

test("a value that cannot be is refused by the field, and nothing is said", async () => {
	const words = "“often” is no number of frames.";
	const asked = ladder(
		[STORM],
		{ [`POST ${F}/settings/overlay.storm/try`]: new Refusal(422, words) },
		"/f/marlin/ladder?rung=fabric&setting=overlay.storm",
	);
	await userEvent.type(await screen.findByLabelText("Value"), "often");
	expect(await screen.findByText(words)).toBeTruthy();
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "Say it" }).disabled).toBe(true);
	expect(asked.some((one) => one.path === `${F}/edits`)).toBe(false);
});

test("a rung that says nothing yet is added by a rack's or a switch's name, and by no other", async () => {
	ladder([NTP]);
	const field = await screen.findByLabelText("Another rung");
	const add = () => screen.getByRole<HTMLButtonElement>("button", { name: "Add the rung" });
	await userEvent.type(field, "leaf-r99a");
	expect(add().disabled).toBe(true);
	await userEvent.clear(field);
	await userEvent.type(field, "r08{Enter}");
	expect((await cell("services.ntp, rack r08")).getAttribute("aria-pressed")).toBe("true");
});

test("what is said elsewhere says where: the office's in the office, users in the brief, and nothing by who may only read", async () => {
	ladder([NTP, USERS], {}, "/f/marlin/ladder?rung=office&setting=services.ntp");
	expect(await screen.findByRole("link", { name: "Change it there" })).toBeTruthy();
	await userEvent.click(await cell("services.users, the whole fabric"));
	expect(screen.getByText(/write it in the brief’s text/)).toBeTruthy();
	expect(screen.queryByRole("button", { name: "Say it" })).toBeNull();
});

test("who may only read sees the Ladder and says nothing", async () => {
	ladder([NTP], {}, "/f/marlin/ladder?rung=fabric&setting=services.ntp", somebody(["read"]));
	await cell("services.ntp, the whole fabric");
	expect(screen.queryByRole("button", { name: "Say it" })).toBeNull();
	expect(screen.queryByLabelText("Values, with commas between")).toBeNull();
});
