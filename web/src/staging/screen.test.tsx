/** Claims about staging on screen: what waits for somebody is at the top and done with a word, boxes are scanned one after another, a staging is a sentence. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { type Asked, OLMO, Refusal, serve, show, somebody } from "../testing";
import { expected, knock, LOG, staged, staging } from "./made";
import { StagingScreen } from "./screen";

const F = "/fabrics/marlin/staging";

function staging_(answers: Record<string, unknown> = {}, at = "/f/marlin/staging", who = OLMO): Asked[] {
	const asked = serve({
		[`GET ${F}/roll`]: [
			expected("leaf-r01a", { admitted: true, address: "10.90.1.40" }),
			expected("leaf-r01b"),
			expected("leaf-r02a", { rack: "r02", serial: "" }),
		],
		[`GET ${F}/knocks`]: [knock("leaf-r01b")],
		[`GET ${F}`]: new Refusal(404, "Nothing of marlin was staged yet."),
		...answers,
	});
	show(<StagingScreen />, at, undefined, true, who);
	return asked;
}

const posted = (asked: Asked[]) => asked.filter((one) => one.method !== "GET");

test("who knocks is let in or refused, with a reason", async () => {
	const asked = staging_({
		[`POST ${F}/knocks/${knock("leaf-r01b").key}/admit`]: new Response(null, { status: 204 }),
		[`POST ${F}/knocks/${knock("leaf-r01b").key}/refuse`]: new Response(null, { status: 204 }),
	});
	const waits = within(await screen.findByRole("region", { name: "What waits for somebody" }));
	expect(waits.getByText("r01: leaf-r01b knocks")).toBeTruthy();
	await userEvent.click(waits.getByRole("button", { name: "Let it in" }));
	await userEvent.click(waits.getByRole("button", { name: "Refuse it" }));
	await userEvent.type(waits.getByLabelText("Why is it refused?"), "another's box{Enter}");
	await waitFor(() =>
		expect(posted(asked).map((one) => one.body)).toEqual([{ switch: "leaf-r01b" }, { why: "another's box" }]),
	);
});

test("somebody whom nobody expects is let in as the switch that is planned where they are plugged in", async () => {
	const stranger = knock("x", { serial: "LJ4-0071", expected: "", planned_there: "leaf-r02a" });
	const asked = staging_({
		[`GET ${F}/knocks`]: [stranger],
		[`POST ${F}/knocks/${stranger.key}/admit`]: new Response(null, { status: 204 }),
	});
	expect(await screen.findByText("LJ4-0071, which nobody expects, knocks")).toBeTruthy();
	expect(screen.getByLabelText<HTMLSelectElement>("Which switch LJ4-0071 is").value).toBe("leaf-r02a");
	await userEvent.click(screen.getByRole("button", { name: "Let it in" }));
	await waitFor(() => expect(posted(asked)[0]?.body).toEqual({ switch: "leaf-r02a" }));
});

test("a scanner types one box after another, each the next switch's; what cannot be is said and stays to be mended", async () => {
	const asked = staging_({
		[`PUT ${F}/roll/leaf-r02a/box`]: (one: Asked) =>
			(one.body as { scanned: string }).scanned === "LJ-LEAF-R01A"
				? new Refusal(422, "LJ-LEAF-R01A is leaf-r01a already.")
				: new Response(null, { status: 204 }),
	});
	await userEvent.click(await screen.findByRole("button", { name: "Scan boxes" }));
	const field = await screen.findByLabelText("Serial number or MAC address");
	expect(document.activeElement).toBe(field);
	await userEvent.keyboard("LJ-LEAF-R01A{Enter}");
	expect((await screen.findAllByText("LJ-LEAF-R01A is leaf-r01a already."))[0]).toBeTruthy();
	await userEvent.clear(field);
	await userEvent.type(field, "LJ4-0009{Enter}");
	expect(await screen.findByText("leaf-r02a is LJ4-0009")).toBeTruthy();
	expect(posted(asked)).toHaveLength(2);
});

test("a staging is begun by a sentence, within its bounds", async () => {
	const asked = staging_({ [`POST ${F}`]: staging([]) });
	await userEvent.click(await screen.findByRole("button", { name: "Stage…" }));
	const once = screen.getByLabelText("How many at once");
	await userEvent.clear(once);
	await userEvent.type(once, "4");
	await userEvent.type(screen.getByLabelText("Which switches"), "leaf-r01a, leaf-r01b");
	await userEvent.clear(screen.getByLabelText("Seconds to confirm"));
	await userEvent.click(screen.getByRole("button", { name: "Begin" }));
	await waitFor(() =>
		expect(posted(asked)[0]?.body).toEqual({
			edition: 0,
			switches: ["leaf-r01a", "leaf-r01b"],
			at_once: 4,
			stop_after: 1,
			confirm_seconds: 10,
		}),
	);
});

const UNDER = staging(
	[
		staged("leaf-r01a", "all files", "failed", { words: "vtysh does not take etc/frr/frr.conf" }),
		staged("leaf-r01b", "software", "works"),
	],
	{ state: "paused", words: "a switch failed; nothing more begins until somebody says go on" },
);

test("what failed is at the top, is tried again or skipped, and its log tells what ran and what it answered", async () => {
	const asked = staging_(
		{
			[`GET ${F}`]: UNDER,
			[`GET ${F}/knocks`]: [],
			[`GET ${F}/log/3/leaf-r01a`]: LOG,
			[`POST ${F}/switches/leaf-r01a/again`]: new Response(null, { status: 204 }),
			[`POST ${F}/on`]: new Refusal(422, "Switches failed that nobody tried again or skipped yet."),
		},
		"/f/marlin/staging?switch=leaf-r01a",
	);
	expect(await screen.findByRole("heading", { name: "Wave 1 of 1" })).toBeTruthy();
	expect(screen.getByText("about 12 min left")).toBeTruthy();
	const margin = within(screen.getByRole("complementary"));
	expect(await margin.findByText(/vtysh --dryrun.*ended with 1/)).toBeTruthy();
	expect(margin.getByText("line 3: % Unknown command")).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "Go on" }));
	expect(await screen.findByText(/nobody tried again or skipped yet/)).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "Try it again" }));
	await waitFor(() => expect(posted(asked).at(-1)?.path).toBe(`${F}/switches/leaf-r01a/again`));
});

test("keys lead from switch to switch, and a rack is picked out", async () => {
	staging_();
	const roll = within(await screen.findByRole("list", { name: "The roll call" }));
	await userEvent.keyboard("jj");
	expect(roll.getByRole("button", { name: "leaf-r01b" }).getAttribute("aria-pressed")).toBe("true");
	await userEvent.type(screen.getByPlaceholderText("all"), "r02");
	expect(roll.getAllByRole("button").map((one) => one.textContent)).toEqual(["leaf-r02a"]);
});

test("a reader sees the roll, and can do nothing to it; without an edition it says what comes first", async () => {
	staging_({}, undefined, somebody(["read", "look"]));
	await screen.findByRole("list", { name: "The roll call" });
	for (const name of ["Let it in", "Scan boxes", "Stage…"])
		expect(screen.queryByRole("button", { name })).toBeNull();
});

test("without an edition it says what comes first", async () => {
	staging_({
		[`GET ${F}/roll`]: new Refusal(
			404,
			"marlin has no edition yet, and what is staged is an edition. Seal one.",
		),
	});
	expect(await screen.findByText(/Seal one/)).toBeTruthy();
});

test("what was changed is put back once somebody says so twice", async () => {
	const running = staging([]);
	const asked = staging_({
		[`GET ${F}`]: running,
		[`POST ${F}/putback`]: new Response(null, { status: 204 }),
	});
	await userEvent.click(await screen.findByRole("button", { name: "Put all back…" }));
	expect(posted(asked)).toEqual([]);
	await userEvent.click(screen.getByRole("button", { name: "Yes, put the old files back on all of them" }));
	await waitFor(() => expect(posted(asked)[0]?.path).toContain("/staging/putback"));
});

test("how switches come in is sentences; a DHCP server's files are there once there is an address", async () => {
	const told = { address: "", admits: "nobody", lend: "", rules: ["nobody", "serial and place", "serial"] };
	const asked = staging_({
		[`GET ${F}/ways`]: told,
		[`PUT ${F}/ways`]: (one: Asked) => ({ ...told, ...(one.body as object) }),
	});
	await userEvent.click(await screen.findByRole("button", { name: "How they come in" }));
	const here = within(await screen.findByRole("region", { name: "How switches come in" }));
	expect(here.queryByText("kea4")).toBeNull();
	await userEvent.type(here.getByLabelText("Address for switches"), "https://barrio.example");
	await userEvent.selectOptions(here.getByLabelText("Who is let in unasked"), "serial and place");
	await userEvent.click(here.getByRole("button", { name: "Say so" }));
	await waitFor(() =>
		expect(posted(asked)[0]?.body).toEqual({
			address: "https://barrio.example",
			admits: "serial and place",
			lend: "",
		}),
	);
});

test("a staging may be kept between two moments", async () => {
	const asked = staging_({ [`POST ${F}`]: staging([]) });
	await userEvent.click(await screen.findByRole("button", { name: "Stage…" }));
	await userEvent.selectOptions(screen.getByLabelText("When"), "window");
	const from = screen.getByLabelText("From");
	await userEvent.type(from, "2026-11-27T22:00");
	await userEvent.click(screen.getByRole("button", { name: "Begin" }));
	await waitFor(() =>
		expect(posted(asked)[0]?.body).toMatchObject({
			from_at: new Date("2026-11-27T22:00").toISOString(),
			until_at: null,
		}),
	);
});
