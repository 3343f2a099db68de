/** Claims about jobs: how far each is, what can be done with it, and that one is told of what ended. */
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { type Job, LARGE, notice, useEnded } from "../api/jobs";
import { RippleStrip } from "../app/ripple";
import { MARLIN, Refusal, serve, show } from "../testing";
import { JobsScreen } from "./screen";

const job = (id: number, more: Partial<Job> = {}): Job => ({
	id,
	kind: "bundle",
	fabric: "marlin",
	wishes: {},
	person: 1,
	author: "Olmo Reyes",
	token: "",
	state: "working",
	asked_at: "2026-05-04T09:30:00Z",
	began_at: null,
	ended_at: null,
	attempt: 1,
	done: 10,
	of: 40,
	words: "files are written",
	log: ["attempt 1 begins"],
	result: null,
	...more,
});

test("each job says how far it is, and offers what can be done with it", async () => {
	const asked = serve({
		"GET /jobs": [
			job(4),
			job(3, { state: "failed", words: "it broke", author: "Ines" }),
			job(2, { state: "done", result: "marlin.zip", done: 40 }),
			job(1, { state: "waiting", of: 0, done: 0 }),
		],
		"POST /jobs/4/stop": job(4, { state: "stopped" }),
		"POST /jobs/3/retry": job(3, { state: "waiting" }),
		"GET /jobs/2/result": new Refusal(404, "This job has no file, or it is over a week old."),
	});
	show(<JobsScreen />, "/jobs?job=4", undefined, false);
	const rows = await screen.findAllByRole("progressbar");
	expect(rows.map((row) => [row.getAttribute("aria-valuenow"), row.getAttribute("aria-valuetext")])).toEqual([
		["25", "10 of 40"],
		["25", "10 of 40"],
		["100", "40 of 40"],
		["0", "waits"],
	]);
	expect(screen.getByRole("list", { name: "Log" }).textContent).toBe("attempt 1 begins");
	await userEvent.click(screen.getAllByRole("button", { name: "Stop" })[0] as HTMLElement);
	await userEvent.click(screen.getByRole("button", { name: "Try again" }));
	await userEvent.click(screen.getByRole("button", { name: "Take marlin.zip" }));
	expect(await screen.findByText(/over a week old/)).toBeTruthy();
	expect(asked.filter((one) => one.method === "POST").map((one) => one.path)).toEqual([
		"/jobs/4/stop",
		"/jobs/3/retry",
	]);
});

test("the bundle of a large fabric is asked for and can be left; a small one is taken at once", async () => {
	const asked = serve({
		"POST /fabrics/marlin/jobs": job(5),
		"GET /fabrics/marlin/bundle.zip": new Refusal(503, "Not now."),
	});
	const large = { ...MARLIN, sums: { ...MARLIN.sums, switches: LARGE + 1 } };
	const strip = (fabric: typeof MARLIN) => (
		<RippleStrip fabric={fabric} onChange={() => undefined} busy={false} />
	);
	const { unmount } = show(strip(large));
	await userEvent.click(screen.getByRole("button", { name: "Make the bundle" }));
	expect(await screen.findByText(/You are told when it is ready/)).toBeTruthy();
	expect(asked.find((one) => one.method === "POST")).toMatchObject({
		path: "/fabrics/marlin/jobs",
		body: { kind: "bundle", packed: "zip" },
	});
	unmount();
	show(strip(MARLIN));
	await userEvent.click(screen.getByRole("button", { name: "Download bundle" }));
	await waitFor(() => expect(asked.some((one) => one.path === "/fabrics/marlin/bundle.zip")).toBe(true));
});

function Told() {
	useEnded(false);
	return null;
}

test("one is told once of what ended while the page was open, and not of what had ended before", async () => {
	let state = "working";
	serve({
		"GET /jobs": () => [
			job(7, { state, words: state === "done" ? "5,000 files of version 3" : "" }),
			job(6, { state: "done" }),
		],
	});
	const { queries } = show(<Told />);
	await waitFor(() => expect(queries.getQueryData(["jobs"])).toBeTruthy());
	state = "done";
	await queries.invalidateQueries({ queryKey: ["jobs"] });
	expect(
		await screen.findByText("The bundle of marlin is done: 5,000 files of version 3. It waits under Jobs."),
	).toBeTruthy();
	expect(screen.getAllByText(/The bundle of marlin/)).toHaveLength(1);
	expect(notice(job(1, { state: "failed", words: "it broke", kind: "read back" })).text).toBe(
		"Reading back marlin failed: it broke.",
	);
	expect(notice(job(1, { state: "stopped" })).tone).toBe("wrong");
});
