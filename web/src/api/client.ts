/** The generated client with our errors: every failed call throws a `Failure` that carries the problem document. */
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Problem = Schemas["Problem"];
export type Fault = Schemas["Fault"];
export type Fabric = Schemas["FabricView"];
export type DraftText = Schemas["TextView"];
export type FabricRow = Schemas["FabricRow"];
export type Brief = Schemas["Brief"];
export type Sums = Schemas["Sums"];
export type Weave = Schemas["WeaveView"];
export type Thread = Schemas["Thread"];
export type RackGroup = Schemas["RackGroup"];
export type Face = Schemas["FaceView"];
export type FacePort = Schemas["FacePort"];
export type Rack = Schemas["RackView"];
export type Trial = Schemas["Trial"];
export type Revision = Schemas["Revision"];
export type ModelRow = Schemas["ModelRow"];
export type ModelPreview = Schemas["ModelPreview"];
export type Started = Schemas["Started"];
export type Completion = Schemas["Completion"];
export type Proposals = Schemas["Proposals"];
export type Need = Schemas["Need"];
export type Crossing = Schemas["CrossingView"];
export type Step = Schemas["Step"];
export type SwitchRow = Schemas["SwitchRow"];
export type SwitchType = Schemas["SwitchType"];
export type FileLine = Schemas["LineView"];
export type CableRow = Schemas["CableRow"];
export type PoolRange = Schemas["RangeView"];
export type Run = Schemas["RunView"];
export type Entry = Schemas["Entry"];
export type Pool = Schemas["PoolView"];
export type Growth = Schemas["GrowthView"];
export type GrowthRow = Schemas["GrowthRow"];
export type Reservation = Schemas["ReservationView"];
export type Move = Schemas["Move"];
export type Sheet = Schemas["SheetView"];
export type SheetRow = Schemas["RowView"];
export type PastState = Schemas["PastState"];
export type Option = Schemas["Option"];
export type Hit = Schemas["Hit"];

export class Failure extends Error {
	constructor(readonly problem: Problem) {
		super(problem.detail);
	}
}

export interface Call {
	method: string;
	url: string;
	body: string;
	status: number;
	at: Date;
}

/** The calls that this page made, newest first, so that any action can show its call. */
export const calls: Call[] = [];

export const client = createClient<paths>({ baseUrl: location.origin, fetch: (request) => fetch(request) });

client.use({
	async onRequest({ request }) {
		const secret = /\/(session|links\/|me\/|sztp\/)/.test(request.url);
		// A file is not read a second time to be shown.
		const file = request.headers.get("Content-Type") === "application/octet-stream";
		const body =
			request.method === "GET" || file ? "" : secret ? "(kept to itself)" : await request.clone().text();
		calls.unshift({ method: request.method, url: request.url, body, status: 0, at: new Date() });
		calls.length = Math.min(calls.length, 200);
		return request;
	},
	onResponse({ request, response }) {
		const call = calls.find(
			(made) => made.url === request.url && made.method === request.method && !made.status,
		);
		if (call) call.status = response.status;
		// Nobody is signed in any more; who is just coming in is told so where they ask.
		if (response.status === 401 && request.method === "GET") dispatchEvent(new Event("signedout"));
		else if (response.status === 401 && !/\/(session|links\/|me\/|sztp\/)/.test(request.url))
			dispatchEvent(new Event("signedout"));
		return undefined;
	},
});

interface Answer<T> {
	data?: T;
	error?: unknown;
	response: Response;
}

/** The data of an answer; throws `Failure` when there is none. */
export async function got<T>(answer: Promise<Answer<T>>): Promise<T> {
	let found: Answer<T>;
	try {
		found = await answer;
	} catch {
		throw new Failure({
			type: "urn:barrio:problem:unreachable",
			title: "Barrio does not answer",
			status: 0,
			detail:
				"Barrio does not answer. It may have been stopped; what was saved is safe. Start it again, then go on.",
			faults: [],
			request: "",
		});
	}
	if (found.response.ok) return found.data as T;
	const problem = found.error as Partial<Problem> | undefined;
	throw new Failure({
		type: problem?.type ?? "urn:barrio:problem:unknown",
		title: problem?.title ?? "Not possible",
		status: found.response.status,
		detail: problem?.detail ?? `The server answered ${found.response.status}.`,
		faults: problem?.faults ?? [],
		version: problem?.version ?? null,
		request: problem?.request ?? "",
	});
}

/** All rows of a list that comes a page at a time: each answer's `Link` says whether there is a next. */
export async function every<Row>(ask: (query: { offset: number }) => Promise<Answer<Row[]>>): Promise<Row[]> {
	const rows: Row[] = [];
	for (let more = true; more; ) {
		const answer = ask({ offset: rows.length });
		for (const row of await got(answer)) rows.push(row);
		more = (await answer).response.headers.get("Link")?.includes('rel="next"') ?? false;
	}
	return rows;
}
