/** Claims about the strip: what the draft does at once in counts, then whole; and what is said when it cannot be told. */
import { screen, waitFor } from "@testing-library/react";
import { expect, test } from "vitest";
import { RIPPLE } from "../editions/made";
import { MARLIN, Refusal, serve, show } from "../testing";
import { RippleStrip } from "./ripple";

const SUMS = { version: 3, against: 2, counts: { switches_changed: 4, cables_added: 2, numbers_taken: 7 } };

async function strip(sums: object, ripple: unknown): Promise<HTMLElement> {
	serve({ "GET /fabrics/marlin/ripple/sums": sums, "GET /fabrics/marlin/ripple": ripple });
	show(<RippleStrip fabric={MARLIN} onChange={() => undefined} busy={false} />);
	return screen.findByLabelText("What the draft does");
}

test("counts come at once, while lines and sessions are still worked out", async () => {
	const shown = await strip(SUMS, () => new Promise(() => undefined));
	await waitFor(() => expect(shown.textContent).toContain("Draft4 changed2 cables to lay7 numbers taken"));
	expect(shown.textContent).not.toContain("lines");
});

test("an order that is not safe stands in the strip", async () => {
	const order = { ...RIPPLE.order, unsafe: ["spine-1 and spine-2 lose all their sessions."] };
	const shown = await strip(SUMS, { ...RIPPLE, sessions: 8, order });
	await waitFor(() => expect(shown.textContent).toContain("8 sessions restartno safe order2 cables to lay"));
});

test("a draft that is what the edition says is told as that", async () => {
	const same = { ...RIPPLE, added: 0, removed: 0, changed: 0, said: [], counts: {} };
	const shown = await strip({ ...SUMS, counts: {} }, same);
	await waitFor(() => expect(shown.textContent).toContain("As edition 2"));
});

test("where an old edition cannot be read there is no ripple, and the strip says so", async () => {
	const shown = await strip(SUMS, new Refusal(422, "Edition 2 cannot be read by this Barrio any more."));
	await waitFor(() => expect(shown.textContent).toContain("no ripple"));
});

test("without an edition the strip tells the last change", async () => {
	const shown = await strip({ ...SUMS, against: 0 }, RIPPLE);
	await waitFor(() => expect(shown.textContent).toMatch(/^(Last change|New)/));
});
