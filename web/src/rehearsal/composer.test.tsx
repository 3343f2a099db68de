/** Claims about a wish for a rehearsal: every word of the sentence is sent as it reads, stays within its bounds, and tells what it takes. */
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import { EDITION } from "../editions/made";
import { type Asked, MARLIN, Refusal, serve, show } from "../testing";
import { Composer } from "./composer";
import { PREVIEW } from "./made";
import type { Wish } from "./queries";

const F = "/fabrics/marlin";

function composed(preview: unknown = PREVIEW, busy = false) {
	const asked = serve({ [`GET ${F}/editions`]: [EDITION], [`POST ${F}/rehearsals/preview`]: preview });
	const begun = vi.fn<(wish: Wish) => void>();
	const left = vi.fn();
	show(<Composer fabric={MARLIN} busy={busy} onBegin={begun} onLeave={left} />);
	return { asked, begun, left };
}

const begin = () => userEvent.click(screen.getByRole("button", { name: "Rehearse it" }));
const wishes = (asked: Asked[]) =>
	asked.filter((one) => one.method === "POST").map((one) => one.body as Wish);

test("without a word changed it is the draft, a slice of twelve, every question, and nothing taken away", async () => {
	const { begun } = composed();
	await screen.findByText("spine-1 leaf-r01a");
	await begin();
	expect(begun).toHaveBeenCalledWith({
		edition: 0,
		whole: false,
		spines: null,
		racks: [],
		most: 12,
		ground: "best",
		questions: ["all"],
		drills: [],
		minutes: 60,
		change: false,
		machines: 1,
	});
});

test("an edition can be rehearsed, whole, on this machine's kernel", async () => {
	const { begun } = composed();
	await screen.findByRole("option", { name: `edition ${EDITION.number}` });
	await userEvent.selectOptions(screen.getByLabelText("Which state"), String(EDITION.number));
	await userEvent.selectOptions(screen.getByLabelText("How much of it"), "whole");
	await userEvent.selectOptions(screen.getByLabelText("Where"), "here");
	expect(screen.queryByLabelText("Switches at most")).toBeNull();
	await begin();
	expect(begun.mock.calls[0]?.[0]).toMatchObject({
		edition: EDITION.number,
		whole: true,
		ground: "here",
		racks: [],
	});
});

test("a number can be typed digit by digit, and stays within its bounds once one goes on", async () => {
	const { begun } = composed();
	const most = screen.getByLabelText<HTMLInputElement>("Switches at most");
	await userEvent.clear(most);
	await userEvent.type(most, "20");
	expect(most.value).toBe("20");
	await begin();
	expect(begun.mock.calls[0]?.[0].most).toBe(20);
	for (const [typed, kept] of [
		["1", "3"],
		["9999", "500"],
		["many", "3"],
	] as const) {
		await userEvent.clear(most);
		await userEvent.type(most, typed);
		await userEvent.tab();
		expect(most.value).toBe(kept);
	}
	await userEvent.selectOptions(screen.getByLabelText("How much of it"), "racks");
	const spines = screen.getByLabelText<HTMLInputElement>("Spines of each pod");
	await userEvent.clear(spines);
	await userEvent.type(spines, "1");
	expect(screen.getByText(/^spine$|spine,/, { exact: false, selector: "p" }).textContent).toMatch(
		/under\s+spine/,
	);
});

test("what a wish takes, leaves out and cannot prove is told, and asked again when it changes", async () => {
	const { asked } = composed({ ...PREVIEW, of_hosts: 0, outside: ["harbour-router"] });
	expect(await screen.findByText("2 switches:", { exact: false })).toBeTruthy();
	expect(screen.getByText("no host, since none hangs there, harbour-router")).toBeTruthy();
	expect(screen.getByText("3 of 4 spines")).toBeTruthy();
	await userEvent.selectOptions(screen.getByLabelText("How much of it"), "whole");
	await waitFor(() => expect(wishes(asked).at(-1)?.whole).toBe(true));
});

test("a wish that cannot be had says why and cannot be begun", async () => {
	composed(new Refusal(422, "There is no rack r99 with leaves that could be rehearsed. Is r09 meant?"));
	expect((await screen.findByRole("alert")).textContent).toContain("Is r09 meant?");
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "Rehearse it" }).disabled).toBe(true);
});

test("what is taken away is a kind, everything in turn, or what one names of what there is", async () => {
	const { begun } = composed();
	await screen.findByText("spine-1 leaf-r01a");
	const taken = screen.getByLabelText("What is taken away");
	await userEvent.selectOptions(taken, "every switch and every link, one after the other");
	await begin();
	await userEvent.selectOptions(taken, "what I name:");
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "Rehearse it" }).disabled).toBe(true);
	const names = screen.getByLabelText<HTMLInputElement>("Switches and links, two at once with +");
	const offered = [...(names.list?.options ?? [])].map((one) => one.value);
	expect(offered).toEqual(["spine-1", "spine-1:p1"]);
	await userEvent.type(names, "spine-1+leaf-r01a, spine-1:p1");
	await begin();
	expect(begun.mock.calls.map(([wish]) => wish.drills)).toEqual([
		["singles"],
		["spine-1+leaf-r01a", "spine-1:p1"],
	]);
});

test("what is too large for one machine is split, and how is told before it begins", async () => {
	const { begun } = composed({ ...PREVIEW, parts: [7, 5] });
	expect(await screen.findByText(/into 7, 5 switches, the first of them here/)).toBeTruthy();
	await userEvent.selectOptions(screen.getByLabelText("How many machines"), "each of 2 machines");
	await begin();
	expect(begun.mock.calls[0]?.[0].machines).toBe(2);
});

test("without a question there is nothing to begin; one that is left goes back", async () => {
	const { left } = composed();
	await screen.findByText("spine-1 leaf-r01a");
	await userEvent.selectOptions(screen.getByLabelText("Which questions"), "some");
	await userEvent.click(await screen.findByLabelText("every port hears whom the cabling plan says"));
	const button = screen.getByRole<HTMLButtonElement>("button", { name: "Rehearse it" });
	expect(button.disabled).toBe(false);
	await userEvent.selectOptions(screen.getByLabelText("Which questions"), "all");
	await userEvent.click(screen.getByRole("button", { name: "Leave it" }));
	expect(left).toHaveBeenCalledOnce();
});

test("while one begins it cannot be begun twice", async () => {
	composed(PREVIEW, true);
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "It begins…" }).disabled).toBe(true);
});
