/** What the screen of staging reads and does. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Fabric, type Failure, got } from "../api/client";
import type { components } from "../api/schema";
import { useNotices } from "../ui/notices";

type Schemas = components["schemas"];
export type Expected = Schemas["SwitchExpected"];
export type Knock = Schemas["KnockView"];
export type Staging = Schemas["StagingView"];
export type Staged = Schemas["StagedView"];
export type LogLine = Schemas["LogLine"];
export type NewStaging = Schemas["NewStaging"];
export type Arrival = Schemas["ArrivalSaid"];
export type Drain = Schemas["DrainView"];
export type Cost = Schemas["DrainCost"];
export type SztpBox = Schemas["SztpView"];
type SztpSaid = Schemas["SztpSaid"];

const at = (fabric: Fabric) => ({ params: { path: { name: fabric.name } } });

export const useRoll = (fabric: Fabric) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "staging", "roll"],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/staging/roll", at(fabric))),
		placeholderData: keepPreviousData,
		retry: false,
	});

export const useKnocks = (fabric: Fabric, enabled: boolean) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "staging", "knocks"],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/staging/knocks", at(fabric))),
		placeholderData: keepPreviousData,
		enabled,
	});

/** How switches come to Barrio. */
export const useArrival = (fabric: Fabric) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "staging", "ways"],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/staging/ways", at(fabric))),
	});

/** The switches that are drained, or on their way to be. */
export const useDrains = (fabric: Fabric, enabled: boolean) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "staging", "drains"],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/staging/drains", at(fabric))),
		placeholderData: keepPreviousData,
		enabled,
	});

/** What goes with a switch. */
export const useCost = (fabric: Fabric, name: string) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "staging", "cost", name],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/staging/drains/{switch}/cost", {
					params: { path: { name: fabric.name, switch: name } },
				}),
			),
	});

/** The boxes that may come by RFC 8572. */
export const useSztp = (fabric: Fabric, enabled: boolean) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "staging", "sztp"],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/staging/sztp", at(fabric))),
		placeholderData: keepPreviousData,
		enabled,
	});

/** Let a box come by RFC 8572, or no more where nothing is said of it. */
export function useAllow(fabric: Fabric) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	return useMutation<Schemas["SztpWord"] | undefined, Failure, { switch: string; said?: SztpSaid }>({
		mutationFn: ({ switch: name, said }) => {
			const params = { path: { name: fabric.name, switch: name } };
			const path = "/api/v1/fabrics/{name}/staging/sztp/{switch}";
			return said ? got(client.PUT(path, { params, body: said })) : got(client.DELETE(path, { params }));
		},
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
		onSettled: () => queries.invalidateQueries({ queryKey: ["fabric", fabric.name, "staging"] }),
	});
}

/** Whether a hall of simulated switches may be switched on. */
export const useSimulated = (fabric: Fabric, enabled: boolean) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "staging", "simulated"],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/staging/simulated", at(fabric))),
		enabled,
	});

/** The software of a fabric. */
export const useImages = (fabric: Fabric) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "staging", "images"],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/staging/images", at(fabric))),
	});

type Brought = { file: File; version: string; model: string } | { drop: string; model: string };

/** Bring software, or take some out. */
export function useBring(fabric: Fabric) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	return useMutation<unknown, Failure, Brought>({
		mutationFn: (what) => {
			const path = "/api/v1/fabrics/{name}/staging/images/{version}";
			const version = "drop" in what ? what.drop : what.version;
			const params = { path: { name: fabric.name, version }, query: { model: what.model } };
			if ("drop" in what) return got(client.DELETE(path, { params }));
			return got(
				client.PUT(path, {
					params: { ...params, query: { ...params.query, file: what.file.name } },
					body: what.file as unknown as string,
					bodySerializer: (body: unknown) => body as BodyInit,
					headers: { "Content-Type": "application/octet-stream" },
				}),
			);
		},
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
		onSettled: () => queries.invalidateQueries({ queryKey: ["fabric", fabric.name, "staging", "images"] }),
	});
}

/** The newest staging; null while there was none. */
export const useStaging = (fabric: Fabric, enabled = true) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "staging", "newest"],
		queryFn: (): Promise<Staging | null> =>
			got(client.GET("/api/v1/fabrics/{name}/staging", at(fabric))).catch((failure: Failure) => {
				if (failure.problem.status === 404) return null;
				throw failure;
			}),
		placeholderData: keepPreviousData,
		enabled,
	});

