/** Claims about the Weave of a rehearsal: three tiers, crossings by their sessions, threads by how far their switch is. */
import { render, screen } from "@testing-library/react";
import { expect, test } from "vitest";
import { Living } from "./living";
import { CLAIM, REHEARSAL, runs } from "./made";
import type { Rehearsal } from "./queries";

const TALL: Rehearsal = {
	...REHEARSAL,
	switches: [
		runs("super/1", "super-1", "c01"),
		runs("spine/a/1", "spine-a1", "c02"),
		runs("leaf/r01/a", "leaf-r01a", "r01"),
		{ ...runs("leaf/r02/a", "leaf-r02a", "r02"), words: "boots" },
	],
	joined: [
		{ upper: "super-1", lower: "spine-a1" },
		{ upper: "spine-a1", lower: "leaf-r01a" },
		{ upper: "spine-a1", lower: "leaf-r02a" },
	],
};

/** The crossings in the order in which they are drawn: what each is filled with. */
const crossings = (picture: Element) =>
	[...picture.querySelectorAll("rect")].map((one) => one.getAttribute("fill"));

test("in three tiers a spine is a weft to its super-spines and a warp to its leaves", () => {
	render(<Living one={TALL} wrong={[]} asked />);
	const picture = screen.getByRole("img", { name: "3 of 4 switches run" });
	const rows = [...picture.querySelectorAll('text[text-anchor="end"]')].map((one) => one.textContent);
	expect(rows).toEqual(["spine-a1", "leaf-r01a", "leaf-r02a"]);
	expect(picture.querySelectorAll('path[stroke="var(--walnut)"]')).toHaveLength(2);
	expect(picture.querySelectorAll('path[stroke="var(--indigo)"]')).toHaveLength(3);
	expect(crossings(picture)).toEqual(["var(--moss)", "var(--moss)", "var(--paper)"]);
});

test("before sessions are asked for no crossing claims to hold", () => {
	render(<Living one={TALL} wrong={[]} asked={false} />);
	expect(new Set(crossings(screen.getByRole("img")))).toEqual(new Set(["var(--paper)"]));
});

test("a session that is not up notches the crossing of both its ends, whichever said so", () => {
	const upward = { ...CLAIM, about: "spine-1", other: "leaf-r01b" };
	for (const claim of [CLAIM, upward]) {
		const { container, unmount } = render(<Living one={REHEARSAL} wrong={[claim]} asked />);
		expect(container.querySelectorAll('path[fill="var(--madder)"]')).toHaveLength(1);
		expect(container.querySelectorAll('rect[fill="var(--moss)"]')).toHaveLength(1);
		unmount();
	}
});

test("nothing is drawn of a rehearsal that has no switch yet", () => {
	const { container } = render(<Living one={{ ...REHEARSAL, switches: [] }} wrong={[]} asked={false} />);
	expect(container.querySelector("svg")).toBeNull();
});

test("leaves of a rack stand together, a rack is named once", () => {
	render(<Living one={REHEARSAL} wrong={[]} asked />);
	expect(screen.getAllByText("r01")).toHaveLength(1);
	expect(screen.getAllByText("4.2 s")).toHaveLength(2);
});
