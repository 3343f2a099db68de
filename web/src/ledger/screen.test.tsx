/** Claims about the ledger: pools at a glance, one seen closer, a span of it reserved or cut, and how it hands out. */
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, expect, test } from "vitest";
import type { Pool, PoolRange, Run } from "../api/client";
import { entry, MARLIN, Refusal, serve, show } from "../testing";
import { LedgerScreen } from "./screen";

const LOW = 171704320n; // 10.60.0.0
const text = (at: bigint) => [24n, 16n, 8n, 0n].map((by) => (at >> by) & 255n).join(".");

function run(from: number, to: number, more: Partial<Run> = {}): Run {
	const [low, high] = [LOW + BigInt(from), LOW + BigInt(to)];
	return {
		start: from / 1024,
		end: (to + 1) / 1024,
		low: String(low),
		high: String(high),
		first: text(low),
		last: text(high),
		state: "held",
		fabric: "marlin",
		count: to - from + 1,
		...more,
	};
}
const RUNS = [
	run(0, 29),
	run(30, 30, { state: "live" }),
	run(64, 79, { fabric: "tern" }),
	run(128, 191, { state: "kept", fabric: "the crane" }),
];
const LOOPBACK: Pool = {
	name: "loopback",
	kind: "addresses",
	plan: "position",
	scope: "site",
	parent: null,
	private_to: null,
	rest: 720,
	warn: 0.8,
	cut: ["loopback-lab"],
};
const LAB: Pool = { ...LOOPBACK, name: "loopback-lab", parent: "loopback", cut: [], scope: "lab" };
const RANGE: PoolRange = {
	pool: "loopback",
	range: "10.60.0.0/22",
	family: "v4",
	low: String(LOW),
	high: String(LOW + 1023n),
	first: "10.60.0.0",
	last: "10.60.3.255",
	size: "1024",
	held: "46",
	live: "1",
	resting: "0",
	waiting: "0",
	kept: "64",
	free: "913",
	used_share: 0.11,
	findings: [],
	runs: RUNS,
};
const ENTRY = entry(7, { key: "leaf/r07/b", number: "10.60.0.30", state: "live" });
const GROWTH = {
	pool: "loopback",
	family: "v4",
	now: "47",
	grown: "90",
	free: "913",
	share_now: 0.05,
	share_grown: 0.09,
	leaves: 913,
	low: false,
	short: false,
};
const RANGES = [RANGE, { ...RANGE, pool: "loopback-lab", range: "10.60.3.0/24", runs: [] }];

function ledger(at = "?pool=loopback", more: Record<string, unknown> = {}) {
	const asked = serve({
		"GET /pools": { pools: [LOOPBACK, LAB], ranges: RANGES },
		"GET /fabrics/marlin/growth": { rows: [GROWTH], refusal: null },
		"GET /pools/loopback/strip": { first: "10.60.0.0", last: "10.60.3.255", runs: RUNS },
		"GET /pools/loopback/entries": { total: 1, entries: [ENTRY] },
		"GET /pools/loopback/reservations": [
			{ id: 4, range: "10.60.0.128/26", note: "the crane", author: "Ines", at: "2026-05-04T09:30:00Z" },
		],
		...more,
	});
	show(<LedgerScreen />, `/f/marlin/ledger${at}`);
	return asked;
}
const sent = (asked: ReturnType<typeof serve>, method: string, path: string) =>
	asked.filter((one) => one.method === method && one.path === path).map((one) => one.body);

beforeEach(() => {
	Element.prototype.getBoundingClientRect = () => new DOMRect(0, 0, WIDE, 24);
});

/** Where a number of the whole range stands on the strip, in pixels from its left end. */
const WIDE = 900;
const on = (number: number) => (number * WIDE) / 1024;

