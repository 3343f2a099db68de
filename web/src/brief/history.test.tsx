/** Claims about the history of a draft: each change with who, when and what it did, and the ways back and forth. */
import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import type { Fabric } from "../api/client";
import { MARLIN, Refusal, serve, show, somebody } from "../testing";
import { History } from "./history";

const revision = (id: number, note: string, author: string, effect = {}, current = false) => ({
	id,
	note,
	author,
	effect,
	current,
	saved_at: "2026-05-04T09:30:00Z",
});
const REVISIONS = [
	revision(3, "5 spines", "Ines", { switches_added: 1, cables_added: 24 }, true),
	revision(2, "titled", ""),
];
const WHOSE: Fabric = { ...MARLIN, title: "Marlin", undo: "5 spines", redo: null };

function history(more: Partial<Fabric> = {}, answers: Record<string, unknown> = {}) {
	const asked = serve({ "GET /fabrics/marlin/history": REVISIONS, ...answers });
	show(<History fabric={{ ...WHOSE, ...more }} open onOpen={() => undefined} />);
	return asked;
}

test("each change says what it was, what it did and who made it; where the draft stands is marked", async () => {
	history();
	const [first, second] = await screen.findAllByRole("listitem");
	expect(first?.textContent).toMatch(/5 spines1 new switch, 24 cables to layInesTake back$/);
	expect(first?.getAttribute("aria-current")).toBe("true");
	expect(second?.textContent).toMatch(/titlednothing movedBarrio$/);
	expect(second?.getAttribute("aria-current")).toBe("false");
	expect(screen.getByRole("heading").textContent).toBe("History of Marlin");
});

test("one change is taken back by itself, and where the fabric began nothing is", async () => {
	const asked = history({}, { "POST /fabrics/marlin/history/3/back": WHOSE });
	const buttons = await screen.findAllByRole("button", { name: "Take back" });
	expect(buttons).toHaveLength(1);
	await userEvent.click(buttons[0] as HTMLElement);
	expect(asked.find((one) => one.path.endsWith("/3/back"))?.body).toEqual({ version: WHOSE.version });
});

test("who may only look is offered no way back, and sees all that was done", async () => {
	serve({ "GET /fabrics/marlin/history": REVISIONS });
	const part = <History fabric={WHOSE} open onOpen={() => undefined} />;
	show(part, undefined, undefined, true, somebody(["read", "look"]));
	expect(await screen.findAllByRole("listitem")).toHaveLength(2);
	expect(screen.queryByRole("button", { name: /Undo/ })).toBeNull();
});

test("forward is offered where there is a forward, and there is no way back from the first version", async () => {
	const asked = history(
		{ undo: null, redo: "6 spines" },
		{ "POST /fabrics/marlin/redo": new Refusal(409, "The draft was changed elsewhere.") },
	);
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "Undo" }).disabled).toBe(true);
	await userEvent.click(screen.getByRole("button", { name: "Redo “6 spines”" }));
	expect(await screen.findByText(/changed elsewhere/)).toBeTruthy();
	expect(asked.filter((one) => one.path.endsWith("/redo"))).toHaveLength(1);
});

test("without a redo none is offered", async () => {
	history();
	await screen.findAllByRole("listitem");
	expect(screen.queryByRole("button", { name: /Redo/ })).toBeNull();
});
