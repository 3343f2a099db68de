/** A new fabric: a name, or the text of a brief that someone has. */
import * as Dialog from "@radix-ui/react-dialog";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { client, type Fabric, type Failure, got } from "../api/client";
import { useKey } from "../ui/keys";

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
					className="fixed top-28 left-1/2 z-50 w-[520px] -translate-x-1/2 rounded-[4px] border border-hair bg-raised px-6 py-5"
				>
					<Dialog.Title className="mb-3 text-[16px] font-bold">A new fabric</Dialog.Title>
					<Form />
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}

function Form() {
	const [name, setName] = useState("");
	const [title, setTitle] = useState("");
	const [text, setText] = useState<string | null>(null);
	const navigate = useNavigate();
	const queries = useQueryClient();
	const make = useMutation<Fabric, Failure>({
		mutationFn: () =>
			got(
				client.POST("/api/fabrics", {
					body: text === null ? { name: name.trim(), title } : { text, title: "" },
				}),
			),
		onSuccess: (fabric) => {
			queries.setQueryData(["fabric", fabric.name], fabric);
			void queries.invalidateQueries({ queryKey: ["fabrics"] });
			void queries.invalidateQueries({ queryKey: ["pools"] });
			navigate(`/f/${fabric.name}/brief`);
		},
	});
	return (
		<form
			className="flex flex-col gap-3"
			onSubmit={(event) => {
				event.preventDefault();
				make.mutate();
			}}
		>
			{text === null ? (
				<>
					<label className="flex flex-col gap-1">
						Name, short and lower case; it stays
						<input
							className="field mono"
							value={name}
							onChange={(event) => setName(event.target.value)}
							placeholder="marlin"
							required
						/>
					</label>
					<label className="flex flex-col gap-1">
						Title, for people
						<input
							className="field"
							value={title}
							onChange={(event) => setTitle(event.target.value)}
							placeholder="Marlin, the models hall"
						/>
					</label>
				</>
			) : (
				<label className="flex flex-col gap-1">
					The brief, as YAML
					<textarea
						className="field mono h-64"
						value={text}
						onChange={(event) => setText(event.target.value)}
						spellCheck={false}
					/>
				</label>
			)}
			{make.error && (
				<ul role="alert" className="border-l-4 border-madder pl-3 text-madder">
					{make.error.problem.faults?.map((fault) => (
						<li key={fault.message}>
							{fault.line ? `Line ${fault.line}: ` : ""}
							{fault.message}
						</li>
					))}
					{!make.error.problem.faults?.length && <li>{make.error.message}</li>}
				</ul>
			)}
			<div className="flex items-center gap-5 pt-1">
				<button type="submit" className="button-main" disabled={make.isPending}>
					Make the fabric
				</button>
				<button
					type="button"
					className="button-plain"
					onClick={() => setText(text === null ? "fabric: " : null)}
				>
					{text === null ? "Start from a brief’s text" : "Start from a name"}
				</button>
				<Dialog.Close className="button-plain ml-auto">Cancel</Dialog.Close>
			</div>
		</form>
	);
}
