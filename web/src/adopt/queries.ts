/** What the screen of adopting reads and does. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Failure, got } from "../api/client";
import type { components } from "../api/schema";
import { useNotices } from "../ui/notices";
import { counted } from "../ui/words";

type Schemas = components["schemas"];
export type Adoption = Schemas["AdoptionView"];
export type Proposal = Schemas["AdoptionProposal"];
export type Oddity = Schemas["AdoptionOddity"];
export type Difference = Schemas["AdoptionDifference"];
export type Found = Schemas["AdoptionSwitch"];
export type OddWord = Schemas["AdoptionWord"]["said"];

const at = (name: string) => ({ params: { path: { name } } });

export const useAdoption = (name: string) =>
	useQuery<Adoption, Failure>({
		queryKey: ["adoption", name],
		queryFn: () => got(client.GET("/api/v1/fabrics/{name}/adoption", at(name))),
		retry: false,
	});

export const useAdoptions = () =>
	useQuery({ queryKey: ["adoptions"], queryFn: () => got(client.GET("/api/v1/adoptions")) });

/** Saved outputs, looked at; what they seem to be is kept. */
export function useLook() {
	const queries = useQueryClient();
	return useMutation<Adoption, Failure, { name: string; file: File }>({
		mutationFn: ({ name, file }) =>
			got(
				client.POST("/api/v1/fabrics/{name}/adoption", {
					params: { path: { name }, query: { source: file.name } },
					body: file as unknown as string,
					bodySerializer: () => file,
				}),
			),
		onSuccess: (found) => {
			queries.setQueryData(["adoption", found.fabric], found);
			void queries.invalidateQueries({ queryKey: ["adoptions"] });
		},
	});
}

export type Deed =
	| { do: "take"; keys: string[] }
	| { do: "refuse"; keys: string[]; why: string }
	| { do: "again"; keys: string[] }
	| { do: "odd"; keys: string[]; said: OddWord; why: string };

/** Take, refuse, settle or ask again; what is refused by the server is told. */
export function useSay(name: string) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	return useMutation<unknown, Failure, Deed>({
		mutationFn: (deed) => {
			switch (deed.do) {
				case "take":
					return got(
						client.POST("/api/v1/fabrics/{name}/adoption/take", { ...at(name), body: { keys: deed.keys } }),
					);
				case "refuse":
					return got(
						client.POST("/api/v1/fabrics/{name}/adoption/refuse", {
							...at(name),
							body: { keys: deed.keys, why: deed.why },
						}) as never,
					);
				case "again":
					return got(
						client.POST("/api/v1/fabrics/{name}/adoption/again", {
							...at(name),
							body: { keys: deed.keys },
						}) as never,
					);
				case "odd":
					return got(
						client.POST("/api/v1/fabrics/{name}/adoption/odd", {
							...at(name),
							body: { keys: deed.keys, said: deed.said, why: deed.why },
						}) as never,
					);
			}
		},
		onSuccess: (_, deed) => {
			if (deed.do === "take")
				tell({
					tone: "done",
					text: `${counted(deed.keys.length, "proposal is", "proposals are")} in the draft.`,
				});
		},
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
		onSettled: () => {
			void queries.invalidateQueries({ queryKey: ["adoption", name] });
			void queries.invalidateQueries({ queryKey: ["fabric", name] });
			void queries.invalidateQueries({ queryKey: ["fabrics"] });
		},
	});
}
