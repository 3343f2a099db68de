/** What the Cabling screen reads. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, got } from "../api/client";
import type { components } from "../api/schema";
import { useOpenFabric } from "../app/open";

type Schemas = components["schemas"];
export type Floor = Schemas["FloorView"];
export type Spot = Schemas["RackSpot"];
export type Tray = Schemas["TrayView"];
export type Elevation = Schemas["ElevationView"];
export type Thing = Schemas["ThingView"];
export type Bundle = Schemas["BundleView"];
export type Route = Schemas["RouteView"];

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
	return useQuery({
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
