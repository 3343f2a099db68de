/** What one may not do is not offered: controls are there for who may, and a word says who else could. */
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { client, got } from "../api/client";
import { type Right, useMay } from "../api/session";
import { useOpenFabric } from "./open";

/** Shown to who may; to others nothing is there. */
export function MayOnly({ right = "edit", children }: { right?: Right; children: ReactNode }) {
	const fabric = useOpenFabric();
	return useMay(right, fabric?.name) ? children : null;
}

/** Shown to everybody, as what it says; only who may can change it. */
export function Settled({ right = "edit", children }: { right?: Right; children: ReactNode }) {
	const fabric = useOpenFabric();
	const may = useMay(right, fabric?.name);
	return (
		<fieldset className="settled" disabled={!may}>
			{children}
		</fieldset>
	);
}

/** Who could do it, to whom may not. */
export function WhoMay({ right = "edit" }: { right?: Right }) {
	const fabric = useOpenFabric();
	const may = useMay(right, fabric.name);
	const { data } = useQuery({
		queryKey: ["people", "holders", fabric.name],
		queryFn: () =>
			got(client.GET("/api/v1/fabrics/{name}/holders", { params: { path: { name: fabric.name } } })),
		enabled: !may,
		staleTime: 60_000,
	});
	const found = data?.find((one) => one.right === right);
	if (may || !found) return null;
	const names =
		found.who.slice(0, 3).join(", ") + (found.who.length > 3 ? ` and ${found.who.length - 3} more` : "");
	return (
		<p className="mb-3 border-l-4 border-hair pl-2.5 text-[12.5px] text-soft">
			{names ? `${names} may ${found.words}; you look on.` : `Nobody may ${found.words} now.`}
		</p>
	);
}
