/** What the screen of editions reads and does. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { client, every, type Fabric, type Failure, got } from "../api/client";
import type { components } from "../api/schema";
import { useNotices } from "../ui/notices";

type Schemas = components["schemas"];
export type Edition = Schemas["EditionView"];
export type Ripple = Schemas["RippleView"];
export type Like = Schemas["LikeChange"];
export type Review = Schemas["ReviewView"];
export type Comment = Schemas["CommentView"];
export type Verdict = Schemas["Spoken"]["verdict"];
export type SwitchChange = Schemas["SwitchChange"];

/** Two sides that are held against each other: an edition, or 0 for the draft and for nothing. */
export interface Sides {
	of?: number;
	against?: number;
}

const params = (name: string) => ({ path: { name } });

export const useEditions = (name: string) =>
	useQuery({
		queryKey: ["fabric", name, "editions"],
		queryFn: () =>
			every((query) => client.GET("/api/v1/fabrics/{name}/editions", { params: { ...params(name), query } })),
	});

/** The counts of what the draft does, which come at once. */
export const useRippleSums = (fabric: Fabric) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "ripple sums", fabric.version],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/ripple/sums", { params: params(fabric.name) })),
		placeholderData: keepPreviousData,
	});

/** All that the draft does, or an edition did, in sums. */
export const useRipple = (fabric: Fabric, sides: Sides = {}, enabled = true) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "ripple", fabric.version, sides],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/ripple", {
					params: { ...params(fabric.name), query: sides },
				}),
			),
		placeholderData: keepPreviousData,
		enabled,
		retry: false,
	});

export const useLike = (fabric: Fabric, sides: Sides) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "ripple groups", fabric.version, sides],
		queryFn: () =>
			every((query) =>
				client.GET("/api/v1/fabrics/{name}/ripple/groups", {
					params: { ...params(fabric.name), query: { ...query, ...sides } },
				}),
			),
		retry: false,
	});

export const useTouched = (fabric: Fabric, sides: Sides, enabled = true) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "ripple switches", fabric.version, sides],
		queryFn: () =>
			every((query) =>
				client.GET("/api/v1/fabrics/{name}/ripple/switches", {
					params: { ...params(fabric.name), query: { ...query, ...sides } },
				}),
			),
		placeholderData: keepPreviousData,
		enabled,
		retry: false,
	});

/** What the draft touches, for pictures: the keys of switches that come or change, and the names of those that go. Nothing without an edition. */
export function useDrafted(fabric: Fabric): { touched?: ReadonlySet<string>; gone: string[] } {
	const against = useRippleSums(fabric).data?.against ?? 0;
	const { data } = useTouched(fabric, {}, against > 0);
	return useMemo(() => {
		if (!against || !data) return { gone: [] };
		const [gone, here] = [
			data.filter((one) => one.state === "gone"),
			data.filter((one) => one.state !== "gone"),
		];
		return { touched: new Set(here.map((one) => one.key)), gone: gone.map((one) => one.name) };
	}, [against, data]);
}

export type PortChange = "comes" | "goes" | "changes";

/** What the draft does to the ports of one switch, by their names. Nothing without an edition. */
export function usePortChanges(fabric: Fabric, name: string): ReadonlyMap<string, PortChange> {
	const against = useRippleSums(fabric).data?.against ?? 0;
	const { data } = useQuery({
		queryKey: ["fabric", fabric.name, "ripple switch", fabric.version, name],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/ripple/switches/{switch}", {
					params: { path: { name: fabric.name, switch: name } },
				}),
			),
		enabled: against > 0,
		retry: false,
	});
	return useMemo(() => {
		const found = new Map<string, PortChange>();
		for (const line of data ?? []) {
			if (!line.device) continue;
			const now = !line.before ? "comes" : !line.after ? "goes" : "changes";
			const was = found.get(line.device);
			found.set(line.device, was && was !== now ? "changes" : now);
		}
		return found;
	}, [data]);
}

