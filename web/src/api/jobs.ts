/** Long work that can be left: asked for, seen as it goes, told of when it has ended. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { useNotices } from "../ui/notices";
import { client, type Failure, got } from "./client";
import type { components } from "./schema";
import { useSession } from "./session";

export type Job = components["schemas"]["Job"];

/** Above so many switches a bundle is made by a job, and what it was asked for can be left meanwhile. */
export const LARGE = 200;

export const useJobs = () => useQuery({ queryKey: ["jobs"], queryFn: () => got(client.GET("/api/v1/jobs")) });

export const isOver = (job: Job): boolean => !["waiting", "working"].includes(job.state);

export function useJobAct<Asked>(send: (asked: Asked) => Promise<Job>, done?: (job: Job) => string) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	return useMutation<Job, Failure, Asked>({
		mutationFn: send,
		onSuccess: (job) => {
			void queries.invalidateQueries({ queryKey: ["jobs"] });
			const words = done?.(job);
			if (words) tell({ tone: "done", text: words });
		},
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
	});
}

/** Ask for the bundle of a large fabric. */
export const useBundleJob = (fabric: string) =>
	useJobAct(
		(packed: "zip" | "tar.gz") =>
			got(
				client.POST("/api/v1/fabrics/{name}/jobs", {
					params: { path: { name: fabric } },
					body: { kind: "bundle", packed, what: "racks", size: "a4-70x37" },
				}),
			),
		() => `The bundle of ${fabric} is being made. You are told when it is ready; go on meanwhile.`,
	);

/** Ask for other work on a fabric. */
export const useWork = (fabric: string) =>
	useJobAct(
		(kind: "read back" | "deep check" | "sheets") =>
			got(
				client.POST("/api/v1/fabrics/{name}/jobs", {
					params: { path: { name: fabric } },
					body: { kind, packed: "zip", what: "racks", size: "a4-70x37" },
				}),
			),
		(job) => `${WHAT[job.kind]?.(fabric)}: it is under way. You are told what comes of it.`,
	);

export type Pages = "cover" | "racks" | "bundles" | "labels";
export type LabelSheet = components["schemas"]["NewJob"]["size"];

/** Ask for pages to print. */
export const usePages = (fabric: string) =>
	useJobAct(
		({ what, size }: { what: Pages; size: LabelSheet }) =>
			got(
				client.POST("/api/v1/fabrics/{name}/jobs", {
					params: { path: { name: fabric } },
					body: { kind: "pages", packed: "zip", what, size },
				}),
			),
		() => `The pages of ${fabric} are being drawn. You are told when they wait under Jobs.`,
	);

/** What work is called in a sentence. */
const WHAT: Record<string, (fabric: string) => string> = {
	bundle: (fabric) => `The bundle of ${fabric}`,
	"read back": (fabric) => `Reading back ${fabric}`,
	"deep check": (fabric) => `Holding ${fabric} to the real programs`,
	sheets: (fabric) => `The sheets of ${fabric}`,
	pages: (fabric) => `The pages of ${fabric}`,
};

export const result = (job: number) => () =>
	client.GET("/api/v1/jobs/{job}/result", { params: { path: { job } }, parseAs: "blob" as const });

/** Tell once of each job of one's own that ended while this page was open, elsewhere than on the list of jobs. */
export function useEnded(quiet: boolean) {
	const { data } = useJobs();
	const me = useSession().data?.called;
	const { tell } = useNotices();
	const running = useRef(new Set<number>());
	useEffect(() => {
		for (const job of data ?? []) {
			if (job.author !== me) continue;
			if (!isOver(job)) running.current.add(job.id);
			else if (running.current.delete(job.id) && !quiet) tell(notice(job));
		}
	}, [data, me, quiet, tell]);
}

export function notice(job: Job): { tone: "done" | "wrong"; text: string } {
	const what = WHAT[job.kind]?.(job.fabric) ?? `${job.kind} of ${job.fabric}`;
	if (job.state === "done")
		return { tone: "done", text: `${what} is done: ${job.words}. It waits under Jobs.` };
	return {
		tone: "wrong",
		text: `${what} ${job.state === "stopped" ? "was stopped" : `failed: ${job.words}`}.`,
	};
}
