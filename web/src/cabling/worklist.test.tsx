/** Claims about the work list: what is ticked is kept on the device until the server has it, and nothing is lost without a network. */
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { OLMO, Refusal, serve, show, somebody } from "../testing";
import { WorkList } from "./worklist";

const cable = (label: string, port: string) => ({
	label,
	link: `key of ${label}`,
	a_rack: "r07",
	a_unit: 41,
	a_switch: "leaf-r07b",
	a_port: port,
	b_rack: "s01",
	b_unit: 39,
	b_switch: "spine-3",
	b_port: "p27",
	speed: 100,
	kind: "AOC",
	length: 10.5,
	measured: null,
	stock: 15,
	part: "AOC 100G",
	label_a: "",
	label_b: "",
});

function opened(post: unknown, who = OLMO, rack = "r07") {
	const asked = serve({
		"GET /session": who,
		"GET /fabrics/marlin/cables": [cable("M-0109", "u5"), cable("M-0110", "u6")],
		"GET /fabrics/marlin/cable-work": [],
		"GET /fabrics/marlin/elevations/r07": {
			rack: "r07",
			things: [],
			bundles: [],
			runs: ["M-0110", "M-0109"],
		},
		"POST /fabrics/marlin/cable-work": post,
	});
	show(<WorkList />, `/f/marlin/work?rack=${rack}`, undefined, true, who);
	return asked;
}
const sent = (asked: ReturnType<typeof opened>) =>
	asked
		.filter((one) => one.method === "POST")
		.flatMap((one) => (one.body as { deeds: Record<string, unknown>[] }).deeds);

test("a rack's cables stand in the order in which they are run, and a tick is sent with an id of the device", async () => {
	const asked = opened({ new: 1, not_planned: [] });
	const boxes = await screen.findAllByRole("checkbox");
	await waitFor(() =>
		expect(screen.getAllByRole("checkbox").map((box) => box.getAttribute("aria-label"))).toEqual([
			"M-0110 is laid",
			"M-0109 is laid",
		]),
	);
	await userEvent.click(boxes[0] as HTMLElement);
	await waitFor(() => expect(sent(asked)).toHaveLength(1));
	expect(sent(asked)[0]).toMatchObject({ kind: "laid", id: expect.stringMatching(/^[0-9a-f-]{36}$/) });
	await waitFor(() => expect(localStorage.getItem("deeds marlin")).toBeNull());
});

test("a rack that no cable ends in says so and leads to those that have some", async () => {
	opened({ new: 0, not_planned: [] }, OLMO, "r99");
	expect(await screen.findByText(/No cable of marlin ends in a rack r99/)).toBeTruthy();
	await userEvent.click(screen.getByRole("link", { name: "Show the racks" }));
	expect(await screen.findByRole("button", { name: /r07/ })).toBeTruthy();
});

test("without a network deeds wait on the device, are shown as done, and are sent once it is there", async () => {
	let there = false;
	const asked = opened(() =>
		there ? { new: 2, not_planned: [] } : new Refusal(503, "Barrio cannot reach its database."),
	);
	await userEvent.click(await screen.findByRole("checkbox", { name: "M-0109 is laid" }));
	expect(await screen.findByText(/1 deed on this device waits for the network/)).toBeTruthy();
	expect((screen.getByRole("checkbox", { name: "M-0109 is laid" }) as HTMLInputElement).checked).toBe(true);
	expect(screen.getByText("1 of 2 laid")).toBeTruthy();
	await userEvent.type(
		screen.getByLabelText(/Label of a cable/),
		"https://here/f/marlin/cabling?cable=M-0110{Enter}",
	);
	await userEvent.type(await screen.findByLabelText(/Measured length/), "12,6{Enter}");
	await userEvent.type(screen.getByLabelText(/Light received here/), "-2.1{Enter}");
	there = true;
	dispatchEvent(new Event("online"));
	await waitFor(() => expect(localStorage.getItem("deeds marlin")).toBeNull());
	expect(sent(asked).slice(-3)).toMatchObject([
		{ cable: "key of M-0109", kind: "laid" },
		{ cable: "key of M-0110", kind: "measured", number: 12.6 },
		{ cable: "key of M-0110", kind: "light a", number: -2.1 },
	]);
});

test("what the server will never take is told, and does not stop what comes after", async () => {
	opened(new Refusal(422, "A measured length is over 0."));
	await userEvent.click(await screen.findByRole("checkbox", { name: "M-0109 is laid" }));
	expect(await screen.findByText("A measured length is over 0.")).toBeTruthy();
	expect(localStorage.getItem("deeds marlin")).toBeNull();
});

test("who may not work on cables looks on", async () => {
	opened({}, somebody(["read", "look"]));
	expect(
		((await screen.findByRole("checkbox", { name: "M-0109 is laid" })) as HTMLInputElement).disabled,
	).toBe(true);
	expect(screen.getByText(/You look on/)).toBeTruthy();
});

test("a label that no cable bears is told", async () => {
	opened({});
	await screen.findAllByRole("checkbox");
	await userEvent.type(screen.getByLabelText(/Label of a cable/), "M-9999{Enter}");
	expect((await screen.findByRole("alert")).textContent).toContain("No cable bears m-9999");
});
