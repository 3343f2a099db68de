/** Fabrics that were deleted within a day, with the way back. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Failure, got } from "../api/client";
import type { components } from "../api/schema";
import { useMay } from "../api/session";
import { useNotices } from "../ui/notices";
import { clock, counted, day } from "../ui/words";

type Gone = components["schemas"]["EndedView"];

export function Deleted() {
	const { data } = useQuery({
		queryKey: ["deleted"],
		queryFn: () => got(client.GET("/api/v1/deleted-fabrics")),
	});
	if (!data?.length) return null;
	return (
		<section aria-label="Deleted" className="mt-8">
			<h2 className="label-small mb-1">Deleted within a day</h2>
			<ul className="border-t border-hair">
				{data.map((one) => (
					<Row key={one.name} gone={one} />
				))}
			</ul>
		</section>
	);
}

function Row({ gone }: { gone: Gone }) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	const may = useMay("delete", gone.name);
	const back = useMutation<{ not_back: unknown[] }, Failure>({
		mutationFn: () =>
			got(client.POST("/api/v1/fabrics/{name}/bring-back", { params: { path: { name: gone.name } } })),
		onSuccess: ({ not_back }) => {
			const lost = not_back.length;
			tell(
				lost
					? {
							tone: "changed",
							text: `${gone.name} is back. ${counted(lost, "number has", "numbers have")} another owner since and ${lost === 1 ? "was" : "were"} drawn anew; its history says which.`,
						}
					: { tone: "done", text: `${gone.name} is back as it was.` },
			);
			for (const key of ["fabrics", "deleted", "pools"]) void queries.invalidateQueries({ queryKey: [key] });
		},
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
	});
	return (
		<li className="flex items-baseline gap-4 border-b border-hair py-2">
			<s className="font-semibold decoration-madder">{gone.title || gone.name}</s>
			<span className="text-soft">
				by {gone.ended_by || "Barrio"}; it can be brought back until {day(gone.until)}, {clock(gone.until)}
			</span>
			{may && (
				<button
					type="button"
					className="button-plain ml-auto"
					disabled={back.isPending}
					onClick={() => back.mutate()}
				>
					Bring it back
				</button>
			)}
		</li>
	);
}
