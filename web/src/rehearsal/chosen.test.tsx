/** Claims about the slice on the whole Weave: every switch is there, those that boot stand out, and what is alike is told once. */
import { render, screen } from "@testing-library/react";
import { expect, test } from "vitest";
import { switchRow } from "../testing";
import { Chosen } from "./chosen";

const ROWS = [
	switchRow("spine-1", "spine", { rack: "s01" }),
	switchRow("spine-2", "spine", { rack: "s02" }),
	...[1, 2, 3, 4, 5, 6, 7, 8].map((at) => switchRow(`leaf-r0${at}`, "leaf", { rack: `r0${at}` })),
	switchRow("leaf-r09", "leaf", { rack: "r09", state: "later" }),
];

test("threads that boot stand out, the others are pale, and those that come later are not drawn", () => {
	render(<Chosen switches={ROWS} names={["spine-1", "leaf-r01", "leaf-r02"]} />);
	const picture = screen.getByRole("img", { name: "3 of 10 switches boot" });
	const pale = (one: Element) => one.getAttribute("stroke-opacity") !== null;
	const paths = [...picture.querySelectorAll("path")];
	expect(paths.filter((one) => !pale(one)).map((one) => one.textContent)).toEqual([
		"spine-1: boots",
		"leaf-r01: boots",
		"leaf-r02: boots",
	]);
	expect(paths.filter(pale)).toHaveLength(7);
});

test("racks that lie together are named once, those that boot before those they answer for", () => {
	render(<Chosen switches={ROWS} names={["spine-1", "leaf-r01", "leaf-r02"]} />);
	const words = [...screen.getByRole("img").querySelectorAll("text")].map((one) => one.textContent);
	expect(words).toEqual(["r01–r02", "boots", "r03–r08", "is answered for"]);
});

test("while nothing is known of switches nothing is drawn", () => {
	const { container } = render(<Chosen switches={[]} names={["spine-1"]} />);
	expect(container.innerHTML).toBe("");
});
