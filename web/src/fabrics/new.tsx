/** A new fabric: blank, said in a line, from what is needed, a fat tree, links that exist, a copy, or a brief's text. */
import * as Dialog from "@radix-ui/react-dialog";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { LookForm } from "../adopt/look";
import { client, type Fabric, type Failure, got } from "../api/client";
import { Refusal } from "../app/refusal";
import { useKey } from "../ui/keys";
import { Needed } from "./needed";
import type { Make } from "./parts";
import { Blank, Copied, FatTree, Imported, InWords, Written } from "./starts";

const WAYS = [
	["blank", "Blank"],
	["line", "In a line"],
	["need", "From a need"],
	["tree", "Fat tree"],
	["links", "From links"],
	["copy", "A copy"],
	["text", "Text"],
	["runs", "What runs"],
] as const;
type Way = (typeof WAYS)[number][0];

export function NewFabric({ main = false }: { main?: boolean }) {
	const [open, setOpen] = useState(false);
	useKey("n", (event) => {
		event.preventDefault();
		setOpen(true);
	});
	return (
		<Dialog.Root open={open} onOpenChange={setOpen}>
			<Dialog.Trigger className={main ? "button-main" : "button-plain"}>New fabric</Dialog.Trigger>
			<Dialog.Portal>
				<Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
				<Dialog.Content
					aria-describedby={undefined}
					className="fixed top-16 left-1/2 z-50 flex max-h-[calc(100dvh-110px)] w-[860px] max-w-[94vw] -translate-x-1/2 flex-col rounded-[4px] border border-hair bg-raised px-6 py-5"
				>
					<Dialog.Title className="mb-3 text-[16px] font-bold">A new fabric</Dialog.Title>
					<Ways />
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}

function Ways() {
	const [way, setWay] = useState<Way>("blank");
	const navigate = useNavigate();
	const queries = useQueryClient();
	const make = useMutation<Fabric, Failure, Make>({
		mutationFn: (wanted) =>
			"copyOf" in wanted
				? got(
						client.POST("/api/v1/fabrics/{name}/copy", {
							params: { path: { name: wanted.copyOf } },
							body: { name: wanted.name },
						}),
					)
				: got(client.POST("/api/v1/fabrics", { body: { title: "", ...wanted } })),
		onSuccess: (fabric) => {
			queries.setQueryData(["fabric", fabric.name], fabric);
			void queries.invalidateQueries({ queryKey: ["fabrics"] });
			void queries.invalidateQueries({ queryKey: ["pools"] });
			navigate(`/f/${fabric.name}/brief`);
		},
	});
	const parts = { make: make.mutate, busy: make.isPending };
	return (
		<>
			<div role="tablist" aria-label="How to begin" className="mb-4 flex gap-5 border-b border-hair">
				{WAYS.map(([value, label]) => (
					<button
						key={value}
						type="button"
						role="tab"
						aria-selected={way === value}
						className={`-mb-px border-b-2 pb-1.5 ${way === value ? "border-indigo font-bold" : "border-transparent text-soft hover:text-indigo"}`}
						onClick={() => {
							make.reset();
							setWay(value);
						}}
					>
						{label}
					</button>
				))}
				<Dialog.Close className="button-plain ml-auto pb-1.5">Cancel</Dialog.Close>
			</div>
			<div role="tabpanel" className="min-h-0 overflow-y-auto pr-1">
				{make.error && <Refusal failure={make.error} />}
				{way === "blank" && <Blank {...parts} />}
				{way === "line" && <InWords {...parts} />}
				{way === "need" && <Needed {...parts} />}
				{way === "tree" && <FatTree {...parts} />}
				{way === "links" && <Imported {...parts} />}
				{way === "copy" && <Copied {...parts} />}
				{way === "text" && <Written {...parts} />}
				{way === "runs" && <LookForm />}
			</div>
		</>
	);
}
