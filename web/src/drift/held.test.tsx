/** Claims about what switches hold, on screen: found wherever it is, as it is and as it was. */
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { type Asked, OLMO, serve, show } from "../testing";
import { DriftScreen } from "./screen";
import { drift } from "./testing";

const T = "/fabrics/marlin/tables";
const NAME = "leaf-r01a";
const MACS = {
	kind: "macs",
	words: "MACs",
	count: 1,
	since: "2026-11-26T09:00:00Z",
	changed: "2026-11-27T08:00:00Z",
	times: 1,
};
const ROUTES = { ...MACS, kind: "routes", words: "Routes", count: 12, changed: null, times: 0 };
const KEY = "02:00:5e:00:01:01 VLAN 110";

function held(at: string, answers: Record<string, unknown> = {}): Asked[] {
	const asked = serve({
		"GET /fabrics/marlin/drift": [drift(NAME)],
		"GET /fabrics/marlin/drift/rule": { back: "nothing" },
		[`GET /fabrics/marlin/drift/${NAME}/history`]: [],
		[`GET ${T}/${NAME}`]: [ROUTES, MACS],
		[`GET ${T}/${NAME}/macs`]: {
			rows: [{ key: KEY, words: "on p2" }],
			count: 1,
			since: MACS.since,
		},
		[`GET ${T}/${NAME}/macs/changes`]: [
			{ at: MACS.changed, rows: [{ key: KEY, was: "on p1", now: "on p2" }] },
		],
		...answers,
	});
	show(<DriftScreen />, at, undefined, true, OLMO);
	return asked;
}

test("a table is as it is, with what changed last, and one step back as it was told first", async () => {
	const asked = held(`/f/marlin/drift?as=held&switch=${NAME}&kind=macs`);
	expect(await screen.findByText(KEY)).toBeTruthy();
	expect(screen.getByText("on p1").tagName).toBe("S");
	expect(screen.getByRole("button", { name: /Routes 12/ })).toBeTruthy();
	fireEvent.change(screen.getByLabelText("As it was"), { target: { value: "0" } });
	await waitFor(() => expect(asked.some((one) => one.query.get("moment") === MACS.since)).toBe(true));
	expect(screen.getByText(/as first told/)).toBeTruthy();
});

test("a MAC is found on whichever switch it is, and leads there", async () => {
	const row = { switch: NAME, kind: "macs", table: "MACs", key: KEY };
	held("/f/marlin/drift?as=held", {
		[`GET ${T}`]: {
			there: [{ ...row, words: "on p2", since: MACS.changed }],
			past: [{ ...row, at: MACS.changed, was: "on p1", now: "on p2" }],
		},
	});
	await userEvent.type(await screen.findByLabelText("Where is"), "0200.5e00.0101");
	const now = within(await screen.findByRole("list", { name: "Now" }));
	expect(now.getByText("MACs")).toBeTruthy();
	expect(within(screen.getByRole("list", { name: "Before" })).getByText("on p1")).toBeTruthy();
	await userEvent.click(now.getByRole("button", { name: NAME }));
	expect(await screen.findByRole("button", { name: /MACs 1/, pressed: true })).toBeTruthy();
});

test("what is nowhere is said to be nowhere", async () => {
	held("/f/marlin/drift?as=held", { [`GET ${T}`]: { there: [], past: [] } });
	await userEvent.type(await screen.findByLabelText("Where is"), "10.9.9.9");
	expect(await screen.findByText("stands nowhere now.")).toBeTruthy();
});
