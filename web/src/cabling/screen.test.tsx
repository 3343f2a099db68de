/** Claims about the cabling plan: its rows, what is found in it, and what one cable says. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import type { CableRow } from "../api/client";
import { serve, show } from "../testing";
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
});
const CABLES = [
	cable("M-0001", "leaf-r01a", "spine-1"),
	cable("M-0002", "leaf-r01b", "spine-1"),
	cable("M-0003", "leaf-r02a", "spine-2"),
];
const FACE = { switch: "x", key: "x", model: "Cantera L48", own_plan: false, groups: [] };
const WHY = {
	title: "M-0003",
	steps: [{ kind: "rule", title: "A label at both ends", detail: "TIA-606", refs: {} }],
};

function opened(more: Record<string, unknown> = {}) {
	const asked = serve({
		"GET /fabrics/marlin/cables": CABLES,
		"GET /fabrics/marlin/because": WHY,
		"GET /fabrics/marlin/switches/leaf-r02a/face": FACE,
		"GET /fabrics/marlin/switches/spine-2/face": FACE,
		...more,
	});
	show(<CablingScreen />, "/f/marlin/cabling");
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

test("a cable that is chosen says both ends, its label, and why it is there", async () => {
	const asked = opened();
	await userEvent.click(await screen.findByText("M-0003"));
	const margin = screen.getByRole("complementary", { name: "Because" });
	expect(await within(margin).findByText("A label at both ends")).toBeTruthy();
	expect(margin.textContent).toContain("leaf-r02a u1");
	expect(margin.textContent).toContain("M-0003 | r02.U42 leaf-r02a:u1 | s01.U40 spine-2:p7");
	expect(asked.find((one) => one.path.endsWith("/because"))?.query.get("cable")).toBe("M-0003");
	expect(window.location.search).toBe("?cable=M-0003");
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
