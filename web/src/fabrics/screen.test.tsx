/** Claims about the list of fabrics: what each is, one that cannot be read, and how one is deleted. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { Refusal, ROW, serve, show } from "../testing";
import { FabricList } from "./screen";

const LOST = {
	...ROW,
	name: "tern",
	title: "",
	sums: null,
	line: "",
	wrong: {
		code: "brief.word",
		message: "A VRF cannot be called main.",
		path: "vrfs.main",
		line: 12,
		column: 3,
	},
};

test("a fabric is a row with its sums; one that cannot be read says why, and both lead to it", async () => {
	serve({ "GET /fabrics": [ROW, LOST] });
	show(<FabricList />, "/");
	const [marlin, tern] = await screen.findAllByRole("listitem");
	expect(marlin?.textContent).toContain("1.5 : 1");
	expect(marlin?.textContent).toContain("52 of 64");
	expect(
		within(marlin as HTMLElement)
			.getByRole("link")
			.getAttribute("href"),
	).toBe("/f/marlin/brief");
	expect(tern?.textContent).toContain("Line 12: A VRF cannot be called main.");
	expect(tern?.textContent).toContain("cannot be read; mend it");
	expect(
		within(tern as HTMLElement)
			.getByRole("link")
			.getAttribute("href"),
	).toBe("/f/tern/brief");
});

test("an empty Barrio says what a fabric is, and a broken one what broke", async () => {
	serve({ "GET /fabrics": [] });
	const { unmount } = show(<FabricList />, "/");
	expect(await screen.findByText(/No fabric is here yet/)).toBeTruthy();
	unmount();
	serve({ "GET /fabrics": new Refusal(503, "The disk is full.") });
	show(<FabricList />, "/");
	expect(await screen.findByText("The disk is full.")).toBeTruthy();
});

test("a fabric is deleted at the version that was seen, once its name is typed", async () => {
	const asked = serve({
		"GET /fabrics": [ROW],
		"DELETE /fabrics/marlin": ({ query }: { query: URLSearchParams }) =>
			query.get("version") === "3"
				? new Response(null, { status: 204 })
				: new Refusal(409, "Changed elsewhere."),
	});
	show(<FabricList />, "/");
	await userEvent.click(await screen.findByRole("button", { name: "Delete marlin" }));
	const sure = screen.getByRole<HTMLButtonElement>("button", { name: "Delete the fabric" });
	expect(sure.disabled).toBe(true);
	await userEvent.type(screen.getByLabelText("Type marlin"), "marli");
	expect(sure.disabled).toBe(true);
	await userEvent.type(screen.getByLabelText("Type marlin"), "n");
	await userEvent.click(sure);
	await waitFor(() =>
		expect(asked.filter((one) => one.path === "/fabrics" && one.method === "GET")).toHaveLength(2),
	);
	expect(asked.some((one) => one.method === "DELETE")).toBe(true);
});

test("a refusal to delete is shown where it was asked, and nothing else happens", async () => {
	const asked = serve({
		"GET /fabrics": [ROW],
		"DELETE /fabrics/marlin": new Refusal(422, "radar is private to marlin.", []),
	});
	show(<FabricList />, "/");
	await userEvent.click(await screen.findByRole("button", { name: "Delete marlin" }));
	await userEvent.type(screen.getByLabelText("Type marlin"), "marlin{Enter}");
	expect((await screen.findByRole("alert")).textContent).toBe("radar is private to marlin.");
	expect(asked.filter((one) => one.path === "/fabrics")).toHaveLength(1);
});

test("a blank fabric is made with its name and title, and opens", async () => {
	const asked = serve({
		"GET /fabrics": [],
		"POST /fabrics": { ...ROW, name: "heron" },
	});
	show(<FabricList />, "/");
	await userEvent.click(await screen.findByRole("button", { name: "New fabric" }));
	await userEvent.type(screen.getByLabelText(/Name, short/), "heron");
	await userEvent.type(screen.getByLabelText("Title, for people"), "The heronry");
	await userEvent.click(screen.getByRole("button", { name: "Make the fabric" }));
	await waitFor(() => expect(screen.getByLabelText("where").textContent).toBe("/f/heron/brief"));
	expect(asked.find((one) => one.method === "POST")?.body).toMatchObject({
		name: "heron",
		title: "The heronry",
	});
});