async function lens() {
	return screen.findByRole("group", { name: /10\.60\.0\.0\/22 from/ });
}
/** Widens the strip to all of its range, and drags over it from one of its numbers to another. */
async function drag(from: number, to: number) {
	await userEvent.click(await screen.findByRole("button", { name: "all of 10.60.0.0/22" }));
	const strip = await lens();
	fireEvent.pointerDown(strip, { clientX: on(from), pointerId: 1 });
	fireEvent.pointerMove(strip, { clientX: on(to), pointerId: 1 });
	fireEvent.pointerUp(strip, { clientX: on(to), pointerId: 1 });
	return screen.findByRole("form", { name: "The span selected" });
}

test("a pool is a strip with what is used and free, what is cut from it under it", async () => {
	ledger();
	const pools = within(await screen.findByRole("region", { name: "Pools" }));
	const [top, cut] = await pools.findAllByRole("listitem");
	expect(top?.textContent).toContain("11 % used, 913 free, 9 % grown");
	expect(cut?.textContent).toContain("└ loopback-lab");
	expect(cut?.textContent).toContain("scope lab");
	expect(pools.getByText(/First to run out/).textContent).toContain("loopback");
	await userEvent.click(within(cut as HTMLElement).getByRole("button"));
	expect(window.location.search).toBe("?pool=loopback-lab");
});

test("what is too small or cannot be built at all is said above the pools", async () => {
	ledger("?pool=loopback", {
		"GET /fabrics/marlin/growth": { rows: [{ ...GROWTH, short: true }], refusal: "VLANs run out." },
	});
	expect(await screen.findByText("The growth declared cannot be built: VLANs run out.")).toBeTruthy();
	expect(screen.getByText("too small to grow,")).toBeTruthy();
	expect(screen.getByText("; too small for the growth declared")).toBeTruthy();
});

test("a pool that is not there is named, with the way out", async () => {
	ledger("?pool=harbour", { "GET /pools/harbour/entries": { total: 0, entries: [] } });
	expect((await screen.findByRole("alert")).textContent).toContain("There is no pool called harbour.");
});

test("a strip is looked at closer by keys, and by its buttons farther", async () => {
	const asked = ledger();
	await userEvent.click(await screen.findByRole("button", { name: "all of 10.60.0.0/22" }));
	const seen = () => asked.filter((one) => one.path === "/pools/loopback/strip").at(-1)?.query;
	await waitFor(() => expect(seen()?.get("high")).toBe(String(LOW + 1023n)));
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "Look from farther" }).disabled).toBe(true);
	(await lens()).focus();
	await userEvent.keyboard("+");
	await waitFor(() =>
		expect(BigInt(seen()?.get("high") ?? 0) - BigInt(seen()?.get("low") ?? 0)).toBeLessThan(1023n),
	);
	await userEvent.click(screen.getByRole("button", { name: "Look from farther" }));
	await waitFor(() =>
		expect(screen.getByRole<HTMLButtonElement>("button", { name: "Look from farther" }).disabled).toBe(true),
	);
});

test("under the pointer a strip says what is there, and whose", async () => {
	ledger();
	await userEvent.click(await screen.findByRole("button", { name: "all of 10.60.0.0/22" }));
	const strip = await lens();
	const says = async (at: number, words: string) => {
		fireEvent.pointerMove(strip, { clientX: on(at), pointerId: 1 });
		expect(await screen.findByText(words)).toBeTruthy();
	};
	await says(10, "10.60.0.0 to 10.60.0.29: held by marlin, 30 numbers");
	await says(70, "10.60.0.64 to 10.60.0.79: held by tern, 16 numbers");
	await says(150, "10.60.0.128 to 10.60.0.191: reserved, the crane");
});

test("a single number under a click is opened in the address; the arrow keys go from one to the next", async () => {
	ledger();
	await userEvent.click(await screen.findByRole("button", { name: "all of 10.60.0.0/22" }));
	const strip = await lens();
	fireEvent.pointerDown(strip, { clientX: on(30.5), pointerId: 1 });
	fireEvent.pointerUp(strip, { clientX: on(30.5), pointerId: 1 });
	await waitFor(() => expect(window.location.search).toContain("number=10.60.0.30"));
	expect(await screen.findByText("live in the edition")).toBeTruthy();
});

