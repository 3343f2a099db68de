/** Claims about the brief as prose and its sums: what Marlin says, what is changed, and what is only being typed. */
import { act, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { MARLIN, serve, show } from "../../testing";
import { SumsBar } from "../sums/sums";
import { TrialRoom, useSetTrial } from "../sums/trial";
import { Prose } from "./prose";

const CATALOGUE = ["cantera-c64", "cantera-l48"].map((id) => ({
	own: false,
	text: "",
	model: {
		id,
		maker: "Cantera",
		name: id.slice(8).toUpperCase(),
		tiers: [id.includes("-c") ? "spine" : "leaf"],
	},
}));

function prose(fabric = MARLIN) {
	serve({ "GET /catalogue": CATALOGUE });
	show(
		<TrialRoom>
			<Prose />
		</TrialRoom>,
		"/f/marlin/brief",
		fabric,
	);
}

const words = () => screen.getAllByRole("button").filter((button) => "word" in button.dataset);

test("the prose says the fabric in words, each a control", async () => {
	prose();
	expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("Marlin, the models hall");
	expect(await screen.findByText("Cantera C64")).toBeTruthy();
	const said = words().map((word) => word.textContent);
	expect(said).toEqual(expect.arrayContaining(["4", "12", "2"]));
	expect(said.length).toBeGreaterThan(15);
});

test("the words that the last change touched are marked, and only those", () => {
	prose({ ...MARLIN, changed: ["spines.count"] });
	const changed = words().filter((word) => word.classList.contains("changed"));
	expect(changed.map((word) => word.textContent)).toEqual(["4"]);
	expect(changed[0]?.title).toBe("changed just now");
});

test("E steps from word to word, and A shows every word, defaults too", async () => {
	prose();
	await userEvent.keyboard("e");
	expect(document.activeElement).toBe(words()[0]);
	await userEvent.keyboard("e");
	expect(document.activeElement).toBe(words()[1]);
	const few = words().length;
	await userEvent.keyboard("a");
	expect(words().length).toBeGreaterThan(few);
	await userEvent.keyboard("a");
	expect(words()).toHaveLength(few);
});

interface Trying {
	set: ReturnType<typeof useSetTrial>;
}

function Setter({ trying }: { trying: Trying }) {
	trying.set = useSetTrial();
	return null;
}

test("sums are the draft's, and while a word is typed those that it would give", () => {
	const trying: Trying = { set: () => undefined };
	show(
		<TrialRoom>
			<Setter trying={trying} />
			<SumsBar open={false} onOpen={() => undefined} />
		</TrialRoom>,
	);
	expect(screen.getByLabelText("Sums").textContent).toContain("1.5 : 1");
	expect(screen.getByLabelText("Sums").textContent).toContain("52 of 64");
	const sums = { ...MARLIN.sums, oversubscription: 3, spine_ports_used: 60 };
	act(() => trying.set({ sums, findings: [], faults: [] }));
	expect(screen.getByLabelText("Sums, with what is being typed").textContent).toContain("3 : 1");
	expect(screen.getByLabelText("Sums, with what is being typed").textContent).toContain("60 of 64");
	act(() => trying.set(null));
	expect(screen.getByLabelText("Sums").textContent).toContain("52 of 64");
});

test("where racks stand is said by rule in words, as drawn by a way to the plan, or not yet", () => {
	prose();
	expect(screen.getByText("Racks stand in models, as drawn").getAttribute("href")).toBe(
		"/f/marlin/cabling?draw=1",
	);
	expect(words().map((word) => word.textContent)).toEqual(
		expect.arrayContaining(["the cheapest that reaches", "management, console, power"]),
	);
});

test("a floor by rule has words for its pitch and its rows", () => {
	const floor = {
		rows_of: 12,
		pitch: 0.6,
		depth: 1.2,
		cold_aisle: 1.8,
		hot_aisle: 1.2,
		tray_height: 2.7,
		tray_width: 300,
		tray_depth: 100,
	};
	prose({ ...MARLIN, brief: { ...MARLIN.brief, halls: {}, floor } });
	expect(words().map((word) => word.textContent)).toEqual(expect.arrayContaining(["0.6", "12"]));
	expect(screen.getByText(/Racks stand/).textContent).toContain("m apart in rows of");
});
