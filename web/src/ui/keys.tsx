/** Keys: the ones that work everywhere, and `?`, which shows those of this screen. */
import * as Dialog from "@radix-ui/react-dialog";
import { useEffect, useState } from "react";

export type Keys = [string, string][];

const EVERYWHERE: Keys = [
	["Ctrl K", "search and commands"],
	["Ctrl Z", "undo the last change"],
	["Ctrl Shift Z", "redo"],
	["1 … 7", "the steps along the top"],
	["M", "fold or open the margin"],
	["?", "these keys"],
];

export function isTyping(event: KeyboardEvent): boolean {
	const target = event.target as HTMLElement;
	return target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName);
}

export function useKey(key: string, action: (event: KeyboardEvent) => void) {
	useEffect(() => {
		const onKey = (event: KeyboardEvent) => {
			if (event.key === key && !isTyping(event) && !event.ctrlKey && !event.metaKey && !event.altKey)
				action(event);
		};
		addEventListener("keydown", onKey);
		return () => removeEventListener("keydown", onKey);
	}, [key, action]);
}

export function KeysDialog({ here }: { here: Keys }) {
	const [open, setOpen] = useState(false);
	useKey("?", () => setOpen(true));
	return (
		<Dialog.Root open={open} onOpenChange={setOpen}>
			<Dialog.Portal>
				<Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
				<Dialog.Content
					aria-describedby={undefined}
					className="fixed top-1/2 left-1/2 z-50 w-[440px] -translate-1/2 rounded-[4px] border border-hair bg-raised px-6 py-5"
				>
					<Dialog.Title className="mb-3 text-[16px] font-bold">Keys of this screen</Dialog.Title>
					<dl className="grid grid-cols-[auto_1fr] items-baseline gap-x-5 gap-y-1.5">
						{[...here, ...EVERYWHERE].map(([key, what]) => (
							<div key={key + what} className="contents">
								<dt className="text-right">
									<kbd>{key}</kbd>
								</dt>
								<dd>{what}</dd>
							</div>
						))}
					</dl>
					<Dialog.Close className="button-plain mt-4">Close</Dialog.Close>
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}
