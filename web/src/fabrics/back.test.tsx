/** Claims about the first page: what waits for somebody, and deleted fabrics with the way back. */
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { Refusal, serve, show } from "../testing";
import { Deleted } from "./deleted";
import { Waiting } from "./waiting";

const GONE = {
	name: "tern",
	title: "Tern, the archive hall",
	ended_by: "Ines",
	until: "2026-11-27T09:00:00Z",
};

test("what waits is told with for what, and leads there; when nothing does, nothing is there", async () => {
	serve({ "GET /waiting": [{ fabric: "marlin", title: "A quicker BFD", words: "It may be sealed." }] });
	const { unmount } = show(<Waiting />, "/", undefined, false);
	const link = await screen.findByRole("link", { name: "marlin: A quicker BFD" });
	expect(link.getAttribute("href")).toBe("/f/marlin/editions");
	expect(screen.getByText("It may be sealed.")).toBeTruthy();
	unmount();
	const asked = serve({ "GET /waiting": [] });
	show(<Waiting />, "/", undefined, false);
	await waitFor(() => expect(asked).toHaveLength(1));
	expect(screen.queryByText("Waits for you")).toBeNull();
});

test("a deleted fabric is brought back, and numbers that others have since are counted", async () => {
	const answers: Record<string, unknown> = {
		"GET /deleted-fabrics": [GONE],
		"POST /fabrics/tern/bring-back": new Refusal(404, "No fabric called tern was deleted within a day."),
	};
	serve(answers);
	show(<Deleted />, "/", undefined, false);
	await userEvent.click(await screen.findByRole("button", { name: "Bring it back" }));
	expect(await screen.findByText(/was deleted within a day/)).toBeTruthy();
	answers["POST /fabrics/tern/bring-back"] = { version: 9, not_back: [{}, {}] };
	await userEvent.click(screen.getByRole("button", { name: "Bring it back" }));
	expect(await screen.findByText(/2 numbers have another owner since and were drawn anew/)).toBeTruthy();
});
