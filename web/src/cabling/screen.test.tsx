/** Claims about the cabling plan: its rows, what is found in it, and what one cable says. */
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import type { CableRow } from "../api/client";
import { MARLIN, Refusal, serve, show, WEAVE } from "../testing";
import { CablingScreen } from "./screen";

const cable = (label: string, leaf: string, spine: string): CableRow => ({
	label,
	a_rack: leaf.slice(5, 8),
	a_unit: 42,
	a_switch: leaf,
	a_port: "u1",
	b_rack: "s01",
	b_unit: 40,
	b_switch: spine,
	b_port: "p7",
	speed: 100,
	kind: "AOC",
	length: 9.9,
	measured: null,
	stock: 10,
	part: "AOC 100G",
	link: label,
	use: "fabric",
	plug: "",
	via: null,
	label_a: `${label} | ${leaf.slice(5, 8)}.U42 ${leaf}:u1 | s01.U40 ${spine}:p7`,
	label_b: `${label} | s01.U40 ${spine}:p7 | ${leaf.slice(5, 8)}.U42 ${leaf}:u1`,
});
const CABLES = [
	cable("M-0001", "leaf-r01a", "spine-1"),
	cable("M-0002", "leaf-r01b", "spine-1"),
	cable("M-0003", "leaf-r02a", "spine-2"),
];
const spot = (rack: string, x: number, y: number, faces: string) => ({
	rack,
	hall: "models",
	row: faces === "south" ? "north" : "south",
	x,
	y,
	width: 800,
	depth: 1200,
	faces,
	units: 2,
	height: 42,
	watts: 660,
	feed: 7000,
	cables: 2,
	wrong: false,
});
const FLOOR = {
	placed: true,
	rule: false,
	rooms: [{ name: "models", x: 0, y: 0, width: 9000, depth: 6200 }],
	racks: [spot("s01", 1200, 900, "south"), spot("r01", 2000, 900, "south"), spot("r02", 1200, 3900, "north")],
	aisles: [{ kind: "cold", x: 1200, y: 2100, width: 800, depth: 1800 }],
	trays: [
		{
			hall: "models",
			name: "tray-north",
			corners: [
				{ x: 800, y: 800 },
				{ x: 7800, y: 800 },
			],
			height: 2700,
			width: 300,
			filled: 4,
		},
	],
	nowhere: [],
	cables: 3,
	metres: 31.4,
	fill: 50,
	findings: [],
};
const UNPLACED = { ...FLOOR, placed: false, rooms: [], racks: [], aisles: [], trays: [] };
const ELEVATION = {
	rack: "r01",
	height: 42,
	units: 2,
	watts: 660,
	feed: 7000,
	weight: 19.6,
	most_weight: null,
	things: ["a", "b"].map((side, at) => ({
		name: `leaf-r01${side}`,
		kind: "leaf",
		model: "Cantera L48",
		unit: 42 - at,
		units: 1,
		watts: 330,
		weight: 9.8,
		faces: "rear",
		airflow: "back to front",
		key: `leaf/r01/${side}`,
		state: "",
	})),
	bundles: [
		{
			one: "r01",
			other: "s01",
			cables: 2,
			shortest: 4,
			longest: 4.1,
			thick: 5,
			first: "M-0001",
			last: "M-0002",
			points: [],
		},
	],
};
const ROUTE = {
	points: [
		{ x: 1600, y: 5100 },
		{ x: 1600, y: 900 },
	],
	up: 0.8,
	aside: 1,
	along: 6.8,
	down: 0.9,
	slack: 1,
	around: false,
	trays: [
		{ tray: "tray-south", metres: 1.6 },
		{ tray: "across", metres: 4.4 },
	],
	bundle: { ...ELEVATION.bundles[0], cables: 8, thick: 9 },
};
const FACE = { switch: "x", key: "x", model: "Cantera L48", own_plan: false, groups: [] };
const WHY = {
	title: "M-0003",
	steps: [{ kind: "rule", title: "A label at both ends", detail: "TIA-606", refs: {} }],
};

function opened(more: Record<string, unknown> = {}, fabric = MARLIN, at = "") {
	const asked = serve({
		"GET /fabrics/marlin/cables": CABLES,
		"GET /fabrics/marlin/because": WHY,
		"GET /fabrics/marlin/floor": FLOOR,
		"GET /fabrics/marlin/cable-work": [],
		"GET /fabrics/marlin/weave": WEAVE,
		"GET /fabrics/marlin/neighbours": new Refusal(404, "Nobody has said yet what the switches hear."),
		"GET /fabrics/marlin/cables/M-0003/route": ROUTE,
		"GET /fabrics/marlin/elevations/r01": ELEVATION,
		"GET /fabrics/marlin/switches/leaf-r02a/face": FACE,
		"GET /fabrics/marlin/switches/spine-2/face": FACE,
		...more,
	});
	show(<CablingScreen />, `/f/marlin/cabling${at}`, fabric);
	return asked;
}

