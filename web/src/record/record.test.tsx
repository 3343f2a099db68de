/** Claims about the record: time down the page, sieved by a sentence, and each act with both sides of what it altered. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { serve, show } from "../testing";
import { RecordScreen } from "./screen";
import { changedLines } from "./sides";

const deed = (id: number, at: string, act: string, more = {}) => ({
	id,
	at,
	act,
	author: "Ines Marrero",
	token: "",
	address: "127.0.0.1",
	topic: "ledger",
	fabric: "marlin",
	version: 1,
	note: "5 spines",
	altered: 1,
	...more,
});
const DEEDS = [
	deed(3, "2026-05-05T10:00:00Z", "draft saved"),
	deed(2, "2026-05-04T10:00:00Z", "sign-in failed", {
		author: "",
		fabric: null,
		note: "ines: the password was wrong",
	}),
	deed(1, "2026-05-04T09:00:00Z", "rest over", { author: "", address: "", fabric: null, note: "" }),
];

test("acts stand under their days, with who did them, and go on where there are more", async () => {
	const asked = serve({
		"GET /record": ({ query }: { query: URLSearchParams }) =>
			query.get("before") ? { deeds: [], more: null } : { deeds: DEEDS, more: 1 },
	});
	show(<RecordScreen />, "/record", undefined, false);
	const acts = within(await screen.findByRole("list", { name: "Acts" }));
	await waitFor(() => expect(acts.getAllByRole("listitem")).toHaveLength(6));
	expect(acts.getAllByRole("listitem").map((one) => one.textContent?.slice(0, 5))).toContain("5 May");
	expect(acts.getByText("somebody")).toBeTruthy();
	expect(acts.getByText("Barrio itself")).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "Earlier" }));
	await waitFor(() => expect(asked.at(-1)?.query.get("before")).toBe("1"));
});

test("the sentence sieves the list, its sheet and its address alike", async () => {
	const asked = serve({ "GET /record": { deeds: [], more: null } });
	show(<RecordScreen />, "/record", undefined, false);
	await userEvent.type(screen.getByLabelText("Word"), "spines");
	await userEvent.selectOptions(screen.getByLabelText("About"), "people");
	await waitFor(() => expect(asked.at(-1)?.query.toString()).toBe("text=spines&topic=people"));
	expect(screen.getByRole("link", { name: "Download (CSV)" }).getAttribute("href")).toBe(
		"/api/v1/record.csv?text=spines&topic=people",
	);
	expect(location.search).toBe("?text=spines&topic=people");
	expect(await screen.findByText("Nothing of that kind was done.")).toBeTruthy();
	history.replaceState(null, "", "/");
});

test("what an act altered is shown before and after, a brief by its lines", async () => {
	serve({
		"GET /record": { deeds: DEEDS, more: null },
		"GET /record/3": [
			{
				thing: "fabrics",
				key: "marlin",
				before: { title: "Old", head: 1, brief: "fabric: marlin\nspines: {count: 4}\n" },
				after: { title: "New", head: 2, brief: "fabric: marlin\nspines: {count: 5}\n" },
			},
			{ thing: "grants", key: "reader", before: null, after: { role: "reader", fabric: null } },
		],
	});
	show(<RecordScreen />, "/record?deed=3", undefined, false);
	const fabric = within(await screen.findByRole("region", { name: "fabrics marlin" }));
	expect(fabric.getByText("Old").tagName).toBe("DEL");
	expect(fabric.getByText("New").tagName).toBe("INS");
	expect(fabric.queryByText("head")).toBeNull();
	expect(fabric.getByText("− spines: {count: 4}")).toBeTruthy();
	expect(fabric.getByText("+ spines: {count: 5}")).toBeTruthy();
	expect(fabric.queryByText(/fabric: marlin/)).toBeNull();
	expect(screen.getByRole("region", { name: "grants reader" }).textContent).toContain("made");
});

test("of two texts just the lines that differ are left, in order", () => {
	const said = (before: string, after: string) =>
		changedLines([...before], [...after]).map(({ kind, text }) => (kind === "gone" ? "-" : "+") + text);
	expect(said("abcd", "abxd")).toEqual(["-c", "+x"]);
	expect(said("abc", "abc")).toEqual([]);
	expect(said("", "ab")).toEqual(["+a", "+b"]);
	for (const [before, after] of [
		["abcabba", "cbabac"],
		["xaxbx", "ayb"],
	] as const) {
		const kept = [...before].length - said(before, after).filter((one) => one.startsWith("-")).length;
		const added = said(before, after).filter((one) => one.startsWith("+")).length;
		expect(kept + added).toBe(after.length);
	}
});
