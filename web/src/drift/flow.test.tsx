/** Claims about following a flow on screen: asked for, awaited, drawn, step by step, and what is lost. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { type Asked, OLMO, Refusal, serve, show, somebody } from "../testing";
import { folded } from "./flow";
import type { Flow, FlowStep } from "./queries";
import { DriftScreen } from "./screen";

const AT = "/fabrics/marlin/flows";

const step = (name: string, depth: number, more: Partial<FlowStep> = {}): FlowStep => ({
	switch: name,
	depth,
	share: 0.5,
	words: [],
	ways: [],
	ends: [],
	planned: 0,
	waits: false,
	...more,
});

const FLOW: Flow = {
	number: 7,
	source: "buoy-1",
	target: "10.72.1.31",
	author: "Olmo",
	at: "2026-12-02T05:00:00Z",
	waits: false,
	words: "It arrives, at leaf-r02a.",
	refused: false,
	arrives: 1,
	narrowest: 9000,
	circle: false,
	edition: 3,
	begins: { address: "10.72.1.21", mac: "02:00:00:00:00:01", segment: "buoys", seats: ["leaf-r01a:h1"] },
	ends: null,
	steps: [
		step("leaf-r01a", 0, {
			share: 1,
			words: ["10.72.1.31/32 in VRF tides: by vlan103"],
			ways: [
				{ port: "u1", cable: "M-0001", step: 1, share: 0.5 },
				{ port: "u2", cable: "M-0002", step: 2, share: 0.5 },
			],
			planned: 2,
		}),
		step("spine-1", 1, {
			words: ["tunnel to 10.60.8.3"],
			ways: [{ port: "p2", cable: "M-0003", step: 3, share: 1 }],
		}),
		step("spine-2", 1, {
			words: ["tunnel to 10.60.8.3"],
			ways: [{ port: "p2", cable: "M-0004", step: 3, share: 1 }],
		}),
		step("leaf-r02a", 2, {
			share: 1,
			words: ["out of the tunnel: VNI 30003 is VLAN 103 here"],
			ends: [{ words: "out at h5, to buoy-9", arrives: true }],
		}),
	],
	waits_for: [],
	silent: [],
};
const LOST: Flow = {
	...FLOW,
	words: "50% of it arrives; the rest does not: spine-2 has no route to the tunnel end 10.60.8.3.",
	arrives: 0.5,
	steps: FLOW.steps.map((one) =>
		one.switch === "spine-2"
			? {
					...one,
					words: [],
					ways: [],
					ends: [{ words: "has no route to the tunnel end 10.60.8.3", arrives: false }],
				}
			: one.switch === "leaf-r01a"
				? { ...one, planned: 4 }
				: one,
	),
};

function following(flow: Flow, answers: Record<string, unknown> = {}, who = OLMO): Asked[] {
	const { number, source, target, author, at, waits } = flow;
	const asked = serve({
		"GET /fabrics/marlin/drift": [{ switch: "leaf-r01a", rack: "r01", true: true, seen: FLOW.at, lines: [] }],
		[`GET ${AT}`]: [
			{ number, source, target, author, at, waits },
			{ number: 5, source: "a", target: "b", author: "Teo", at, waits: false },
		],
		[`GET ${AT}/${number}`]: flow,
		...answers,
	});
	show(<DriftScreen />, "/f/marlin/drift?as=flow", undefined, true, who);
	return asked;
}

test("a flow is asked for by two ends, and the way back by a click", async () => {
	const asked = following(FLOW, { [`POST ${AT}`]: { number: 7 } });
	await userEvent.type(await screen.findByLabelText("What goes from"), "buoy-1");
	await userEvent.type(screen.getByLabelText("to"), "10.72.1.31");
	await userEvent.click(screen.getByRole("button", { name: "Follow it" }));
	const posted = () => asked.filter((one) => one.method === "POST").map((one) => one.body);
	await waitFor(() => expect(posted()).toEqual([{ source: "buoy-1", target: "10.72.1.31" }]));
	await userEvent.click(await screen.findByRole("button", { name: "And the way back" }));
	await waitFor(() => expect(posted()[1]).toEqual({ source: "10.72.1.31", target: "buoy-1" }));
});

test("what came of it stands first, then each step with its tables, ports and cables; alike ones are one", async () => {
	following(FLOW);
	expect(await screen.findByText("It arrives, at leaf-r02a.")).toBeTruthy();
	expect(screen.getByText(/Packets of up to 9,000 bytes go through/)).toBeTruthy();
	const steps = within(screen.getByRole("list", { name: "Step by step" })).getAllByRole("listitem");
	expect(steps).toHaveLength(3);
	expect(steps[0]?.textContent).toContain("u1, cable M-0001, to spine-1: 50 % of it");
	expect(steps[1]?.textContent).toContain("spine-1, spine-2 50 %");
	expect(steps[1]?.textContent).toContain("each to leaf-r02a");
	expect(steps[2]?.textContent).toContain("out at h5, to buoy-9");
});

test("a switch of the drawing leaves its step alone in the list, and a second click all of them", async () => {
	following(FLOW);
	const drawn = within(await screen.findByRole("group", { name: "The flow, drawn" }));
	await userEvent.click(drawn.getByRole("button", { name: "leaf-r02a" }));
	const list = () => within(screen.getByRole("list", { name: "Step by step" })).getAllByRole("listitem");
	expect(list()).toHaveLength(1);
	await userEvent.keyboard("{Enter}");
	expect(list()).toHaveLength(3);
});

test("what is lost is said with where, and where it is spread over fewer ways than planned", async () => {
	following(LOST);
	expect((await screen.findByText(LOST.words)).className).toContain("madder");
	const [first, ...others] = within(screen.getByRole("list", { name: "Step by step" })).getAllByRole(
		"listitem",
	);
	expect(first?.textContent).toContain("by 2 of 4 planned ways");
	expect(others.some((one) => one.textContent?.includes("has no route to the tunnel end"))).toBe(true);
	expect(folded(LOST).map((group) => group.length)).toEqual([1, 1, 1, 1]);
});

test("who is waited for is counted; who asks what cannot be followed is told the way out", async () => {
	const waiting: Flow = {
		...FLOW,
		waits: true,
		words: "The switches are being asked.",
		arrives: 0,
		waits_for: ["spine-1", "spine-2"],
		steps: [step("spine-1", 1, { waits: true })],
	};
	following(waiting, { [`POST ${AT}`]: new Refusal(422, "“x” is no address, and no host of the fabric.") });
	expect(await screen.findByText(/Waits for 2 switches; idle ones answer within a minute/)).toBeTruthy();
	expect(screen.getByText("has not answered yet")).toBeTruthy();
	await userEvent.type(screen.getByLabelText("What goes from"), "x");
	await userEvent.type(screen.getByLabelText("to"), "y");
	await userEvent.click(screen.getByRole("button", { name: "Follow it" }));
	expect(await screen.findByText(/no host of the fabric/)).toBeTruthy();
});

test("who may not stage reads what others followed, earlier ones too", async () => {
	following(
		FLOW,
		{ [`GET ${AT}/5`]: { ...FLOW, number: 5, words: "It goes around in a circle." } },
		somebody(["read", "look"]),
	);
	expect(await screen.findByText("It arrives, at leaf-r02a.")).toBeTruthy();
	expect(screen.queryByRole("button", { name: "Follow it" })).toBeNull();
	await userEvent.click(screen.getByRole("button", { name: "a → b" }));
	expect(await screen.findByText("It goes around in a circle.")).toBeTruthy();
});

test("before anything was followed it says what that is, or who can", async () => {
	following(FLOW, { [`GET ${AT}`]: [] });
	expect(await screen.findByText(/followed through what each switch on its way says/)).toBeTruthy();
});

test("who may not ask is told who can", async () => {
	following(FLOW, { [`GET ${AT}`]: [] }, somebody(["read", "look"]));
	expect(await screen.findByText(/Whoever stages can have one followed/)).toBeTruthy();
});