test("a span says who has numbers in it, and is reserved with the reason", async () => {
	const asked = ledger("?pool=loopback", { "POST /pools/loopback/reservations": { id: 9 } });
	const form = await drag(0, 80);
	expect(form.textContent).toMatch(/31 entries of marlin, 16 entries of tern/);
	await userEvent.click(within(form).getByRole("button", { name: "Reserve it…" }));
	const why = within(form).getByLabelText("What for?");
	expect(document.activeElement).toBe(why);
	await userEvent.type(why, "the new quay{Enter}");
	await waitFor(() => expect(screen.queryByRole("form", { name: "The span selected" })).toBeNull());
	const [body] = sent(asked, "POST", "/pools/loopback/reservations") as { range: string; note: string }[];
	expect(body?.note).toBe("the new quay");
	expect(body?.range).toMatch(/^10\.60\.0\.0/);
	expect(await screen.findByText(/is reserved: the new quay/)).toBeTruthy();
});

test("a pool is cut from a span for this fabric only, as the blocks that it is made of, and opens", async () => {
	const asked = ledger("?pool=loopback", { "POST /pools": { ...LOOPBACK, name: "quay" } });
	const form = await drag(256, 512);
	expect(form.textContent).toContain("none taken");
	await userEvent.click(within(form).getByRole("button", { name: "Cut a pool from it…" }));
	await userEvent.type(within(form).getByLabelText("Its name"), "quay");
	await userEvent.click(within(form).getByLabelText("only for marlin"));
	await userEvent.click(within(form).getByRole("button", { name: "Cut it" }));
	await waitFor(() => expect(window.location.search).toContain("pool=quay"));
	expect(sent(asked, "POST", "/pools")).toMatchObject([
		{
			name: "quay",
			parent: "loopback",
			private_to: "marlin",
			kind: "addresses",
			ranges: ["10.60.1.0/24", "10.60.2.0/28"],
		},
	]);
});

test("a refusal to cut leaves the span and what was written", async () => {
	ledger("?pool=loopback", { "POST /pools": new Refusal(422, "A pool called quay is there already.") });
	const form = await drag(256, 512);
	await userEvent.click(within(form).getByRole("button", { name: "Cut a pool from it…" }));
	await userEvent.type(within(form).getByLabelText("Its name"), "quay{Enter}");
	expect(await screen.findByText("A pool called quay is there already.")).toBeTruthy();
	expect(within(form).getByLabelText<HTMLInputElement>("Its name").value).toBe("quay");
});

test("how a pool hands out numbers is changed, days and percent as hours and a share", async () => {
	const asked = ledger("?pool=loopback", { "PATCH /pools/loopback": LOOPBACK });
	const plan = await screen.findByRole("combobox", { name: "New numbers" });
	await userEvent.selectOptions(plan, "lowest free");
	const rest = screen.getByLabelText<HTMLInputElement>(/Given back, it rests for/);
	expect(rest.value).toBe("30");
	await userEvent.clear(rest);
	await userEvent.type(rest, "2{Enter}");
	const warn = screen.getByLabelText(/Say that it runs low from/);
	await userEvent.clear(warn);
	await userEvent.type(warn, "seven{Enter}");
	await userEvent.clear(warn);
	await userEvent.type(warn, "90{Enter}");
	await userEvent.click(screen.getByLabelText("Only marlin draws from it"));
	await waitFor(() =>
		expect(sent(asked, "PATCH", "/pools/loopback")).toEqual([
			{ plan: "lowest" },
			{ rest: 48 },
			{ warn: 0.9 },
			{ private_to: "marlin" },
		]),
	);
});

test("ranges come and go, and a reservation ends", async () => {
	const asked = ledger("?pool=loopback", {
		"POST /pools/loopback/ranges": RANGE,
		"DELETE /pools/loopback/ranges": new Refusal(422, "47 numbers of it are held."),
		"DELETE /reservations/4": new Response(null, { status: 204 }),
	});
	await userEvent.type(await screen.findByLabelText("A range for loopback"), "10.61.0.0/24{Enter}");
	expect(await screen.findByText("10.61.0.0/24 is in loopback.")).toBeTruthy();
	expect(sent(asked, "POST", "/pools/loopback/ranges")).toEqual([{ range: "10.61.0.0/24" }]);
	await userEvent.click(screen.getByRole("button", { name: "take out 10.60.0.0/22" }));
	expect(await screen.findByText("47 numbers of it are held.")).toBeTruthy();
	await userEvent.click(await screen.findByRole("button", { name: "End the reservation of 10.60.0.128/26" }));
	await waitFor(() => expect(sent(asked, "DELETE", "/reservations/4")).toHaveLength(1));
});

