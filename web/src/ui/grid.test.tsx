/** Claims about the grid: keys, ranges, copy and paste as a sheet has them, sorting. */
import { createEvent, fireEvent, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import { type Column, Grid } from "./grid";

interface Row {
	name: string;
	port: number;
}

const ROWS: Row[] = ["delta", "alpha", "charlie", "bravo"].map((name, index) => ({ name, port: 10 - index }));
const COLUMNS: Column<Row>[] = [
	{ id: "name", title: "name", width: 100, value: (row) => row.name },
	{ id: "port", title: "port", width: 60, value: (row) => row.port, show: (row) => <b>p{row.port}</b> },
];

function shown(onPaste?: (rows: Row[], column: string, cells: string[][]) => void) {
	const onChoose = vi.fn();
	render(
		<Grid
			label="Things"
			rows={ROWS}
			columns={COLUMNS}
			rowKey={(row) => row.name}
			onChoose={onChoose}
			onPaste={onPaste}
		/>,
	);
	return { grid: screen.getByRole("grid", { name: "Things" }), onChoose };
}

const names = () =>
	screen
		.getAllByRole("row")
		.slice(1)
		.map((row) => within(row).getAllByRole("gridcell")[0]?.textContent);

function copied(grid: HTMLElement): string {
	const setData = vi.fn();
	fireEvent(grid, createEvent.copy(grid, { clipboardData: { setData } }));
	return setData.mock.calls[0]?.[1];
}

test("it says how many rows there are, and shows a value as it is told to", () => {
	const { grid } = shown();
	expect(grid.getAttribute("aria-rowcount")).toBe("5");
	expect(names()).toEqual(["delta", "alpha", "charlie", "bravo"]);
	expect(screen.getByText("p10")).toBeTruthy();
});

test("arrows, Home and End choose rows and stop at the edges", async () => {
	const { grid, onChoose } = shown();
	grid.focus();
	await userEvent.keyboard("{ArrowDown}{ArrowDown}");
	expect(onChoose.mock.lastCall?.[0].name).toBe("alpha");
	await userEvent.keyboard("{End}{ArrowDown}");
	expect(onChoose.mock.lastCall?.[0].name).toBe("bravo");
	await userEvent.keyboard("{Home}{ArrowUp}{PageUp}");
	expect(onChoose.mock.lastCall?.[0].name).toBe("delta");
});

test("Shift makes a range, which is copied as values with tabs and lines between them", async () => {
	const { grid, onChoose } = shown();
	grid.focus();
	await userEvent.keyboard("{ArrowDown}");
	const calls = onChoose.mock.calls.length;
	await userEvent.keyboard("{Shift>}{ArrowDown}{ArrowRight}{/Shift}");
	expect(onChoose.mock.calls.length).toBe(calls);
	expect(copied(grid)).toBe("delta\t10\nalpha\t9");
});

test("a click with Shift reaches to that cell", async () => {
	const user = userEvent.setup();
	const { grid } = shown();
	await user.click(screen.getByText("alpha"));
	await user.keyboard("{Shift>}");
	await user.click(screen.getByText("bravo"));
	await user.keyboard("{/Shift}");
	expect(copied(grid)).toBe("alpha\ncharlie\nbravo");
});

test("headings sort, and the order is said to who cannot see it", async () => {
	shown();
	await userEvent.click(screen.getByRole("button", { name: /name/ }));
	expect(names()).toEqual(["alpha", "bravo", "charlie", "delta"]);
	expect(screen.getAllByRole("columnheader")[0]?.getAttribute("aria-sort")).toBe("ascending");
	await userEvent.click(screen.getByRole("button", { name: /name/ }));
	expect(names()).toEqual(["delta", "charlie", "bravo", "alpha"]);
});

test("a table that is pasted falls on the rows below the cell, in the order that is shown", async () => {
	const onPaste = vi.fn();
	const { grid } = shown(onPaste);
	await userEvent.click(screen.getByText("alpha"));
	fireEvent.paste(grid, { clipboardData: { getData: () => "1\t2\r\n3\t4\r\n" } });
	expect(onPaste).toHaveBeenCalledWith([ROWS[1], ROWS[2]], "name", [
		["1", "2"],
		["3", "4"],
	]);
});
