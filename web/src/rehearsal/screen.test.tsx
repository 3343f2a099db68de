/** Claims about rehearsals: a wish is a sentence that tells what it takes, the Weave lives, failures come first with their evidence. */
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { type Asked, OLMO, Refusal, serve, show } from "../testing";
import { CLAIM, DRILL, PREVIEW, REHEARSAL } from "./made";
import { RehearsalScreen } from "./screen";
import { inAWord, isBad } from "./sign";

const F = "/fabrics/marlin";
function rehearsals(answers: Record<string, unknown> = {}, at = "/f/marlin/rehearsal", who = OLMO): Asked[] {
	const asked = serve({
		[`GET ${F}/rehearsals`]: [REHEARSAL],
		[`GET ${F}/editions`]: [],
		[`GET ${F}/rehearsals/7/answers/sessions`]: [CLAIM],
		[`POST ${F}/rehearsals/preview`]: PREVIEW,
		...answers,
	});
	show(<RehearsalScreen />, at, undefined, true, who);
	return asked;
}

test("questions that said no come first, those that were not asked say why, and the Weave shows where", async () => {
	rehearsals();
	const questions = within(await screen.findByRole("list", { name: "Questions" }));
	const rows = questions.getAllByRole("button").map((one) => one.textContent);
	expect(rows[0]).toContain("every planned session is up");
	expect(rows[0]).toContain("1 of 4 do not hold");
	expect(rows[2]).toContain("no host is shared");
	expect(screen.getByRole("heading", { name: "The draft, 1 question says no" })).toBeTruthy();
	const picture = screen.getByRole("img", { name: "3 of 3 switches run" });
	await waitFor(() => expect(picture.querySelectorAll('path[fill="var(--madder)"]')).toHaveLength(1));
	expect(picture.querySelectorAll('rect[fill="var(--moss)"]')).toHaveLength(1);
	expect(screen.getByText("3 of 4 spines")).toBeTruthy();
});

test("a thread shows how far its switch is, by its shape", async () => {
	const [spine, first, second] = REHEARSAL.switches;
	const switches = [
		spine,
		{ ...first, words: "boots" },
		{ ...second, words: "ifup did not take it", failed: true },
	];
	rehearsals({
		[`GET ${F}/rehearsals`]: [{ ...REHEARSAL, state: "working", under_way: "boots", answers: [], switches }],
	});
	const picture = await screen.findByRole("img", { name: "1 of 3 switches run" });
	const dashes = [...picture.querySelectorAll("path")].map((one) => one.getAttribute("stroke-dasharray"));
	expect(dashes).toEqual([null, "6 4", "14 6 3 6"]);
	expect(picture.textContent).toContain("did not come up");
	expect(screen.getByText("1 of 3 switches run")).toBeTruthy();
	expect(screen.getByRole("button", { name: "Stop it" })).toBeTruthy();
});

test("a claim that failed shows what was expected, what was asked, what was said, and why it was expected", async () => {
	rehearsals(
		{ [`GET ${F}/because`]: { title: "AS of leaf-r01b", steps: [], printed_on: [], cables: [], more: 0 } },
		`/f/marlin/rehearsal?job=7&question=sessions&claim=${encodeURIComponent(CLAIM.words)}`,
	);
	expect(await screen.findByText("it does not hold")).toBeTruthy();
	const margin = within(screen.getByRole("complementary", { name: "Because" }));
	expect(margin.getByText("it is Active (bad AS)")).toBeTruthy();
	expect(margin.getByText("AS 65002 with AS 65000")).toBeTruthy();
	expect(margin.getByText('{"bgpState": "Active"}')).toBeTruthy();
	expect(margin.getByText(/show bgp vrf all neighbors/)).toBeTruthy();
});

test("a drill plays as a score: gaps where nothing came, beside what was foretold, and what the daemons said at a moment", async () => {
	rehearsals({ [`GET ${F}/rehearsals/7/drills/spine-1`]: DRILL });
	const drills = within(await screen.findByRole("list", { name: "Drills" }));
	await userEvent.click(drills.getByRole("button", { name: /not as foretold, 2.10 s on 1 of 2 flows/ }));
	const score = await screen.findByRole("img", {
		name: /1 of 2 flows lost packets, the longest silence was 2.10 seconds/,
	});
	expect(score.textContent).toContain("2.10 s, 470 packets; 1.9 s foretold");
	expect(score.querySelectorAll('g[stroke="var(--madder)"]')).toHaveLength(1);
	expect(screen.getByText(/heard nothing for 2.10 s; 1.9 s at most/)).toBeTruthy();
	const margin = within(screen.getByRole("complementary", { name: "Because" }));
	expect(margin.getByText(/Down BFD down received/)).toBeTruthy();
	expect(margin.queryByText(/spine-1\) Up/)).toBeNull();
	fireEvent.change(screen.getByLabelText("moment"), { target: { value: "8.2" } });
	expect(await screen.findByText(/spine-1\) Up/)).toBeTruthy();
	expect(screen.queryByText(/Down BFD down received/)).toBeNull();
});

