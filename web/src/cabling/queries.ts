/** What the Cabling screen reads. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, every, Failure, got } from "../api/client";
import type { components } from "../api/schema";
import { useOpenFabric } from "../app/open";
import { useSettled } from "../ui/settled";

type Schemas = components["schemas"];
export type Floor = Schemas["FloorView"];
export type Spot = Schemas["RackSpot"];
export type Tray = Schemas["TrayView"];
export type Elevation = Schemas["ElevationView"];
export type Thing = Schemas["ThingView"];
export type Bundle = Schemas["BundleView"];
export type Route = Schemas["RouteView"];

export type Worked = Schemas["WorkRow"];
export type Checked = Schemas["CheckedView"];
export type Material = Schemas["MaterialRow"];

/** What was done to each cable, by its label. */
export function useCableWork(name: string) {
	return useQuery({
		queryKey: ["fabric", name, "work"],
		queryFn: () =>
			every((query) =>
				client.GET("/api/v1/fabrics/{name}/cable-work", { params: { path: { name }, query } }),
			),
		placeholderData: keepPreviousData,
	});
}

/** What the switches heard of each other against the plan; nothing while nobody has said it. */
export function useNeighbours() {
	const { name, version } = useOpenFabric();
	return useQuery({
		queryKey: ["fabric", name, "neighbours", version],
		queryFn: async (): Promise<Checked | null> => {
			try {
				return await got(client.GET("/api/v1/fabrics/{name}/neighbours", { params: { path: { name } } }));
			} catch (failure) {
				if (failure instanceof Failure && failure.problem.status === 404) return null;
				throw failure;
			}
		},
	});
}

/** What to order: for all cables, for some racks, or for what came since a version of the draft. */
export function useMaterials(racks: string, since: string) {
	const { name, version } = useOpenFabric();
	const rack = useSettled(racks, 400);
	const from = useSettled(Number(since), 400) || undefined;
	return useQuery({
		queryKey: ["fabric", name, "materials", version, rack, from],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/materials", {
					params: { path: { name }, query: { rack, since: from } },
				}),
			),
		placeholderData: keepPreviousData,
		retry: false,
	});
}

export function useDeedsOn(label: string) {
	const { name } = useOpenFabric();
	return useQuery({
		queryKey: ["fabric", name, "work", label],
		queryFn: () =>
			got(client.GET("/api/v1/fabrics/{name}/cable-work/{label}", { params: { path: { name, label } } })),
		enabled: label !== "",
	});
}

export function useFloor() {
	const { name, version } = useOpenFabric();
	return useQuery({
		queryKey: ["fabric", name, "floor", version],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/floor", { params: { path: { name } } })),
		placeholderData: keepPreviousData,
	});
}

export function useElevation(rack: string) {
	const { name, version } = useOpenFabric();
	return useQuery<Elevation, Failure>({
		queryKey: ["fabric", name, "elevation", version, rack],
		queryFn: () =>
			got(client.GET("/api/v1/fabrics/{name}/elevations/{rack}", { params: { path: { name, rack } } })),
		enabled: rack !== "",
	});
}

export function useRoute(label: string) {
	const { name, version } = useOpenFabric();
	return useQuery({
		queryKey: ["fabric", name, "route", version, label],
		queryFn: () =>
			got(client.GET("/api/v1/fabrics/{name}/cables/{label}/route", { params: { path: { name, label } } })),
		enabled: label !== "",
	});
}
