/** People, teams and roles, as the screens about them read and change them. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Failure, got } from "../api/client";
import type { components } from "../api/schema";
import type { Role } from "../api/session";
import { useNotices } from "../ui/notices";

type Schemas = components["schemas"];
export type Person = Schemas["Person"];
export type Team = Schemas["Team"];
export type Given = Schemas["Given"];
export type People = Schemas["PeopleView"];
export type MePage = Schemas["MeView"];

export const ROLES: Role[] = ["reader", "architect", "reviewer", "technician", "operator", "keeper"];

export const usePeople = () =>
	useQuery({ queryKey: ["people"], queryFn: () => got(client.GET("/api/v1/people")) });

export const useTable = () =>
	useQuery({
		queryKey: ["roles"],
		queryFn: () => got(client.GET("/api/v1/roles")),
		staleTime: Number.POSITIVE_INFINITY,
	});

export const useSharing = (name: string, wanted: boolean) =>
	useQuery({
		queryKey: ["people", "sharing", name],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/sharing", { params: { path: { name } } })),
		enabled: wanted,
	});

export const useMe = () => useQuery({ queryKey: ["me"], queryFn: () => got(client.GET("/api/v1/me")) });

/** Who is given a role: a person or a team. */
export interface Whom {
	person?: string;
	team?: string;
}

/** Give a role for a fabric, or for all. */
export const give = (role: Role, whom: Whom, fabric: string | null) => {
	const body = { role, person: whom.person ?? null, team: whom.team ?? null };
	return fabric
		? got(client.POST("/api/v1/fabrics/{name}/sharing", { params: { path: { name: fabric } }, body }))
		: got(client.POST("/api/v1/grants", { body }));
};

/** Take a role away again. */
export const take = (given: Given) =>
	given.fabric
		? got(
				client.DELETE("/api/v1/fabrics/{name}/sharing/{grant}", {
					params: { path: { name: given.fabric, grant: given.id } },
				}),
			)
		: got(client.DELETE("/api/v1/grants/{grant}", { params: { path: { grant: given.id } } }));

/** A change of people; a refusal is told, and everything about people is read again. */
export function usePeopleAct<Asked, Answer = unknown>(
	send: (asked: Asked) => Promise<Answer>,
	done?: (answer: Answer, asked: Asked) => string,
	quiet = false,
) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	return useMutation<Answer, Failure, Asked>({
		mutationFn: send,
		onSuccess: (answer, asked) => {
			for (const key of ["people", "me", "session"]) void queries.invalidateQueries({ queryKey: [key] });
			const words = done?.(answer, asked);
			if (words) tell({ tone: "done", text: words });
		},
		onError: (failure) => {
			if (!quiet) tell({ tone: "wrong", text: failure.message });
		},
	});
}
