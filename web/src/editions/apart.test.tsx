/** Claims about two sides beside each other: what is other at each level, each file in two columns or one, and bundles from elsewhere. */
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { type Asked, Refusal, ROW, serve, show } from "../testing";
import { EDITION, LIKE, REVIEW, RIPPLE, TOUCHED } from "./made";
import { EditionsScreen } from "./screen";

const F = "/fabrics/marlin";
const NUMBER = { name: "loopback.v4 leaf/b01/a", one: "10.60.0.29", other: "10.60.0.254" };
const APART = {
	words: [{ name: "underlay.bfd.interval", one: "300", other: "100" }],
	unread: "",
	numbers: [
		NUMBER,
		...Array.from({ length: 9 }, (_, at) => ({ name: `asn leaf/r${at}`, one: "", other: String(at) })),
	],
	switches: [],
	files: [
		{ path: "etc/frr/frr.conf", state: "changed", switches: ["spine-1", "spine-2"], gone: 1, come: 2 },
		{ path: "etc/frr/frr.conf", state: "only other", switches: ["leaf-r13a"], gone: 0, come: 146 },
	],
	cables: [],
	counts: { words: 1, numbers: 10, switches: 0, files: 2, cables: 0 },
};
const row = (kind: string, one: number, other: number, text: string, beside: string, folded = 0) => ({
	kind,
	one,
	other,
	text,
	beside,
	folded,
});
const ROWS = [
	row("folded", 1, 1, "", "", 40),
	row("same", 41, 41, "bfd", "bfd"),
	row("changed", 42, 42, " detect 3", " detect 4"),
	row("come", 0, 43, "", " receive 100"),
];

function files(answers: Record<string, unknown> = {}, at = "/f/marlin/editions?files=1"): Asked[] {
	const asked = serve({
		[`GET ${F}/editions`]: [EDITION],
		[`GET ${F}/review`]: REVIEW,
		[`GET ${F}/ripple`]: RIPPLE,
		[`GET ${F}/ripple/switches`]: TOUCHED,
		[`GET ${F}/ripple/groups`]: [LIKE],
		[`GET ${F}/switches`]: [],
		[`GET ${F}/apart`]: APART,
		[`GET ${F}/apart/file`]: ROWS,
		"GET /fabrics": [ROW, { ...ROW, name: "tern" }],
		...answers,
	});
	show(<EditionsScreen />, at);
	return asked;
}

test("each level tells what is other, the first of many, and asks for the two sides that are open", async () => {
	const asked = files();
	const row = (await screen.findByText("loopback.v4 leaf/b01/a")).closest("li");
	expect(row?.textContent).toContain("10.60.0.2910.60.0.254");
	expect(screen.getByRole("heading", { name: "Numbers: 10" })).toBeTruthy();
	expect(screen.queryByText("asn leaf/r8")).toBeNull();
	await userEvent.click(screen.getByRole("button", { name: "2 more" }));
	expect(screen.getByText("asn leaf/r8")).toBeTruthy();
	const query = asked.find((one) => one.path === `${F}/apart`)?.query;
	expect([query?.get("one"), query?.get("other")]).toEqual(["edition 1", "draft"]);
});

test("a file opens line by line with what is alike folded, side by side or in one column", async () => {
	files();
	await userEvent.click(await screen.findByRole("button", { name: /frr.conf spine-1, spine-2 \+2 −1/ }));
	expect(await screen.findByText("… 40 lines are the same")).toBeTruthy();
	expect(screen.getAllByText("bfd")).toHaveLength(2);
	await userEvent.click(screen.getByRole("button", { name: "in one column" }));
	expect(screen.getAllByText("bfd")).toHaveLength(1);
	expect(screen.getByText("detect 3")).toBeTruthy();
	expect(screen.getByText("detect 4")).toBeTruthy();
	expect(screen.getByRole("button", { name: /leaf-r13a comes/ })).toBeTruthy();
});

test("a number takes a comment where it stands, with what it says now", async () => {
	const asked = files({ [`POST ${F}/review/comments`]: REVIEW });
	await userEvent.click(await screen.findByRole("button", { name: "loopback.v4 leaf/b01/a" }));
	await userEvent.type(screen.getByLabelText("Comment on loopback.v4 leaf/b01/a"), "Why?{Enter}");
	await waitFor(() =>
		expect(asked.find((one) => one.path.endsWith("/comments"))?.body).toEqual({
			thing: "number",
			at: "loopback.v4 leaf/b01/a",
			stood: "10.60.0.254",
			words: "Why?",
		}),
	);
});

test("a brief that cannot be read is said, and the rest is compared", async () => {
	files({ [`GET ${F}/apart`]: { ...APART, words: [], unread: "A brief of the two cannot be read." } });
	expect(await screen.findByText("A brief of the two cannot be read.")).toBeTruthy();
	expect(screen.getByText("loopback.v4 leaf/b01/a")).toBeTruthy();
});

test("another fabric is held against this one; a bundle that climbs out is refused in words", async () => {
	const asked = files({ [`POST ${F}/apart/brought`]: new Refusal(422, "The archive has a member '../up'.") });
	await screen.findByRole("option", { name: "fabric tern" });
	await userEvent.selectOptions(screen.getByLabelText(/Hold against/), "fabric tern");
	await waitFor(() => expect(asked.some((one) => one.query.get("one") === "fabric tern")).toBe(true));
	await userEvent.upload(screen.getByLabelText("or a bundle from elsewhere"), new File(["x"], "bundle.zip"));
	expect(await screen.findByText("The archive has a member '../up'.")).toBeTruthy();
});
