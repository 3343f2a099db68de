/** Delete a fabric: what goes with it is said first, and its name is typed. */
import * as Dialog from "@radix-ui/react-dialog";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Failure, got } from "../api/client";
import { briefText, useDownload } from "../api/downloads";
import { Refusal } from "../app/refusal";
import { counted } from "../ui/words";

interface Props {
	fabric: { name: string; title: string; version: number };
	onDone?: () => void;
}

export function DeleteFabric({ fabric, onDone }: Props) {
	return (
		<Dialog.Root>
			<Dialog.Trigger
				className="button-plain mx-3 flex-none text-soft group-has-[a]:opacity-0 group-focus-within:opacity-100! group-hover:opacity-100!"
				aria-label={`Delete ${fabric.name}`}
			>
				Delete
			</Dialog.Trigger>
			<Dialog.Portal>
				<Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
				<Dialog.Content className="fixed top-28 left-1/2 z-50 w-[520px] -translate-x-1/2 rounded-[4px] border border-hair bg-raised px-6 py-5">
					<Dialog.Title className="mb-2 text-[16px] font-bold">
						Delete {fabric.title || fabric.name}?
					</Dialog.Title>
					<Asked fabric={fabric} onDone={onDone} />
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}

function Asked({ fabric, onDone }: Props) {
	const [typed, setTyped] = useState("");
	const queries = useQueryClient();
	const download = useDownload();
	const said = useQuery({
		queryKey: ["fabric", fabric.name, "ending", fabric.version],
		queryFn: () =>
			got(client.GET("/api/v1/fabrics/{name}/ending", { params: { path: { name: fabric.name } } })),
	}).data;
	const gone = useMutation<void, Failure>({
		mutationFn: async () => {
			await got(
				client.DELETE("/api/v1/fabrics/{name}", {
					params: { path: { name: fabric.name }, query: { version: fabric.version } },
				}),
			);
		},
		onSuccess: () => {
			queries.removeQueries({ queryKey: ["fabric", fabric.name] });
			void queries.invalidateQueries({ queryKey: ["fabrics"] });
			void queries.invalidateQueries({ queryKey: ["deleted"] });
			void queries.invalidateQueries({ queryKey: ["pools"] });
			onDone?.();
		},
	});
	return (
		<form
			className="flex flex-col gap-3"
			onSubmit={(event) => {
				event.preventDefault();
				if (typed === fabric.name) gone.mutate();
			}}
		>
			<Dialog.Description className="text-soft">
				{said ? (
					<b className="font-semibold text-ink">
						{counted(said.switches, "switch", "switches")}, {counted(said.cables, "cable")},{" "}
						{counted(said.numbers, "number")}, {counted(said.editions, "edition")},{" "}
						{counted(said.changes, "change")} and {counted(said.deeds, "deed")} on its cables go.
					</b>
				) : (
					"What goes with it is counted…"
				)}{" "}
				For a day it can be brought back as it was, from the list of fabrics. Its numbers rest as long as
				their pools say, so that nothing that still runs with them meets them elsewhere.{" "}
				<button type="button" className="button-plain" onClick={() => void download(briefText(fabric.name))}>
					Keep the brief as a file
				</button>
			</Dialog.Description>
			{gone.error && <Refusal failure={gone.error} />}
			<label className="flex items-center gap-3">
				Type <b>{fabric.name}</b>
				<input
					className="field w-56"
					value={typed}
					autoComplete="off"
					spellCheck={false}
					onChange={(event) => setTyped(event.target.value)}
				/>
			</label>
			<div className="flex items-center gap-5">
				<button type="submit" className="button-main" disabled={typed !== fabric.name || gone.isPending}>
					Delete the fabric
				</button>
				<Dialog.Close className="button-plain">Keep it</Dialog.Close>
			</div>
		</form>
	);
}
