/** Claims about all sums: every figure is the server's, in the units and words of an architect, also while one types. */
import { screen, within } from "@testing-library/react";
import { useEffect } from "react";
import { expect, test } from "vitest";
import { MARLIN, PELICAN, show } from "../../testing";
import { number } from "../../ui/words";
import { AllSums } from "./all";
import { TrialRoom, useSetTrial } from "./trial";

const part = (title: string) =>
	within(screen.getByRole("heading", { name: title }).parentElement as HTMLElement);
const said = (title: string) =>
	part(title)
		.getAllByRole("term")
		.map((term) => `${term.textContent} | ${term.nextElementSibling?.textContent}`);

test("ports, growth, racks and tables are those that were worked out, with units", () => {
	const { sums } = MARLIN;
	show(<AllSums />);
	const [fullest] = sums.ports;
	expect(said("Ports, on the fullest switch of each tier")).toHaveLength(sums.ports.length);
	expect(said("Ports, on the fullest switch of each tier")[0]).toContain(
		`${fullest?.used} of ${fullest?.there}`,
	);
	const racks = said("Racks and cables");
	expect(racks).toContain(`power | ${number(sums.power / 1000)} kW`);
	expect(racks).toContain(`fullest rack, ${sums.fullest_rack} | ${sums.fullest_units} of 42 U`);
	expect(said("The largest it can grow to")[0]).toBe(
		`leaves | ${sums.leaves} of ${number(sums.largest.leaves)}`,
	);
	expect(screen.getByText(`${sums.largest.stopped_by}.`)).toBeTruthy();
	const [table] = sums.tables;
	expect(said("Forwarding tables of the leaves")[0]).toBe(
		`${table?.model}, routes | ${number(table?.routes ?? 0)} of ${number(table?.routes_there ?? 0)}`,
	);
});

test("each kind of leaf says its oversubscription, and each loss which switch hurts most", () => {
	const { sums } = MARLIN;
	show(<AllSums />);
	const kinds = said("Kinds of leaf");
	for (const kind of sums.kinds)
		expect(kinds.some((line) => line.includes(`${kind.uplinks} × ${kind.uplink_speed}G up`))).toBe(true);
	const losses = said("Bandwidth left between two leaves, with switches above lost");
	expect(losses).toHaveLength(sums.lost.length);
	expect(losses[0]).toContain(`worst is ${sums.lost[0]?.names}, of `);
	expect(losses[0]).toContain(`${Math.round((sums.lost[0]?.worst_bandwidth ?? 0) * 100)} %, `);
});

test("a fabric of three tiers also says its pods; one of two does not", () => {
	const { unmount } = show(<AllSums />, "/f/pelican/brief", PELICAN);
	expect(said("The largest it can grow to")).toContain(
		`pods | ${PELICAN.sums.pods} of ${PELICAN.sums.largest.pods}`,
	);
	expect(said("Kinds of leaf").some((line) => line.includes("to the super-spines"))).toBe(true);
	unmount();
	show(<AllSums />);
	expect(said("The largest it can grow to").some((line) => line.startsWith("pods"))).toBe(false);
});

test("numbers are counted by use and pool", () => {
	show(<AllSums />);
	const use = MARLIN.numbers[0];
	expect(said("Numbers held")).toHaveLength(MARLIN.numbers.length);
	expect(said("Numbers held")[0]).toBe(
		`${use?.use.replace(".", ", ")} from ${use?.pool} | ${number(use?.needed ?? 0)}`,
	);
});

function Typing() {
	const set = useSetTrial();
	useEffect(() => set({ sums: { ...MARLIN.sums, power: 99_000 }, findings: [], faults: [] }), [set]);
	return null;
}

test("while a word is typed they are those that it would give", () => {
	show(
		<TrialRoom>
			<AllSums />
			<Typing />
		</TrialRoom>,
	);
	expect(said("Racks and cables")).toContain("power | 99 kW");
});
