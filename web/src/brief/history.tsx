/** The history of a draft: what was changed, by whom and when, with the way back. */
import * as Dialog from "@radix-ui/react-dialog";
import type { Fabric } from "../api/client";
import { useChange } from "../api/edits";
import { useHistory } from "../api/queries";
import { useMay } from "../api/session";
import { clock, day, effectPhrases } from "../ui/words";

/** What the history needs of a fabric, which may be one that cannot be read. */
type Whose = Pick<Fabric, "name" | "title" | "version" | "undo" | "redo">;

interface Props {
	fabric: Whose;
	open: boolean;
	onOpen: (open: boolean) => void;
}

export function History({ fabric, open, onOpen }: Props) {
	return (
		<Dialog.Root open={open} onOpenChange={onOpen}>
			<Dialog.Portal>
				<Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
				<Dialog.Content
					aria-describedby={undefined}
					className="fixed top-20 left-1/2 z-50 flex max-h-[70vh] w-[620px] -translate-x-1/2 flex-col rounded-[4px] border border-hair bg-raised px-6 py-5"
				>
					<Dialog.Title className="mb-1 text-[16px] font-bold">
						History of {fabric.title || fabric.name}
					</Dialog.Title>
					<Entries fabric={fabric} />
					<div className="mt-4 flex gap-5">
						<Moves fabric={fabric} />
						<Dialog.Close className="button-plain ml-auto">Close</Dialog.Close>
					</div>
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}

function Entries({ fabric }: { fabric: Whose }) {
	const revisions = useHistory(fabric.name, fabric.version).data ?? [];
	const change = useChange(fabric.name);
	const may = useMay("edit", fabric.name);
	return (
		<ol className="min-h-0 overflow-y-auto border-t border-hair">
			{revisions.map((one, at) => (
				<li
					key={one.id}
					aria-current={one.current}
					className={`flex gap-4 border-b border-hair py-1.5 ${one.current ? "border-l-4 border-l-indigo pl-2.5" : "pl-3.5"}`}
				>
					<span className="w-24 flex-none text-soft">
						{day(one.saved_at)}, {clock(one.saved_at)}
					</span>
					<span className="min-w-0 flex-1">
						{one.note}
						<span className="block text-[12px] text-soft">
							{effectPhrases(one.effect).join(", ") || "nothing moved"}
						</span>
					</span>
					<span className="flex-none text-right text-soft">
						{one.author || "Barrio"}
						{may && at < revisions.length - 1 && (
							<button
								type="button"
								className="button-plain block text-[12px]"
								disabled={change.isPending}
								onClick={() => change.mutate({ kind: "take back", revision: one.id })}
							>
								Take back
							</button>
						)}
					</span>
				</li>
			))}
		</ol>
	);
}

function Moves({ fabric }: { fabric: Whose }) {
	const change = useChange(fabric.name);
	const may = useMay("edit", fabric.name);
	if (!may) return null;
	return (
		<>
			<button
				type="button"
				className="button-plain"
				disabled={!fabric.undo || change.isPending}
				onClick={() => change.mutate({ kind: "undo" })}
			>
				Undo{fabric.undo ? ` “${fabric.undo}”` : ""}
			</button>
			{fabric.redo && (
				<button
					type="button"
					className="button-plain"
					disabled={change.isPending}
					onClick={() => change.mutate({ kind: "redo" })}
				>
					Redo “{fabric.redo}”
				</button>
			)}
		</>
	);
}
