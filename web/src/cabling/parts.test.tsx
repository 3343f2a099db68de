/** Claims about the parts of the Cabling screen: racks to the unit, what is ordered and printed, neighbour files, racks from a sheet. */
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { MARLIN, Refusal, serve, show, somebody } from "../testing";
import { CheckView } from "./check";
import { RackElevation } from "./elevation";
import { ImportRacks } from "./importing";
import { OrderView } from "./order";
import type { Elevation } from "./queries";

const thing = (name: string, unit: number, units: number, more: object = {}) => ({
	name,
	kind: "leaf",
	model: "Cantera L48",
	unit,
	units,
	watts: 330,
	weight: 9.8,
	faces: "rear",
	airflow: "back to front",
	key: `leaf/r01/${name.slice(-1)}`,
	state: "",
	...more,
});
const RACK: Elevation = {
	rack: "r01",
	height: 42,
	units: 34,
	watts: 6060,
	feed: 7000,
	weight: 560,
	most_weight: 900,
	things: [
		thing("leaf-r01a", 42, 1),
		thing("leaf-r01b", 41, 1),
		thing("tide-models-01", 2, 32, { kind: "other", key: "", faces: "front", airflow: "" }),
	],
	bundles: [],
	runs: [],
};

function elevation(rack = RACK, who?: Parameters<typeof show>[4]) {
	const asked = serve({ "POST /fabrics/marlin/edits": MARLIN });
	show(<RackElevation rack={rack} tall={422} marked="leaf-r01b" />, "/f/marlin/cabling", MARLIN, true, who);
	return () =>
		asked.filter((one) => one.method === "POST").map((one) => (one.body as { edits: unknown[] }).edits);
}

test("a switch is dragged from unit to unit, and lands where it is let go", async () => {
	const edits = elevation();
	const leaf = screen.getByRole("button", { name: /leaf-r01b, U41/ });
	const drawing = screen.getByRole("img", { name: /Rack r01/ });
	fireEvent.pointerDown(leaf, { clientY: 100 });
	fireEvent.pointerMove(drawing, { clientY: 130 });
	expect(screen.getByText("leaf-r01b at U38")).toBeTruthy();
	fireEvent.pointerUp(drawing, { clientY: 130 });
	await waitFor(() => expect(edits()).toEqual([[['units."leaf/r01/b"', 38]]]));
});

test("nothing is moved out of its rack, nor what is only clicked", async () => {
	const edits = elevation();
	const drawing = screen.getByRole("img", { name: /Rack r01/ });
	const top = screen.getByRole("button", { name: /leaf-r01a, U42/ });
	fireEvent.pointerDown(top, { clientY: 100 });
	fireEvent.pointerMove(drawing, { clientY: 10 });
	fireEvent.pointerUp(drawing, { clientY: 10 });
	fireEvent.pointerDown(top, { clientY: 100 });
	fireEvent.pointerUp(drawing, { clientY: 100 });
	fireEvent.keyDown(top, { key: "ArrowUp" });
	fireEvent.keyDown(screen.getByRole("button", { name: /tide-models-01/ }), { key: "ArrowUp" });
	await Promise.resolve();
	expect(edits()).toEqual([]);
});

test("who may not change the brief moves nothing", async () => {
	const edits = elevation(RACK, somebody(["read", "look", "cable"]));
	fireEvent.keyDown(screen.getByRole("button", { name: /leaf-r01b, U41/ }), { key: "ArrowDown" });
	await Promise.resolve();
	expect(edits()).toEqual([]);
});

test("a rack that draws more than one feed gives says so by colour and number", () => {
	elevation({ ...RACK, watts: 7400 });
	expect(screen.getByText("34 of 42 U, 7.4 kW").className).toContain("text-madder");
});

const material = (part: string, length: number | null, more: object = {}) => ({
	part,
	name: "AOC 100G, QSFP28",
	maker: "Brezo",
	length,
	needed: 16,
	spare: 1,
	stocked: 0,
	order: 17,
	price: 200,
	...more,
});

test("what to order is asked for some racks and since a version, and weighed against what is in stock", async () => {
	const asked = serve({
		"GET /fabrics/marlin/materials": [material("aoc-100", 5), material("sr-100", null)],
		"POST /fabrics/marlin/materials": [material("aoc-100", 5, { stocked: 10, order: 7 })],
	});
	show(<OrderView rack="" />, "/f/marlin/cabling");
	expect(await screen.findByText("6,800")).toBeTruthy();
	await userEvent.type(screen.getByLabelText("Only for these racks"), "r01..r04");
	await userEvent.type(screen.getByLabelText("Only what came since this version"), "v7");
	await waitFor(() =>
		expect(
			asked
				.filter((one) => one.method === "GET")
				.at(-1)
				?.query.toString(),
		).toBe("rack=r01..r04&since=7"),
	);
	await userEvent.upload(
		screen.getByLabelText("Weigh against what is in stock"),
		new File(["part,length,count\naoc-100,5,10\n"], "stock.csv", { type: "text/csv" }),
	);
	expect(await screen.findByText("1,400")).toBeTruthy();
	const weighed = asked.find((one) => one.method === "POST");
	expect(weighed?.query.get("since")).toBe("7");
});

test("a stock that cannot be read, and racks that are none, are told where they were said", async () => {
	serve({
		"GET /fabrics/marlin/materials": new Refusal(422, "“r1..” does not read as a range."),
		"POST /fabrics/marlin/materials": new Refusal(422, "Line 2: no part is called rope."),
	});
	show(<OrderView rack="" />, "/f/marlin/cabling");
	expect((await screen.findByRole("alert")).textContent).toContain("does not read as a range");
	await userEvent.upload(
		screen.getByLabelText("Weigh against what is in stock"),
		new File(["part,count\nrope,1\n"], "stock.csv", { type: "text/csv" }),
	);
	expect(await screen.findByText("Line 2: no part is called rope.")).toBeTruthy();
});