export const useSessions = (fabric: Fabric, sides: Sides, enabled: boolean) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "ripple sessions", fabric.version, sides],
		queryFn: () =>
			every((query) =>
				client.GET("/api/v1/fabrics/{name}/ripple/sessions", {
					params: { ...params(fabric.name), query: { ...query, ...sides } },
				}),
			),
		enabled,
		retry: false,
	});

export const useReview = (fabric: Fabric) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "review", fabric.version],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/review", { params: params(fabric.name) })),
		placeholderData: keepPreviousData,
	});

export const useSince = (fabric: Fabric, voice: number) =>
	useQuery({
		queryKey: ["fabric", fabric.name, "review", fabric.version, "since", voice],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/review/voices/{voice}/since", {
					params: { path: { name: fabric.name, voice } },
				}),
			),
	});

export type Act =
	| { kind: "offer"; title: string; why: string }
	| { kind: "withdraw" }
	| { kind: "say"; verdict: Verdict; note: string; seen: string }
	| { kind: "comment"; thing: Comment["thing"]; at: string; stood: string; words: string; answers?: number }
	| { kind: "settle"; comment: number; settled: boolean }
	| { kind: "rule"; agree: number; people: string[]; rehearsed: boolean }
	| { kind: "seal"; despite: string }
	| { kind: "back"; number: number }
	| { kind: "discard" };

function send({ name, version }: Fabric, act: Act): Promise<unknown> {
	const at = { params: params(name) };
	switch (act.kind) {
		case "offer":
			return got(
				client.PUT("/api/v1/fabrics/{name}/review", {
					...at,
					body: { version, title: act.title, why: act.why },
				}),
			);
		case "withdraw":
			return got(client.DELETE("/api/v1/fabrics/{name}/review", at));
		case "say": {
			const { kind, ...body } = act;
			return got(client.POST("/api/v1/fabrics/{name}/review/voices", { ...at, body }));
		}
		case "comment": {
			const { kind, ...body } = act;
			return got(client.POST("/api/v1/fabrics/{name}/review/comments", { ...at, body }));
		}
		case "settle":
			return got(
				client.PUT("/api/v1/fabrics/{name}/review/comments/{comment}", {
					params: { path: { name, comment: act.comment } },
					body: { settled: act.settled },
				}),
			);
		case "rule":
			return got(
				client.PUT("/api/v1/fabrics/{name}/review/rule", {
					...at,
					body: { agree: act.agree, people: act.people, rehearsed: act.rehearsed },
				}),
			);
		case "seal":
			return got(
				client.POST("/api/v1/fabrics/{name}/editions", {
					...at,
					body: { version, title: "", why: "", despite: act.despite },
				}),
			);
		case "back":
			return got(
				client.POST("/api/v1/fabrics/{name}/editions/{number}/back", {
					params: { path: { name, number: act.number } },
					body: { version },
				}),
			);
		case "discard":
			return got(client.POST("/api/v1/fabrics/{name}/discard", { ...at, body: { version } }));
	}
}

const DONE: Partial<Record<Act["kind"], string>> = {
	offer: "It is offered for review.",
	withdraw: "The offer is taken back.",
	seal: "The edition is sealed.",
	back: "The older edition's brief is the draft now.",
	discard: "The draft is what the newest edition says.",
};

/** Something done to the review or the editions of a fabric; what is refused is told. */
export function useAct(fabric: Fabric) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	return useMutation<unknown, Failure, Act>({
		mutationFn: (act) => send(fabric, act),
		onSuccess: (_, act) => {
			const done = DONE[act.kind];
			if (done) tell({ tone: "done", text: done });
		},
		onError: (failure) =>
			tell({ tone: failure.problem.status === 409 ? "changed" : "wrong", text: failure.message }),
		onSettled: () => queries.invalidateQueries({ queryKey: ["fabric", fabric.name] }),
	});
}
