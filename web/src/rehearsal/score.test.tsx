/** Claims about the score of a drill: when something was away, where nothing came, and what was other than foretold. */
import { fireEvent, render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import { DRILL } from "./made";
import type { Drill } from "./queries";
import { Score } from "./score";

function score(more: Partial<Drill> = {}, moment: number | null = null) {
	const onMoment = vi.fn();
	render(<Score drill={{ ...DRILL, ...more }} moment={moment} onMoment={onMoment} />);
	return { onMoment, picture: screen.getByRole("img") };
}

const [lost, whole] = DRILL.flows as [Drill["flows"][number], Drill["flows"][number]];

test("a tick stands for each tenth of a second in which something came, and none where nothing did", () => {
	const { picture } = score();
	const ticks = [...picture.querySelectorAll('path[stroke="var(--indigo)"]')].map(
		(one) => (one.getAttribute("d") ?? "").split("M").length - 1,
	);
	expect(ticks).toEqual([99, 120]);
});

test("a silence that was foretold is marked otherwise than one that was not", () => {
	const { picture } = score({ flows: [{ ...lost, most: 3 }, whole] });
	expect(picture.querySelectorAll('g[stroke="var(--weld)"]')).toHaveLength(1);
	expect(picture.querySelectorAll('g[stroke="var(--madder)"]')).toHaveLength(0);
});

test("a silence of a packet or two is counted and not marked", () => {
	const short = { ...lost, silences: [{ begins: 2, ends: 2.03, lost: 3 }], longest: 0.03 };
	const { picture } = score({ flows: [short] });
	expect(picture.querySelectorAll("g[stroke]")).toHaveLength(0);
	expect(picture.textContent).toContain("0.03 s");
});

test("long drills have fewer words on their axis", () => {
	const axis = (picture: Element) =>
		[...picture.querySelectorAll("text")]
			.map((one) => one.textContent)
			.filter((words) => /^\d+ s$/.test(words ?? ""));
	expect(axis(score().picture)).toEqual(["0 s", "2 s", "4 s", "6 s", "8 s", "10 s", "12 s"]);
	document.body.innerHTML = "";
	expect(axis(score({ seconds: 22 }).picture)).toEqual(["0 s", "4 s", "8 s", "12 s", "16 s", "20 s"]);
});

test("of many faults the first are told and the others counted; sessions that stay down are said", () => {
	score({ faults: ["a", "b", "c", "d", "e", "f"], stands: false });
	expect(screen.getAllByRole("listitem").map((one) => one.textContent)).toEqual([
		"a",
		"b",
		"c",
		"d",
		"and 2 more",
	]);
	expect(screen.getByText(/do not stand again/)).toBeTruthy();
});

test("a moment is drawn where it is, and chosen by the ruler below", () => {
	const { onMoment, picture } = score({}, 6);
	expect(picture.querySelector('path[fill="var(--ink)"]')?.getAttribute("d")).toBe("M426 22h10l-5 6z");
	const ruler = screen.getByLabelText("moment");
	expect(ruler.getAttribute("aria-valuetext")).toBe("6.00 seconds");
	fireEvent.change(ruler, { target: { value: "2.5" } });
	expect(onMoment).toHaveBeenCalledWith(2.5);
});

test("a change has a band for each of its waves, and does not come back", () => {
	const wave = (number: number, at: number, until: number) => ({
		number,
		switches: [`leaf-${number}`],
		at,
		until,
		settled: true,
	});
	const { picture } = score({
		waves: [wave(1, 2, 5), wave(2, 5, 9)],
		words: "the change is put on 2 switches",
	});
	expect(picture.querySelectorAll('rect[fill="var(--wash)"]')).toHaveLength(2);
	expect(screen.getByRole("heading", { name: "the change is put on 2 switches" })).toBeTruthy();
	expect(picture.textContent).not.toContain("away");
});
