/** Who is signed in, and what they may do. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, Failure, got } from "./client";
import { forget } from "./kept";
import type { components } from "./schema";

export type Who = components["schemas"]["Who"];
export type Right = components["schemas"]["Right"];
export type Role = components["schemas"]["Role"];

const SESSION = ["session"];

/** Who is signed in; null when nobody is. */
export const useSession = () =>
	useQuery({
		queryKey: SESSION,
		queryFn: async (): Promise<Who | null> => {
			try {
				return await got(client.GET("/api/v1/session"));
			} catch (failure) {
				if (failure instanceof Failure && failure.problem.status === 401) return null;
				throw failure;
			}
		},
		staleTime: 60_000,
	});

/** Whether who is signed in has a right: over a fabric, where it concerns one. */
export function useMay(right: Right, fabric?: string): boolean {
	const { data } = useSession();
	return may(data, right, fabric);
}

export function may(who: Who | null | undefined, right: Right, fabric?: string): boolean {
	const had = who?.rights.find((one) => one.right === right);
	if (!had) return false;
	return !had.fabrics || fabric === undefined || had.fabrics.includes(fabric);
}

/** Come in: `way` shows who one is, and everything that is at hand is asked for anew. */
export function useComeIn<Asked>(way: (asked: Asked) => Promise<unknown>, then?: () => void) {
	const queries = useQueryClient();
	return useMutation<unknown, Failure, Asked>({
		mutationFn: way,
		onSuccess: () => {
			then?.();
			return queries.resetQueries({ predicate: (query) => query.queryKey[0] !== "link" });
		},
	});
}

export function useSignOut() {
	const queries = useQueryClient();
	return useMutation<unknown, Failure>({
		mutationFn: () => got(client.DELETE("/api/v1/session")),
		onSettled: () => {
			forget();
			queries.setQueryData(SESSION, null);
			// Once the door is shown, nobody looks at the rest any more.
			setTimeout(() => queries.removeQueries({ predicate: (query) => query.queryKey[0] !== SESSION[0] }));
		},
	});
}