test("what a renumbering would move is seen first, then done at the version seen, or left", async () => {
	const own = MARLIN.numbers.filter((use) => use.pool === "halls-loopback").map((use) => use.use);
	// biome-ignore lint/suspicious/noThenProperty: it is the number that it has then
	const moves = [{ use: "loopback.v4", key: "leaf/r07/b", now: "10.60.0.30", then: "10.60.0.19" }];
	const pool = { ...LOOPBACK, name: "halls-loopback", cut: [] };
	const asked = ledger("?pool=halls-loopback", {
		"GET /pools": { pools: [pool], ranges: [{ ...RANGE, pool: "halls-loopback" }] },
		"GET /fabrics/marlin/renumbering": { moves, sessions: 8 },
		"POST /fabrics/marlin/renumbering": { ...MARLIN, version: MARLIN.version + 1 },
	});
	await userEvent.click(await screen.findByRole("button", { name: "What would a renumbering move?" }));
	const found = await screen.findByRole("region", { name: "Renumbering" });
	expect((await within(found).findByRole("listitem")).textContent).toBe("leaf/r07/b10.60.0.30 → 10.60.0.19");
	expect(sent(asked, "POST", "/fabrics/marlin/renumbering")).toHaveLength(0);
	await userEvent.click(within(found).getByRole("button", { name: "Move 1 number" }));
	await waitFor(() =>
		expect(sent(asked, "POST", "/fabrics/marlin/renumbering")).toEqual([
			{ version: MARLIN.version, uses: own },
		]),
	);
	expect(screen.queryByRole("button", { name: /Delete this pool/ })).toBeNull();
});

test("a pool that this fabric does not draw from can be deleted, and a refusal says why not", async () => {
	ledger("?pool=loopback", { "DELETE /pools/loopback": new Refusal(422, "tern holds 16 numbers of it.") });
	await userEvent.click(await screen.findByRole("button", { name: "Delete this pool" }));
	expect(await screen.findByText("tern holds 16 numbers of it.")).toBeTruthy();
});

test("a number says whose it is, why, and which cables and lines carry it", async () => {
	const lines = Array.from({ length: 10 }, (_, at) => ({
		switch: "leaf-r07b",
		file: "etc/frr/frr.conf",
		line: at + 3,
	}));
	ledger("?pool=loopback&number=10.60.0.30", {
		"GET /fabrics/marlin/because": {
			steps: [{ kind: "ledger", title: "By position", detail: "rack 7, leaf b", refs: {} }],
			cables: ["MA-0031"],
			printed_on: lines,
			more: 2,
		},
	});
	const carried = within(await screen.findByRole("region", { name: "Carried by" }));
	expect(screen.getByText("By position")).toBeTruthy();
	expect(carried.getByRole("link", { name: "cable MA-0031" }).getAttribute("href")).toBe(
		"/f/marlin/cabling?cable=MA-0031",
	);
	expect(carried.getAllByRole("link")).toHaveLength(9);
	await userEvent.click(carried.getByRole("button", { name: "2 more lines" }));
	expect(carried.getAllByRole("link").at(-1)?.getAttribute("href")).toBe(
		"/f/marlin/configs/leaf-r07b?file=etc%2Ffrr%2Ffrr.conf&line=12",
	);
	expect(carried.getByText("2 more switches may print it too.")).toBeTruthy();
});

