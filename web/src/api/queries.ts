/** What the screens read, by query key; everything under ["fabric", name] goes stale when that fabric changes. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, every, got } from "./client";

const path = (name: string) => ({ path: { name } });

export const useFabrics = () =>
	useQuery({
		queryKey: ["fabrics"],
		queryFn: () => every((query) => client.GET("/api/v1/fabrics", { params: { query } })),
	});

export const useFabric = (name: string) =>
	useQuery({
		queryKey: ["fabric", name],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}", { params: path(name) })),
	});

/** The text of a draft, also of one that cannot be read. */
export const useText = (name: string) =>
	useQuery({
		queryKey: ["fabric", name, "text"],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/text", { params: path(name) })),
	});

export const useVersion = (name: string) =>
	useQuery({
		queryKey: ["version", name],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/version", { params: path(name) })),
		retry: false,
	});

export const useWeave = (name: string, version: number) =>
	useQuery({
		queryKey: ["fabric", name, "weave", version],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/weave", { params: path(name) })),
		placeholderData: keepPreviousData,
	});

export const useCrossing = (name: string, version: number, one: string, other: string) =>
	useQuery({
		queryKey: ["fabric", name, "crossing", version, one, other],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/crossing", { params: { ...path(name), query: { one, other } } }),
			),
	});

export const useSwitches = (name: string, version: number) =>
	useQuery({
		queryKey: ["fabric", name, "switches", version],
		queryFn: () =>
			every((query) => client.GET("/api/v1/fabrics/{name}/switches", { params: { ...path(name), query } })),
		enabled: name !== "",
		placeholderData: keepPreviousData,
	});

export const useFiles = (name: string, version: number, target: string) =>
	useQuery({
		queryKey: ["fabric", name, "files", version, target],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/switches/{switch}/files", {
					params: { path: { name, switch: target } },
				}),
			),
		enabled: target !== "",
		placeholderData: keepPreviousData,
	});

export const useFile = (name: string, version: number, target: string, file: string) =>
	useQuery({
		queryKey: ["fabric", name, "file", version, target, file],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/switches/{switch}/file", {
					params: { path: { name, switch: target }, query: { path: file } },
				}),
			),
		enabled: target !== "" && file !== "",
		placeholderData: keepPreviousData,
	});

export const useLineReason = (name: string, version: number, target: string, file: string, line: number) =>
	useQuery({
		queryKey: ["fabric", name, "line", version, target, file, line],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/switches/{switch}/because", {
					params: { path: { name, switch: target }, query: { path: file, line } },
				}),
			),
		enabled: target !== "" && file !== "" && line > 0,
		placeholderData: keepPreviousData,
	});

interface Thing {
	use?: string;
	key?: string;
	path?: string;
	cable?: string;
}

export const useBecause = (name: string, version: number, thing: Thing | null) =>
	useQuery({
		queryKey: ["fabric", name, "because", version, thing],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/because", {
					params: { ...path(name), query: thing ?? {} },
				}),
			),
		enabled: thing !== null,
		placeholderData: keepPreviousData,
	});

export const useCables = (name: string, version: number) =>
	useQuery({
		queryKey: ["fabric", name, "cables", version],
		queryFn: () =>
			every((query) => client.GET("/api/v1/fabrics/{name}/cables", { params: { ...path(name), query } })),
		placeholderData: keepPreviousData,
	});

/** What an independent reader finds in all files together; takes seconds for a thousand switches. */
export const useReadBack = (name: string, version: number, wanted: boolean) =>
	useQuery({
		queryKey: ["fabric", name, "readback", version],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/readback", { params: path(name) })),
		enabled: wanted,
		staleTime: Number.POSITIVE_INFINITY,
	});

const LEDGER = { queryKey: ["pools"], queryFn: () => got(client.GET("/api/v1/pools")) };

/** Pools with their settings. */
export const useLedgerPools = () => useQuery({ ...LEDGER, select: (ledger) => ledger.pools });

/** Every range of every pool, with what is taken of it. */
export const usePools = () => useQuery({ ...LEDGER, select: (ledger) => ledger.ranges });

export const useGrowth = (name: string, version: number) =>
	useQuery({
		queryKey: ["pools", "growth", name, version],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/growth", { params: path(name) })),
		placeholderData: keepPreviousData,
	});

export type EntryState = "" | "held" | "live" | "resting" | "reserved";

export const useEntries = (pool: string, words = "", state: EntryState = "") =>
	useQuery({
		queryKey: ["pools", pool, "entries", words, state],
		queryFn: () =>
			got(
				client.GET("/api/v1/pools/{pool}/entries", { params: { path: { pool }, query: { words, state } } }),
			),
		enabled: pool !== "",
		placeholderData: keepPreviousData,
	});

export const useReservations = (pool: string) =>
	useQuery({
		queryKey: ["pools", pool, "reservations"],
		queryFn: () =>
			every((query) =>
				client.GET("/api/v1/pools/{pool}/reservations", { params: { path: { pool }, query } }),
			),
		enabled: pool !== "",
	});

export const useOwned = (name: string, version: number, of: string) =>
	useQuery({
		queryKey: ["fabric", name, "owned", version, of],
		queryFn: () =>
			every((query) =>
				client.GET("/api/v1/fabrics/{name}/numbers", { params: { ...path(name), query: { ...query, of } } }),
			),
		enabled: of !== "",
		retry: false,
	});

export const useNumberHistory = (space: string, number: string) =>
	useQuery({
		queryKey: ["pools", "history", space, number],
		queryFn: () => got(client.GET("/api/v1/numbers/history", { params: { query: { space, number } } })),
		enabled: number !== "",
	});

export const useCatalogue = () =>
	useQuery({
		queryKey: ["catalogue"],
		queryFn: () => got(client.GET("/api/v1/catalogue")),
		select: (rows) => rows.map((row) => row.model),
	});

export const useShelf = () =>
	useQuery({ queryKey: ["catalogue"], queryFn: () => got(client.GET("/api/v1/catalogue")) });

export const useFace = (name: string, version: number, target: string) =>
	useQuery({
		queryKey: ["fabric", name, "face", version, target],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/switches/{switch}/face", {
					params: { path: { name, switch: target } },
				}),
			),
		enabled: target !== "",
		placeholderData: keepPreviousData,
	});

export const useRacks = (name: string, version: number) =>
	useQuery({
		queryKey: ["fabric", name, "racks", version],
		queryFn: () =>
			every((query) => client.GET("/api/v1/fabrics/{name}/racks", { params: { ...path(name), query } })),
		placeholderData: keepPreviousData,
	});

export const useHistory = (name: string, version: number) =>
	useQuery({
		queryKey: ["fabric", name, "history", version],
		queryFn: () =>
			every((query) => client.GET("/api/v1/fabrics/{name}/history", { params: { ...path(name), query } })),
	});

/** The SSH keys that people keep on their own pages. */
export const useKeys = (name: string, wanted: boolean) =>
	useQuery({
		queryKey: ["people", "keys"],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/keys", { params: path(name) })),
		enabled: wanted,
	});
