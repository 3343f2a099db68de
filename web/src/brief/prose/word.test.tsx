/** Claims about a word of the brief: it opens, is typed over or chosen, weighed before, and refused in words. */
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { MARLIN, Refusal, serve, show } from "../../testing";
import { TrialRoom } from "../sums/trial";
import { whole } from "./parse";
import { Word } from "./word";

const COUNT = (
	<TrialRoom>
		<Word
			path="spines.count"
			value={4}
			say={(value) => `${value} spines`}
			parse={whole}
			weighed
			choices={[3, 4, 5].map((value) => ({ value, label: `${value} spines` }))}
		/>
	</TrialRoom>
);
const SUMS = { ...MARLIN.sums, cables: MARLIN.sums.cables - 52, switches: MARLIN.sums.switches - 1 };
const WEIGHED = [
	{ value: 3, sums: SUMS, refusal: null },
	{ value: 4, sums: MARLIN.sums, refusal: null },
	{ value: 5, sums: null, refusal: "Every leaf needs 5 uplinks and has 4." },
];

test("what it offers is weighed: sums for what can be, reasons for what cannot", async () => {
	serve({ "POST /fabrics/marlin/options": WEIGHED });
	show(COUNT);
	await userEvent.click(screen.getByRole("button", { name: "4" }));
	const less = await screen.findByRole("button", { name: /3 spines.*−1 switch/ });
	expect(less.textContent).toContain("−52 cables");
	expect(screen.getByRole<HTMLButtonElement>("button", { name: /4 spines now/ }).disabled).toBe(true);
	const more = screen.getByRole<HTMLButtonElement>("button", { name: /5 spines/ });
	expect(more.disabled).toBe(true);
	expect(more.textContent).toContain("needs 5 uplinks");
});

test("a choice is one edit, made against the version on screen, and named for the history", async () => {
	const asked = serve({
		"POST /fabrics/marlin/options": WEIGHED,
		"POST /fabrics/marlin/edits": { ...MARLIN, version: 4 },
	});
	show(COUNT);
	await userEvent.click(screen.getByRole("button", { name: "4" }));
	await userEvent.click(await screen.findByRole("button", { name: /3 spines/ }));
	await waitFor(() => expect(asked.find((one) => one.path.endsWith("/edits"))).toBeTruthy());
	expect(asked.find((one) => one.path.endsWith("/edits"))?.body).toEqual({
		version: MARLIN.version,
		edits: [["spines.count", 3]],
		note: "3 spines",
	});
});

test("what is typed is tried at once, and a refusal stands where it was typed", async () => {
	const fault = {
		code: "ports.short",
		message: "A leaf has 4 uplinks.",
		path: "spines.count",
		line: 0,
		column: 0,
	};
	const asked = serve({
		"POST /fabrics/marlin/options": WEIGHED,
		"POST /fabrics/marlin/try": { sums: null, findings: [], faults: [fault] },
		"POST /fabrics/marlin/edits": new Refusal(422, "A leaf has 4 uplinks.", [
			{ ...fault, message: "Refused: 9." },
		]),
	});
	show(COUNT);
	await userEvent.click(screen.getByRole("button", { name: "4" }));
	await userEvent.type(screen.getByLabelText("… spines"), "{Control>}a{/Control}9");
	expect(await screen.findByText("A leaf has 4 uplinks.")).toBeTruthy();
	expect(asked.find((one) => one.path.endsWith("/try"))?.body).toEqual({ edits: [["spines.count", 9]] });
	await userEvent.keyboard("{Enter}");
	expect((await screen.findByRole("alert")).textContent).toBe("Refused: 9.");
});
