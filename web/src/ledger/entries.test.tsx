/** Claims about the numbers of a pool as a sheet: found, chosen, and pinned by pasting. */
import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import { entry, MARLIN, serve, show } from "../testing";
import { Entries } from "./entries";
import { PastScreen } from "./past";

const ROWS = [
	entry(1),
	entry(2, { state: "live", leaving: true }),
	entry(3, { fabric: "tern", pinned: true, note: "crane" }),
];

function opened(number = "") {
	const asked = serve({
		"GET /pools/halls-loopback/entries": { total: 1200, entries: ROWS },
		"POST /fabrics/marlin/pins": { ...MARLIN, version: 4 },
	});
	const onChoose = vi.fn();
	const onNumber = vi.fn();
	show(
		<Entries pool="halls-loopback" number={number} onChoose={onChoose} onNumber={onNumber} />,
		"/f/marlin/ledger",
	);
	return { asked, onChoose, onNumber };
}

test("it says how many there are in all, and each number's state and owner", async () => {
	const { onNumber } = opened();
	expect(await screen.findByText("the first 3 of 1,200 numbers")).toBeTruthy();
	expect(screen.getByText("leaving")).toBeTruthy();
	expect(screen.getByText("crane")).toBeTruthy();
	await userEvent.click(screen.getByText("10.60.0.2"));
	expect(onNumber).toHaveBeenCalledWith("10.60.0.2");
});

test("the number in the address is chosen, with or without its length", async () => {
	const { onChoose } = opened("10.60.0.3");
	await waitFor(() => expect(onChoose).toHaveBeenLastCalledWith(ROWS[2]));
});

test("words and a state are asked of the server, once one stops typing", async () => {
	const { asked } = opened();
	await userEvent.type(await screen.findByLabelText("Find numbers"), "r07");
	await userEvent.selectOptions(screen.getByLabelText("State"), "live");
	await waitFor(() => {
		const last = asked.at(-1);
		expect([last?.query.get("words"), last?.query.get("state")]).toEqual(["r07", "live"]);
	});
	expect(asked.filter((one) => one.query.get("words") === "r0")).toHaveLength(0);
});

test("numbers that are pasted onto numbers pin them, together and against the version on screen", async () => {
	const { asked } = opened();
	await userEvent.click(await screen.findByText("10.60.0.1"));
	fireEvent.paste(screen.getByRole("grid"), { clipboardData: { getData: () => "10.60.0.71\n10.60.0.72" } });
	await waitFor(() => expect(asked.find((one) => one.path.endsWith("/pins"))).toBeTruthy());
	expect(asked.find((one) => one.path.endsWith("/pins"))?.body).toEqual({
		version: MARLIN.version,
		pins: [
			{ use: "loopback.v4", key: "leaf/r01/a", number: "10.60.0.71", note: "pasted" },
			{ use: "loopback.v4", key: "leaf/r02/a", number: "10.60.0.72", note: "pasted" },
		],
	});
	expect(await screen.findByText("2 numbers pinned.")).toBeTruthy();
});

test("another fabric's numbers are not pinned from here, and other columns take no paste", async () => {
	const { asked } = opened();
	await userEvent.click(await screen.findByText("10.60.0.3"));
	fireEvent.paste(screen.getByRole("grid"), { clipboardData: { getData: () => "10.60.0.9" } });
	expect(await screen.findByText(/10.60.0.3 is of tern/)).toBeTruthy();
	await userEvent.click(screen.getByText("leaf/r01/a"));
	fireEvent.paste(screen.getByRole("grid"), { clipboardData: { getData: () => "x" } });
	expect(await screen.findByText(/Paste onto the numbers to pin them/)).toBeTruthy();
	expect(asked.some((one) => one.path.endsWith("/pins"))).toBe(false);
});

const STATE = {
	use: "loopback.v4",
	key: "leaf/r07/a",
	fabric: "marlin",
	pool: "halls-loopback",
	number: "10.60.0.17",
	state: "live",
	leaving: false,
	pinned: true,
	note: "known to the port",
	since: "2026-05-04T09:30:00Z",
	author: "Ines",
	act: "sealed",
	version: 3,
	why: "as cabled",
	until: null,
	ended_by: "",
	ended_act: "",
	ended_version: null,
};

test("the past of a number says what it is and was, by whom; without a number it leads back", async () => {
	serve({
		"GET /numbers/history": [
			STATE,
			{
				...STATE,
				state: "held",
				pinned: false,
				act: "draft saved",
				until: "2026-05-05T10:00:00Z",
				ended_by: "Teo",
				ended_act: "sealed",
			},
		],
	});
	history.replaceState(null, "", "/f/marlin/ledger/past?number=10.60.0.17");
	const { unmount } = show(<PastScreen />, "/f/marlin/ledger/past?number=10.60.0.17&space=v4");
	expect(await screen.findByText("It is live as loopback.v4 of leaf/r07/a in marlin, pinned.")).toBeTruthy();
	expect(screen.getByText(/sealed, by Ines, version 3, “as cabled”/)).toBeTruthy();
	expect(screen.getByText(/ended: sealed, by Teo/)).toBeTruthy();
	unmount();
	show(<PastScreen />, "/f/marlin/ledger/past");
	await waitFor(() => expect(screen.getByLabelText("where").textContent).toBe("/f/marlin/ledger"));
});
