/** A page for tests: a server that answers as it is told, and what screens find around them. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter, Outlet, Route, Routes, useLocation } from "react-router";
import type { Entry, Fabric, FabricRow, Face, ModelRow, Rack, SwitchRow, Weave } from "./api/client";
import made from "./api/made.json";
import type { Right, Who } from "./api/session";
import { NoticeBoard } from "./ui/notices";

/** What the server answers about a fabric of two tiers, and about one of three. */
export const MARLIN = made.marlin.fabric as unknown as Fabric;
export const WEAVE = made.marlin.weave as unknown as Weave;
export const ROW = made.marlin.row as unknown as FabricRow;
export const RACKS = made.marlin.racks as unknown as Rack[];
export const FACE = made.marlin.face as unknown as Face;
export const PELICAN = made.pelican.fabric as unknown as Fabric;
export const TALL = made.pelican.weave as unknown as Weave;
export const SHELF = made.catalogue as unknown as ModelRow[];

/** A row of the list of switches. */
export const switchRow = (name: string, role: string, more: Partial<SwitchRow> = {}): SwitchRow => ({
	key: name,
	name,
	role,
	rack: "r01",
	unit: 42,
	model: "Cantera L48",
	management: "10.90.1.20",
	loopback: "10.60.0.7",
	asn: 4200065007,
	state: "",
	fresh: false,
	...more,
});

/** An entry of the ledger. */
export const entry = (id: number, more: Partial<Entry> = {}): Entry => ({
	id,
	use: "loopback.v4",
	key: `leaf/r0${id}/a`,
	fabric: "marlin",
	space: "v4",
	number: `10.60.0.${id}`,
	state: "held",
	leaving: false,
	pinned: false,
	note: "",
	since: "2026-05-04T09:30:00Z",
	author: "Ines",
	act: "draft saved",
	rests_until: null,
	...more,
});

const ALL: Right[] = [
	"read",
	"edit",
	"number",
	"cable",
	"seal",
	"agree",
	"say",
	"rehearse",
	"unbox",
	"stage",
	"rule",
	"delete",
	"share",
	"look",
	"create",
	"pools",
	"catalogue",
	"office",
	"people",
	"record",
];

/** Somebody who may do these things, for some fabrics or for all. */
export const somebody = (rights: Right[], fabrics: string[] | null = null): Who => ({
	name: "olmo",
	called: "Olmo Reyes",
	rights: rights.map((right) => ({ right, fabrics })),
	manners: {},
});
export const OLMO = somebody(ALL);

export interface Asked {
	method: string;
	path: string;
	query: URLSearchParams;
	body: unknown;
	headers: Headers;
}

type Answer = unknown | ((asked: Asked) => unknown);

/** A refusal, as a problem document of a status. */
export class Refusal {
	constructor(
		readonly status: number,
		readonly detail: string,
		readonly faults: object[] = [],
	) {}
}

/** Answers calls by “METHOD /path”, and keeps what was asked. What nobody told it of it refuses. */
export function serve(answers: Record<string, Answer>): Asked[] {
	const asked: Asked[] = [];
	globalThis.fetch = async (input, init) => {
		const request = new Request(input as Request, init);
		const url = new URL(request.url);
		const text = request.method === "GET" ? "" : await request.text();
		const one: Asked = {
			method: request.method,
			path: url.pathname.replace("/api/v1", ""),
			query: url.searchParams,
			body: text.startsWith("{") ? JSON.parse(text) : text,
			headers: request.headers,
		};
		asked.push(one);
		const told = answers[`${one.method} ${one.path}`];
		const found = typeof told === "function" ? await (told as (asked: Asked) => unknown)(one) : told;
		if (found === undefined)
			return problem(new Refusal(404, `Nobody told the test of ${one.method} ${one.path}.`));
		if (found instanceof Refusal) return problem(found);
		if (found instanceof Response) return found;
		return new Response(JSON.stringify(found), { headers: { "Content-Type": "application/json" } });
	};
	return asked;
}

function problem({ status, detail, faults }: Refusal): Response {
	const body = { type: "urn:barrio:problem:told", title: "Told", status, detail, faults, request: "1" };
	return new Response(JSON.stringify(body), {
		status,
		headers: { "Content-Type": "application/problem+json" },
	});
}

/** Where the page is, for tests to read. */
function Where() {
	const { pathname, search } = useLocation();
	return <output aria-label="where">{pathname + search}</output>;
}

/** Show a part as a screen of an open fabric shows it, or, not `framed`, with routes of its own. */
export function show(
	part: ReactNode,
	at = "/f/marlin/brief",
	fabric: Fabric = MARLIN,
	framed = true,
	who: Who | null = OLMO,
) {
	const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
	queries.setQueryData(["fabric", fabric.name], fabric);
	queries.setQueryData(["session"], who);
	const shown = render(
		<QueryClientProvider client={queries}>
			<NoticeBoard>
				<MemoryRouter initialEntries={[at]}>
					<Where />
					{framed ? (
						<Routes>
							<Route path="/f/:fabric" element={<Outlet context={fabric} />}>
								<Route path="*" element={part} />
							</Route>
							<Route path="*" element={part} />
						</Routes>
					) : (
						part
					)}
				</MemoryRouter>
			</NoticeBoard>
		</QueryClientProvider>,
	);
	return { ...shown, queries };
}
