/** Claims about what is done to a switch that is there: what goes with it is told before it is drained, and nothing is done without a reason. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { type Asked, OLMO, Refusal, serve, show, somebody } from "../testing";
import { expected } from "./made";
import type { Drain } from "./queries";
import { StagingScreen } from "./screen";
import { size } from "./software";

const F = "/fabrics/marlin/staging";
const done = () => new Response(null, { status: 204 });
const DRAIN: Drain = {
	switch: "leaf-r01a",
	state: "kept",
	words: "spine-2 still goes by it to 10.60.0.9",
	why: "new fans",
	author: "Nadia Oke",
	began_at: "2026-11-27T09:00:00Z",
	since: "2026-11-27T09:04:00Z",
};

function there(answers: Record<string, unknown> = {}, who = OLMO): Asked[] {
	const asked = serve({
		[`GET ${F}/roll`]: [expected("leaf-r01a", { admitted: true }), expected("leaf-r01b")],
		[`GET ${F}/knocks`]: [],
		[`GET ${F}/drains`]: [],
		[`GET ${F}/sztp`]: [],
		[`GET ${F}`]: new Refusal(404, "Nothing of marlin was staged yet."),
		[`GET ${F}/drains/leaf-r01a/cost`]: {
			dark: ["radar-1"],
			other_way: ["vault-01", "vault-02"],
			neighbours: [
				{ name: "spine-1", keeps: 3, of: 4 },
				{ name: "spine-2", keeps: 1, of: 4 },
			],
			cut_off: ["leaf-r09a"],
		},
		...answers,
	});
	show(<StagingScreen />, "/f/marlin/staging?switch=leaf-r01a", undefined, true, who);
	return asked;
}

const posted = (asked: Asked[]) => asked.filter((one) => one.method !== "GET");

test("what goes with a switch is told before it is drained, and it is drained with a reason", async () => {
	const asked = there({ [`PUT ${F}/drains/leaf-r01a`]: done });
	const rack = within(await screen.findByRole("region", { name: "At the rack" }));
	await userEvent.click(rack.getByRole("button", { name: "Drain it" }));
	expect(await rack.findByText("Nobody would reach leaf-r09a.")).toBeTruthy();
	expect(rack.getByText("1 host goes dark once it is out: radar-1.")).toBeTruthy();
	expect(rack.getByText("2 neighbours; spine-2 keeps 1 of 4 links this way.")).toBeTruthy();
	const drain = rack.getByRole<HTMLButtonElement>("button", { name: "Drain leaf-r01a" });
	expect(drain.disabled).toBe(true);
	await userEvent.type(rack.getByLabelText("Why?"), "new fans{Enter}");
	await waitFor(() => expect(posted(asked)[0]?.body).toEqual({ why: "new fans" }));
});

test("one that is not drained says who still goes by it, in its row too, and may carry again", async () => {
	const asked = there({ [`GET ${F}/drains`]: [DRAIN], [`DELETE ${F}/drains/leaf-r01a`]: done });
	expect(await screen.findByText("not drained: spine-2 still goes by it to 10.60.0.9")).toBeTruthy();
	const rack = within(screen.getByRole("region", { name: "At the rack" }));
	expect(rack.queryByRole("button", { name: "Drain it" })).toBeNull();
	await userEvent.click(rack.getByRole("button", { name: "Let it carry again" }));
	await waitFor(() => expect(posted(asked)[0]?.method).toBe("DELETE"));
});

test("a box is taken out with a reason; one that is alive only even so, and a refusal is told", async () => {
	const asked = there({
		[`POST ${F}/roll/leaf-r01a/out`]: (one: Asked) =>
			(one.body as { even_so: boolean }).even_so
				? done()
				: new Refusal(422, "it is alive and carries traffic. Drain it first"),
	});
	const rack = within(await screen.findByRole("region", { name: "At the rack" }));
	await userEvent.click(rack.getByRole("button", { name: "Take its box out" }));
	await userEvent.type(rack.getByLabelText("Why?"), "its fans died{Enter}");
	expect(await screen.findByText(/it is alive and carries traffic/)).toBeTruthy();
	await userEvent.click(rack.getByRole("button", { name: "Take its box out" }));
	await userEvent.type(rack.getByLabelText("Why?"), "its fans died");
	await userEvent.click(rack.getByLabelText("also if it is alive and not drained"));
	await userEvent.click(rack.getByRole("button", { name: "Take LJ-LEAF-R01A out" }));
	await waitFor(() => expect(posted(asked).at(-1)?.body).toEqual({ why: "its fans died", even_so: true }));
});

test("who may not stage has the pages, and nothing else", async () => {
	there({}, somebody(["read", "unbox"]));
	const rack = within(await screen.findByRole("region", { name: "At the rack" }));
	expect(rack.getByRole("link", { name: "take out" }).getAttribute("href")).toBe(
		"/api/v1/fabrics/marlin/staging/errands/take-out/leaf-r01a",
	);
	expect(rack.queryAllByRole("button")).toEqual([]);
});

test("a box may come by RFC 8572, with a voucher as it was read and a word that is shown once", async () => {
	const asked = there({ [`PUT ${F}/sztp/leaf-r01a`]: { word: "four-words-in-one" } });
	const part = within(await screen.findByRole("region", { name: "By RFC 8572" }));
	await userEvent.click(part.getByRole("button", { name: "Let it" }));
	const file = new File([new Uint8Array([48, 130, 255])], "own.vcj");
	await userEvent.upload(part.getByLabelText("Its ownership voucher"), file);
	await userEvent.click(part.getByLabelText(/make a word/));
	await userEvent.click(part.getByRole("button", { name: "Let it come" }));
	expect(await part.findByText("four-words-in-one")).toBeTruthy();
	expect(posted(asked)[0]?.body).toEqual({ voucher: "MIL/", word: true });
});

test("software is listed, brought as it is, and taken out", async () => {
	const asked = there({
		[`GET ${F}/ways`]: { address: "", admits: "nobody", lend: "", rules: [] },
		[`GET ${F}/images`]: [
			{
				version: "12.9",
				model: "",
				name: "12.9.tar",
				sha256: "ab".repeat(32),
				size: 412_000_000,
				author: "Nadia Oke",
				at: "2026-11-27T09:00:00Z",
			},
		],
		[`PUT ${F}/images/13.0`]: {},
		[`DELETE ${F}/images/12.9`]: done,
	});
	await userEvent.click(await screen.findByRole("button", { name: "How they come in" }));
	const part = within(await screen.findByRole("region", { name: "Software" }));
	expect(await part.findByText("412 MB")).toBeTruthy();
	const bring = part.getByRole<HTMLButtonElement>("button", { name: "Bring it" });
	expect(bring.disabled).toBe(true);
	await userEvent.upload(part.getByLabelText("Software to bring"), new File(["x"], "13.0.tar"));
	await userEvent.type(part.getByLabelText("Its version"), "13.0");
	await userEvent.click(bring);
	await waitFor(() => expect(posted(asked)[0]?.path).toBe(`${F}/images/13.0`));
	expect([...(posted(asked)[0]?.query ?? [])]).toEqual([
		["model", ""],
		["file", "13.0.tar"],
	]);
	await userEvent.click(part.getByRole("button", { name: "Take 12.9 for any model out" }));
	await waitFor(() => expect(posted(asked).at(-1)?.method).toBe("DELETE"));
});

test("in a demo a hall of simulated switches is switched on, once", async () => {
	const asked = there({
		[`GET ${F}/simulated`]: { may: true, why: "" },
		[`POST ${F}/simulated`]: { id: 3 },
	});
	const button = await screen.findByRole<HTMLButtonElement>("button", { name: "Switch on a simulated hall" });
	await userEvent.click(button);
	await waitFor(() => expect(button.disabled).toBe(true));
	expect(posted(asked).map((one) => one.path)).toEqual([`${F}/simulated`]);
});

test("bytes are said as people say them", () => {
	expect([20_400, 412_000_000, 1_250_000_000].map(size)).toEqual(["20 KB", "412 MB", "1.3 GB"]);
});
