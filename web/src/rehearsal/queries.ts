/** What the screen of rehearsals reads and does. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Fabric, type Failure, got } from "../api/client";
import type { components } from "../api/schema";
import { useNotices } from "../ui/notices";

type Schemas = components["schemas"];
export type Rehearsal = Schemas["RehearsalTold"];
export type Answer = Schemas["AnswerTold"];
export type Claim = Schemas["Claim"];
export type Wish = Schemas["NewRehearsal"];
export type Drill = Schemas["Drilled"];
export type Flow = Schemas["Flow"];
export type DrillBrief = Schemas["DrillBrief"];
export type Preview = Schemas["SlicePreview"];

export const useRehearsals = (fabric: Fabric) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "rehearsals", fabric.version],
		queryFn: () =>
			got(client.GET("/api/v1/fabrics/{name}/rehearsals", { params: { path: { name: fabric.name } } })),
		placeholderData: keepPreviousData,
	});

export const usePreview = (fabric: Fabric, wish: Wish, enabled: boolean) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "rehearsal preview", fabric.version, wish],
		queryFn: () =>
			got(
				client.POST("/api/v1/fabrics/{name}/rehearsals/preview", {
					params: { path: { name: fabric.name } },
					body: wish,
				}),
			),
		placeholderData: keepPreviousData,
		enabled,
		retry: false,
	});

/** The claims of a question; those that failed come first. */
export const useClaims = (fabric: Fabric, one: Rehearsal, question: string, holds?: boolean) => {
	const answer = one.answers.find((each) => each.question === question);
	return useQuery({
		queryKey: ["fabric", fabric.name, "rehearsal claims", one.job, question, holds, answer?.seconds],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/rehearsals/{job}/answers/{question}", {
					params: {
						path: { name: fabric.name, job: one.job, question },
						query: holds === undefined ? {} : { holds },
					},
				}),
			),
		enabled: answer !== undefined,
	});
};

/** A drill with its score. */
export const useDrill = (fabric: Fabric, one: Rehearsal, drill: string) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "rehearsal drill", one.job, drill, one.drills.length],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/rehearsals/{job}/drills/{drill}", {
					params: { path: { name: fabric.name, job: one.job, drill } },
				}),
			),
		enabled: one.drills.some((each) => each.id === drill),
	});

export const isRunning = (one: Rehearsal) => one.state === "working" || one.state === "waiting";

/** Begin one, or stop one; what is refused is told. */
export function useRehearse(fabric: Fabric, onBegun: (job: number) => void) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	const params = { path: { name: fabric.name } };
	return useMutation<Rehearsal, Failure, Wish | number>({
		mutationFn: (wish) =>
			typeof wish === "number"
				? got(
						client.POST("/api/v1/fabrics/{name}/rehearsals/{job}/stop", {
							params: { path: { name: fabric.name, job: wish } },
						}),
					)
				: got(client.POST("/api/v1/fabrics/{name}/rehearsals", { params, body: wish })),
		onSuccess: (one, wish) => typeof wish !== "number" && onBegun(one.job),
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
		onSettled: () => queries.invalidateQueries({ queryKey: ["fabric", fabric.name, "rehearsals"] }),
	});
}
