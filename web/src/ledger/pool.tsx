/** What one can do with a pool: add a range, end the rest of what was given back. */
import * as Popover from "@radix-ui/react-popover";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Failure, got } from "../api/client";
import { useNotices } from "../ui/notices";
import { counted } from "../ui/words";

export function PoolActions({ pool, resting }: { pool: string; resting: number }) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	const end = useMutation<{ ended: number }, Failure>({
		mutationFn: () => got(client.POST("/api/pools/{pool}/end-rest", { params: { path: { pool } } })),
		onSuccess: ({ ended }) => {
			void queries.invalidateQueries({ queryKey: ["pools"] });
			tell({ tone: "done", text: `${counted(ended, "number")} of ${pool} may be taken again.` });
		},
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
	});
	return (
		<div className="ml-auto flex gap-5">
			{resting > 0 && (
				<button type="button" className="button-plain" disabled={end.isPending} onClick={() => end.mutate()}>
					End the rest of {counted(resting, "number")}
				</button>
			)}
			<AddRange pool={pool} />
		</div>
	);
}

function AddRange({ pool }: { pool: string }) {
	const [open, setOpen] = useState(false);
	const [range, setRange] = useState("");
	const queries = useQueryClient();
	const add = useMutation<unknown, Failure>({
		mutationFn: () =>
			got(client.POST("/api/pools/{pool}/ranges", { params: { path: { pool } }, body: { range } })),
		onSuccess: () => {
			void queries.invalidateQueries({ queryKey: ["pools"] });
			setOpen(false);
			setRange("");
		},
	});
	return (
		<Popover.Root open={open} onOpenChange={setOpen}>
			<Popover.Trigger className="button-plain">Add a range</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content
					align="end"
					sideOffset={4}
					className="z-30 w-[320px] rounded-[4px] border border-hair bg-raised p-3 shadow-md"
				>
					<form
						onSubmit={(event) => {
							event.preventDefault();
							add.mutate();
						}}
					>
						<label className="flex flex-col gap-1">
							A range for {pool}
							<input
								className="field mono"
								value={range}
								placeholder="10.62.0.0/20 or 30000..30999"
								onChange={(event) => setRange(event.target.value)}
								required
							/>
						</label>
						{add.error && (
							<p role="alert" className="mt-2 border-l-4 border-madder pl-2.5 text-madder">
								{add.error.message}
							</p>
						)}
						<button type="submit" className="button-main mt-2.5" disabled={add.isPending}>
							Add it
						</button>
					</form>
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}
