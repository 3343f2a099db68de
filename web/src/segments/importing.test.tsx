/** Claims about hosts from a sheet: what was seen is what is taken, of the draft that it was seen against. */
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { serve, show } from "../testing";
import { ImportHosts } from "./importing";

const SHEET = {
	columns: ["host", "at"],
	mapping: { host: 0, at: 1 },
	total: 2,
	counts: { new: 1, changes: 1 },
	refused: 0,
	version: 7,
	rows: [
		{ line: 2, host: "web-1", at: "r01 h7", carries: "web", outcome: "new", reason: "", now: "" },
		{ line: 3, host: "web-2", at: "r01 h8", carries: "web", outcome: "changes", reason: "", now: "web-2" },
	],
};

test("a sheet of hosts is taken at the version that it was tried on, with its columns as seen", async () => {
	const asked = serve({
		"POST /fabrics/marlin/hosts/preview": SHEET,
		"POST /fabrics/marlin/hosts/take": { ...SHEET, version: 8 },
	});
	show(<ImportHosts />, "/f/marlin/segments/import");
	await userEvent.upload(screen.getByLabelText("Choose a file"), new File(["PK..."], "hosts.xlsx"));
	expect(await screen.findByText("1 is new")).toBeTruthy();
	expect(screen.getByText("1 changes")).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "Take 2 rows" }));
	await waitFor(() => expect(screen.getByLabelText("where").textContent).toBe("/f/marlin/segments"));
	const taken = asked.find((one) => one.path.endsWith("/take"));
	expect([taken?.query.get("version"), taken?.query.get("columns"), taken?.body]).toEqual([
		"7",
		JSON.stringify({ host: 0, at: 1 }),
		"PK...",
	]);
	expect(screen.getByText("2 rows taken, as one change that can be undone.")).toBeTruthy();
});
