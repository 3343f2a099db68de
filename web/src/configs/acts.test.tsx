/** Claims about what one does with a file: hold it against another, see who has the same text, copy it. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import { MARLIN, serve, show, switchRow } from "../testing";
import { FileActs } from "./acts";

const SWITCHES = [
	switchRow("leaf-r01a", "leaf", { rack: "r01" }),
	switchRow("leaf-r02a", "leaf", { rack: "r02" }),
	switchRow("leaf-r01b", "leaf", { rack: "r01" }),
];
const LINES = [
	{ text: "hostname leaf-r01a", spans: [] },
	{ text: "!", spans: [] },
];

function acts(onBeside = vi.fn(), onOpen = vi.fn()) {
	const [current] = SWITCHES;
	if (!current) throw new Error("there is no switch");
	serve({
		[`GET /fabrics/${MARLIN.name}/alike`]: [
			{ path: "etc/a", lines: 2, switches: ["leaf-r01a", "leaf-r02a"] },
			{ path: "etc/a", lines: 3, switches: ["leaf-r01b"] },
		],
	});
	show(
		<FileActs
			current={current}
			switches={SWITCHES}
			file="etc/a"
			lines={LINES}
			beside=""
			onBeside={onBeside}
			onOpen={onOpen}
		/>,
	);
	return { onBeside, onOpen };
}

test("the twin is offered first and by that word, then itself before the last change", async () => {
	const { onBeside } = acts();
	const offered = within(screen.getByLabelText("beside")).getAllByRole("option");
	expect(offered.map((one) => one.textContent)).toEqual([
		"nothing",
		"itself before the last change",
		"leaf-r01b, its twin",
		"leaf-r02a",
	]);
	await userEvent.selectOptions(screen.getByLabelText("beside"), "before");
	expect(onBeside).toHaveBeenCalledWith("before");
});

test("who has the same text is asked for when somebody wants to know, and leads there", async () => {
	const { onOpen } = acts();
	await userEvent.click(screen.getByRole("button", { name: "Who has the same text" }));
	expect(await screen.findByText("2 texts of a")).toBeTruthy();
	expect(screen.getByText("2 switches, 2 lines").className).toContain("font-bold");
	await userEvent.click(screen.getByRole("button", { name: "leaf-r01b" }));
	expect(onOpen).toHaveBeenCalledWith("leaf-r01b");
});

test("what is copied is the file as it will stand on the switch", async () => {
	const user = userEvent.setup();
	acts();
	await user.click(screen.getByRole("button", { name: "Copy" }));
	expect(await navigator.clipboard.readText()).toBe("hostname leaf-r01a\n!\n");
	await waitFor(() => expect(screen.getByText("etc/a of leaf-r01a is on the clipboard.")).toBeTruthy());
});