test("every cable is a row, and words find those that hold all of them", async () => {
	opened();
	expect(await screen.findByText("3 cables")).toBeTruthy();
	await userEvent.type(screen.getByLabelText("Find cables"), "r01 SPINE-1");
	expect(screen.getByText("2 of 3 cables")).toBeTruthy();
	expect(screen.queryByText("M-0003")).toBeNull();
	await userEvent.type(screen.getByLabelText("Find cables"), " nowhere");
	expect(screen.getByText("0 of 3 cables")).toBeTruthy();
});

test("a cable that is chosen says which way it goes, how long it is, what it is, and what is on its labels", async () => {
	const asked = opened();
	await userEvent.click(await screen.findByText("M-0003"));
	const margin = screen.getByRole("complementary", { name: "Because" });
	expect(await within(margin).findByText("A label at both ends")).toBeTruthy();
	expect(
		await within(margin).findByText(/up 0.8 m, tray-south 1.6 m, across 4.4 m, down 0.9 m/),
	).toBeTruthy();
	expect(margin.textContent).toContain("leaf-r02a u1");
	expect(margin.textContent).toContain("9.9 m worked out");
	expect(margin.textContent).toContain("AOC 100G, 10 m");
	expect(margin.textContent).toContain("8 cables from r01 to s01");
	expect(within(margin).getByAltText("M-0003 | s01.U40 spine-2:p7 | r02.U42 leaf-r02a:u1")).toBeTruthy();
	expect(asked.find((one) => one.path.endsWith("/because"))?.query.get("cable")).toBe("M-0003");
	expect(window.location.search).toBe("?cable=M-0003");
});

test("on the plan arrow keys go from rack to rack, and a rack shows what stands in it", async () => {
	opened();
	const plan = await screen.findByRole("application", { name: /Floor plan of 3 racks/ });
	plan.focus();
	await userEvent.keyboard("{ArrowRight}{ArrowRight}");
	expect(window.location.search).toBe("?rack=r01");
	const margin = screen.getByRole("complementary", { name: "Because" });
	expect(await within(margin).findByText("660 W of 7,000 W a feed")).toBeTruthy();
	expect(screen.getByText(/2 of 3 cables in r01/)).toBeTruthy();
	await userEvent.keyboard("e");
	expect(screen.getAllByRole("button", { name: "leaf-r01b, U41, ports at the rear" })).toHaveLength(2);
});

test("a switch is moved in its rack by key, as an edit of the brief", async () => {
	const asked = opened({ "POST /fabrics/marlin/edits": MARLIN });
	const plan = await screen.findByRole("application", { name: /Floor plan/ });
	plan.focus();
	await userEvent.keyboard("{ArrowRight}{ArrowRight}e");
	const [leaf] = await screen.findAllByRole("button", { name: /leaf-r01b, U41/ });
	leaf?.focus();
	await userEvent.keyboard("{ArrowDown}");
	await waitFor(() => expect(asked.some((one) => one.method === "POST")).toBe(true));
	expect(asked.find((one) => one.method === "POST")?.body).toMatchObject({
		edits: [['units."leaf/r01/b"', 40]],
	});
});

const HALLS = {
	...MARLIN,
	brief: {
		...MARLIN.brief,
		halls: {
			models: {
				at: [0, 0],
				rows: { north: { racks: "s01, r01", at: [1.2, 0.9] } },
				trays: { "tray-north": {} },
			},
		},
	},
} as unknown as typeof MARLIN;

