/** Claims about the list of rehearsals: what each came to in a line, whether it is of another state, and who may begin one. */
import { render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import { REHEARSAL } from "./made";
import { Past } from "./past";
import type { Rehearsal } from "./queries";

function list(past: Rehearsal[], more: Partial<Parameters<typeof Past>[0]> = {}) {
	const called = { onOpen: vi.fn(), onQuestion: vi.fn(), onDrill: vi.fn() };
	render(<Past past={past} open={past[0]} question="" drill="" composing={false} {...called} {...more} />);
	return called;
}

const line = () => screen.getByRole("list", { name: "Every rehearsal" }).textContent ?? "";

test.each<[Partial<Rehearsal>, string, string]>([
	[
		{ state: "waiting", words: "waits for 900 MiB of memory" },
		"waits for 900 MiB of memory",
		"not asked yet",
	],
	[{ state: "waiting", words: "" }, "waits for a worker", "not asked yet"],
	[{ state: "working", under_way: "" }, "begins", "not asked yet"],
	[{ state: "working", under_way: "BFD watches every link" }, "BFD watches every link", "not asked yet"],
	[{ state: "failed" }, "it did not come to its end", "no"],
	[{ state: "stopped" }, "stopped on the way", "no"],
	[{}, "1 said no, 1 yes; 0 of 1 drills as foretold", "no"],
	[{ drills: [], answers: REHEARSAL.answers.slice(0, 1) }, "1 question, all yes", "yes"],
])("a rehearsal that is %j reads “%s”", (more, words, sign) => {
	list([{ ...REHEARSAL, ...more }]);
	expect(line()).toContain(words);
	expect(
		within(screen.getByRole("list", { name: "Every rehearsal" })).getByRole("img", { name: sign }),
	).toBeTruthy();
});

test("one of a draft that went on says so; one of an edition says which", () => {
	list([
		{ ...REHEARSAL, other: true },
		{ ...REHEARSAL, job: 6, edition: 3 },
	]);
	expect(screen.getByText("the draft has changed since")).toBeTruthy();
	expect(screen.getByText("edition 3")).toBeTruthy();
	expect(screen.getByText("draft, version 12")).toBeTruthy();
});

test("who may not rehearse is not offered to", () => {
	list([REHEARSAL]);
	expect(screen.queryByRole("button", { name: "Rehearse…" })).toBeNull();
});

test("a question and a drill that are open are closed by a second click, others are opened", async () => {
	const called = list([REHEARSAL], { question: "sessions", drill: "" });
	const questions = within(screen.getByRole("list", { name: "Questions" }));
	await userEvent.click(questions.getByRole("button", { name: /every planned session is up/ }));
	await userEvent.click(questions.getByRole("button", { name: /every port hears/ }));
	expect(called.onQuestion.mock.calls).toEqual([[""], ["cables"]]);
	await userEvent.click(screen.getByRole("button", { name: /spine-1 is away/ }));
	expect(called.onDrill).toHaveBeenCalledWith("spine-1");
	await userEvent.click(screen.getByRole("button", { name: /draft, version 12/ }));
	expect(called.onOpen).toHaveBeenCalledWith(7);
});

test("while a new one is written, no old one's questions stand beside it", () => {
	list([REHEARSAL], { composing: true, onNew: () => {} });
	expect(screen.queryByRole("list", { name: "Questions" })).toBeNull();
	expect(screen.getByRole("button", { name: "Rehearse…" }).getAttribute("aria-pressed")).toBe("true");
});
