/** Claims about a brief that cannot be read: what is wrong is listed, and each way out works. */
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { FabricFrame } from "../app/frame";
import { MARLIN, Refusal, serve, show } from "../testing";

const TEXT = {
	name: "tern",
	title: "Tern",
	version: 7,
	text: "fabric: tern\nbogus: 1\n",
	saved_at: "2026-05-04T09:30:00Z",
	note: "titled",
	undo: "titled",
	redo: null,
	faults: [{ code: "brief.extra", message: "There is no field “bogus”.", path: "bogus", line: 2, column: 1 }],
};

function unreadable(more: Record<string, unknown> = {}) {
	return serve({
		"GET /fabrics/tern": new Refusal(422, "There is no field “bogus”."),
		"GET /fabrics/tern/text": TEXT,
		"POST /fabrics/tern/check": new Refusal(422, "no"),
		...more,
	});
}

test("its text is shown with what is wrong beside it, line by line", async () => {
	unreadable();
	show(<FabricFrame />, "/f/tern/brief");
	expect(await screen.findByText("This brief cannot be read", undefined, { timeout: 8000 })).toBeTruthy();
	expect(screen.getByText(/There is no field “bogus”/)).toBeTruthy();
	expect(screen.getByRole("button", { name: "Line 2" })).toBeTruthy();
	expect((await screen.findByLabelText("The brief as YAML")).textContent).toContain("bogus: 1");
});

test("undo goes back from the version that is on screen", async () => {
	const asked = unreadable({ "POST /fabrics/tern/undo": { ...MARLIN, name: "tern" } });
	show(<FabricFrame />, "/f/tern/brief");
	await userEvent.click(await screen.findByRole("button", { name: /Undo “titled”/ }, { timeout: 8000 }));
	await waitFor(() => expect(asked.find((one) => one.path.endsWith("/undo"))?.body).toEqual({ version: 7 }));
});

test("a fabric that is not there says so and leads to those that are", async () => {
	serve({ "GET /fabrics/nowhere": new Refusal(404, "There is no fabric called nowhere.") });
	show(<FabricFrame />, "/f/nowhere/brief");
	expect(await screen.findByRole("heading", { name: "There is no fabric called nowhere." })).toBeTruthy();
	expect(screen.getByRole("link", { name: "See all fabrics" }).getAttribute("href")).toBe("/");
});
