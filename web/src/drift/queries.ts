/** What the screen of drift reads and does. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Fabric, type Failure, got } from "../api/client";
import type { components } from "../api/schema";
import { useNotices } from "../ui/notices";

type Schemas = components["schemas"];
export type Drift = Schemas["DriftView"];
export type DriftLine = Schemas["DriftLine"];
export type Flow = Schemas["FlowView"];
export type FlowStep = Schemas["FlowStep"];
export type Span = Schemas["SnapshotView"];

const at = (fabric: Fabric) => ({ params: { path: { name: fabric.name } } });

export const useDrift = (fabric: Fabric) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "staging", "drift"],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/drift", at(fabric))),
		placeholderData: keepPreviousData,
	});

/** How many switches were looked at, and how many are not as meant. */
export const useDriftCounts = (fabric: Fabric, enabled: boolean) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "staging", "drift counts"],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/drift/counts", at(fabric))),
		placeholderData: keepPreviousData,
		enabled,
	});

export const useHistory = (fabric: Fabric, name: string, seen: string) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "staging", "drift history", name, seen],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/drift/{switch}/history", {
					params: { path: { name: fabric.name, switch: name } },
				}),
			),
		placeholderData: keepPreviousData,
		enabled: name !== "",
	});

export type Deed =
	| { do: "back"; switches: string[] }
	| { do: "leave"; switch: string; path: string; line: string; why: string; until: string };

/** Put back what drifted, or leave a line as it is; what is refused is told. */
export function useMend(fabric: Fabric) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	return useMutation<unknown, Failure, Deed>({
		mutationFn: (deed) =>
			deed.do === "back"
				? got(
						client.POST("/api/v1/fabrics/{name}/drift/back", {
							params: { path: { name: fabric.name } },
							body: { switches: deed.switches },
						}),
					)
				: got(
						client.PUT("/api/v1/fabrics/{name}/drift/{switch}/left", {
							params: { path: { name: fabric.name, switch: deed.switch } },
							body: { path: deed.path, line: deed.line, why: deed.why, until: deed.until },
						}) as never,
					),
		onSuccess: (_, deed) => {
			if (deed.do === "back")
				tell({ tone: "done", text: "It is put back as a staging; Staging shows how far it is." });
		},
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
		onSettled: () => queries.invalidateQueries({ queryKey: ["fabric", fabric.name, "staging"] }),
	});
}

export type Back = Schemas["DriftRule"]["back"];

/** What is put back by itself, and how to say it anew. */
export function useRule(fabric: Fabric) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	const queryKey = ["fabric", fabric.name, "staging", "drift rule"];
	const { data } = useQuery({
		queryKey,
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/drift/rule", at(fabric))),
	});
	const say = useMutation<unknown, Failure, Back>({
		mutationFn: (back) =>
			got(client.PUT("/api/v1/fabrics/{name}/drift/rule", { ...at(fabric), body: { back } }) as never),
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
		onSettled: () => queries.invalidateQueries({ queryKey }),
	});
	return { back: data?.back, say };
}

/** Hold saved outputs against editions; what came of it is told. */
export function useHold(fabric: Fabric) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	return useMutation<Schemas["OutputsHeld"], Failure, File>({
		mutationFn: (file) =>
			got(
				client.POST("/api/v1/fabrics/{name}/drift/outputs", {
					params: { path: { name: fabric.name } },
					body: file as unknown as string,
					bodySerializer: () => file,
				}),
			),
		onSuccess: ({ true: alike, drifted, unheld }) => {
			const told = `${alike.length} of ${alike.length + drifted.length} switches are as meant`;
			const others = unheld.length > 3 ? `, and ${unheld.length - 3} more were not held` : "";
			tell({ tone: "done", text: [told, ...unheld.slice(0, 3)].join("; ") + others });
		},
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
		onSettled: () => queries.invalidateQueries({ queryKey: ["fabric", fabric.name, "staging"] }),
	});
}

/** A line as one says it: what was meant and what is found in its place. */
export const asOne = (line: DriftLine) =>
	line.meant && line.found ? `${line.meant} → ${line.found}` : line.found || line.meant;
