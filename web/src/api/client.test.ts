/** Claims about calls: a list is read to its last page, and whatever goes wrong comes as one kind of failure. */
import { expect, test } from "vitest";
import { type Asked, Refusal, serve } from "../testing";
import { client, every, Failure, got } from "./client";

const paged = (rows: number, size: number) => (asked: Asked) => {
	const offset = Number(asked.query.get("offset") ?? 0);
	const end = Math.min(rows, offset + size);
	const page = Array.from({ length: end - offset }, (_, at) => ({ label: `M-${offset + at}` }));
	const headers = { "Content-Type": "application/json", ...(end < rows ? { Link: '<x>; rel="next"' } : {}) };
	return new Response(JSON.stringify(page), { headers });
};
const cables = () =>
	every((query) =>
		client.GET("/api/v1/fabrics/{name}/cables", { params: { path: { name: "marlin" }, query } }),
	);

test("a list is read page by page to its end, every row once", async () => {
	const asked = serve({ "GET /fabrics/marlin/cables": paged(12, 5) });
	expect((await cables()).map((row) => row.label)).toEqual(Array.from({ length: 12 }, (_, at) => `M-${at}`));
	expect(asked.map((one) => one.query.get("offset"))).toEqual(["0", "5", "10"]);
});

test("a list of one page is asked for once", async () => {
	const asked = serve({ "GET /fabrics/marlin/cables": paged(5, 5) });
	expect(await cables()).toHaveLength(5);
	expect(asked).toHaveLength(1);
});

test("a refusal is a failure with its problem document, on the second page as on the first", async () => {
	const first = paged(12, 5);
	serve({
		"GET /fabrics/marlin/cables": (asked: Asked) =>
			asked.query.get("offset") === "0" ? first(asked) : new Refusal(409, "Changed meanwhile."),
	});
	const failure = await cables().catch((error: unknown) => error);
	expect(failure).toBeInstanceOf(Failure);
	expect((failure as Failure).problem).toMatchObject({ status: 409, detail: "Changed meanwhile." });
});

test("a server that does not answer, or answers nonsense, is said in words", async () => {
	globalThis.fetch = () => Promise.reject(new TypeError("refused"));
	const gone = await got(client.GET("/api/v1/fabrics")).catch((error: Failure) => error);
	expect((gone as Failure).message).toMatch(/^Barrio does not answer/);
	globalThis.fetch = () => Promise.resolve(new Response("<h1>Bad gateway</h1>", { status: 502 }));
	const odd = await got(client.GET("/api/v1/fabrics")).catch((error: Failure) => error);
	expect((odd as Failure).problem).toMatchObject({ status: 502, detail: "The server answered 502." });
});
