/** Changes to a draft. Each carries the version it was made against; a conflict is told, and nothing is overwritten. */
import { type QueryClient, useMutation, useQueryClient } from "@tanstack/react-query";
import { useNotices } from "../ui/notices";
import { client, type DraftText, type Fabric, type Failure, got } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];

export type Change =
	| { kind: "edit"; edits: [string, unknown][]; note: string }
	| { kind: "text"; text: string }
	| { kind: "line"; line: string }
	| ({ kind: "reshape" } & Partial<Schemas["Reshape"]> & Pick<Schemas["Reshape"], "action">)
	| ({ kind: "ports" } & Omit<Schemas["Ports"], "version">)
	| { kind: "pins"; pins: Schemas["PinBody"][] }
	| { kind: "renumber"; uses: string[] }
	| { kind: "fill"; cells: Schemas["Cell"][] }
	| ({ kind: "attach" } & Omit<Schemas["Attach"], "version">)
	| { kind: "detach"; hosts: string[] }
	| ({ kind: "dress" } & Omit<Schemas["Dress"], "version">)
	| { kind: "take back"; revision: number }
	| { kind: "undo" }
	| { kind: "redo" };

function send(name: string, version: number, change: Change): Promise<Fabric> {
	const params = { path: { name } };
	switch (change.kind) {
		case "edit":
			return got(
				client.POST("/api/v1/fabrics/{name}/edits", {
					params,
					body: { version, edits: change.edits as [string, never][], note: change.note },
				}),
			);
		case "text":
			return got(
				client.PUT("/api/v1/fabrics/{name}/text", {
					params,
					body: { version, text: change.text, note: "edited as text" },
				}),
			);
		case "line":
			return got(
				client.POST("/api/v1/fabrics/{name}/quickline", { params, body: { version, line: change.line } }),
			);
		case "reshape": {
			const { kind, ...asked } = change;
			return got(
				client.POST("/api/v1/fabrics/{name}/reshape", {
					params,
					body: { racks: [], keys: [], fields: {}, state: "", why: "", ...asked, version },
				}),
			);
		}
		case "ports": {
			const { kind, ...asked } = change;
			return got(client.POST("/api/v1/fabrics/{name}/ports", { params, body: { ...asked, version } }));
		}
		case "pins":
			return got(
				client.POST("/api/v1/fabrics/{name}/pins", { params, body: { version, pins: change.pins } }),
			);
		case "renumber":
			return got(
				client.POST("/api/v1/fabrics/{name}/renumbering", { params, body: { version, uses: change.uses } }),
			);
		case "fill":
			return got(
				client.POST("/api/v1/fabrics/{name}/carrying", { params, body: { version, cells: change.cells } }),
			);
		case "attach": {
			const { kind, ...asked } = change;
			return got(client.POST("/api/v1/fabrics/{name}/attach", { params, body: { ...asked, version } }));
		}
		case "detach":
			return got(
				client.POST("/api/v1/fabrics/{name}/detach", { params, body: { version, hosts: change.hosts } }),
			);
		case "dress": {
			const { kind, ...asked } = change;
			return got(client.POST("/api/v1/fabrics/{name}/dress", { params, body: { ...asked, version } }));
		}
		case "take back":
			return got(
				client.POST("/api/v1/fabrics/{name}/history/{revision}/back", {
					params: { path: { name, revision: change.revision } },
					body: { version },
				}),
			);
		case "undo":
			return got(client.POST("/api/v1/fabrics/{name}/undo", { params, body: { version } }));
		case "redo":
			return got(client.POST("/api/v1/fabrics/{name}/redo", { params, body: { version } }));
	}
}

/** The version that is on screen: of the fabric, or of its text when it cannot be read. */
function versionOf(queries: QueryClient, name: string): number {
	const shown =
		queries.getQueryData<Fabric>(["fabric", name]) ??
		queries.getQueryData<DraftText>(["fabric", name, "text"]);
	return shown?.version ?? 0;
}

/** A quiet one leaves refusals to the caller, who shows them where the change was made. */
export function useChange(name: string, quiet = false) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	return useMutation<Fabric, Failure, Change>({
		// One change after the other: each is made against the version that the one before it left.
		scope: { id: `changes of ${name}` },
		mutationFn: (change) => send(name, versionOf(queries, name), change),
		onSuccess: async (fabric) => {
			// What was asked for before the change must not come in over it.
			await queries.cancelQueries({ queryKey: ["fabric", name], exact: true });
			queries.setQueryData(["fabric", name], fabric);
			queries.setQueryData(["version", name], { version: fabric.version });
			void queries.invalidateQueries({ queryKey: ["pools"] });
			void queries.invalidateQueries({ queryKey: ["fabrics"] });
		},
		onError: (failure) => {
			const stale = failure.problem.status === 409;
			// Who changed the same word as another is asked where the word is.
			const asked = quiet && failure.problem.faults?.length;
			if ((stale && !asked) || !quiet) tell({ tone: stale ? "changed" : "wrong", text: failure.message });
			if (stale) void queries.invalidateQueries({ queryKey: ["fabric", name] });
		},
	});
}
