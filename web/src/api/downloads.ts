/** Files to take away, each by the call that the client knows; a refusal is told, and nothing is saved. */
import { useCallback } from "react";
import { useNotices } from "../ui/notices";
import { client, Failure, got } from "./client";

const AS = { parseAs: "blob" } as const;

export type Taking = () => Promise<{ data?: Blob; error?: unknown; response: Response }>;

export const bundle = (name: string, kind: "zip" | "tar.gz") => () =>
	client.GET("/api/v1/fabrics/{name}/bundle.{kind}", { params: { path: { name, kind } }, ...AS });
export const hostsSheet = (name: string, kind: "csv" | "xlsx") => () =>
	client.GET("/api/v1/fabrics/{name}/hosts.{kind}", { params: { path: { name, kind } }, ...AS });
export const cablingCsv = (name: string) => () =>
	client.GET("/api/v1/fabrics/{name}/cabling.csv", { params: { path: { name } }, ...AS });
export const labelRows = (name: string) => () =>
	client.GET("/api/v1/fabrics/{name}/labels.csv", { params: { path: { name } }, ...AS });
export const numbersCsv = (name: string) => () =>
	client.GET("/api/v1/fabrics/{name}/numbers.csv", { params: { path: { name } }, ...AS });
export const numbersSheet = (fabric: string) => () =>
	client.GET("/api/v1/numbers.{kind}", { params: { path: { kind: "xlsx" }, query: { fabric } }, ...AS });
export const addressRecords = (name: string, kind: "zip" | "hosts") => () =>
	client.GET("/api/v1/fabrics/{name}/names.{kind}", { params: { path: { name, kind } }, ...AS });
export const briefText = (name: string) => () =>
	client.GET("/api/v1/fabrics/{name}/brief.yaml", { params: { path: { name } }, ...AS });
export const structure = (name: string, kind: "rfc8345.json" | "graphml" | "dot" | "svg") => () =>
	client.GET("/api/v1/fabrics/{name}/topology.{kind}", { params: { path: { name, kind } }, ...AS });

/** Take a file away under the name that the server gives it. */
export function useDownload(): (taking: Taking) => Promise<void> {
	const { tell } = useNotices();
	return useCallback(
		async (taking) => {
			try {
				const answer = await taking();
				save(await got(Promise.resolve(answer)), nameOf(answer.response));
			} catch (error) {
				if (!(error instanceof Failure)) throw error;
				tell({ tone: "wrong", text: error.message });
			}
		},
		[tell],
	);
}

function nameOf(response: Response): string {
	return response.headers.get("Content-Disposition")?.match(/filename="([^"]+)"/)?.[1] ?? "barrio";
}

function save(content: Blob, name: string): void {
	const link = document.createElement("a");
	link.href = URL.createObjectURL(content);
	link.download = name;
	document.body.append(link);
	link.click();
	link.remove();
	setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