test("pages and labels are asked for as a job, labels on the sheets that were chosen", async () => {
	const asked = serve({
		"GET /fabrics/marlin/materials": [],
		"POST /fabrics/marlin/jobs": { id: 1, kind: "pages", fabric: "marlin" },
	});
	show(<OrderView rack="" />, "/f/marlin/cabling");
	await userEvent.selectOptions(screen.getByLabelText("Sheets of labels"), "A4, 48 × 25 mm");
	await userEvent.click(screen.getByRole("button", { name: "Labels for all ends" }));
	expect(await screen.findByText(/pages of marlin are being drawn/)).toBeTruthy();
	expect(asked.find((one) => one.method === "POST")?.body).toMatchObject({
		kind: "pages",
		what: "labels",
		size: "a4-48x25",
	});
});

const HEARD = {
	taken_at: "2026-11-09T10:00:00Z",
	author: "Luz",
	counts: { right: 2, missing: 1 },
	right: [],
	cables: [],
	unknown: [{ one: { switch: "leaf-r01a", port: "h40" }, other: { switch: "kettle", port: "eth0" } }],
	moves: 0,
	mends: [
		{
			pull: [],
			moves: [],
			lay: [{ one: { switch: "leaf-r01a", port: "u1" }, other: { switch: "spine-1", port: "p1" } }],
		},
	],
	instead: null,
	findings: [],
};

test("tables of several switches are brought as files that bear their names, and taken as one", async () => {
	const asked = serve({
		"GET /fabrics/marlin/neighbours": new Refusal(404, "Nobody has said yet."),
		"POST /fabrics/marlin/neighbours": HEARD,
	});
	show(<CheckView onCable={() => undefined} />, "/f/marlin/cabling");
	expect(await screen.findByText(/Nobody has said yet what the switches hear/)).toBeTruthy();
	const file = (name: string) => new File([JSON.stringify({ lldp: { interface: [name] } })], `${name}.json`);
	await userEvent.upload(screen.getByLabelText("Files, named after switches"), [
		file("leaf-r01a"),
		file("leaf-r01b"),
	]);
	expect(await screen.findByText("To do")).toBeTruthy();
	expect(asked.find((one) => one.method === "POST")?.body).toEqual({
		"leaf-r01a": { lldp: { interface: ["leaf-r01a"] } },
		"leaf-r01b": { lldp: { interface: ["leaf-r01b"] } },
	});
	const view = screen.getByRole("region", { name: "Neighbours" });
	expect(view.textContent).toContain("Lay a cable from leaf-r01a u1 to spine-1 p1");
	expect(view.textContent).toContain("leaf-r01a h40 hears kettle eth0, and no cable is planned there");
});

test("a table that cannot be taken is told, and what was pasted stays", async () => {
	serve({
		"GET /fabrics/marlin/neighbours": { ...HEARD, mends: [], unknown: [] },
		"POST /fabrics/marlin/neighbours": new Refusal(422, "None of them is in this fabric."),
	});
	show(<CheckView onCable={() => undefined} />, "/f/marlin/cabling");
	expect(await screen.findByText("All that was heard lies as planned.")).toBeTruthy();
	const field = screen.getByLabelText(/What the switches hear/) as HTMLTextAreaElement;
	await userEvent.type(field, "leaf-x u1 spine-x p1");
	await userEvent.click(screen.getByRole("button", { name: "Hold against the plan" }));
	expect((await screen.findByRole("alert")).textContent).toContain("None of them is in this fabric");
	expect(field.value).toBe("leaf-x u1 spine-x p1");
});

test("a file that is not JSON through and through is told, and not taken", async () => {
	const asked = serve({ "GET /fabrics/marlin/neighbours": { ...HEARD, mends: [], unknown: [] } });
	show(<CheckView onCable={() => undefined} />, "/f/marlin/cabling");
	await screen.findByText("All that was heard lies as planned.");
	await userEvent.upload(screen.getByLabelText("Files, named after switches"), [
		new File(["{ cut off"], "leaf-r01a.json"),
	]);
	expect((await screen.findByRole("alert")).textContent).toContain("leaf-r01a.json");
	expect(asked.filter((one) => one.method === "POST")).toEqual([]);
});

test("racks from a sheet: what moves is told from where, and a row that cannot be keeps all from being taken", async () => {
	const row = (line: number, rack: string, outcome: string, more: object = {}) => ({
		line,
		rack,
		place: "models, 1 by 2 m, facing north",
		outcome,
		reason: "",
		now: "",
		...more,
	});
	serve({
		"POST /fabrics/marlin/floor/preview": {
			columns: ["rack", "x", "y"],
			mapping: { rack: 0, x: 1, y: 2 },
			total: 2,
			counts: { moves: 1, refused: 1 },
			refused: 1,
			version: 3,
			rows: [
				row(2, "r12", "moves", { now: "models, 5.2 by 3.9 m, facing north" }),
				row(3, "r99", "refused", { reason: "The fabric has no rack r99." }),
			],
		},
	});
	show(<ImportRacks />, "/f/marlin/cabling/import");
	await userEvent.upload(
		screen.getByLabelText("Choose a file"),
		new File(["rack,x,y\nr12,1,2\n"], "racks.csv"),
	);
	const grid = await screen.findByRole("grid");
	expect(within(grid).getByText(/moves, from models, 5.2 by 3.9 m/)).toBeTruthy();
	expect(within(grid).getByText("The fabric has no rack r99.")).toBeTruthy();
});