test("the hall is drawn: a row moves by key, turns, and a tray goes from corner to corner, each as an edit", async () => {
	const asked = opened({ "POST /fabrics/marlin/edits": HALLS }, HALLS);
	await userEvent.click(await screen.findByRole("button", { name: "Draw the hall" }));
	const plan = screen.getByRole("application", { name: /Floor plan/ });
	plan.focus();
	await userEvent.keyboard("{ArrowRight}");
	await screen.findByText(/drag it, or Alt with the arrow keys/);
	await userEvent.keyboard("{Alt>}{ArrowDown}{/Alt}");
	await userEvent.keyboard("r");
	await userEvent.keyboard("t");
	const board = document.querySelector("canvas") as HTMLCanvasElement;
	for (const [x, y] of [
		[100, 100],
		[300, 100],
	] as const) {
		fireEvent.pointerDown(board, { clientX: x, clientY: y });
		fireEvent.pointerUp(board, { clientX: x, clientY: y });
	}
	await userEvent.click(screen.getByRole("button", { name: "The tray ends here" }));
	await waitFor(() => expect(asked.filter((one) => one.method === "POST")).toHaveLength(3));
	const edits = asked
		.filter((one) => one.method === "POST")
		.map((one) => (one.body as { edits: [string, unknown][] }).edits[0]);
	expect(edits[0]).toEqual(["halls.models.rows.north.at", [1.2, 1]]);
	expect(edits[1]).toEqual(["halls.models.rows.north.faces", "north"]);
	expect(edits[2]?.[0]).toBe("halls.models.trays.tray-2");
	const { along } = (edits[2] ?? [])[1] as { along: [number, number][] };
	expect(along).toHaveLength(2);
	expect(along[0]?.[1]).toBe(along[1]?.[1]);
});

test("a hall that stands by a rule is put down by hand before it is drawn", async () => {
	const asked = opened({
		"GET /fabrics/marlin/floor": { ...FLOOR, rule: true },
		"POST /fabrics/marlin/floor/by-hand": MARLIN,
	});
	await userEvent.click(await screen.findByRole("button", { name: "Draw the hall" }));
	await userEvent.click(screen.getByRole("button", { name: "Draw it by hand" }));
	await waitFor(() => expect(asked.some((one) => one.path.endsWith("/by-hand"))).toBe(true));
});

test("a fabric whose racks have no place is given one in a line", async () => {
	const asked = opened({ "GET /fabrics/marlin/floor": UNPLACED, "POST /fabrics/marlin/edits": MARLIN });
	await userEvent.clear(await screen.findByLabelText("Racks in a row"));
	await userEvent.type(screen.getByLabelText("Racks in a row"), "8");
	await userEvent.click(screen.getByRole("button", { name: "Work out lengths" }));
	await waitFor(() => expect(asked.some((one) => one.method === "POST")).toBe(true));
	expect(asked.find((one) => one.method === "POST")?.body).toMatchObject({
		edits: [["floor", "racks 0.6 m apart in rows of 8"]],
	});
});

const worked = (label: string, more: object) => ({
	label,
	link: label,
	laid_by: "",
	laid_at: null,
	measured: null,
	measured_by: "",
	scanned_a: "",
	scanned_b: "",
	light_a: null,
	light_b: null,
	fault: "",
	fault_by: "",
	wrong_label: null,
	...more,
});
const port = (name: string, hole: string) => ({ switch: name, port: hole });

test("the sheet says what is laid, what is at fault and what the switches hear, and takes measured lengths from a sheet", async () => {
	const asked = opened({
		"GET /fabrics/marlin/cable-work": [
			worked("M-0001", { laid_by: "Luz", laid_at: "2026-11-09T10:00:00Z" }),
			worked("M-0002", { fault: "latch broken", fault_by: "Luz" }),
		],
		"GET /fabrics/marlin/neighbours": {
			taken_at: "2026-11-09T10:00:00Z",
			author: "Luz",
			counts: { right: 2, swapped: 1 },
			right: ["M-0001"],
			unknown: [],
			moves: 0,
			mends: [],
			instead: null,
			findings: [],
			cables: [
				{ label: "M-0003", state: "swapped", a_hears: port("spine-1", "p9"), b_hears: null, speed: null },
			],
		},
		"POST /fabrics/marlin/cable-work": { new: 2, not_planned: [] },
	});
	expect(await screen.findByText("laid 9 Nov, heard")).toBeTruthy();
	expect(screen.getByText("latch broken")).toBeTruthy();
	expect(await screen.findByText("swapped")).toBeTruthy();
	expect(screen.getByText("1 of 3 laid")).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "Weave" }));
	expect(await screen.findByRole("application", { name: /Weave of/ })).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "Sheet" }));
	const grid = screen.getByRole("grid", { name: "Cabling plan" });
	const row = within(grid).getAllByRole("row")[1] as HTMLElement;
	await userEvent.click(within(row).getAllByRole("gridcell")[10] as HTMLElement);
	grid.focus();
	await userEvent.paste("10,2\n11.5");
	await waitFor(() => expect(asked.filter((one) => one.method === "POST").length).toBeGreaterThan(0));
	const deeds = asked
		.filter((one) => one.method === "POST")
		.flatMap((one) => (one.body as { deeds: object[] }).deeds);
	expect(deeds).toMatchObject([
		{ cable: "M-0001", kind: "measured", number: 10.2 },
		{ cable: "M-0002", kind: "measured", number: 11.5 },
	]);
	grid.focus();
	await userEvent.keyboard("{Shift>}{ArrowDown}{ArrowDown}{/Shift}");
	await userEvent.paste("8");
	const all = () =>
		asked.filter((one) => one.method === "POST").flatMap((one) => (one.body as { deeds: object[] }).deeds);
	await waitFor(() => expect(all().length).toBeGreaterThan(4));
	expect(all().slice(-3)).toMatchObject([{ number: 8 }, { number: 8 }, { number: 8 }]);
});

