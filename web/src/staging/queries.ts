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
