/** Claims about the Weave as a picture, as racks and as a table: what is drawn, moved through, found and chosen. */
import { fireEvent, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, expect, test, vi } from "vitest";
import type { Weave } from "../../api/client";
import { MARLIN, RACKS, serve, show, TALL, WEAVE } from "../../testing";
import { layOut } from "./geometry";
import { WeaveList } from "./list";
import { RacksView } from "./racks";
import { WeavePicture } from "./weave";

let written: string[] = [];

/** A context that remembers the words that are written on it. */
function recorder(): CanvasRenderingContext2D {
	const known: Record<string, unknown> = {
		fillText: (text: string) => written.push(text),
		measureText: (text: string) => ({ width: text.length * 6 }),
		createPattern: () => null,
	};
	return new Proxy(known, {
		get: (target, name) => target[String(name)] ?? (() => undefined),
		set: () => true,
	}) as unknown as CanvasRenderingContext2D;
}

beforeEach(() => {
	written = [];
	HTMLCanvasElement.prototype.getContext = (() => recorder()) as never;
});

function picture(weave: Weave = WEAVE, chosen = {}, find = "") {
	const onChoose = vi.fn();
	render(<WeavePicture weave={weave} chosen={chosen} onChoose={onChoose} find={find} />);
	return { onChoose, cloth: screen.getAllByRole("application").at(-1) as HTMLElement };
}

/** The drawn part whose title begins so: a title inside a drawing is an element of its own. */
function titled(start: string): Element {
	const all = [...document.querySelectorAll("title")];
	return all.find((one) => one.textContent?.startsWith(start))?.parentElement as Element;
}

test("it is described for who cannot see it, and says that a table has the same", () => {
	expect(picture().cloth.getAttribute("aria-label")).toContain("Weave of 4 spines and 26 leaves.");
	expect(picture(TALL).cloth.getAttribute("aria-label")).toMatch(/4 pods under \d+ super-spines/);
});

test("every spine and the leaves in view are drawn by name", () => {
	picture();
	for (const spine of WEAVE.spines) expect(written).toContain(spine.name);
	for (const leaf of WEAVE.leaves.slice(0, 6)) expect(written).toContain(leaf.name);
	for (const rack of ["r01", "r02", "r03"])
		expect(written.filter((word) => word === rack).length).toBeGreaterThan(0);
});

test("arrow keys choose crossings one after the other, and Escape lets go", async () => {
	const { onChoose, cloth } = picture(WEAVE, { spine: "spine-1", leaf: "leaf-r01a" });
	cloth.focus();
	await userEvent.keyboard("{ArrowRight}");
	expect(onChoose).toHaveBeenLastCalledWith({ spine: "spine-2", leaf: "leaf-r01a" });
	await userEvent.keyboard("{ArrowDown}");
	expect(onChoose).toHaveBeenLastCalledWith({ spine: "spine-1", leaf: "leaf-r01b" });
	await userEvent.keyboard("{Escape}");
	expect(onChoose).toHaveBeenLastCalledWith({});
	await userEvent.keyboard("x");
	expect(onChoose).toHaveBeenCalledTimes(3);
});

test("what is chosen is said in words", () => {
	picture(WEAVE, { spine: "spine-2", leaf: "leaf-r07b" });
	expect(screen.getByText("spine-2; leaf-r07b in rack r07; 2 links")).toBeTruthy();
	picture(WEAVE, { racks: "r03..r05" });
	expect(screen.getByText("racks r03..r05 chosen")).toBeTruthy();
});

test("a click chooses what is drawn there, and with Shift the racks between", () => {
	const { onChoose, cloth } = picture(WEAVE, { racks: "r01" });
	const canvas = cloth.querySelector("canvas") as HTMLCanvasElement;
	const laid = layOut(WEAVE, 690, 1);
	const row = laid.rows.find((one) => one.leaf?.name === "leaf-r03a");
	const column = laid.columns[1];
	fireEvent.click(canvas, { clientX: column?.x, clientY: row?.y });
	expect(onChoose).toHaveBeenLastCalledWith({ spine: "spine-2", leaf: "leaf-r03a" });
	fireEvent.click(canvas, { clientX: laid.left.rack + 2, clientY: row?.y, shiftKey: true });
	expect(onChoose).toHaveBeenLastCalledWith({ racks: "r01..r03" });
});

test("it zooms by keys, says how far, and 0 shows the whole and comes back", async () => {
	picture();
	const zoom = () => screen.getByTitle(/The whole fabric/).textContent;
	expect(zoom()).toBe("100 %");
	await userEvent.keyboard("+");
	expect(zoom()).toBe("140 %");
	await userEvent.keyboard("--");
	expect(zoom()).toBe("71 %");
	await userEvent.keyboard("0");
	expect(zoom()).toBe("100 %");
	await userEvent.keyboard("0");
	expect(Number.parseInt(zoom() ?? "", 10)).toBeLessThanOrEqual(100);
});

test("racks show each switch at its unit, what is too full, and lead to rack and switch", async () => {
	const over = { ...RACKS[0], rack: "r99", units: 50, state: "out of service" };
	serve({ "GET /fabrics/marlin/racks": [...RACKS, over] });
	const onChoose = vi.fn();
	show(<RacksView fabric={MARLIN} chosen={{}} onChoose={onChoose} />);
	const r01 = RACKS.find((rack) => rack.rack === "r01");
	const words = `Rack r01: ${r01?.switches.map((one) => `${one.name} at unit ${one.unit}`).join(", ")}`;
	expect(await screen.findByRole("img", { name: words })).toBeTruthy();
	expect(screen.getByRole("img", { name: /^Rack r99: .*; more than it holds$/ })).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "r01" }));
	expect(onChoose).toHaveBeenLastCalledWith({ racks: "r01" });
	await userEvent.click(titled("leaf-r01b,"));
	expect(onChoose).toHaveBeenLastCalledWith({ leaf: "leaf-r01b" });
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "s01" }).disabled).toBe(true);
});

test("as a table it has every switch, finds words, and chooses the same things", async () => {
	const onChoose = vi.fn();
	const { rerender } = render(<WeaveList weave={TALL} chosen={{}} onChoose={onChoose} find="" />);
	const count = TALL.supers.length + TALL.spines.length + TALL.leaves.length;
	expect(screen.getByRole("grid").getAttribute("aria-rowcount")).toBe(String(count + 1));
	const super1 = TALL.supers[0];
	await userEvent.click(within(screen.getByRole("grid")).getByText(String(super1?.name)));
	expect(onChoose).toHaveBeenLastCalledWith({ spine: super1?.name });
	rerender(<WeaveList weave={TALL} chosen={{}} onChoose={onChoose} find="BORDER" />);
	const borders = TALL.leaves.filter((one) => one.name.includes("border"));
	expect(screen.getByRole("grid").getAttribute("aria-rowcount")).toBe(String(borders.length + 1));
});