test("a wish is a sentence, tells what it takes and cannot prove, and is sent as it reads", async () => {
	const asked = rehearsals(
		{ [`POST ${F}/rehearsals`]: { ...REHEARSAL, job: 8 } },
		"/f/marlin/rehearsal?new=1",
	);
	expect(await screen.findByText("spine-1 leaf-r01a")).toBeTruthy();
	expect(screen.getByText("how wide paths are")).toBeTruthy();
	await userEvent.selectOptions(screen.getByLabelText("How much of it"), "racks");
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "Rehearse it" }).disabled).toBe(true);
	await userEvent.type(screen.getByLabelText("Racks"), "r01, r02");
	await userEvent.selectOptions(screen.getByLabelText("Which questions"), "some");
	await userEvent.click(await screen.findByLabelText("BFD watches every link"));
	await userEvent.selectOptions(
		screen.getByLabelText("What is taken away"),
		"a spine, a leaf and a link, one after the other",
	);
	await userEvent.click(screen.getByRole("button", { name: "Rehearse it" }));
	await waitFor(() =>
		expect(
			asked.filter((one) => one.path === `${F}/rehearsals` && one.method === "POST").map((one) => one.body),
		).toEqual([
			{
				edition: 0,
				whole: false,
				spines: 2,
				racks: ["r01", "r02"],
				most: 12,
				ground: "best",
				questions: ["cables", "sessions", "routes", "bfd"],
				drills: ["spine", "leaf", "link"],
				minutes: 60,
				change: false,
				machines: 1,
			},
		]),
	);
});

test("a link to a rehearsal that is gone says so and goes back; without any, the page says what goes here", async () => {
	rehearsals({}, "/f/marlin/rehearsal?job=99");
	await userEvent.click(await screen.findByRole("button", { name: "See the newest" }));
	expect(await screen.findByRole("heading", { name: "The draft, 1 question says no" })).toBeTruthy();
});

test("the street says in a word how the newest came out, and of which state it is", () => {
	expect(inAWord(REHEARSAL)).toBe("1 said no");
	expect(isBad(REHEARSAL)).toBe(true);
	const said = { ...REHEARSAL, answers: REHEARSAL.answers.slice(0, 1) };
	expect(inAWord(said)).toBe("1 not as foretold");
	expect(isBad(said)).toBe(true);
	const good = { ...said, drills: [] };
	expect(inAWord(good)).toBe("all said yes");
	expect(inAWord({ ...good, other: true })).toBe("of another state");
	expect(inAWord({ ...good, state: "working" })).toBe("under way");
	expect(inAWord({ ...good, state: "failed" })).toBe("did not come up");
});

test("an edition can become the draft, within a time that one gives", async () => {
	const asked = rehearsals(
		{
			[`GET ${F}/editions`]: [{ number: 3 }],
			[`POST ${F}/rehearsals`]: { ...REHEARSAL, job: 8 },
		},
		"/f/marlin/rehearsal?new=1",
	);
	expect(await screen.findByText("spine-1 leaf-r01a")).toBeTruthy();
	expect(screen.queryByLabelText("What becomes of it")).toBeNull();
	await screen.findByRole("option", { name: "edition 3" });
	await userEvent.selectOptions(screen.getByLabelText("Which state"), "3");
	await userEvent.selectOptions(screen.getByLabelText("What becomes of it"), "change");
	await userEvent.clear(screen.getByLabelText("Minutes at most"));
	await userEvent.type(screen.getByLabelText("Minutes at most"), "25");
	await userEvent.click(screen.getByRole("button", { name: "Rehearse it" }));
	await waitFor(() =>
		expect(
			asked.filter((one) => one.path === `${F}/rehearsals` && one.method === "POST").map((one) => one.body),
		).toMatchObject([{ edition: 3, change: true, minutes: 25 }]),
	);
});

test("J and K walk through the questions, those that said no first; N begins a new one", async () => {
	rehearsals();
	await screen.findByRole("list", { name: "Questions" });
	const where = () =>
		[...document.querySelectorAll('[aria-label="Questions"] [aria-current="true"]')].map(
			(one) => one.textContent,
		);
	await userEvent.keyboard("j");
	expect(where().join()).toContain("every planned session is up");
	await userEvent.keyboard("j");
	expect(where().join()).toContain("every port hears");
	await userEvent.keyboard("k");
	expect(where().join()).toContain("every planned session is up");
	await userEvent.keyboard("n");
	expect(await screen.findByRole("heading", { name: "What is to be rehearsed?" })).toBeTruthy();
});

test("what is refused is told in the server's words", async () => {
	rehearsals(
		{
			[`POST ${F}/rehearsals/preview`]: new Refusal(
				422,
				"There is no rack r99 with leaves that could be rehearsed.",
			),
		},
		"/f/marlin/rehearsal?new=1",
	);
	expect((await screen.findByRole("alert")).textContent).toContain("There is no rack r99");
});
