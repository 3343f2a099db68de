/** Claims about what is heard of others: what is looked at again, who is here, and that nobody listens out of sight. */
import { QueryClient } from "@tanstack/react-query";
import { act, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Others, Present } from "../app/present";
import { MARLIN, serve, show } from "../testing";
import { heard, useEvents } from "./events";

class Source {
	static all: Source[] = [];
	static CLOSED = 2;
	readyState = 1;
	ears = new Map<string, (event: { data: string }) => void>();
	constructor(readonly url: string) {
		Source.all.push(this);
	}
	addEventListener(kind: string, ear: (event: { data: string }) => void) {
		this.ears.set(kind, ear);
	}
	tell(kind: string, data: unknown) {
		act(() => this.ears.get(kind)?.({ data: typeof data === "string" ? data : JSON.stringify(data) }));
	}
	close() {
		this.readyState = Source.CLOSED;
	}
}
const STANDING = { stream: "s1", fabrics: { marlin: MARLIN.version }, pools: 1, catalogue: 1 };

beforeEach(() => {
	Source.all = [];
	vi.stubGlobal("EventSource", Source);
});
afterEach(() => {
	vi.unstubAllGlobals();
	vi.useRealTimers();
});

function Listening() {
	useEvents();
	return (
		<Present fabric="marlin" step="ledger">
			<Others fabric="marlin" />
		</Present>
	);
}

test("one says where one is once there is a stream, and sees who else is here", async () => {
	const asked = serve({
		"POST /fabrics/marlin/present": [{ name: "ines", called: "Ines Marrero", place: "spines.count" }],
	});
	show(<Listening />);
	Source.all[0]?.tell("standing", STANDING);
	expect((await screen.findByRole("list", { name: "Also here" })).textContent).toContain(
		"Ines Marrero, at spines.count",
	);
	expect(asked[0]?.body).toEqual({ stream: "s1", place: "ledger" });
	Source.all[0]?.tell("present", { fabric: "marlin", here: [] });
	await waitFor(() => expect(screen.queryByRole("list")).toBeNull());
});

test("a page out of sight listens no more after a minute, and again when it is looked at", () => {
	vi.useFakeTimers();
	serve({});
	show(<Listening />);
	const sight = vi.spyOn(document, "visibilityState", "get");
	const turn = (state: "hidden" | "visible") => {
		sight.mockReturnValue(state);
		document.dispatchEvent(new Event("visibilitychange"));
	};
	turn("hidden");
	vi.advanceTimersByTime(59_000);
	expect(Source.all[0]?.readyState).toBe(1);
	vi.advanceTimersByTime(2_000);
	expect(Source.all[0]?.readyState).toBe(Source.CLOSED);
	turn("visible");
	expect(Source.all).toHaveLength(2);
	turn("hidden");
	turn("visible");
	expect(Source.all).toHaveLength(2);
});

test.each([
	["fabric", "marlin", [["version", "marlin"], ["fabrics"], ["pools"]]],
	["pools", "", [["pools"]]],
	["catalogue", "", [["catalogue"], ["office"], ["fabric"]]],
	["people", "", [["session"], ["people"], ["me"]]],
])("of %s just what it concerns is looked at again", (kind, data, keys) => {
	const queries = new QueryClient();
	const again = vi.spyOn(queries, "invalidateQueries");
	heard(queries, kind, data);
	expect(again.mock.calls.map(([filter]) => filter?.queryKey)).toEqual(keys);
});

test("a page that slept finds in how things stand what it missed", () => {
	const queries = new QueryClient();
	queries.setQueryData(["fabric", "marlin"], MARLIN);
	heard(queries, "standing", JSON.stringify(STANDING));
	expect(queries.getQueryData(["version", "marlin"])).toBeUndefined();
	const again = vi.spyOn(queries, "invalidateQueries");
	heard(queries, "standing", JSON.stringify({ ...STANDING, fabrics: { marlin: 9 }, pools: 2 }));
	expect(queries.getQueryData(["version", "marlin"])).toEqual({ version: 9 });
	expect(again.mock.calls.map(([filter]) => filter?.queryKey)).toEqual([["fabrics"], ["pools"]]);
});

test("who is signed out elsewhere is shown the door", () => {
	const out = vi.fn();
	addEventListener("signedout", out);
	heard(new QueryClient(), "signedout", "");
	removeEventListener("signedout", out);
	expect(out).toHaveBeenCalledOnce();
});

test("an answer that was asked for before something newer was heard does not take its place", async () => {
	const asked: ((response: Response) => void)[] = [];
	vi.stubGlobal("fetch", () => new Promise<Response>((resolve) => asked.push(resolve)));
	show(<Listening />);
	Source.all[0]?.tell("standing", STANDING);
	await waitFor(() => expect(asked).toHaveLength(1));
	const here = [{ name: "olmo", called: "Olmo", place: "brief" }];
	Source.all[0]?.tell("present", { fabric: "marlin", here });
	await act(async () => asked[0]?.(Response.json([])));
	await act(async () => new Promise((resolve) => setTimeout(resolve, 20)));
	expect(screen.getByRole("list", { name: "Also here" }).textContent).toContain("Olmo, at brief");
});

test("when a rehearsal goes on, its list and what sealing waits for are looked at again, of that fabric alone", () => {
	const queries = new QueryClient();
	const keys = [
		["fabric", "marlin", "rehearsals", 3],
		["fabric", "marlin", "review", 3],
		["fabric", "marlin", "cables"],
		["fabric", "tern", "rehearsals", 1],
	];
	for (const key of keys) queries.setQueryData(key, "known");
	heard(queries, "rehearsal", "marlin");
	const old = keys
		.filter((key) => queries.getQueryState(key)?.isInvalidated)
		.map((key) => key.slice(1, 3).join(" "));
	expect(old).toEqual(["marlin rehearsals", "marlin review"]);
});
