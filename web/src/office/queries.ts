/** The office, its history, and templates tried while they are written. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Failure, got } from "../api/client";
import type { components } from "../api/schema";

type Schemas = components["schemas"];
export type Office = Schemas["OfficeNow"];
export type TargetRow = Schemas["TargetRow"];
export type Effect = Schemas["OfficeEffect"];
export type Tried = Schemas["TemplateTried"];
export type Tally = Schemas["TemplateTally"];
export type Words = Schemas["TemplateWords"];
export type Files = Record<string, string>;

export const useOffice = () =>
	useQuery({ queryKey: ["office"], queryFn: () => got(client.GET("/api/v1/office")) });

export const usePastOffice = (wanted: boolean) =>
	useQuery({
		queryKey: ["office", "editions"],
		queryFn: () => got(client.GET("/api/v1/office/editions")),
		enabled: wanted,
	});

export const takeEdition = (number: number) =>
	got(client.GET("/api/v1/office/editions/{number}", { params: { path: { number } } }));

export const useTemplateWords = () =>
	useQuery({
		queryKey: ["office", "words"],
		queryFn: () => got(client.GET("/api/v1/office/words")),
		staleTime: Number.POSITIVE_INFINITY,
	});

/** A target's files on one switch, as they are this moment. */
export const useTried = (
	fabric: string,
	target: string,
	files: Files,
	at: string,
	data: Record<string, unknown> | null,
) =>
	useQuery<Tried, Failure>({
		queryKey: ["office", "tried", fabric, target, files, at, data],
		queryFn: () =>
			got(
				client.POST("/api/v1/fabrics/{name}/templates/try", {
					params: { path: { name: fabric } },
					body: { target, files, switch: at, data },
				}),
			),
		enabled: fabric !== "" && at !== "" && target !== "",
		placeholderData: keepPreviousData,
		retry: false,
		gcTime: 10_000,
	});

export const useTally = (fabric: string) =>
	useMutation<Tally, Failure, { target: string; files: Files }>({
		mutationFn: ({ target, files }) =>
			got(
				client.POST("/api/v1/fabrics/{name}/templates/tally", {
					params: { path: { name: fabric } },
					body: { target, files, switch: "", data: null },
				}),
			),
	});

export const useEffects = () =>
	useMutation<Effect[], Failure, Files>({
		mutationFn: (files) => got(client.POST("/api/v1/office/preview", { body: { files } })),
	});

export function useSaveOffice(then: (office: Office) => void) {
	const queries = useQueryClient();
	return useMutation<Office, Failure, { number: number; files: Files; note: string }>({
		mutationFn: (change) => got(client.PUT("/api/v1/office", { body: change })),
		onSuccess: (office) => {
			queries.setQueryData(["office"], office);
			void queries.invalidateQueries();
			then(office);
		},
	});
}
