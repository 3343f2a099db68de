/** Claims about adopting on screen: part by part, each with its evidence; what was taken, refused or settled; and what does not fit. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Route, Routes } from "react-router";
import { expect, test } from "vitest";
import { type Asked, OLMO, Refusal, serve, show, somebody } from "../testing";
import { asBrief } from "./parts";
import type { Adoption, Found, Oddity, Proposal } from "./queries";
import { AdoptScreen } from "./screen";

const A = "/fabrics/sardine/adoption";

const proposal = (key: string, part: Proposal["part"], more: Partial<Proposal> = {}): Proposal => ({
	key,
	part,
	title: `the ${key}`,
	evidence: ["200 links heard by LLDP"],
	sure: "certain",
	edits: [{ path: "spines.count", value: 4 }],
	said: "",
	why: "",
	by: "",
	...more,
});
const ODD: Oddity = {
	key: "vlan/666/leaf-r01a",
	switch: "leaf-r01a",
	words: "VLAN 666 has no VNI, so it ends at this leaf",
	said: "",
	why: "",
	by: "",
};
const found = (name: string, tier: Found["tier"], more: Partial<Found> = {}): Found => ({
	name,
	tier,
	rack: "r01",
	alike: true,
	unread: false,
	odd: false,
	...more,
});
const SARDINE: Adoption = {
	fabric: "sardine",
	kind: "runs",
	source: "a stick",
	author: "Ines",
	at: "2026-11-27T09:00:00Z",
	exists: false,
	numbers: 845,
	switches: [
		found("spine-1", "spine"),
		found("leaf-r01a", "leaf", { odd: true }),
		found("leaf-r01b", "leaf", { alike: false, unread: true }),
	],
	proposals: [
		proposal("pool/loopback", "numbers"),
		proposal("shape", "shape"),
		proposal("names", "shape", { said: "refused", why: "they get new ones", by: "Teo" }),
		proposal("segment/tide-grid", "carried", { sure: "likely" }),
	],
	oddities: [ODD],
	differences: [
		{
			path: "etc/frr/frr.conf",
			within: ["router bgp 65001"],
			before: "timers bgp 3 9",
			after: "timers bgp 7 21",
			switches: ["leaf-r01a", "spine-1"],
			effect: "session",
		},
	],
};

function adopting(
	one: Adoption | Refusal,
	at = "/adopt/sardine",
	who = OLMO,
	more: Record<string, unknown> = {},
): Asked[] {
	const asked = serve({ [`GET ${A}`]: one, ...more });
	show(
		<Routes>
			<Route path="/adopt/:fabric" element={<AdoptScreen />} />
		</Routes>,
		at,
		undefined,
		false,
		who,
	);
	return asked;
}
const posted = (asked: Asked[]) => asked.filter((one) => one.method === "POST");

test("it opens at the first part that waits, and says how much would be written as it runs", async () => {
	adopting(SARDINE);
	expect(
		await screen.findByRole("heading", { name: "2 of 3 switches of sardine would be written as they run" }),
	).toBeTruthy();
	const parts = within(screen.getByRole("navigation", { name: "Parts" }));
	expect(parts.getByRole("button", { name: /Shape 1/ }).getAttribute("aria-current")).toBe("page");
	expect(parts.queryByRole("button", { name: /Settings/ })).toBeNull();
	const rows = within(screen.getByRole("list", { name: "Proposals" }));
	expect(rows.getByText("the shape")).toBeTruthy();
	expect(rows.getByText("refused")).toBeTruthy();
	expect(screen.getByText("leaf-r01b: could not be read")).toBeTruthy();
});

test("a proposal shows from what it was told, and is taken; a refusal of it says why", async () => {
	const asked = adopting(SARDINE, "/adopt/sardine", OLMO, {
		[`POST ${A}/take`]: { version: 1 },
		[`POST ${A}/refuse`]: new Refusal(422, "It is in the draft already; change the draft."),
	});
	await screen.findByText("the shape");
	await userEvent.keyboard("j");
	const margin = within(screen.getByLabelText("Because"));
	expect(margin.getByText("200 links heard by LLDP")).toBeTruthy();
	expect(margin.getByText("spines.count: 4")).toBeTruthy();
	await userEvent.type(margin.getByLabelText("or refuse it, because"), "later");
	await userEvent.click(margin.getByRole("button", { name: "Refuse" }));
	expect((await screen.findAllByText(/in the draft already/)).length).toBeGreaterThan(0);
	await userEvent.click(margin.getByRole("button", { name: "Take it" }));
	expect(await screen.findByText("1 proposal is in the draft.")).toBeTruthy();
	expect(posted(asked).map((one) => one.body)).toEqual([
		{ keys: ["shape"], why: "later" },
		{ keys: ["shape"] },
	]);
});

test("all that waits of a part is taken at once, without what was refused", async () => {
	const asked = adopting(SARDINE, "/adopt/sardine", OLMO, { [`POST ${A}/take`]: { version: 1 } });
	await screen.findByText("the shape");
	await userEvent.click(screen.getByRole("button", { name: "Take it" }));
	await waitFor(() => expect(posted(asked)[0]?.body).toEqual({ keys: ["shape"] }));
});

test("what fits no pattern is kept, mended or left out", async () => {
	const asked = adopting(SARDINE, "/adopt/sardine?part=odd", OLMO, { [`POST ${A}/odd`]: null });
	await userEvent.click(await screen.findByRole("button", { name: /VLAN 666 has no VNI/ }));
	await userEvent.type(screen.getByLabelText("Why"), "the cameras of the pier");
	await userEvent.click(screen.getByRole("button", { name: "Keep as an exception" }));
	await waitFor(() =>
		expect(posted(asked)[0]?.body).toEqual({ keys: [ODD.key], said: "kept", why: "the cameras of the pier" }),
	);
});

test("what would be written otherwise is told line by line, with the switches", async () => {
	adopting(SARDINE, "/adopt/sardine?part=differs");
	await userEvent.click(await screen.findByRole("button", { name: /timers bgp 7 21/ }));
	const margin = within(screen.getByLabelText("Because"));
	expect(margin.getByText("timers bgp 3 9")).toBeTruthy();
	expect(margin.getByText("leaf-r01a, spine-1")).toBeTruthy();
});

test("who may only read takes nothing; where nothing was looked at there is a way to", async () => {
	adopting(SARDINE, "/adopt/sardine", somebody(["read"]));
	await screen.findByText("the shape");
	await userEvent.keyboard("j");
	for (const name of ["Take it", "Refuse", "Look again"])
		expect(screen.queryByRole("button", { name })).toBeNull();
});

test("where nothing was looked at there is a way to", async () => {
	adopting(new Refusal(404, "Nothing that runs was looked at for sardine."));
	expect(await screen.findByLabelText("Saved outputs, or a drawing")).toBeTruthy();
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "Look at it" }).disabled).toBe(true);
});

test("what cannot be shown for another reason is told as it is, and nothing is asked to be brought", async () => {
	adopting(new Refusal(503, "The database is not there. It is tried again."));
	expect(await screen.findByText(/The database is not there/)).toBeTruthy();
	expect(screen.queryByLabelText("Saved outputs, or a drawing")).toBeNull();
});

test("where all would be written as it runs it says so, and the way to the draft is there once it exists", async () => {
	const whole = SARDINE.switches.map((one) => ({ ...one, alike: true, unread: false, odd: false }));
	adopting({ ...SARDINE, switches: whole, exists: true });
	await screen.findByRole("heading", { name: "All 3 switches of sardine would be written as they run" });
	expect(screen.getByRole("button", { name: "To the draft" })).toBeTruthy();
	expect(screen.getByText("leaf-r01b: would be written as it runs")).toBeTruthy();
});

test("a drawing is shown as drawn, and nothing of it is said to run", async () => {
	const switches = SARDINE.switches.map((one) => ({ ...one, alike: true, unread: false, odd: false }));
	adopting({ ...SARDINE, kind: "drawn", source: "hall.dot", switches, differences: [] });
	await screen.findByRole("heading", { name: "3 switches of sardine, as drawn" });
	const picture = screen.getByRole("region", { name: "As it is drawn" });
	expect(within(picture).getByText("leaf-r01b: as it is drawn")).toBeTruthy();
	expect(screen.queryByText(/as it runs/)).toBeNull();
});

test("the keys go from line to line, and take what is chosen, but nothing twice", async () => {
	const taken = proposal("shape", "shape", { said: "taken", by: "Ines" });
	const one = { ...SARDINE, proposals: [taken, proposal("planes", "shape"), proposal("racks", "shape")] };
	const asked = adopting(one, "/adopt/sardine", OLMO, { [`POST ${A}/take`]: { version: 2 } });
	await screen.findByText("the planes");
	await userEvent.keyboard("j");
	expect(screen.getByText("It is in the draft by Ines.")).toBeTruthy();
	await userEvent.keyboard("t");
	expect(posted(asked)).toEqual([]);
	await userEvent.keyboard("jjt");
	await waitFor(() => expect(posted(asked).map((each) => each.body)).toEqual([{ keys: ["racks"] }]));
	await userEvent.keyboard("kj");
	expect(screen.getByRole("button", { name: /the racks/ }).getAttribute("aria-pressed")).toBe("true");
});

test("what was refused says why and by whom, and is proposed again where somebody asks", async () => {
	const asked = adopting(SARDINE, "/adopt/sardine?part=shape&at=names", OLMO, { [`POST ${A}/again`]: null });
	const margin = within(await screen.findByLabelText("Because"));
	expect(margin.getByText("It was refused by Teo: they get new ones.")).toBeTruthy();
	expect(margin.queryByRole("button", { name: "Take it" })).toBeNull();
	await userEvent.click(margin.getByRole("button", { name: "Propose it again" }));
	await waitFor(() => expect(posted(asked)[0]?.path).toBe(`${A}/again`));
	expect(posted(asked)[0]?.body).toEqual({ keys: ["names"] });
});

test("what was said of an oddity stands there, is said only otherwise, and counts as settled", async () => {
	const settled = { ...ODD, said: "left out" as const, why: "it is taken down", by: "Teo" };
	adopting({ ...SARDINE, oddities: [settled] }, `/adopt/sardine?part=odd&at=${encodeURIComponent(ODD.key)}`);
	expect(await screen.findByText("Left out by Teo: it is taken down.")).toBeTruthy();
	const disabled = (name: string) => screen.getByRole<HTMLButtonElement>("button", { name }).disabled;
	expect([disabled("Leave out"), disabled("Mend in the draft")]).toEqual([true, false]);
	const tab = screen.getByRole("button", { name: /Fits no pattern/ });
	expect(within(tab).getByLabelText("settled")).toBeTruthy();
});

test("a thread of the picture leads to what of its switch fits no pattern", async () => {
	adopting(SARDINE);
	await userEvent.click(await screen.findByText("leaf-r01a: something of it fits no pattern"));
	expect(await screen.findByText(`${ODD.words}.`)).toBeTruthy();
	await userEvent.click(screen.getByText("spine-1: would be written as it runs"));
	expect(screen.getByText(`${ODD.words}.`)).toBeTruthy();
});

test("it is looked at again with another archive, whose refusal stands by the field", async () => {
	const refused = new Refusal(422, "Nothing of a switch was found. Give a folder for each.");
	const asked = adopting(SARDINE, "/adopt/sardine", OLMO, { [`POST ${A}`]: refused });
	await userEvent.click(await screen.findByRole("button", { name: "Look again" }));
	await userEvent.upload(
		screen.getByLabelText("Saved outputs, or a drawing"),
		new File(["x"], "holiday.zip"),
	);
	await userEvent.click(screen.getByRole("button", { name: "Look at it" }));
	await waitFor(() => expect(posted(asked).length).toBe(1));
	expect(await screen.findByText(/Nothing of a switch was found/)).toBeTruthy();
	expect(posted(asked)[0]?.query.get("source")).toBe("holiday.zip");
});

test("an edit reads as the brief would have it", () => {
	expect(asBrief({ racks: [{ racks: "r01..r12", leaves: 2 }], ntp: ["10.90.0.21"] })).toBe(
		"\nracks:\n  - \n    racks: r01..r12\n    leaves: 2\nntp: [10.90.0.21]".replace("- \n    ", "- "),
	);
});