export const useLog = (fabric: Fabric, staging: Staging | null | undefined, one: Staged | undefined) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "staging", "log", staging?.id, one?.name, one?.since, one?.words],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/staging/log/{number}/{switch}", {
					params: { path: { name: fabric.name, number: staging?.id ?? 0, switch: one?.name ?? "" } },
				}),
			),
		placeholderData: keepPreviousData,
		enabled: Boolean(staging && one),
	});

export type Deed =
	| { do: "bind"; switch: string; scanned: string }
	| { do: "loosen"; switch: string }
	| { do: "admit"; knock: string; switch: string }
	| { do: "refuse"; knock: string; why: string }
	| { do: "begin"; wish: NewStaging }
	| { do: "pause" | "on" | "leave" | "putback" }
	| { do: "ways"; ways: Arrival }
	| { do: "simulate" }
	| { do: "drain"; switch: string; why: string }
	| { do: "undrain"; switch: string }
	| { do: "out"; switch: string; why: string; evenSo: boolean }
	| { do: "again"; switch: string }
	| { do: "skip"; switch: string; why: string };

/** Do something in a staging; what is refused is told. */
export function useStage(fabric: Fabric) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	return useMutation<unknown, Failure, Deed>({
		mutationFn: (deed) => got(call(fabric.name, deed) as never),
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
		onSettled: () => queries.invalidateQueries({ queryKey: ["fabric", fabric.name, "staging"] }),
	});
}

function call(name: string, deed: Deed): Promise<unknown> {
	const path = { name };
	switch (deed.do) {
		case "bind":
			return client.PUT("/api/v1/fabrics/{name}/staging/roll/{switch}/box", {
				params: { path: { name, switch: deed.switch } },
				body: { serial: "", mac: "", scanned: deed.scanned },
			});
		case "loosen":
			return client.DELETE("/api/v1/fabrics/{name}/staging/roll/{switch}/box", {
				params: { path: { name, switch: deed.switch } },
			});
		case "admit":
			return client.POST("/api/v1/fabrics/{name}/staging/knocks/{knock}/admit", {
				params: { path: { name, knock: deed.knock } },
				body: { switch: deed.switch },
			});
		case "refuse":
			return client.POST("/api/v1/fabrics/{name}/staging/knocks/{knock}/refuse", {
				params: { path: { name, knock: deed.knock } },
				body: { why: deed.why },
			});
		case "begin":
			return client.POST("/api/v1/fabrics/{name}/staging", { params: { path }, body: deed.wish });
		case "pause":
			return client.POST("/api/v1/fabrics/{name}/staging/pause", { params: { path } });
		case "on":
			return client.POST("/api/v1/fabrics/{name}/staging/on", { params: { path } });
		case "leave":
			return client.POST("/api/v1/fabrics/{name}/staging/leave", { params: { path } });
		case "putback":
			return client.POST("/api/v1/fabrics/{name}/staging/putback", { params: { path } });
		case "ways":
			return client.PUT("/api/v1/fabrics/{name}/staging/ways", { params: { path }, body: deed.ways });
		case "simulate":
			return client.POST("/api/v1/fabrics/{name}/staging/simulated", { params: { path } });
		case "drain":
			return client.PUT("/api/v1/fabrics/{name}/staging/drains/{switch}", {
				params: { path: { name, switch: deed.switch } },
				body: { why: deed.why },
			});
		case "undrain":
			return client.DELETE("/api/v1/fabrics/{name}/staging/drains/{switch}", {
				params: { path: { name, switch: deed.switch } },
			});
		case "out":
			return client.POST("/api/v1/fabrics/{name}/staging/roll/{switch}/out", {
				params: { path: { name, switch: deed.switch } },
				body: { why: deed.why, even_so: deed.evenSo },
			});
		case "again":
			return client.POST("/api/v1/fabrics/{name}/staging/switches/{switch}/again", {
				params: { path: { name, switch: deed.switch } },
			});
		case "skip":
			return client.POST("/api/v1/fabrics/{name}/staging/switches/{switch}/skip", {
				params: { path: { name, switch: deed.switch } },
				body: { why: deed.why },
			});
	}
}
