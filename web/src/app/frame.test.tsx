/** Claims about the frame of a fabric: its street, keys, the strip along the bottom, search, and a screen that breaks. */
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { Route, Routes } from "react-router";
import { expect, test, vi } from "vitest";
import { useChange } from "../api/edits";
import { RIPPLE } from "../editions/made";
import { MARLIN, Refusal, serve, show } from "../testing";
import { Boundary } from "./boundary";
import { FabricFrame } from "./frame";
import { Palette } from "./palette";

const FRAME = (
	<Routes>
		<Route path="/f/:fabric" element={<FabricFrame />}>
			<Route path="*" element={<p>the screen</p>} />
		</Route>
	</Routes>
);
const GROWTH = { rows: [], refusal: null };

function framed(more: Record<string, unknown> = {}) {
	const asked = serve({
		"GET /fabrics/marlin": MARLIN,
		"GET /fabrics/marlin/version": { version: MARLIN.version },
		"GET /fabrics/marlin/growth": GROWTH,
		...more,
	});
	show(FRAME, "/f/marlin/brief", MARLIN, false);
	return asked;
}

test("the street says each step and how it stands, and digits lead to them", async () => {
	framed();
	const steps = await screen.findByRole("navigation", { name: "Steps" });
	expect(
		within(steps)
			.getAllByRole("link")
			.map((link) => link.textContent),
	).toEqual([
		"Briefall ports fit",
		expect.stringMatching(/^Ledger\d+ pools$/),
		"Segments8 segments",
		"Configs30 switches",
		"Cabling208 links",
		"Rehearsalnot rehearsed",
		"Editionsnone yet",
		"Stagingno edition yet",
		"Driftnot seen yet",
	]);
	await userEvent.keyboard("3");
	await waitFor(() => expect(screen.getByLabelText("where").textContent).toBe("/f/marlin/segments"));
});

test("Control Z undoes from the version on screen, and the strip says what the draft does", async () => {
	const undone = { ...MARLIN, version: 4, undo: null, note: "made" };
	const asked = framed({
		"POST /fabrics/marlin/undo": undone,
		"GET /fabrics/marlin/ripple/sums": { version: 3, against: 1, counts: { switches_added: 1 } },
		"GET /fabrics/marlin/ripple": { ...RIPPLE, sessions: 2 },
	});
	const strip = await screen.findByLabelText("What the draft does");
	expect(strip.textContent).toContain("“5 spines”");
	await waitFor(() => expect(strip.textContent).toContain("30 switches, +60 −0 lines2 sessions restart"));
	expect(within(strip).getByRole("link").getAttribute("href")).toBe("/f/marlin/editions");
	await userEvent.keyboard("{Control>}z{/Control}");
	await waitFor(() => expect(within(strip).queryByRole("button", { name: "Undo" })).toBeNull());
	expect(asked.find((one) => one.path.endsWith("/undo"))?.body).toEqual({ version: MARLIN.version });
});

test("a bundle that is refused is said in words, and nothing is saved", async () => {
	framed({ "GET /fabrics/marlin/bundle.zip": new Refusal(422, "linux-frr cannot carry peer links.") });
	await userEvent.click(await screen.findByRole("button", { name: "Download bundle" }));
	expect(await screen.findByText("linux-frr cannot carry peer links.")).toBeTruthy();
});

function Changer() {
	const change = useChange("marlin");
	const [said, setSaid] = useState(0);
	return (
		<button
			type="button"
			onClick={() => {
				change.mutate({ kind: "edit", edits: [["spines.count", said + 2]], note: `${said + 2} spines` });
				setSaid(said + 1);
			}}
		>
			change
		</button>
	);
}

test("changes go one after the other, each against the version that the one before it left", async () => {
	let version = MARLIN.version;
	const asked = serve({
		"POST /fabrics/marlin/edits": async () => {
			await new Promise((done) => setTimeout(done, 10));
			version += 1;
			return { ...MARLIN, version };
		},
	});
	show(<Changer />);
	for (let press = 0; press < 3; press++) fireEvent.click(screen.getByRole("button"));
	await waitFor(() => expect(asked).toHaveLength(3));
	expect(asked.map((one) => (one.body as { version: number }).version)).toEqual([3, 4, 5]);
});

test("a conflict is told as what it is, and the newer draft is asked for", async () => {
	const asked = serve({
		"POST /fabrics/marlin/edits": new Refusal(409, "marlin was changed elsewhere."),
		"GET /fabrics/marlin": MARLIN,
	});
	const { queries } = show(<Changer />);
	await userEvent.click(screen.getByRole("button"));
	expect(await screen.findByText("Changed elsewhere")).toBeTruthy();
	expect(queries.getQueryState(["fabric", "marlin"])?.isInvalidated).toBe(true);
	expect(asked).toHaveLength(1);
});

const HIT = {
	kind: "switch",
	title: "leaf-r07a",
	detail: "Cantera L48, rack r07",
	fabric: "marlin",
	target: "leaf-r07a",
};

test("Control K finds things on the server and actions here, and opens what is chosen", async () => {
	const run = vi.fn();
	const asked = serve({ "GET /search": [HIT] });
	show(<Palette fabric="marlin" actions={[{ title: "Undo “5 spines”", run }]} />);
	await userEvent.keyboard("{Control>}k{/Control}");
	await userEvent.type(await screen.findByRole("combobox"), "r07");
	expect(await screen.findByText("Cantera L48, rack r07")).toBeTruthy();
	expect(asked.at(-1)?.query.get("q")).toBe("r07");
	await userEvent.keyboard("{Enter}");
	expect(screen.getByLabelText("where").textContent).toBe("/f/marlin/configs/leaf-r07a");
	await userEvent.keyboard("{Control>}k{/Control}");
	await userEvent.type(await screen.findByRole("combobox"), "undo");
	await userEvent.click(await screen.findByText("Undo “5 spines”"));
	expect(run).toHaveBeenCalledOnce();
});

function Fragile({ state }: { state: { broken: boolean } }) {
	if (state.broken) throw new Error("no such spine");
	return <p>whole again</p>;
}

test("a screen that breaks says so, what is around it stays, and it can be opened again", async () => {
	const quiet = vi.spyOn(console, "error").mockImplementation(() => undefined);
	const state = { broken: true };
	show(
		<>
			<p>the street</p>
			<Boundary>
				<Fragile state={state} />
			</Boundary>
		</>,
	);
	expect(screen.getByRole("alert").textContent).toContain("no such spine");
	expect(screen.getByText("the street")).toBeTruthy();
	state.broken = false;
	await userEvent.click(screen.getByRole("button", { name: "Open it again" }));
	expect(screen.getByText("whole again")).toBeTruthy();
	quiet.mockRestore();
});