test("a link to a cable or a rack that is not in the plan says so and leads back to the others", async () => {
	opened({}, MARLIN, "?cable=M-9999");
	const margin = await screen.findByRole("complementary", { name: "Because" });
	expect(await within(margin).findByText("There is no cable M-9999")).toBeTruthy();
	await userEvent.click(within(margin).getByRole("link", { name: "Show all cables" }));
	expect(await within(margin).findByText("Choose a cable or a rack")).toBeTruthy();
	expect(window.location.search).toBe("");
});

test("a link to a rack that is not in the plan says so", async () => {
	opened(
		{ "GET /fabrics/marlin/elevations/r99": new Refusal(404, "marlin has nothing in a rack called r99.") },
		MARLIN,
		"?rack=r99",
	);
	expect(await screen.findByText("Nothing stands in a rack r99")).toBeTruthy();
	expect(screen.getByRole("link", { name: "Show all cables" })).toBeTruthy();
});

test("what is crossed is told as moves, a plug at a time", async () => {
	const asked = opened({
		"POST /fabrics/marlin/neighbours/follow": { ...MARLIN, version: 2 },
		"GET /fabrics/marlin/neighbours": {
			taken_at: "2026-11-09T10:00:00Z",
			author: "Luz",
			counts: { right: 1, swapped: 2 },
			right: [],
			unknown: [],
			moves: 2,
			cables: [],
			instead: { pins: [{ use: "port.spine", key: "leaf/r01/a~1", number: "7" }], moves: 2, left: 0 },
			findings: [],
			mends: [
				{
					pull: [],
					lay: [],
					moves: [
						{
							label: "M-0001",
							out: port("spine-1", "p9"),
							into: port("spine-1", "p7"),
							stays: port("leaf-r01a", "u1"),
							loose: true,
						},
						{
							label: "M-0002",
							out: port("spine-1", "p7"),
							into: port("spine-1", "p9"),
							stays: port("leaf-r01b", "u1"),
							loose: false,
						},
					],
				},
			],
		},
	});
	const followed = () =>
		asked.filter((one) => one.method === "POST" && one.path.endsWith("/neighbours/follow"));
	await userEvent.click(await screen.findByRole("button", { name: "Check" }));
	const steps = (await screen.findAllByRole("listitem")).map((step) => step.textContent);
	expect(steps).toContain("Take M-0001 out of spine-1 p9 and let it hang");
	expect(steps.at(-2)).toBe("Move M-0002 from spine-1 p7 to spine-1 p9");
	expect(steps.at(-1)).toBe("Put M-0001, which hangs, into spine-1 p7");
	await userEvent.click(screen.getByRole("button", { name: "Let the plan follow the cables" }));
	await waitFor(() => expect(followed()).toHaveLength(1));
});

test("the plan is taken away as a file under the name that the server gives it", async () => {
	URL.createObjectURL = () => "blob:plan";
	URL.revokeObjectURL = () => undefined;
	const names: string[] = [];
	const click = HTMLAnchorElement.prototype.click;
	HTMLAnchorElement.prototype.click = function () {
		names.push(this.download);
	};
	try {
		opened({
			"GET /fabrics/marlin/cabling.csv": new Response("label\r\n", {
				headers: {
					"Content-Type": "text/csv",
					"Content-Disposition": 'attachment; filename="marlin-cabling.csv"',
				},
			}),
		});
		await userEvent.click(await screen.findByRole("button", { name: "Download as CSV" }));
		await waitFor(() => expect(names).toEqual(["marlin-cabling.csv"]));
	} finally {
		HTMLAnchorElement.prototype.click = click;
	}
});

test("a fabric without racks says that there is nothing to cable", async () => {
	opened({ "GET /fabrics/marlin/cables": [] });
	expect(await screen.findByText(/There is nothing to cable yet/)).toBeTruthy();
});
