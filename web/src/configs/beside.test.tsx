/** Claims about files beside each other: the twin first, what is alike folded, what really differs counted apart from what is each switch's own. */
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { MARLIN, serve, show, switchRow } from "../testing";
import { Beside, folded, peers } from "./beside";

type Lines = Parameters<typeof folded>[0];
type Kind = Lines[number]["kind"];
const line = (kind: Kind, at: number, text = `line ${at}`, beside = text): Lines[number] => ({
	kind,
	here: kind === "there" ? 0 : at,
	there: kind === "here" ? 0 : at,
	text: kind === "there" ? "" : text,
	beside: kind === "here" ? "" : beside,
});
const LINES = [
	...Array.from({ length: 9 }, (_, at) => line("same", at + 1)),
	line("own", 10, "hostname a", "hostname b"),
	line("there", 11, "server 10.9.0.7"),
];

test("those that a switch is best held against come first: its twin, then its role", () => {
	const row = (name: string, role: string, rack: string) => switchRow(name, role, { rack });
	const here = row("leaf-r01a", "leaf", "r01");
	const all = [
		row("spine-1", "spine", "s01"),
		row("leaf-r02a", "leaf", "r02"),
		here,
		row("leaf-r01b", "leaf", "r01"),
	];
	expect(peers(here, all).map((one) => one.name)).toEqual(["leaf-r01b", "leaf-r02a", "spine-1"]);
});

test("long runs of lines that are alike are folded, but for those beside a difference", () => {
	expect(folded(LINES).map((part) => part.length)).toEqual([7, 1, 1, 1, 1]);
	expect(folded(LINES.slice(0, 9)).map((part) => part.length)).toEqual([9]);
});

test("what is each switch's own is counted apart, and what was folded opens", async () => {
	serve({
		[`GET /fabrics/${MARLIN.name}/switches/leaf-r01a/compare`]: {
			path: "a",
			beside: "leaf-r01b",
			lines: LINES,
		},
	});
	show(<Beside target="leaf-r01a" file="etc/a" beside="leaf-r01b" />);
	const box = within(await screen.findByRole("region", { name: "Beside each other" }));
	expect(box.getByText("1 line really differs")).toBeTruthy();
	expect(box.getByText("hostname a").parentElement?.className).toContain("text-faint");
	expect(box.queryByText("line 3")).toBeNull();
	await userEvent.click(box.getByRole("button", { name: "7 lines alike" }));
	expect(box.getAllByText("line 3")).toHaveLength(2);
});
