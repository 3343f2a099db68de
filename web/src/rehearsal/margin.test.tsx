/** Claims about the margin: what a rehearsal is, who may stop it, what there is to hand on, and what a drill was held against. */
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import { MARLIN, serve, show } from "../testing";
import { CLAIM, DRILL, REHEARSAL } from "./made";
import { ClaimMargin, DrillMargin, RehearsalMargin } from "./margin";
import type { Rehearsal } from "./queries";

function margin(more: Partial<Rehearsal> = {}, mayStop = true) {
	const onStop = vi.fn();
	show(<RehearsalMargin fabric="marlin" one={{ ...REHEARSAL, ...more }} mayStop={mayStop} onStop={onStop} />);
	return onStop;
}

test("what ran, on what, with whom, and what that leaves out and does not prove", () => {
	margin();
	const said = screen.getByRole("complementary").textContent ?? "";
	for (const words of [
		"3 switches, a slice",
		"a kernel of its own",
		"3 of 9 hosts, harbour-router",
		"41 s",
		"69 s",
	])
		expect(said).toContain(words);
	for (const words of ["3 of 4 spines", "how wide paths are over all spines", "has no nftables for inet"])
		expect(said).toContain(words);
});

test("one that waits says what is not known yet", () => {
	margin({ state: "waiting", switches: [], ground: "", booted: 0, seconds: 0, of_hosts: 0, outside: [] });
	const said = screen.getByRole("complementary").textContent ?? "";
	for (const words of ["nothing yet", "not decided yet", "no host", "not yet", "under way"])
		expect(said).toContain(words);
});

test("one that runs is stopped by who may, and has no report yet", async () => {
	const onStop = margin({ state: "working" });
	expect(screen.queryByRole("link", { name: /report/i })).toBeNull();
	await userEvent.click(screen.getByRole("button", { name: "Stop it" }));
	expect(onStop).toHaveBeenCalledOnce();
});

test("a reader stops nothing, and takes the report when it is over", () => {
	margin({ state: "working" }, false);
	expect(screen.queryByRole("button", { name: "Stop it" })).toBeNull();
	document.body.innerHTML = "";
	margin({}, false);
	const leads = (name: RegExp) => screen.getByRole("link", { name }).getAttribute("href");
	expect(leads(/report/i)).toBe("/api/v1/fabrics/marlin/rehearsals/7/report.html");
	expect(leads(/paper/i)).toBe("/api/v1/fabrics/marlin/rehearsals/7/report.pdf");
});

test("a claim without a path has no because, and asks for none", () => {
	const asked = serve({});
	show(
		<ClaimMargin
			fabric={MARLIN}
			claim={{ ...CLAIM, because: "", holds: true, command: "", said: "", about: "" }}
		/>,
	);
	expect(screen.getByText("it holds")).toBeTruthy();
	expect(screen.getByText("the fabric")).toBeTruthy();
	expect(screen.queryByText("Asked there")).toBeNull();
	expect(screen.queryByText("It said")).toBeNull();
	expect(asked).toEqual([]);
});

test("a drill's margin sets what was foretold beside what was, for the worst pair of leaves", () => {
	const left = [
		{ ...DRILL.left[0], of_paths: 4, paths: 3, found: 3 },
		{ ...DRILL.left[0], of_paths: 4, paths: 2, found: 1 },
	] as typeof DRILL.left;
	show(<DrillMargin drill={{ ...DRILL, left }} moment={null} />);
	const rows = within(screen.getByRole("table"))
		.getAllByRole("row")
		.map((one) => one.textContent);
	expect(rows).toContain("least paths left50 %25 %");
	expect(rows).toContain("pairs of leaves21 agree");
	expect(rows).toContain("longest silence1.9 s2.10 s");
	expect(screen.getByText("Not as foretold")).toBeTruthy();
	expect(screen.getByText("at 2.00 s")).toBeTruthy();
});

test("at a moment at which no daemon spoke it says so", () => {
	show(<DrillMargin drill={{ ...DRILL, faults: [] }} moment={5} />);
	expect(screen.getByText("nothing")).toBeTruthy();
	expect(screen.getByText("As foretold")).toBeTruthy();
});

test("a change's margin sets sessions that were said to restart beside those that did, and its waves", () => {
	const waves = [
		{ number: 1, switches: ["spine-1"], at: 2, until: 9, settled: true },
		{ number: 2, switches: ["leaf-r01a", "leaf-r01b"], at: 9, until: 129, settled: false },
	];
	show(<DrillMargin drill={{ ...DRILL, waves, restarted: ["a", "b"], told: 3, left: [] }} moment={null} />);
	const rows = within(screen.getByRole("table"))
		.getAllByRole("row")
		.map((one) => one.textContent);
	expect(rows).toContain("sessions that restart32");
	expect(rows.join()).not.toContain("pairs of leaves");
	const told = within(screen.getByRole("list", { name: "Waves" })).getAllByRole("listitem");
	expect(told.map((one) => one.textContent)).toEqual([
		"1: spine-1, stood after 7 s",
		"2: leaf-r01a, leaf-r01b, did not stand in time",
	]);
});
