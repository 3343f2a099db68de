/** Ports against segments, window by window: the server is asked for just the rows that are looked at. */
import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { client, got } from "../api/client";
import type { components } from "../api/schema";

type Schemas = components["schemas"];
export type Column = Schemas["SegmentColumn"];
export type Row = Schemas["SeatRow"];
export type Mark = Schemas["Cell"]["mark"];

/** What is looked at: one rack, one host, whoever carries one segment, one team, and words. */
export interface Sieve {
	rack?: string;
	host?: string;
	segment?: string;
	team?: string;
	find?: string;
	show?: "all" | "hosts" | "free";
}

export const WINDOW = 400;

const ask = (name: string, sieve: Sieve, offset: number, limit: number) =>
	got(
		client.GET("/api/v1/fabrics/{name}/carrying", {
			params: { path: { name }, query: { ...sieve, offset, limit } },
		}),
	);

/** Columns and counts, and the first window of rows. */
export const useCarrying = (name: string, version: number, sieve: Sieve) =>
	useQuery({
		queryKey: ["fabric", name, "carrying", version, sieve, 0],
		queryFn: () => ask(name, sieve, 0, WINDOW),
		placeholderData: keepPreviousData,
	});

/** The rows of the windows that hold these places; those that have not come yet are missing. */
export function useRowsAt(name: string, version: number, sieve: Sieve, first: number, last: number) {
	const from = Math.floor(Math.max(0, first) / WINDOW);
	const windows = Array.from(
		{ length: Math.floor(Math.max(0, last) / WINDOW) - from + 1 },
		(_, at) => from + at,
	);
	const found = useQueries({
		queries: windows.map((at) => ({
			queryKey: ["fabric", name, "carrying", version, sieve, at],
			queryFn: () => ask(name, sieve, at * WINDOW, WINDOW),
			placeholderData: keepPreviousData,
		})),
	});
	return (index: number): Row | undefined =>
		found[Math.floor(index / WINDOW) - from]?.data?.rows[index % WINDOW];
}
