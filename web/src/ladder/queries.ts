/** Settings with their rungs, and what a change of one would reach. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, type Failure, got } from "../api/client";
import type { components } from "../api/schema";

type Schemas = components["schemas"];
export type SettingRow = Schemas["SettingRow"];
export type RungSaid = Schemas["RungSaid"];
export type Tried = Schemas["SettingTried"];

export const useSettings = (name: string, version: number) =>
	useQuery({
		queryKey: ["fabric", name, "settings", version],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/settings", { params: { path: { name } } })),
		placeholderData: keepPreviousData,
	});

/** What a value would do; nothing is asked while there is none. */
export const useTried = (
	name: string,
	version: number,
	setting: string,
	rung: string,
	value: unknown,
	wanted: boolean,
) =>
	useQuery<Tried, Failure>({
		queryKey: ["fabric", name, "tried", version, setting, rung, JSON.stringify(value)],
		queryFn: () =>
			got(
				client.POST("/api/v1/fabrics/{name}/settings/{setting}/try", {
					params: { path: { name, setting } },
					body: { rung, value: value as never },
				}),
			),
		enabled: wanted,
		// Between two answers a button that is being pressed stays what it is.
		placeholderData: keepPreviousData,
		retry: false,
	});