test("a number is pinned with its reason, and a pinned one let go", async () => {
	const asked = ledger("?pool=loopback&number=10.60.0.30", {
		"GET /pools/loopback/entries": { total: 1, entries: [{ ...ENTRY, pinned: true, note: "the crane" }] },
		"POST /fabrics/marlin/pins": { ...MARLIN, version: MARLIN.version + 1 },
	});
	await userEvent.click(await screen.findByRole("button", { name: "Change the pin" }));
	const number = screen.getByLabelText("leaf/r07/b is to have");
	await userEvent.clear(number);
	await userEvent.type(number, "10.60.0.90{Enter}");
	await userEvent.click(await screen.findByRole("button", { name: "Let it go" }));
	const pin = { use: "loopback.v4", key: "leaf/r07/b", note: "the crane" };
	await waitFor(() =>
		expect(sent(asked, "POST", "/fabrics/marlin/pins")).toMatchObject([
			{ pins: [{ ...pin, number: "10.60.0.90" }] },
			{ version: MARLIN.version + 1, pins: [{ ...pin, number: null }] },
		]),
	);
});

test("what rests tells until when and for whom, and its rest ends only with a reason", async () => {
	const resting = { ...ENTRY, state: "resting", rests_until: "2026-06-03T09:30:00Z" };
	const asked = ledger("?pool=loopback&number=10.60.0.30", {
		"GET /pools/loopback/entries": { total: 1, entries: [resting] },
		"POST /pools/loopback/end-rest": { ended: 1 },
	});
	expect(await screen.findByText(/Until its rest is over only leaf\/r07\/b can have it again/)).toBeTruthy();
	expect(screen.queryByRole("button", { name: "Pin it" })).toBeNull();
	await userEvent.click(screen.getByRole("button", { name: "End its rest" }));
	await userEvent.click(screen.getByRole("button", { name: "End it" }));
	expect(sent(asked, "POST", "/pools/loopback/end-rest")).toHaveLength(0);
	await userEvent.type(screen.getByLabelText("Why the rest ends"), "nobody remembers it{Enter}");
	expect(await screen.findByText("1 number of loopback may be taken again.")).toBeTruthy();
	expect(sent(asked, "POST", "/pools/loopback/end-rest")).toEqual([
		{ reason: "nobody remembers it", entries: [7] },
	]);
});

test("every number of one switch is a sheet, that leads to each number's pool", async () => {
	ledger("?of=leaf-r07b", {
		"GET /fabrics/marlin/numbers": [
			{ use: "loopback.v4", key: "leaf/r07/b", number: "10.60.0.30", pool: "loopback" },
			{ use: "asn", key: "leaf/r07/b", number: "4200065007", pool: null },
		],
	});
	expect(await screen.findByText("2 numbers")).toBeTruthy();
	await userEvent.click(screen.getByText("10.60.0.30"));
	expect(window.location.search).toBe("?pool=loopback&number=10.60.0.30");
});

test("a new pool may bring a new scope, which is made first and said", async () => {
	const asked = ledger("?pool=loopback", {
		"GET /scopes": [{ name: "site", note: "" }],
		"POST /scopes": { name: "annex", note: "" },
		"POST /pools": { ...LOOPBACK, name: "annex-v6" },
	});
	await userEvent.click(await screen.findByRole("button", { name: "New pool" }));
	await userEvent.type(screen.getByLabelText("Its name"), "annex-v6");
	await userEvent.type(screen.getByLabelText(/Ranges, with commas/), "10.70.0.0/20, fd70::/64");
	const scope = screen.getByLabelText(/Scope: numbers differ within it/);
	await userEvent.clear(scope);
	await userEvent.type(scope, "annex");
	expect(await screen.findByText("A new scope: its numbers may repeat those of others.")).toBeTruthy();
	await userEvent.click(screen.getByRole("button", { name: "Make it" }));
	await waitFor(() => expect(window.location.search).toContain("pool=annex-v6"));
	expect(asked.filter((one) => one.method === "POST").map((one) => one.path)).toEqual(["/scopes", "/pools"]);
	expect(sent(asked, "POST", "/pools")).toMatchObject([
		{ name: "annex-v6", ranges: ["10.70.0.0/20", "fd70::/64"], scope: "annex", kind: "addresses" },
	]);
});
