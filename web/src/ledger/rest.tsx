/** Lets what rests be taken again before its time: all of a pool, or some entries; with a reason, for the record. */
import { useState } from "react";
import { client, got } from "../api/client";
import { counted } from "../ui/words";
import { usePoolAct } from "./act";

interface Props {
	pool: string;
	entries?: number[];
	children: React.ReactNode;
}

export function EndRest({ pool, entries, children }: Props) {
	const [reason, setReason] = useState<string | null>(null);
	const end = usePoolAct(
		(why: string) =>
			got(
				client.POST("/api/v1/pools/{pool}/end-rest", {
					params: { path: { pool } },
					body: { reason: why, entries: entries ?? null },
				}),
			),
		({ ended }) => `${counted(ended, "number")} of ${pool} may be taken again.`,
	);
	if (reason === null)
		return (
			<button type="button" className="button-plain" onClick={() => setReason("")}>
				{children}
			</button>
		);
	return (
		<form
			className="flex w-full gap-2"
			onSubmit={(event) => {
				event.preventDefault();
				end.mutate(reason, { onSuccess: () => setReason(null) });
			}}
		>
			<input
				className="field min-w-0 flex-1"
				aria-label="Why the rest ends"
				placeholder="why?"
				required
				value={reason}
				onChange={(event) => setReason(event.target.value)}
			/>
			<button type="submit" className="button-plain">
				End it
			</button>
		</form>
	);
}
