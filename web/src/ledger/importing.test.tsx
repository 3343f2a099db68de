/** Claims about importing a numbering plan: every row says what becomes of it, and all of it is taken or nothing. */
import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import type { Sheet } from "../api/client";
import { Refusal, serve, show } from "../testing";
import { ImportScreen } from "./importing";

const row = (line: number, outcome: string, reason = "") => ({
	line,
	number: `10.60.0.${line}`,
	owner: `leaf-r0${line}a`,
	use: "loopback.v4",
	key: `leaf/r0${line}/a`,
	fabric: "marlin",
	pool: "loopback",
	note: "",
	outcome,
	reason,
	now: "10.60.0.99",
});
const sheet = (rows: Sheet["rows"]): Sheet => ({
	columns: ["address", "switch", ""],
	mapping: { number: 0, owner: 1 },
	total: rows.length,
	counts: { moves: 1, refused: rows.length - 1 },
	refused: rows.filter((one) => one.outcome === "refused").length,
	rows,
});
const BAD = sheet([row(2, "moves"), row(3, "refused", "spine-1 has 10.60.0.3.")]);
const GOOD = sheet([row(2, "moves")]);

function importing(preview: unknown, take: unknown = GOOD) {
	return {
		asked: serve({
			"POST /fabrics/marlin/numbers/preview": preview,
			"POST /fabrics/marlin/numbers/take": take,
		}),
		...show(<ImportScreen />, "/f/marlin/ledger/import"),
	};
}
const paste = (text: string) =>
	fireEvent.paste(screen.getByLabelText("Or paste the rows here"), {
		clipboardData: { getData: () => text },
	});

test("pasted rows are read at once, and one that cannot be taken says why and holds back all", async () => {
	const { asked } = importing(BAD);
	paste("address,switch\n10.60.0.2,leaf-r02a\n10.60.0.3,leaf-r03a\n");
	expect(await screen.findByText("spine-1 has 10.60.0.3.")).toBeTruthy();
	expect(screen.getByText("moves to it from 10.60.0.99")).toBeTruthy();
	expect(screen.getByText("1 moves to it")).toBeTruthy();
	expect(screen.getByText("1 cannot be taken")).toBeTruthy();
	expect(asked[0]?.body).toBe("address,switch\n10.60.0.2,leaf-r02a\n10.60.0.3,leaf-r03a\n");
	expect(asked[0]?.headers.get("Content-Type")).toBe("text/csv");
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "Mend the sheet first" }).disabled).toBe(true);
});

test("a column guessed wrong is told what it is, and the sheet is read again so", async () => {
	const { asked } = importing(GOOD);
	paste("address,switch,\n10.60.0.2,leaf-r02a,crane\n");
	const note = await screen.findByLabelText("note");
	expect((note as HTMLSelectElement).selectedOptions[0]?.textContent).toBe("not in it");
	await userEvent.selectOptions(note, "column 3");
	await userEvent.selectOptions(await screen.findByLabelText("owner"), "not in it");
	await waitFor(() => expect(asked).toHaveLength(3));
	const columns = asked.map((one) => JSON.parse(one.query.get("columns") ?? "null"));
	expect(columns).toEqual([null, { number: 0, owner: 1, note: 2 }, { number: 0 }]);
});

test("a good sheet is taken whole, with its columns as seen, and leads back to the ledger", async () => {
	const { asked } = importing(GOOD);
	const file = new File(["10.60.0.2;leaf-r02a"], "plan.csv", { type: "text/csv" });
	await userEvent.upload(screen.getByLabelText("Choose a file"), file);
	expect(await screen.findByText("plan.csv")).toBeTruthy();
	await userEvent.click(await screen.findByRole("button", { name: "Take 1 row" }));
	await waitFor(() => expect(screen.getByLabelText("where").textContent).toBe("/f/marlin/ledger"));
	expect(screen.getByText("1 row taken; what they name is pinned.")).toBeTruthy();
	const taken = asked.find((one) => one.path.endsWith("/take"));
	expect(taken?.body).toBe("10.60.0.2;leaf-r02a");
	expect(taken?.query.get("columns")).toBe(JSON.stringify(GOOD.mapping));
});

test("what is no sheet, and what became untrue before it was taken, is said, and stays on screen", async () => {
	const { unmount } = importing(new Refusal(422, "There is no column of numbers in it."));
	paste("nothing");
	expect((await screen.findByRole("alert")).textContent).toBe("There is no column of numbers in it.");
	unmount();
	importing(GOOD, new Refusal(422, "10.60.0.2 was taken meanwhile."));
	paste("10.60.0.2,leaf-r02a");
	await userEvent.click(await screen.findByRole("button", { name: "Take 1 row" }));
	expect(await screen.findByText("10.60.0.2 was taken meanwhile.")).toBeTruthy();
	expect(screen.getByLabelText("where").textContent).toBe("/f/marlin/ledger/import");
});

test("several rows of one kind are spoken of as several", async () => {
	importing({ ...GOOD, total: 5, counts: { moves: 2, waits: 3 } });
	paste("10.60.0.2,leaf-r02a");
	expect(await screen.findByText("2 move to theirs")).toBeTruthy();
	expect(screen.getByText("3 wait for their switches")).toBeTruthy();
});
